"""Whether two records under one id say the same: sent again, a command must be the one that was sent before."""

import json
from typing import Any

OF_THE_SENDING = frozenset({"seq", "at_server", "skew_ms", "waited_ms", "recorded_by", "device", "v", "flags", "unproven"})
"""What the server adds; sent again later, from another device or by whoever is signed in then, it may differ."""
ANSWERED = frozenset({"affirmed", "told", "reasons", "plan", "started", "tools", "proposed"})
"""What was asked, told or worked out on the way."""


def said(record: dict[str, Any]) -> dict[str, Any]:
    """What a record says, without what belongs to its sending."""
    worked_out = ANSWERED | ({"reading"} if record.get("needle") is not None else set())
    return {name: value for name, value in record.items() if name not in OF_THE_SENDING | worked_out and value is not None}


def says_the_same(stored: bytes | str, sent: bytes | str) -> bool:
    """Whether the stored bytes of an entry and those of one that is sent say the same."""
    return said(json.loads(stored)) == said(json.loads(sent))
