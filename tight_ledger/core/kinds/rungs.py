"""Which rung of a ladder, or which row of a table, counts for a pull."""

from collections.abc import Callable

from tight_ledger.core.base.rounding import is_above, is_below
from tight_ledger.core.kinds.readings import Readings
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Pick, Pull, Rung
from tight_ledger.core.tools.wrenches import Setting


def picked(readings: Readings, pull: Pull, entry: Entry | None = None) -> Rung | None:
    """The rung that an entry names, else the rung that the plan picks; None if the pull has none or it is not known yet."""
    if not pull.rungs:
        return None
    if entry is not None and entry.rung is not None:
        return next((rung for rung in pull.rungs if rung.key == entry.rung), None)
    if pull.pick is None:
        return pull.rungs[0]
    return _PICKS[pull.pick.how](readings, pull, pull.pick)


def planned_setting(pull: Pull, rung: Rung | None) -> Setting | None:
    """What the wrench should be set to; None if the pull has no setting or its rung is not known."""
    if pull.rungs:
        return rung.setting if rung is not None else None
    return pull.setting


def is_ladder(pull: Pull) -> bool:
    """Whether its rungs are climbed one by one, not looked up by a reading."""
    return bool(pull.rungs) and pull.rungs[0].low is None


def _next_higher(readings: Readings, pull: Pull, pick: Pick) -> Rung | None:
    used, keys = readings.last_rung(pick.passes, pick.fastener), [rung.key for rung in pull.rungs]
    return pull.rungs[min(keys.index(used) + 1, len(keys) - 1)] if used in keys else pull.rungs[0]


def _same(readings: Readings, pull: Pull, pick: Pick) -> Rung | None:
    used = readings.last_rung(pick.passes, pick.fastener)
    return next((rung for rung in pull.rungs if rung.key == used), None)


def _by_reading(readings: Readings, pull: Pull, pick: Pick) -> Rung | None:
    value = readings.last_value(pick.passes, pick.fastener)
    place = row_of(value, [(rung.low, rung.high) for rung in pull.rungs]) if value is not None else None
    return pull.rungs[place] if place is not None else None


_PICKS: dict[str, Callable[[Readings, Pull, Pick], Rung | None]] = {"next": _next_higher, "same": _same, "range": _by_reading}


def row_of(value: float, rows: list[tuple[float | None, float | None]]) -> int | None:
    """Index of the row that holds a value; None if no row does.

    Both limits belong to a row. A limit that two rows share belongs to the upper row.

    Args:
        rows: low and high limit of each row, in the value's unit; None: no limit.
    """
    fits = [
        place
        for place, (low, high) in enumerate(rows)
        if (low is None or not is_below(value, low)) and (high is None or not is_above(value, high))
    ]
    begins = (place for place in fits if (low := rows[place][0]) is not None and not is_above(value, low))
    return next(begins, fits[0]) if fits else None
