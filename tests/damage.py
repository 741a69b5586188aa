"""Dishonest or broken bodies, made from honest ones; and a record that a later version wrote."""

import json
import random
import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from typing import Any
from uuid import uuid4

from sqlalchemy import text

OTHER = (None, 0, -1, 1e9, "", "x", [], {}, True)
_ID = re.compile(r"^[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}$")


def places(value: Any, holder: Any = None, key: Any = None) -> Iterator[tuple[Any, Any]]:
    """Every place in a JSON value: what holds it, and under which name or number."""
    if holder is not None:
        yield holder, key
    for name, inner in value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ():
        yield from places(inner, value, name)


def damage(data: Any, dice: random.Random) -> None:
    """One thing is dropped, doubled, put where another of its kind is, or becomes something else."""
    every = list(places(data))
    if not every:
        return
    holder, key = dice.choice(every)
    value, act = holder[key], dice.choice(["drop", "double", "swap", "other"])
    if act == "drop":
        del holder[key]
    elif act == "double" and isinstance(holder, list):
        holder.append(value)
    elif act == "swap":
        other, at = dice.choice([place for place in every if isinstance(place[0][place[1]], type(value))])
        holder[key], other[at] = other[at], value
    else:
        holder[key] = dice.choice(OTHER)


def lie(data: Any, dice: random.Random, ids: Sequence[str], times: Sequence[datetime]) -> None:
    """An id becomes that of something or somebody else, or a moment another one."""
    told = [(holder, key) for holder, key in places(data) if isinstance(holder[key], str)]
    named = [(holder, key, ids) for holder, key in told if _ID.match(holder[key])]
    dated = [(holder, key, [time.isoformat() for time in times]) for holder, key in told if re.match(r"^\d{4}-\d\d-\d\dT", holder[key])]
    if named or dated:
        holder, key, others = dice.choice(named + dated)
        holder[key] = dice.choice(others)


@contextmanager
def from_a_later_version(owner: Any, run: str) -> Iterator[None]:
    """A run with an entry that this version cannot read; what came after its start is gone when the block ends."""
    named, row = {"s": run.replace("-", "")}, {"i": uuid4().hex, "b": json.dumps({"v": 99, "id": str(uuid4())})}
    columns = "stream, seq, id, subject, kind, at_server, body, seal"
    values = ":s, 2, :i, 'run', 'noted', NOW(3), :b, REPEAT('x', 32)"
    owner.execute(text(f"INSERT INTO ledger ({columns}) VALUES ({values})"), named | row)
    yield
    owner.execute(text("DELETE FROM ledger WHERE stream = :s AND seq > 1"), named)
