"""Where mechanics disagree: the question, the side taken by default and why, and what else a shop may choose."""

from collections.abc import Iterable
from typing import Any

from pydantic import ValidationError

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy

BETWEEN = " | "
"""Between several answers."""


class ChoiceAnswer(Model):
    """One of a question's answers."""

    value: str
    say: str


class ShopChoice(Model):
    """One question, and what the shop has chosen. A figure has no answers to pick from, only a unit."""

    field: str
    ask: str
    why: str
    answers: tuple[ChoiceAnswer, ...] = ()
    unit: str = ""
    several: bool = False
    """Whether any number of the answers may be chosen."""
    chosen: str = ""
    default: str = ""


_YES_NO = (("true", "yes"), ("false", "no"))
_ASKED: tuple[tuple[str, str, str, tuple[tuple[str, str], ...], str], ...] = (
    (
        "figure_in_range", "Which figure in a range?", "The middle keeps the same distance from both limits.",
        (("low", "the low end"), ("middle", "the middle"), ("high", "the high end")), "",
    ),
    (
        "second_click", "A second click?", "It turns the nut further: a second pull, and judged as one.",
        (("second pull", "a second pull"), ("check", "a check")), "",
    ),
    ("final_check", "Check after the last stage?", "The first ones settle while the last are pulled. Never after an angle.", _YES_NO, ""),
    (
        "second_person", "Which joints does a second person check?",
        "None by default: it costs a second pair of hands. Without the check a run of these does not end good.", (), "",
    ),
    ("checklist", "Confirm item by item before the first pull?", "What is not true then cannot be seen afterwards.", _YES_NO, ""),
    (
        "extension_allowance_nm_per_m", "Add something for an extension?",
        "No: a straight rigid one takes no torque, it only winds up. A figure here is this shop's own rule.", (), "N·m for each metre",
    ),
    ("fastest_pull_s", "How fast can a pull be made?", "Two presses closer together than this are asked about.", (), "seconds"),
    (
        "fastest_mean_s", "How fast can a whole pass be made?",
        "Walking, setting on and pulling take time: a pass quicker than this for each pull was pressed, not pulled.", (), "seconds a pull",
    ),
    (
        "longest_pause_s", "How long may an angle stand half done?",
        "Longer than this the mark may have been moved: the run asks to look.", (), "seconds",
    ),
    (
        "by_eye_deg", "An angle by eye?", "A gauge or an electronic wrench is better; by eye it is judged by a band that much wider.",
        (), "degrees on either side",
    ),
    (
        "retorque_km", "When is a wheel pulled again, by distance?",
        "For a spec that is entered quickly; what a document says comes first.", (), "km",
    ),
    ("retorque_days", "And at the latest?", "The date catches a meter that nobody reads.", (), "days"),
    ("due_months", "When is a wrench due, by time?", "Twelve months, or its pulls, whichever comes first.", (), "months"),
    ("due_pulls", "When is a wrench due, by use?", "Five thousand pulls, counted from the ledger.", (), "pulls"),
)  # fmt: skip


def _text(value: object) -> str:
    if isinstance(value, frozenset):
        return BETWEEN.join(sorted(value))
    return str(value).lower() if isinstance(value, bool) else f"{value:g}" if isinstance(value, float | int) else str(value)


def questions(policy: Policy, joints: Iterable[str] = ()) -> tuple[ShopChoice, ...]:
    """The questions, with what this shop has chosen.

    Args:
        joints: the kinds of joint that the library knows.
    """
    plain = Policy()
    return tuple(
        ShopChoice(
            field=field, ask=ask, why=why, unit=unit, several=isinstance(getattr(plain, field), frozenset),
            answers=tuple(ChoiceAnswer(value=value, say=say) for value, say in answers) or _joints(getattr(plain, field), joints),
            chosen=_text(getattr(policy, field)), default=_text(getattr(plain, field)),
        )
        for field, ask, why, answers, unit in _ASKED
    )  # fmt: skip


def _joints(default: object, joints: Iterable[str]) -> tuple[ChoiceAnswer, ...]:
    return tuple(ChoiceAnswer(value=joint, say=joint) for joint in sorted(set(joints))) if isinstance(default, frozenset) else ()


def choose(policy: Policy, field: str, value: str) -> Policy:
    """The policy with one question answered otherwise.

    Raises:
        Invalid: no such question, or an answer that it does not have.
    """
    question = next((each for each in questions(policy) if each.field == field), None)
    if question is None:
        raise Invalid("field", f"“{field}” is no question.", f"It can be {', '.join(row[0] for row in _ASKED)}.")
    chosen = [each for each in value.split(BETWEEN) if each] if question.several else value.replace(",", ".")
    given: dict[str, Any] = policy.model_dump() | {field: chosen}
    try:
        return Policy.model_validate(given)
    except ValidationError as error:
        can = " or ".join(answer.say for answer in question.answers) or f"a figure in {question.unit}"
        raise Invalid("value", f"“{value}” answers nothing here.", f"It can be {can}, within reason.") from error
