"""Every kind of step, read aloud."""

from pathlib import Path

import pytest

from tests.core.play import wheel_spec
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.library.reading_aloud import read_aloud
from tight_ledger.core.library.sheet import sheet, stages_of
from tight_ledger.core.planning.stages import Stages
from tight_ledger.demo import load
from tight_ledger.formats.tables import read_csv

DEMO = {
    f"{candidate.spec.applies_to[0].model} {candidate.spec.title}": candidate.spec
    for candidate in read_csv(Path(load.__file__).parent / "specs.csv")
    if candidate.spec
}
ANGLE = {"quantity": "angle", "low": 85, "high": 95}


def aloud(name, procedure="tighten"):
    spec = DEMO[name]
    lines = list(read_aloud(spec, spec.procedures[procedure], stages_of(spec, procedure, Policy())))
    return [
        ("  " * line.depth) + " ".join([line.words, *(f"[{figure.of or 'all'} {figure.figure}]" for figure in line.figures)])
        for line in lines
    ]


@pytest.mark.parametrize(
    ("name", "lines"),
    [
        (
            "Capstan 9 Drum hub bearing",
            [
                "the adjusting nut to the figure (while you turn the drum) [all 235–255 N·m]",
                "loosen the adjusting nut",
                "the adjusting nut to the figure (while you turn the drum) [all 58–66 N·m]",
                "measure give under a pull (Seated: what the dial shows now is the give of the parts, no play.)",
                "the adjusting nut back 1 position",
                "again until move is accepted or stopped, at most 8 times:",
                "  measure end play, three within a graduation, less what give read (Three readings; within a graduation.)"
                " [all 0.04–0.11 mm]",
                "  change the positions back by what play read, as advised (Count the lock positions; turn the drum to and fro before the"
                " next reading.)",
                "if move was stopped: stop: Stopped while it was set: a lead decides.",
                "Fit the lock",
            ],
        ),
        (
            "Standfast 300 Connecting rod caps, by stretch",
            [
                "Clean the dimples at both ends of every bolt",
                "each fastener, one finished before the next:",
                "  measure length, loose",
                "  again until move is accepted or stopped, at most 6 times:",
                "    change the setting by what stretch read, as advised",
                "    if move was moved: all to what move came to",
                "    if move was moved: measure bolt stretch, until two agree, less what zero read [all 0.14–0.19 mm]",
                "  if move was stopped: stop: Replace this bolt, or a lead decides.",
            ],
        ),
        (
            "Bollard 25 Sump, with sealant",
            [
                "again until snug is in time, at most 2 times:",
                "  Lay the bead, 3 mm, inside the holes",
                "  all to the figure (within 9 min of bead) [all 5–6 N·m]",
                "and between two tries:",
                "  loosen all (in reverse order)",
                "  Wipe both flanges clean and dry",
                "all to the figure (not before 30 min after bead) [all 10–12 N·m]",
            ],
        ),
    ],
)
def test_a_procedure_as_a_mechanic_would_read_it(name, lines):
    assert aloud(name) == lines


def test_kinds_and_groups_are_named():
    assert "all to the figure [long and short 33–37 N·m] [m8 8–10 N·m]" in aloud("Pintle 40 Cylinder head")
    assert "long and short on by the angle [long 101–109°] [short 81–89°]" in aloud("Pintle 40 Cylinder head")
    assert "4 times:" in aloud("Lapwing Rocker shaft")
    assert "  all 2 turns on" in aloud("Lapwing Rocker shaft")
    assert "  all back 2 turns (in reverse order)" in aloud("Lapwing Rocker shaft", "remove")


@pytest.mark.parametrize(
    ("step", "words"),
    [
        ({"kind": "rotate", "turns": 1, "what": "hub"}, "turn the hub 1 time"),
        ({"kind": "loosen", "amount": 30, "unit": "deg", "of": ["1", "2"]}, "no. 1 and no. 2 back 30°"),
        ({"kind": "measure", "what": "backlash", "readings": 4, "take": "max"}, "measure backlash, 4 readings, the largest"),
        ({"kind": "align", "at_most_deg": 20, "way": "back"}, "all back to the next slot, at most 20°"),
        ({"kind": "do", "say": "choose", "options": [{"key": "a", "say": "thin"}, {"key": "b"}]}, "choose: thin, b"),
        ({"kind": "each", "steps": [], "over": None}, "each fastener, one finished before the next:"),
        ({"kind": "torque", "share": 1, "plus": "drag"}, "all to the figure, plus what drag read"),
        ({"kind": "turns", "turns": 1, "order": "rail"}, "all 1 turn on (in the order “rail”)"),
        ({"kind": "stop"}, "stop: a lead decides"),
    ],
)
def test_the_other_kinds(step, words):
    spec = wheel_spec(steps=[{"id": "x", **step}])
    assert next(read_aloud(spec, spec.procedures["tighten"], Stages((), ()))).words == words


def test_where_a_time_could_run_from_several_entries_it_is_said_from_which():
    coat = {"id": "coat", "kind": "loosen", "unit": "turns", "amount": 1}
    steps = [coat, {"id": "x", "kind": "torque", "share": 1, "timing": {"after": "coat", "at_most_s": 300, "at_least_s": 20}}]
    spec = wheel_spec(steps=steps)
    told = [line.words for line in read_aloud(spec, spec.procedures["tighten"], Stages((), ()))]
    assert told[1] == "all to the figure (not before 20 s after the last entry of coat, within 5 min of the first entry of coat)"


def test_the_sheet_says_what_is_new_and_what_stands_where():
    said = sheet(DEMO["Lapwing Rocker shaft"], Policy())
    assert said.parts == ("The thin-bodied bolt stands at 5: oil flows past it into the shaft.",)
    assert "New long each time." in sheet(DEMO["Lapwing Cylinder head"], Policy()).parts
    assert sheet(DEMO["Causeway 12 Front cover"], Policy()).threads == "6 × M8, 2 × M10"
    assert "m10 at 4, 8: through the water pump." in sheet(DEMO["Causeway 12 Front cover"], Policy()).parts
    assert [procedure.name for procedure in sheet(DEMO["Causeway 12 Rear wheel nuts"], Policy()).procedures] == ["tighten", "retorque"]


def test_only_a_wheel_comes_off():
    assert "can come off" in sheet(DEMO["Causeway 12 Rear wheel nuts"], Policy()).caution
    assert "can come off" not in sheet(DEMO["Lapwing Sump"], Policy()).caution
