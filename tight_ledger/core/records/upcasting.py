"""Reading records of earlier versions: each is lifted from version to version, then read as the model of today.

What is sealed is never changed; seals are verified over the stored bytes.
"""

import json
from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.records.entries import ENTRY_VERSION, Entry

Record = dict[str, Any]


def read_entry(body: bytes | str) -> Entry:
    """An entry from its stored bytes, whatever version wrote it.

    Raises:
        Invalid: a version that this program does not know.
    """
    try:
        return Entry.model_validate_json(body)
    except ValidationError:
        return Entry.model_validate_json(json.dumps(lifted(json.loads(body))))


def lifted(entry: Record) -> Record:
    """The record of an entry in the shape of the newest version.

    Raises:
        Invalid: a version that this program does not know.
    """
    while entry.get("v") != ENTRY_VERSION:
        step = _ENTRY_FROM.get(entry.get("v", 0))
        if step is None:
            raise Invalid("v", f"Entry {entry.get('id')} has version {entry.get('v')}.", "Read it with a newer version of Tight Ledger.")
        entry = step(entry)
    return entry


def _plan_without_nouns(entry: Record) -> Record:
    """Version 1: a plan could leave out what each fastener is called; each is then a fastener."""
    started = entry.get("started")
    if started is not None:
        plan = {"nouns": {}} | started["plan"]
        entry = entry | {"started": started | {"plan": plan}}
    return entry | {"v": 2}


_ENTRY_FROM: dict[int, Callable[[Record], Record]] = {1: _plan_without_nouns}
