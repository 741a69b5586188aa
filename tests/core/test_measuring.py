"""A reading: taken by its method, with a gauge that may be used for it, believed, and placed in its band."""

from uuid import UUID, uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import START, Run, plan_of, wheel_spec
from tight_ledger.core.base.bands import Band, Reading
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.parsing import parse_measured
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.kinds.readings import Instant
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.records.entries import Report, Started
from tight_ledger.core.runs.accepting import accept
from tight_ledger.core.runs.run import Run as Folded
from tight_ledger.core.tools.gauges import Gauge, GaugeNow, rank_gauges

PLAY = {"id": "m", "kind": "measure", "what": "end play", "band": parse_measured("0.04–0.11 mm").model_dump()}
DRAG = {"id": "m", "kind": "measure", "what": "drag", "band": parse_measured("1.6–2.4 N·m").model_dump()}


def gauge(number=1, what="dial indicator", unit="mm", graduation=0.01, highest=10, standing="good", **more):
    made = Gauge(
        kind="gauge", id=UUID(int=number), name=f"G-{number}", what=what, unit=unit, graduation=graduation, highest=highest, **more
    )
    return GaugeNow(gauge=made, standing=standing, words="Due since March.")


class Measured:
    """A run of one measurement, as the server accepts and folds it."""

    def __init__(self, step, *gauges, policy=None):
        policy = policy or Policy(final_check=False, checklist=False)
        plan = plan_of(wheel_spec(8, steps=[step]), policy=policy)
        self.started = Started(
            plan=plan, spec_revision=1, tooling=(), policy=policy, machine=UUID(int=9), position=Position(), proof="1", engine="1",
            gauges=gauges,
        )  # fmt: skip
        self.run = Run(plan, policy)
        self.run.add("started", started=self.started)

    @property
    def state(self):
        folded = Folded(self.run.plan)
        folded.add(self.run.entries)
        return folded.state()

    def take(self, figure, unit="mm", radius_mm=None, **fields):
        said = {"id": uuid4(), "kind": "measured", "by": self.run.person, "at_device": START, "pull": self.state.next[0]}
        if "needle" not in fields:
            fields["reading"] = Reading(figure=figure, unit=unit, where="gauge", radius_mm=radius_mm)
        report = Report(**said | fields, affirmed=("unit",))
        at = Instant(self.run.tablet, report.at_device, report.at_device)
        accepted = accept(self.started, self.state, self.run.entries, ("mechanic",), report, at)
        self.run.add(accepted.pop("kind"), **{name: value for name, value in accepted.items() if name not in ("id", "by", "at_device")})
        return self

    def outcome(self):
        return next(pull.outcome for pull in self.state.pulls if pull.id == "m")


def test_a_reading_that_was_not_taken_by_its_method_is_refused():
    taken = Measured(PLAY | {"method": "end play", "take": "together"})
    with pytest.raises(Invalid, match="Nobody says that it was taken so"):
        taken.take(0.06)
    taken.take(0.06, method="end play")
    with pytest.raises(Invalid, match="Nobody says that it was taken so"):
        taken.take(0.06)  # zeroed again before each


@pytest.mark.parametrize(
    ("used", "said"),
    [
        (gauge(standing="due"), "Due since March"), (gauge(standing="quarantined"), "Due since March"),
        (gauge(graduation=0.05), "at least 4 are needed"), (gauge(highest=0.1), "It ends at 0.1 mm"),
        (gauge(unit="thou", graduation=0.1, highest=100), "shows thou, not mm"),
    ],
)  # fmt: skip
def test_a_gauge_that_cannot_be_used_for_it_is_refused(used, said):
    taken = Measured(PLAY, used)
    with pytest.raises(Invalid, match=said):
        taken.take(0.06, tools=(used.gauge.id,))
    with pytest.raises(Invalid, match="not known to the run"):
        taken.take(0.06, tools=(UUID(int=77),))
    assert taken.state.seq == 1


