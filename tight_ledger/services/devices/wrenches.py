"""A wrench on the line: paired with a run by a code; what it tells becomes entries; who looks on sees it live."""

import hashlib
import json
import secrets
from dataclasses import dataclass
from datetime import timedelta
from uuid import UUID

from cachetools import TTLCache
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Busy, NotAllowed, NotOnFile, Stale
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
from tight_ledger.services.runs.recording import Sender
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store import devices as device_store
from tight_ledger.store import instruments as instrument_store
from tight_ledger.store.attachments import Attachment
from tight_ledger.store.ledger import moment

CODE_WAITS, CODE_LASTS = timedelta(minutes=10), timedelta(hours=14)
"""How long a code waits for its wrench, and how long that wrench may come back with it."""
TRIES = 5
MOST_GUESSES, GUESSES_S = 10, 600.0
"""Number of wrong codes in a time that are answered for one address; after that none is."""
_guesses: TTLCache[str, int] = TTLCache(10_000, GUESSES_S)


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


async def paired(context: Context, code: str, claimed: Claim | None, address: str) -> Pairing:
    """The run of a code. A code belongs to the first wrench that uses it.

    Args:
        claimed: the instrument that it says it is; None for a simulated wrench.
        address: where it comes from, for the limit of wrong codes.

    Raises:
        Busy: too many wrong codes from there.
        NotOnFile: no such code, it is too old, another wrench has it, its person has signed out, or its run has ended.
        NotAllowed: no such instrument, or another key.
    """
    if _guesses.get(address, 0) >= MOST_GUESSES:
        raise Busy("code", "Too many wrong codes from here.", "Wait ten minutes, then ask the run's screen for a new one.")
    now = moment(context.now())

    async def work(connection: AsyncConnection) -> device_store.StoredPairing | None:
        if claimed is not None and not await instrument_store.is_key(connection, claimed.instrument, claimed.key_hash):
            raise NotAllowed("instrument", "This instrument is not registered, or has another key.", "Ask a lead to register it.")
        return await device_store.paired(connection, code, claimed.instrument if claimed is not None else None, now, now + CODE_LASTS)

    try:
        found = await context.database.run(work, transaction=True)
    except NotAllowed:
        _guesses[address] = _guesses.get(address, 0) + 1
        raise
    if found is None or (await context.run(found.run)).state.outcome is not None:
        _guesses[address] = _guesses.get(address, 0) + 1
        raise NotOnFile("code", "No run waits for this code.", "Ask the run's screen for a new one.")
    return Pairing(found.run, Actor(found.person, found.device), Sender(claimed.instrument if claimed is not None else None))


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
    await recording.record(context, pairing.actor, pairing.run, report, pairing.sender)


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
    await recording.record(context, pairing.actor, pairing.run, report, pairing.sender)
    live(context, pairing.run, sent.torque_nm, sent.angle_deg)


async def _keep_curve(context: Context, sent: SentPull) -> str:
    """Keep a curve beside the ledger, under an id made from the pull's. Returns its digest, which goes into the entry."""
    content = json.dumps([[round(a, 2), round(t, 2)] for a, t in sent.curve], separators=(",", ":")).encode()
    attachment = Attachment(curve_id(sent.id), f"{sent.id}.json", "application/json", content)

    async def work(connection: AsyncConnection) -> None:
        await attachment_store.add(connection, attachment, context.now())

    await context.database.run(work)
    return attachment.digest
