"""What comes again: an exercise that was missed returns after 1, 3 and 7 days. Being right counts, never being fast."""

from collections.abc import Iterable
from datetime import date, timedelta

from tight_ledger.core.base.models import Model
from tight_ledger.core.practice.drills import DrillName

AFTER_DAYS = (1, 3, 7)


class DrillResult(Model):
    """An exercise that was done: a drill with its seed, on a day."""

    drill: DrillName
    seed: int
    on: date
    passed: bool
    missed: tuple[str, ...] = ()
    by_eye_deg: float | None = None


class ComesAgain(Model):
    """An exercise that was missed, and when it comes again."""

    drill: DrillName
    seed: int
    due: date


def comes_again(results: Iterable[DrillResult]) -> tuple[ComesAgain, ...]:
    """The exercises that come again, the first due first: after a miss in 1 day, then after each time right in 3 and in 7.

    Args:
        results: of one person, the oldest first.
    """
    waits: dict[tuple[DrillName, int], tuple[int, date]] = {}
    for result in results:
        exercise = (result.drill, result.seed)
        step = 0 if not result.passed else waits[exercise][0] + 1 if exercise in waits else len(AFTER_DAYS)
        waits.pop(exercise, None)
        if step < len(AFTER_DAYS):
            waits[exercise] = step, result.on + timedelta(days=AFTER_DAYS[step])
    found = (ComesAgain(drill=drill, seed=seed, due=due) for (drill, seed), (_, due) in waits.items())
    return tuple(sorted(found, key=lambda each: (each.due, each.drill, each.seed)))