def test_at_the_limit_it_is_taken_once_more_and_passes_and_says_so():
    dial = gauge(uncertainty=0.01)
    taken = Measured(PLAY, dial).take(0.045, tools=(dial.gauge.id,))
    assert taken.outcome() is None
    taken.take(0.045, tools=(dial.gauge.id,))
    assert (taken.outcome(), [verdict.said for verdict in taken.state.verdicts]) == ("ok", ["end play: at the limit"])
    assert taken.state.unanswered() == ()


def test_where_the_shop_asks_for_proof_a_reading_at_the_limit_does_not_pass():
    """ISO 14253-1:2017: conformity is proven in the band less the uncertainty."""
    dial, proven = gauge(uncertainty=0.01), Policy(final_check=False, checklist=False, conformity="proven")
    taken = Measured(PLAY, dial, policy=proven).take(0.045, tools=(dial.gauge.id,)).take(0.045, tools=(dial.gauge.id,))
    assert [verdict.code for verdict in taken.state.unanswered()] == ["unproven_reading"]
    middle = Measured(PLAY, dial, policy=proven).take(0.075, tools=(dial.gauge.id,))
    assert (middle.outcome(), middle.state.unanswered()) == ("ok", ())


@given(st.floats(0.001, 0.2), st.floats(0.0005, 0.03))
def test_no_uncertainty_turns_a_reading_outside_the_band_into_a_good_one(read, uncertainty):
    dial = gauge(graduation=0.001, uncertainty=uncertainty)
    taken = Measured(PLAY, dial).take(read, tools=(dial.gauge.id,))
    if taken.outcome() is None:
        taken.take(read, tools=(dial.gauge.id,))
    assert (taken.outcome() == "ok") == (Band.model_validate(PLAY["band"]).judge(read) == "ok")


@pytest.mark.parametrize(
    ("read", "outcome", "said"),
    [
        ((0.20, 0.22, 0.21), "ok", []), ((0.20, 0.22, 0.35), "high", ["backlash: above its band"]),
        ((0.20, 0.30, 0.25), "high", ["backlash varies by 0.1 from place to place, 0.08 at most"]),
    ],
)  # fmt: skip
def test_a_gear_is_measured_all_round(read, outcome, said):
    band = parse_measured("0.15–0.33 mm").model_dump()
    step = {"id": "m", "kind": "measure", "what": "backlash", "band": band, "take": "places", "readings": 3}
    taken = Measured(step | ({} if read[2] == 0.35 else {"varies_at_most": 0.08}))
    for figure in read:
        taken.take(figure)
    assert (taken.outcome(), [verdict.said for verdict in taken.state.unanswered()]) == (outcome, said)


def test_a_play_read_off_the_pitch_circle_is_corrected_by_the_radii():
    step = PLAY | {"circle_mm": 140}
    assert Measured(step).take(0.12, radius_mm=160).state.values["m"] == pytest.approx(0.105)
    assert Measured(step).take(0.10).state.values["m"] == 0.10


def test_a_spring_scale_takes_its_radius():
    scale = gauge(what="spring scale", unit="N", graduation=1, highest=100)
    taken = Measured(DRAG, scale).take(36, "N", radius_mm=55, tools=(scale.gauge.id,))
    assert (taken.outcome(), taken.state.values["m"]) == ("ok", pytest.approx(1.98))
    with pytest.raises(ValueError, match="say at which radius it pulls"):
        Reading(figure=36, unit="N")


def test_the_needle_is_read_by_the_core():
    dial = gauge(divisions=100)
    taken = Measured(PLAY, dial).take(None, needle={"turns": 0, "marks": 7.5}, tools=(dial.gauge.id,))
    assert taken.state.values["m"] == pytest.approx(0.075)
    with pytest.raises(Invalid, match="112 is not on this dial"):
        Measured(PLAY, dial).take(None, needle={"turns": 0, "marks": 112}, tools=(dial.gauge.id,))


def test_of_several_the_finest_that_may_be_used_comes_first():
    band = Band.model_validate(PLAY["band"])
    ranked = rank_gauges([gauge(1), gauge(2, graduation=0.001), gauge(3, standing="due"), gauge(4, what="spring scale", unit="N")], band)
    assert [(each.name, each.rank) for each in ranked] == [("G-2", "good"), ("G-1", "coarse"), ("G-3", "refused")]
