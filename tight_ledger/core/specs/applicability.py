"""What a spec is for, whether a machine is that, and the one question that separates two that could be."""

import re
from collections.abc import Iterable, Sequence
from typing import Literal

from pydantic import Field, model_validator

from tight_ledger.core.base.models import Model
from tight_ledger.core.machines.machine import Machine

Fit = Literal["yes", "no", "unknown"]


class Applies(Model):
    """What a spec is for. Text is compared without regard to case; what is left out does not matter.

    `variant` holds whatever else separates machines of one model: engine, bearing type, driven or not, stud size, wheel.
    """

    maker: str = Field(min_length=1, max_length=80)
    model: str = Field(min_length=1, max_length=80)
    year_from: int | None = Field(default=None, ge=1900, le=2100)
    year_to: int | None = Field(default=None, ge=1900, le=2100)
    serial_from: str = ""
    serial_to: str = ""
    variant: dict[str, str] = {}
    tell: dict[str, str] = {}
    """How to tell, attribute by attribute: `press-in: no bolts around the bearing`."""

    @model_validator(mode="after")
    def _in_order(self) -> "Applies":
        if self.year_from is not None and self.year_to is not None and self.year_from > self.year_to:
            raise ValueError("the first year lies after the last; swap them")
        return self

    def open_for(self, machine: Machine) -> tuple[str, ...] | None:
        """What must be known of a machine before this applies to it; None if it does not apply."""
        if (self.maker.casefold(), self.model.casefold()) != (machine.maker.casefold(), machine.model.casefold()):
            return None
        unknown = []
        if self.year_from is not None or self.year_to is not None:
            if machine.year is None:
                unknown.append("year")
            elif not (self.year_from or machine.year) <= machine.year <= (self.year_to or machine.year):
                return None
        if self.serial_from or self.serial_to:
            if not machine.serial:
                unknown.append("serial")
            elif not _lies_between(self.serial_from, machine.serial, self.serial_to):
                return None
        for attribute, wanted in self.variant.items():
            known = machine.variant.get(attribute)
            if known is None:
                unknown.append(attribute)
            elif known.casefold() != wanted.casefold():
                return None
        return tuple(unknown)


def _lies_between(first: str, serial: str, last: str) -> bool:
    """Whether a serial number lies in a range that is open at an end that is empty: figures count as numbers, letters as letters."""
    at = _serial_parts(serial)
    return (not first or _serial_parts(first) <= at) and (not last or at <= _serial_parts(last))


def _serial_parts(serial: str) -> tuple[tuple[int, int, str], ...]:
    """`AB-0500` as letters and numbers: (AB), (500). Signs between them do not matter."""
    return tuple((0, int(part), "") if part.isdecimal() else (1, 0, part) for part in re.findall(r"\d+|[^\W\d_]+", serial.casefold()))


class VariantAnswer(Model):
    """One way to answer, and how to tell that it is the one."""

    value: str
    tell: str = ""


class Question(Model):
    """The one question that separates specs that could apply to a machine."""

    attribute: str
    answers: tuple[VariantAnswer, ...]


def fit(applies: Sequence[Applies], machine: Machine) -> Fit:
    """Whether a spec with these alternatives is for a machine."""
    found = [unknown for apply in applies if (unknown := apply.open_for(machine)) is not None]
    return "no" if not found else "yes" if () in found else "unknown"


def separating_question(candidates: Iterable[Sequence[Applies]], machine: Machine) -> Question | None:
    """The question to ask about a machine: what most of the candidates still leave open.

    None if no candidate leaves anything open that an answer could settle.
    """
    answers: dict[str, dict[str, str]] = {}
    for applies in candidates:
        for apply in applies:
            for attribute in apply.open_for(machine) or ():
                if attribute in apply.variant:
                    answers.setdefault(attribute, {}).setdefault(apply.variant[attribute], apply.tell.get(attribute, ""))
    if not answers:
        return None
    attribute = max(answers, key=lambda name: (len(answers[name]), name))
    return Question(
        attribute=attribute, answers=tuple(VariantAnswer(value=value, tell=tell) for value, tell in sorted(answers[attribute].items()))
    )
