"""What a spec is for, and the one question."""

from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.specs.applicability import Applies, fit, separating_question


def van(**known):
    return Machine(id=UUID(int=1), fleet_number="SV-1", **{"maker": "Aldermoor", "model": "Lapwing"} | known)


def applies(**more):
    return Applies(**{"maker": "aldermoor", "model": "LAPWING"} | more)


PRESSED = applies(variant={"bearing": "press-in"}, tell={"bearing": "no bolts around the bearing"})
BOLTED = applies(variant={"bearing": "bolted hub unit"}, tell={"bearing": "four bolts from behind"})


@pytest.mark.parametrize(
    ("applies", "machine", "expected"),
    [
        (applies(), van(), "yes"),
        (applies(), van(model="Lapwing XL"), "no"),
        (applies(year_from=2015, year_to=2019), van(year=2015), "yes"),
        (applies(year_from=2015, year_to=2019), van(year=2020), "no"),
        (applies(year_from=2015), van(), "unknown"),
        (applies(serial_from="AL-30000", serial_to="AL-30999"), van(serial="AL-30981"), "yes"),
        (applies(serial_from="AL-31000"), van(serial="AL-30981"), "no"),
        (PRESSED, van(), "unknown"),
        (PRESSED, van(variant={"bearing": "Press-In"}), "yes"),
        (PRESSED, van(variant={"bearing": "bolted hub unit"}), "no"),
        (PRESSED, van(model="Heron", variant={"bearing": "press-in"}), "no"),
    ],
)
def test_fit(applies, machine, expected):
    assert fit([applies], machine) == expected


def test_alternatives_of_one_spec():
    assert fit([PRESSED, applies(year_to=2010)], van(year=2009, variant={"bearing": "bolted hub unit"})) == "yes"


def test_the_one_question_and_how_to_tell():
    question = separating_question([[PRESSED], [BOLTED], [applies()]], van())
    assert question.attribute == "bearing"
    assert [(a.value, a.tell) for a in question.answers] == [
        ("bolted hub unit", "four bolts from behind"), ("press-in", "no bolts around the bearing"),
    ]  # fmt: skip
    assert separating_question([[PRESSED], [BOLTED]], van(variant={"bearing": "press-in"})) is None


variants = st.dictionaries(st.sampled_from(["bearing", "engine", "stud"]), st.sampled_from(["a", "b"]), max_size=3)


@given(st.lists(variants, min_size=1, max_size=5), variants)
def test_answering_the_questions_settles_every_spec(wanted, truth):
    """However the answers fall, after at most three of them no spec is left open."""
    specs, machine = [[applies(variant=variant)] for variant in wanted], van()
    for _ in range(3):
        question = separating_question(specs, machine)
        if question is None:
            break
        answer = truth.get(question.attribute, "neither")
        machine = machine.model_copy(update={"variant": machine.variant | {question.attribute: answer}})
    assert all(fit(spec, machine) != "unknown" for spec in specs)


def test_years_in_order():
    with pytest.raises(ValidationError, match="swap them"):
        applies(year_from=2020, year_to=2010)
