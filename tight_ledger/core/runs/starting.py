"""From which specs, on which machines, a run may start, and what is asked first."""

from collections.abc import Iterable, Mapping
from datetime import datetime

from tight_ledger.core.base.errors import Invalid, MustAsk
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter, meter_warning
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.specs.applicability import fit, separating_question
from tight_ledger.core.specs.spec import Spec

STARTABLE: frozenset[str] = frozenset({"current", "draft"})
"""Statuses of a revision from which a run may start."""


def require_startable(spec: Spec, status: str, machine: Machine, position: Position, proof: str, meters: Iterable[Meter]) -> None:
    """Refuse a run that must not start.

    Args:
        status: of the spec's revision.
        proof: what the person sees on the machine.
        meters: the readings that were typed.

    Raises:
        Invalid: the spec is not for this machine or position, or that is not known; its revision is not in force; the
            proof is another; the machine has no such meter.
    """
    _require_applies(spec, machine)
    if status not in STARTABLE:
        raise Invalid(
            "revision", f"Revision {spec.revision} of “{spec.title}” is {status}.", "Open the sheet again; it shows what is in force."
        )
    if not spec.positions.holds(position):
        raise Invalid("position", f"“{spec.title}” is not for {position.words or 'no position'}.", f"It is for {spec.positions.words}.")
    if proof != spec.proof.answer:
        raise Invalid(
            "proof",
            f"You see “{proof}”; this spec is for “{spec.proof.answer}”.",
            "Do not start from it. Find the spec that fits what is on the machine, or ask a lead.",
        )
    if odd := [meter.kind for meter in meters if meter.kind not in machine.meters]:
        raise Invalid("meters", f"{machine.fleet_number} has no meter for {', '.join(odd)}.", "Leave it out.")


def _require_applies(spec: Spec, machine: Machine) -> None:
    fits = fit(spec.applies_to, machine)
    if fits == "no":
        raise Invalid("spec", f"“{spec.title}” is not for {machine.fleet_number}.", "Pick a spec that names its maker, model and variant.")
    if fits == "unknown":
        question = separating_question([spec.applies_to], machine)
        about = question.attribute if question is not None else "year or serial number"
        raise Invalid("spec", f"Nobody has said which {about} {machine.fleet_number} has.", "Answer the question above the results first.")


def ask_about_meters(before: Mapping[str, tuple[Meter, datetime]], meters: Iterable[Meter]) -> None:
    """Ask once about a reading that is odd; it never blocks.

    Args:
        before: by kind, the last reading and when it was taken.

    Raises:
        MustAsk: a reading is below the last one, or far above it.
    """
    for meter in meters:
        last = before.get(meter.kind)
        if warning := meter_warning(last[0] if last else None, meter):
            raise MustAsk("meter", f"meters.{meter.kind}", warning, "Correct it, or go on with it as it is.")
