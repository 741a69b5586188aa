"""Texts that can be kept, printed and exported: no control characters, no halves of characters."""

import re
from typing import Any

from tight_ledger.core.base.errors import Invalid

_UNKEEPABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")


def is_plain(text: str) -> bool:
    """Whether a text has only characters that every format can carry; tab and line breaks are among them."""
    return _UNKEEPABLE.search(text) is None


def require_plain(text: str, field: str) -> None:
    """Check a text.

    Raises:
        Invalid: it has a control character or half of a character.
    """
    if not is_plain(text):
        raise Invalid(field, "This text has a character that cannot be printed.", "Type it again; do not paste it.")


def require_plain_value(value: Any, field: str = "") -> None:
    """Check every text of a JSON value, names included.

    Raises:
        Invalid: one has a character that cannot be printed.
    """
    if isinstance(value, str):
        require_plain(value, field or "body")
    elif isinstance(value, dict):
        for name, item in value.items():
            require_plain(name, field or "body")
            require_plain_value(item, f"{field}.{name}" if field else name)
    elif isinstance(value, list):
        for place, item in enumerate(value):
            require_plain_value(item, f"{field}.{place}" if field else str(place))


def file_name(text: str, ending: str) -> str:
    """A file's name for the header of an answer: letters and figures that every system takes, the rest as dashes."""
    plain = re.sub(r"[^A-Za-z0-9._-]+", "-", text).strip("-.")
    return f"{plain[:80] or 'file'}.{ending}"
