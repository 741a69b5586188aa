"""A wrench on the line: paired with a run by a code; what it tells becomes entries; who looks on sees it live."""

import hashlib
import json
import secrets
from dataclasses import dataclass, replace
from datetime import timedelta
from uuid import UUID, uuid4

from cachetools import TTLCache
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Busy, NotAllowed, NotOnFile, Stale
from tight_ledger.core.base.people import rights_of
from tight_ledger.core.base.units import ReadingUnit
from tight_ledger.core.runs.wire import (
    SentPull,
    SentReading,
    WantedPull,
    live_shown,
    needle_shown,
    report_of,
    report_of_reading,
    wanted_pull,
)
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.runs import recording
from tight_ledger.services.runs.curves import curve_id
from tight_ledger.services.runs.recording import SIGNED_OUT, Sender
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store import devices as device_store
from tight_ledger.store import instruments as instrument_store
from tight_ledger.store.attachments import Attachment
from tight_ledger.store.ledger import moment

CODE_WAITS, CODE_LASTS = timedelta(minutes=10), timedelta(hours=14)
"""How long a code waits for its wrench, and how long that wrench may come back with it."""
TRIES = 5
MOST_GUESSES, GUESSES_S = 10, 600.0
"""Number of wrong codes in a time after which those that are not registered here wait."""
_guesses: TTLCache[UUID, None] = TTLCache(10_000, GUESSES_S)


@dataclass(frozen=True, slots=True)
class Claim:
    """What an instrument says it is."""

    instrument: UUID
    key: str

    @property
    def key_hash(self) -> bytes:
        """What is stored of the key."""
        return hashlib.sha256(self.key.encode()).digest()


@dataclass(frozen=True, slots=True)
class Pairing:
    """A run that a wrench may speak for, in somebody's name."""

    run: UUID
    actor: Actor
    sender: Sender


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
            connection, code, run=run_id, person=actor.person.id, device=actor.device, command=request.id, now=now, until=now + CODE_WAITS
        )
        return code

    for attempt in range(TRIES):
        try:
            return await context.database.run(work, transaction=True)
        except IntegrityError:  # the code is taken, or the run was given one at the same moment
            if attempt == TRIES - 1:
                raise
    raise AssertionError


async def paired(context: Context, code: str, claimed: Claim | None) -> Pairing:
    """The run of a code. A code belongs to the first wrench that uses it.

    Wrong codes and wrong keys share one budget, whatever address they come from. While it is used up only those wait that are
    not registered here: a stranger locks no known instrument out.

    Args:
        claimed: the instrument that it says it is; None for a simulated wrench.

    Raises:
        Busy: too many wrong codes lately, and it is no registered instrument.
        NotOnFile: no such code, it is too old, another wrench has it, its person has signed out, or its run has ended.
        NotAllowed: no such instrument, or another key.
    """
    if claimed is None:
        _require_patience()
    now = moment(context.now())

    async def work(connection: AsyncConnection) -> device_store.StoredPairing | None:
        if claimed is not None and not await instrument_store.is_key(connection, claimed.instrument, claimed.key_hash):
            raise NotAllowed("instrument", "This instrument is not registered, or has another key.", "Ask a lead to register it.")
        return await device_store.paired(connection, code, claimed.instrument if claimed is not None else None, now, now + CODE_LASTS)

    try:
        found = await context.database.run(work, transaction=True)
    except NotAllowed:
        _require_patience()
        _guesses[uuid4()] = None
        raise
    if found is None or (await context.run(found.run)).state.outcome is not None:
        if claimed is None:
            _guesses[uuid4()] = None
        raise NotOnFile("code", "No run waits for this code.", "Ask the run's screen for a new one.")
    return Pairing(found.run, Actor(found.person, found.device), Sender(claimed.instrument if claimed is not None else None))


def _require_patience() -> None:
    if len(_guesses) >= MOST_GUESSES:
        raise Busy("code", "Too many wrong codes were sent.", "Wait ten minutes, then ask the run's screen for a new one.")


async def right_ended(context: Context, pairing: Pairing) -> str:
    """Why a wrench may not speak for its run any more, in words; empty as long as it may."""

    async def work(connection: AsyncConnection) -> str:
        actor, instrument = pairing.actor, pairing.sender.instrument
        person = await device_store.signed_in(connection, actor.person.id, actor.device, moment(context.now()))
        if person is None:
            return SIGNED_OUT
        if "work" not in rights_of(person.roles):
            return "by somebody who may not record work any more"
        if instrument is not None and await instrument_store.is_retired(connection, instrument):
            return "by an instrument that was taken off the line"
        return ""

    return await context.database.run(work)


async def _sender(context: Context, pairing: Pairing) -> Sender:
    """What tells something now: what was begun is kept, and flagged if the right to tell it has ended meanwhile."""
    return replace(pairing.sender, ended=await right_ended(context, pairing))


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
    if run is not None:
        context.listeners.tell(run_id, live_shown(run.started, run.state, torque_nm, angle_deg))


def needle(context: Context, run_id: UUID, figure: float, unit: ReadingUnit) -> None:
    """Tell everybody who looks at a run where the needle of its gauge stands."""
    if context.remembered.get(run_id) is not None:
        context.listeners.tell(run_id, needle_shown(figure, unit))


async def take_reading(context: Context, pairing: Pairing, sent: SentReading) -> None:
    """Record a reading that a gauge sent; the same id twice is one reading.

    Raises:
        Invalid: what recording refuses.
    """
    run = await _still_open(context, pairing, sent.id)
    if run is None:
        return
    report = report_of_reading(wanted_pull(run.started, run.state), sent, pairing.actor.person.id)
    await recording.record(context, pairing.actor, pairing.run, report, await _sender(context, pairing))


async def _still_open(context: Context, pairing: Pairing, sent: UUID) -> Remembered | None:
    """The run that something was sent to; None if it is recorded already.

    Raises:
        Stale: the run has ended.
    """
    run = await context.run(pairing.run)
    if any(entry.id == sent for entry in run.entries):
        return None
    if run.state.outcome is not None:
        raise Stale("run", "This run has ended.", "Start one for what is done now.")
    return run


async def take(context: Context, pairing: Pairing, sent: SentPull) -> None:
    """Record a pull that a wrench sent; the same id twice is one pull.

    Raises:
        Invalid: what recording refuses.
    """
    run = await _still_open(context, pairing, sent.id)
    if run is None:
        return
    curve = await _keep_curve(context, sent) if sent.curve else None
    report = report_of(run.started, wanted_pull(run.started, run.state), sent, pairing.actor.person.id, curve)
    await recording.record(context, pairing.actor, pairing.run, report, await _sender(context, pairing))
    live(context, pairing.run, sent.torque_nm, sent.angle_deg)


async def _keep_curve(context: Context, sent: SentPull) -> str:
    """Keep a curve beside the ledger, under an id made from the pull's. Returns its digest, which goes into the entry."""
    content = json.dumps([[round(a, 2), round(t, 2)] for a, t in sent.curve], separators=(",", ":")).encode()
    attachment = Attachment(curve_id(sent.id), f"{sent.id}.json", "application/json", content)

    async def work(connection: AsyncConnection) -> None:
        await attachment_store.add(connection, attachment, context.now())

    await context.database.run(work)
    return attachment.digest
