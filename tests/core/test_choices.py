"""What a shop is asked: the default, and what it may choose; its shifts by its own clock."""

from datetime import UTC, datetime

import pytest

from tight_ledger.core.base.choices import BETWEEN, choose, questions
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.settings import ShopSettings, shift_at, shift_ends


def test_every_field_of_the_policy_is_asked_about_but_the_answers_to_single_tasks():
    assert {question.field for question in questions(Policy())} == set(Policy.model_fields) - {"choices"}
    assert {question.field for question in questions(ShopSettings())} == set(ShopSettings.model_fields)
    assert all(question.chosen == question.default for question in (*questions(Policy()), *questions(ShopSettings())))


@pytest.mark.parametrize(
    ("field", "value", "kept"),
    [
        ("final_check", "false", False),
        ("figure_in_range", "high", "high"),
        ("extension_allowance_nm_per_m", "1,4", 1.4),
        ("due_months", "6", 6),
        ("second_person", f"head{BETWEEN}wheel", ["head", "wheel"]),
        ("second_person", "", []),
    ],
)
def test_an_answer_changes_one_thing(field, value, kept):
    chosen = choose(Policy(), field, value)
    assert chosen.model_dump() == Policy().model_dump() | {field: kept}
    assert next(question for question in questions(chosen) if question.field == field).chosen == value.replace(",", ".")


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("figure_in_range", "higher", "the low end or the middle"),
        ("due_months", "0", "a figure in months"),
        ("colour", "red", "no question"),
    ],
)
def test_what_answers_nothing(field, value, said):
    with pytest.raises(Invalid, match=said):
        choose(Policy(), field, value)


@pytest.mark.parametrize("typed", ["early", "early 25:00", "06:00", ", ".join(f"s{hour} {hour:02}:00" for hour in range(7))])
def test_shifts_that_cannot_be(typed):
    with pytest.raises(Invalid, match="early 06:00, late 14:00"):
        choose(ShopSettings(), "shifts", typed)


@pytest.mark.parametrize(
    ("utc", "shift", "until"),
    [
        ("2026-07-01T04:59", "night", "06:00"),
        ("2026-07-01T05:00", "early", "14:00"),
        ("2026-07-01T21:00", "night", "06:00"),
        ("2026-12-01T05:59", "night", "06:00"),
    ],
)
def test_a_shift_goes_by_the_clock_of_the_shop_over_midnight_and_summer(utc, shift, until):
    settings = choose(ShopSettings(), "shifts", "late 14:00, night 22:00, early 06:00")
    at = datetime.fromisoformat(utc).replace(tzinfo=UTC)
    assert shift_at(settings, "Europe/Lisbon", at) == shift
    ends = shift_ends(settings, "Europe/Lisbon", at)
    assert f"{ends:%H:%M}" == until
    assert 0 < (ends - at).total_seconds() <= 9 * 3600
    assert (shift_at(ShopSettings(), "Europe/Lisbon", at), shift_ends(ShopSettings(), "Europe/Lisbon", at)) == ("", None)
