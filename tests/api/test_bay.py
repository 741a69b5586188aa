"""A line for each machine: the most serious thing, what it is about, who is wanted."""

from datetime import UTC, datetime
from uuid import uuid4

from hypothesis import given
from hypothesis import strategies as st

from tests.examples import examples
from tight_ledger.core.runs.bay import MOST_SERIOUS_FIRST, WHO, due_state, place_state
from tight_ledger.core.specs.followups import Due
from tight_ledger.services.bay import by_machine
from tight_ledger.services.standing import OpenFollowup, PlaceNow

MACHINES = {number: uuid4() for number in ("AX-1", "AX-2", "AX-3")}
POSITIONS = ("front left", "front right", "")


@st.composite
def places(draw):
    number = draw(st.sampled_from(sorted(MACHINES)))
    standing, unreadable = draw(st.sampled_from([None, "do not move", "abandoned"])), draw(st.booleans())
    return PlaceNow(
        machine=MACHINES[number], fleet_number=number, position=draw(st.sampled_from(POSITIONS)), joint="wheel", title="Wheel nuts",
        run=uuid4(), standing=standing, unreadable=unreadable, state=place_state(standing, unreadable=unreadable),
        reasons=("stage 1 of 2 done",), at=datetime(2026, 6, 10, tzinfo=UTC),
    )  # fmt: skip


@st.composite
def followups(draw):
    number = draw(st.sampled_from(sorted(MACHINES)))
    due = Due(
        followup="f",
        procedure="retorque",
        parent=uuid4(),
        status=draw(st.sampled_from(["overdue", "due", "soon", "waiting"])),
        words="81 km",
    )
    return OpenFollowup(
        machine=MACHINES[number], fleet_number=number, position=draw(st.sampled_from(POSITIONS)), joint="wheel", title="Wheel nuts",
        spec=uuid4(), root=uuid4(), position_key="", due=due, wrenches=(), fasteners=8, minutes=7,
    )  # fmt: skip


@given(st.lists(places(), max_size=8), st.lists(followups(), max_size=8))
@examples(200)
def test_every_place_and_followup_is_in_the_line_of_its_machine_and_none_is_told_as_less_than_its_worst(at, due):
    lines = by_machine(at, due)
    assert [line.machine for line in lines] == list(dict.fromkeys(line.machine for line in lines))
    assert sorted(p.run for line in lines for p in line.places) == sorted(p.run for p in at)
    assert sorted(f.root for line in lines for f in line.followups) == sorted(f.root for f in due)
    ranks = [MOST_SERIOUS_FIRST.index(line.state) for line in lines]
    assert ranks == sorted(ranks)
    for line in lines:
        assert {each.machine for each in (*line.places, *line.followups)} == {line.machine}
        states = [place_state(p.standing, unreadable=p.unreadable) for p in line.places] + [due_state(f.due.status) for f in line.followups]
        assert min(map(MOST_SERIOUS_FIRST.index, states)) == MOST_SERIOUS_FIRST.index(line.state)
        more = states.count(line.state) - 1
        assert line.wanted.endswith(f"; {more} more") == (more > 0)
        assert line.by == WHO[line.state]


def test_what_is_wanted_is_said_with_where():
    def line(**said):
        place = {"machine": uuid4(), "fleet_number": "AX-1", "position": "rear left", "joint": "wheel", "title": "Wheel nuts"}
        place |= {"run": uuid4(), "at": datetime(2026, 6, 10, tzinfo=UTC), "standing": None, "reasons": ()}
        place |= said
        state = place_state(place["standing"], unreadable=False)
        [told] = by_machine([PlaceNow(**place, state=state)], [])
        return told.state, told.wanted

    assert line(reasons=("stage 1 of 3 done",)) == ("open", "rear left: stage 1 of 3 done")
    assert line(position="", standing="abandoned", reasons=("not begun", "the lift is needed")) == (
        "in doubt", "Wheel nuts: not begun; the lift is needed",
    )  # fmt: skip
    assert line(standing="do not move", tightened_again=True) == ("do not move", "rear left: tightened again since; the tag still hangs")
