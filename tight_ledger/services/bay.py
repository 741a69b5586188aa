"""The machines that need attention: one line for each machine, with its places and follow-ups."""

from collections.abc import Iterable, Iterator
from itertools import chain
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.runs.bay import MOST_SERIOUS_FIRST, WHO, BayState, due_state, in_short, most_serious
from tight_ledger.services.standing import OpenFollowup, PlaceNow


class MachineInBay(Model):
    """A machine with all that stands open at it."""

    machine: UUID
    fleet_number: str
    state: BayState
    """The most serious of all its places and follow-ups."""
    wanted: str
    """What that is about, in short: `rear left: stage 1 of 3 done; 3 more`."""
    by: str
    """Who is wanted next."""
    places: tuple[PlaceNow, ...]
    followups: tuple[OpenFollowup, ...]


def by_machine(places: Iterable[PlaceNow], followups: Iterable[OpenFollowup]) -> tuple[MachineInBay, ...]:
    """A line for each machine, the most serious first."""
    placed: dict[UUID, list[PlaceNow]] = {}
    following: dict[UUID, list[OpenFollowup]] = {}
    for place in places:
        placed.setdefault(place.machine, []).append(place)
    for followup in followups:
        following.setdefault(followup.machine, []).append(followup)
    machines = dict.fromkeys(chain(placed, following))
    lines = [_line(placed.get(machine, []), following.get(machine, [])) for machine in machines]
    return tuple(sorted(lines, key=lambda line: (MOST_SERIOUS_FIRST.index(line.state), line.fleet_number)))


def _line(places: list[PlaceNow], followups: list[OpenFollowup]) -> MachineInBay:
    told = [*_places_told(places), *((due_state(each.due.status), _due_words(each)) for each in followups)]
    state = most_serious([state for state, _ in told])
    first = places[0] if places else followups[0]
    return MachineInBay(
        machine=first.machine, fleet_number=first.fleet_number, state=state, by=WHO[state],
        wanted=in_short([words for each, words in told if each == state]), places=tuple(places), followups=tuple(followups),
    )  # fmt: skip


def _places_told(places: Iterable[PlaceNow]) -> Iterator[tuple[BayState, str]]:
    for place in places:
        why = "tightened again since; the tag still hangs" if place.tightened_again else "; ".join(place.reasons)
        yield place.state, ": ".join(part for part in (place.position or place.title, why) if part)


def _due_words(followup: OpenFollowup) -> str:
    return ": ".join(part for part in (followup.position or followup.title, followup.due.words) if part)
