"""A wrench on the line: paired with a run by a code; what it tells becomes entries; who looks on sees it live."""

import json
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID, uuid5

from tight_ledger.core.base.bands import Band, Reading
from tight_ledger.core.base.display import Shown, show
from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.core.base.units import TorqueUnit, from_nm
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.records.entries import Report
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.tools.wrenches import Setting
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.devices.listeners import Pairing
from tight_ledger.services.runs import recording
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store.attachments import Attachment

CODE_LASTS = timedelta(hours=14)


@dataclass(frozen=True, slots=True)
class ToldPull:
    """A pull as a wrench tells it."""

    id: UUID
    at: datetime
    torque_nm: float
    angle_deg: float
    curve: Sequence[tuple[float, float]] = ()


async def pair(context: Context, actor: Actor, run_id: UUID, request: Command) -> str:
    """A code for a wrench to speak for this run, in this person's name; asked for again, the same.

    Raises:
        NotOnFile: no run has this id.
    """
    await context.run(run_id)
    now, line = context.now(), context.listeners
    known = next((code for code, one in line.pairings.items() if one.command == request.id and one.run == run_id), None)
    if known is not None:
        return known
    line.pairings = {code: one for code, one in line.pairings.items() if one.until > now and one.run != run_id}
    code = next(code for code in iter(lambda: f"{secrets.randbelow(1_000_000):06d}", "") if code not in line.pairings)
    line.pairings[code] = Pairing(run_id, actor, now + CODE_LASTS, request.id)
    return code


def paired(context: Context, code: str) -> Pairing:
    """The run of a code.

    Raises:
        NotOnFile: no such code, or it is too old.
    """
    found = context.listeners.pairings.get(code)
    if found is None or found.until <= context.now():
        raise NotOnFile("code", "No run waits for this code.", "Ask the run's screen for a new one.")
    return found


@dataclass(frozen=True, slots=True)
class Next:
    """What a run asks of a wrench."""

    one: Pass
    pull: Pull
    degrees_left: float
    setting: Setting | None
    band: Band | None
    """At the wrench; both from the rung that is picked, where there is a ladder."""


def next_pull(run: Remembered) -> Next | None:
    """The pull that a wrench can make now; None while the run asks for something else."""
    state = run.state
    if state.outcome is not None or not state.next or state.doing.unsure:
        return None
    for one in run.started.plan.passes:
        for pull in one.pulls:
            if pull.id == state.next[0]:
                if not KINDS[one.kind].by_wire:
                    return None
                band = pull.band
                aim = band.aim() if band is not None else 0.0
                rung = state.doing.rung
                setting, band = (rung.setting, rung.band) if rung is not None else (pull.setting, pull.band)
                shown = pull.at_wrench(band) if band is not None and KINDS[one.kind].reading == "torque" else None
                return Next(one, pull, max(aim - state.doing.degrees, 0.0) + pull.windup_deg, setting, shown)
    return None


def wrench_unit(run: Remembered, wanted: Next | None) -> TorqueUnit:
    """The unit of the scale of the wrench in hand."""
    return run.started.tooling[wanted.pull.tooling].wrench.unit if wanted is not None and run.started.tooling else "N·m"


def live(context: Context, run_id: UUID, torque_nm: float, angle_deg: float) -> None:
    """What a wrench shows while it is held, to everybody who looks on, in the unit of its own scale."""
    run = context.remembered.get(run_id)
    unit = wrench_unit(run, next_pull(run)) if run is not None else "N·m"
    context.listeners.tell(run_id, {"type": "live", "torque": round(from_nm(torque_nm, unit), 2), "unit": unit, "angle_deg": angle_deg})


async def told(context: Context, pairing: Pairing, message: ToldPull) -> None:
    """A pull becomes an entry; the same id twice is once. One that nobody asked for is kept as a note.

    Raises:
        Invalid: what recording refuses.
    """
    run = await context.run(pairing.run)
    if any(entry.id == message.id for entry in run.entries):
        return
    wanted = next_pull(run)
    torque, angle = Reading(figure=message.torque_nm, unit="N·m"), Reading(figure=message.angle_deg, unit="°")  # as they were sent
    common: dict[str, Any] = {"id": message.id, "by": pairing.actor.person.id, "at_device": message.at, "how": "wire"}
    if message.curve:
        common["curve"] = await _keep_curve(context, message)
    if wanted is None:
        said = show(torque.torque_nm, wrench_unit(run, wanted)) if torque.figure > 0 else Shown(figure="0", unit="N·m")
        common |= {"kind": "noted", "text": f"A pull that was not asked for: {said.figure} {said.unit}, {angle.figure:.0f}°."}
    else:
        common |= {"pull": wanted.pull.id, "fastener": wanted.pull.fastener}
        common |= {"tools": (wanted.pull.tool,)} if wanted.pull.tool is not None else {}
        kind = KINDS[wanted.one.kind]
        common |= {"kind": kind.answered_by}
        if kind.reading == "angle":
            common |= {"reading": angle, "counts": "swing", "end_torque": torque}
        else:
            common |= {"reading": torque, "turned": angle}
    await recording.record(context, pairing.actor, pairing.run, Report.model_validate(common))
    live(context, pairing.run, message.torque_nm, message.angle_deg)


async def _keep_curve(context: Context, message: ToldPull) -> str:
    """The curve beside the ledger, under an id that follows from the pull's; its digest goes into the entry."""
    content = json.dumps([[round(a, 2), round(t, 2)] for a, t in message.curve], separators=(",", ":")).encode()
    one = Attachment(curve_id(message.id), f"{message.id}.json", "application/json", content)
    await context.database.run(lambda connection: attachment_store.add(connection, one, context.now()))
    return one.digest


def curve_id(entry_id: UUID) -> UUID:
    """Where the curve of an entry is kept."""
    return uuid5(entry_id, "curve")
