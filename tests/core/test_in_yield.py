"""A bolt that was turned into yield stays so at its place, whatever run comes next, until it is replaced."""

from uuid import UUID, uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import LONG, START, Run
from tests.core.test_every_way import SNUG, angle, joint
from tests.examples import examples
from tight_ledger.core.base.errors import InYield, MustAsk
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.planning.choosing import CribNow, Taken
from tight_ledger.core.records.entries import Started
from tight_ledger.core.runs.starting import Ground, MachineBefore, PlaceBefore, SpecBefore, Start, start
from tight_ledger.core.runs.yielded import in_yield_after
from tight_ledger.core.specs.spec import Followup

HEAD = joint(
    SNUG, angle(85, 95), yields=True,
    procedures={
        "tighten": (SNUG, angle(85, 95)), "warm": (angle(25, 35) | {"id": "further"},), "retorque": ({"id": "c", "kind": "check", "at": SNUG["at"]},),
    },
    followups=(Followup(id="warm", procedure="warm", event="warm"), Followup(id="km", procedure="retorque", km=80)),
)  # fmt: skip
MACHINE = Machine(id=UUID(int=4), fleet_number="T-1", maker="Fennick", model="Causeway 12")


class Place:
    """A cylinder head and what was done to it so far."""

    def __init__(self, spec=HEAD):
        self.spec, self.runs = spec, []

    @property
    def in_yield(self) -> dict[str, int]:
        return in_yield_after((started, run.state) for started, run in self.runs)

    def starts(self, procedure="tighten", *affirmed: str) -> Started:
        before = PlaceBefore(position_key=Position().key, joint=self.spec.joint, standing="good", last=uuid4(), in_yield=self.in_yield)
        ground = Ground(
            policy=Policy(final_check=False), spec=SpecBefore(spec=self.spec, status="current", checked=True),
            machine=MachineBefore(machine=MACHINE, places=(before,)), crib=CribNow(tools=(LONG,), care={}),
        )  # fmt: skip
        request = Start(
            id=uuid4(), spec=self.spec.id, revision=1, procedure=procedure, machine=MACHINE.id, position=Position(),
            tooling=(Taken(wrench=LONG.id),), proof=self.spec.proof.answer, at_device=START, affirmed=affirmed,
        )  # fmt: skip
        return start(ground, request, ("mechanic",))

    def does(self, procedure="tighten", *affirmed: str) -> Run:
        started = self.starts(procedure, *affirmed)
        run = Run(started.plan)
        self.runs.append((started, run))
        return run


def test_a_retorque_of_what_is_in_yield_does_not_start():
    place = Place()
    assert place.does().go_on().state.clean
    assert place.in_yield == dict.fromkeys("1234", 1)
    with pytest.raises(InYield, match="since: all of them"):
        place.starts("retorque", "all new")


def test_tightened_once_more_it_asks_and_new_ones_begin_anew():
    place = Place()
    place.does().go_on()
    with pytest.raises(MustAsk) as asked:
        place.starts()
    assert (asked.value.ask, asked.value.choices) == ("bolts", ("all new",))
    run = place.does("tighten", "all new")
    assert (place.runs[-1][0].bolts, place.in_yield) == ("all new", {})
    run.go_on()
    assert place.in_yield == dict.fromkeys("1234", 1)


def test_where_a_longest_length_is_given_they_may_be_measured():
    kinds = {name: kind.model_copy(update={"longest_mm": 52.4}) for name, kind in HEAD.layout.kinds.items()}
    place = Place(HEAD.model_copy(update={"layout": HEAD.layout.model_copy(update={"kinds": kinds})}))
    place.does().go_on()
    with pytest.raises(MustAsk) as asked:
        place.starts()
    assert asked.value.choices == ("all new", "measured")
    assert place.does("tighten", "measured").go_on().state.clean


def test_the_further_angle_that_the_spec_prescribes_is_turned_once():
    place = Place()
    place.does().go_on()
    assert place.does("warm").go_on().state.clean
    with pytest.raises(InYield):
        place.starts("warm")


def test_one_that_was_replaced_is_as_new_and_the_others_are_not():
    place = Place()
    run = place.does().go_on()
    run.add("replaced", fastener="3", text="stretched")
    assert place.in_yield == dict.fromkeys("124", 1)
    with pytest.raises(MustAsk, match="since: 1, 2, 4"):
        place.starts()


@given(st.lists(st.sampled_from(["tighten", "warm", "retorque", "all new", "replace", "loosen", "stop"]), max_size=12))
@examples(100)
def test_no_sequence_of_runs_pulls_a_bolt_that_is_in_yield(acts):
    """By a count of its own: what each bolt has been through since it was put in."""
    place, turned = Place(), dict.fromkeys("1234", 0)
    for act in acts:
        last = place.runs[-1][1] if place.runs else None
        if act in ("replace", "loosen"):
            if last is not None:
                last.add("replaced" if act == "replace" else "loosened", fastener="2", text="to look at it")
                turned["2"] = 0 if act == "replace" else turned["2"]
            continue
        procedure, affirmed = (act, ()) if act in ("warm", "retorque") else ("tighten", ("all new",) if act == "all new" else ())
        try:
            run = place.does(procedure, *affirmed)
        except (InYield, MustAsk):
            assert max(turned.values()) > (1 if procedure == "warm" else 0)
            continue
        turned = dict.fromkeys("1234", 0) if affirmed else turned
        assert max(turned.values()) <= (1 if procedure == "warm" else 0)
        if act == "stop":
            continue  # abandoned before anything was pulled
        run.go_on()
        if procedure != "retorque":
            turned = {label: times + 1 for label, times in turned.items()}
    assert place.in_yield == {label: times for label, times in turned.items() if times}
