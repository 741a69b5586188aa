"""What a shop is asked: the question, the side taken by default and why, and what else it may choose."""

from collections.abc import Iterable
from typing import Any, TypeVar

from pydantic import ValidationError

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.settings import MOST_SHIFTS, ShopSettings
from tight_ledger.core.base.units import USUAL_UNITS

BETWEEN = " | "
"""Between several answers."""


class ChoiceAnswer(Model):
    """One of a question's answers."""

    value: str
    say: str


class ShopChoice(Model):
    """One question, and what the shop has chosen. What is typed has no answers to pick from, only a unit or an example."""

    field: str
    setting: bool = False
    """Whether it is about how figures and dates are shown; otherwise mechanics disagree about it."""
    ask: str
    why: str
    answers: tuple[ChoiceAnswer, ...] = ()
    unit: str = ""
    figure: bool = True
    """Whether what is typed is a number."""
    several: bool = False
    """Whether any number of the answers may be chosen."""
    chosen: str = ""
    default: str = ""


_YES_NO = (("true", "yes"), ("false", "no"))
Answered = TypeVar("Answered", Policy, ShopSettings)
_Asked = tuple[str, str, str, tuple[tuple[str, str], ...], str]
_DATES = (
    ("en-GB", "5 Mar 2026"), ("en-US", "Mar 5, 2026"), ("de-DE", "5. März 2026"), ("es-ES", "5 mar 2026"), ("fr-FR", "5 mars 2026"),
    ("nl-NL", "5 mrt 2026"), ("pt-PT", "5/03/2026"), ("sv-SE", "5 mars 2026, in Swedish"),
)  # fmt: skip
_SETTINGS: tuple[_Asked, ...] = (
    (
        "torque_unit", "Which unit of torque comes first?", "A spec keeps the unit in which it is written, a wrench that of its scale.",
        tuple((unit, unit) for unit in USUAL_UNITS), "",
    ),
    ("dates", "How are dates written?", "On the screens and on paper.", _DATES, ""),
    (
        "shifts", "When do the shifts begin?", f"At most {MOST_SHIFTS}; empty for none. Home says when this one ends.",
        (), "as: early 06:00, late 14:00",
    ),
    ("photos_months", "How long are photos and papers kept?", "Then they are erased; a hold stops it.", (), "months"),
    ("curves_months", "How long are the curves of pulls kept?", "The figures that were judged stay in the entry.", (), "months"),
    ("attempts_months", "How long is it kept who typed a PIN where?", "It is not part of the ledger.", (), "months"),
)  # fmt: skip
_POLICY: tuple[_Asked, ...] = (
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
        "conformity", "A reading at the limit of its band?",
        "In the band as written it passes, taken once more. Proven: only in the band less the gauge's uncertainty (ISO 14253-1:2017).",
        (("as written", "passes, and is said to be at the limit"), ("proven", "does not pass: it has to be proven")), "",
    ),
    (
        "bolts_straight", "One bolt's setting for the rest, by their stretch?",
        "From somewhat below, each by its own reading: used straight, about one in eighty goes over the band by friction alone.",
        (("false", "from somewhat below"), ("true", "straight")), "",
    ),
    (
        "pinion", "What sets a pinion's bearings?", "Each has its school. A document that goes another way asks before the first pull.",
        (
            ("as the document says", "what the document says"), ("a new crush sleeve", "a new crush sleeve"),
            ("a spacer or shims in its place", "a spacer or shims in its place"),
            ("a shim under the old sleeve", "a shim under the old sleeve"),
        ),
        "",
    ),
    (
        "retorque_km", "When is a wheel pulled again, by distance?",
        "For a spec that is entered quickly; what a document says comes first.", (), "km",
    ),
    ("retorque_days", "And at the latest?", "The date catches a meter that nobody reads.", (), "days"),
    ("due_months", "When is a wrench due, by time?", "Twelve months, or its pulls, whichever comes first.", (), "months"),
    ("due_pulls", "When is a wrench due, by use?", "Five thousand pulls, counted from the ledger.", (), "pulls"),
)  # fmt: skip


_ASKED: dict[type[Model], tuple[_Asked, ...]] = {ShopSettings: _SETTINGS, Policy: _POLICY}


def _text(value: object) -> str:
    if isinstance(value, list):
        return BETWEEN.join(sorted(value))
    return str(value).lower() if isinstance(value, bool) else f"{value:g}" if isinstance(value, float | int) else str(value)


def questions(chosen: Policy | ShopSettings, joints: Iterable[str] = ()) -> tuple[ShopChoice, ...]:
    """The questions, with what this shop has chosen.

    Args:
        joints: the kinds of joint that the library knows.
    """
    plain, now = type(chosen)(), chosen.model_dump()
    start, several = plain.model_dump(), {field for field, value in plain if isinstance(value, frozenset)}
    return tuple(
        ShopChoice(
            field=field, setting=isinstance(chosen, ShopSettings), ask=ask, why=why, unit=unit, several=field in several,
            figure=field not in several and not isinstance(start[field], str),
            answers=tuple(ChoiceAnswer(value=value, say=say) for value, say in answers) or (_joints(joints) if field in several else ()),
            chosen=_text(now[field]), default=_text(start[field]),
        )
        for field, ask, why, answers, unit in _ASKED[type(chosen)]
    )  # fmt: skip


def _joints(joints: Iterable[str]) -> tuple[ChoiceAnswer, ...]:
    return tuple(ChoiceAnswer(value=joint, say=joint) for joint in sorted(set(joints)))


def choose(chosen: Answered, field: str, value: str) -> Answered:
    """What was chosen, with one question answered otherwise.

    Raises:
        Invalid: no such question, or an answer that it does not have.
    """
    question = next((each for each in questions(chosen) if each.field == field), None)
    if question is None:
        raise Invalid("field", f"“{field}” is no question.", f"It can be {', '.join(row[0] for row in _ASKED[type(chosen)])}.")
    answer: Any = value.replace(",", ".") if question.figure and not question.answers else value
    given: dict[str, Any] = chosen.model_dump() | {field: [each for each in value.split(BETWEEN) if each] if question.several else answer}
    try:
        return type(chosen).model_validate(given)
    except ValidationError as error:
        typed = f"a figure in {question.unit}" if question.figure else question.unit
        can = " or ".join(answer.say for answer in question.answers) or typed
        raise Invalid("value", f"“{value}” answers nothing here.", f"It can be {can}, within reason.") from error
