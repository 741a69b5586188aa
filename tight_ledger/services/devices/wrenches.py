"""A wrench on the line: paired with a run by a code; what it tells becomes entries; who looks on sees it live."""

import json
import secrets
from dataclasses import dataclass
from datetime import timedelta
from uuid import UUID

from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.core.base.units import from_nm
from tight_ledger.core.runs.wire import SentPull, WantedPull, report_of, scale_unit, wanted_pull
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.services.runs import recording
from tight_ledger.services.runs.curves import curve_id
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store import devices as device_store
from tight_ledger.store.attachments import Attachment
from tight_ledger.store.ledger import moment

CODE_LASTS = timedelta(hours=14)
TRIES = 5


@dataclass(frozen=True, slots=True)
class Pairing:
    """A run that a wrench may speak for, in somebody's name."""

    run: UUID
    actor: Actor


async def pair(context: Context, actor: Actor, run_id: UUID, request: Command) -> str:
    """A code for a wrench to speak for this run, in this person's name; asked for again, the same.

    Raises:
        NotOnFile: no run has this id.
    """
    await context.run(run_id)
    now = moment(context.now())

    async def work(connection: AsyncConnection) -> str:
        known = await device_store.code_of(connection, run_id, request.id)
        if known is not None:
            return known
        code = f"{secrets.randbelow(1_000_000):06d}"
        await device_store.pair(
            connection, code, run=run_id, person=actor.person.id, device=actor.device, command=request.id, now=now, until=now + CODE_LASTS
        )
        return code

    for attempt in range(TRIES):
        try:
            return await context.database.run(work, transaction=True)
        except IntegrityError:  # the code is taken, or the run was given one at the same moment
            if attempt == TRIES - 1:
                raise
    raise AssertionError


async def paired(context: Context, code: str) -> Pairing:
    """The run of a code.

    Raises:
        NotOnFile: no such code, or it is too old.
    """
    found = await context.database.run(lambda connection: device_store.paired(connection, code, moment(context.now())))
    if found is None:
        raise NotOnFile("code", "No run waits for this code.", "Ask the run's screen for a new one.")
    return Pairing(found.run, Actor(found.person, found.device))


async def wanted(context: Context, run_id: UUID) -> WantedPull | None:
    """What a run asks of a wrench now.

    Raises:
        NotOnFile: no run has this id.
    """
    run = await context.run(run_id)
    return wanted_pull(run.started, run.state)


def live(context: Context, run_id: UUID, torque_nm: float, angle_deg: float) -> None:
    """Tell everybody who looks at a run what its wrench shows while it is held, in the unit of its own scale."""
    run = context.remembered.get(run_id)
    unit = scale_unit(run.started, wanted_pull(run.started, run.state)) if run is not None else "N·m"
    context.listeners.tell(run_id, {"type": "live", "torque": round(from_nm(torque_nm, unit), 2), "unit": unit, "angle_deg": angle_deg})


async def take(context: Context, pairing: Pairing, sent: SentPull) -> None:
    """Record a pull that a wrench sent; the same id twice is one pull.

    Raises:
        Invalid: what recording refuses.
    """
    run = await context.run(pairing.run)
    if any(entry.id == sent.id for entry in run.entries):
        return
    curve = await _keep_curve(context, sent) if sent.curve else None
    report = report_of(run.started, wanted_pull(run.started, run.state), sent, pairing.actor.person.id, curve)
    await recording.record(context, pairing.actor, pairing.run, report)
    live(context, pairing.run, sent.torque_nm, sent.angle_deg)


async def _keep_curve(context: Context, sent: SentPull) -> str:
    """Keep a curve beside the ledger, under an id made from the pull's. Returns its digest, which goes into the entry."""
    content = json.dumps([[round(a, 2), round(t, 2)] for a, t in sent.curve], separators=(",", ":")).encode()
    attachment = Attachment(curve_id(sent.id), f"{sent.id}.json", "application/json", content)
    await context.database.run(lambda connection: attachment_store.add(connection, attachment, context.now()))
    return attachment.digest
