"""Dishonest or broken bodies, made from honest ones."""

import random
import re
from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import Any

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
