"""Where mechanics disagree: the default, and what a shop may choose."""

import pytest

from tight_ledger.core.base.choices import choose, questions
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy


def test_every_field_of_the_policy_is_asked_about_but_the_answers_to_single_tasks():
    assert {question.field for question in questions(Policy())} == set(Policy.model_fields) - {"choices"}
    assert all(question.chosen == question.default for question in questions(Policy()))


@pytest.mark.parametrize(
    ("field", "value", "kept"),
    [
        ("final_check", "false", False),
        ("figure_in_range", "high", "high"),
        ("extension_allowance_nm_per_m", "1,4", 1.4),
        ("due_months", "6", 6),
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
