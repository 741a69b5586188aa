"""A run as the screen and the job card show it: read here, put into words by the core."""

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.settings import Dates
from tight_ledger.core.kinds.acts import Advised
from tight_ledger.core.library.sheet import CAUTION
from tight_ledger.core.records.facts import RunFacts, facts_of
from tight_ledger.core.records.seals import broken_at
from tight_ledger.core.runs.card_table import CardTable, card_table
from tight_ledger.core.runs.paper import PaperRun, paper_of
from tight_ledger.core.runs.view import EntryLine, Now, RunSheet, entry_line, now_of, sheet_of, signatures_that_count
from tight_ledger.core.specs.spec import Hand
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.dates import moment_words
from tight_ledger.services.people import names_shown
from tight_ledger.services.specs.search import checked_by
from tight_ledger.store import log as log_store
from tight_ledger.store import machines as machine_store
from tight_ledger.store import people as people_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import specs as spec_store


class CheckpointLine(Model):
    """A checkpoint as a card shows it."""

    at: datetime
    size: int
    code: str
    """To be compared by eye."""
    note: str
    """The whole checkpoint, for the code that is scanned."""
    covers: int
    """The number of the run's last entry that the log covers."""


class Card(Model):
    """The job card: the run, every entry, and whether its seals hold."""

    shop: str
    time_zone: str
    dates: Dates
    sheet: RunSheet
    now: Now
    entries: tuple[EntryLine, ...]
    table: CardTable
    """A line a fastener, stages across."""
    adjustments: tuple[Advised, ...] = ()
    """Every adjustment with its tries, for a plot."""
    signatures: tuple[str, ...]
    seals_hold: bool
    last_seal: str
    checkpoint: CheckpointLine | None
    """The checkpoint that covers it; None as long as none does."""
    caution: str = CAUTION


class Stream(Model):
    """A run's entries as they were sealed, whatever version wrote them, and the hand of its threads."""

    hand: Hand
    epoch: int
    """One more with each restore: what a tablet knows from an earlier one is read anew."""
    entries: tuple[dict[str, Any], ...]


async def hand_of(context: Context, run: Remembered) -> Hand:
    """The thread hand at the run's position."""
    if run.hand is None:
        run.hand = (await context.database.run(lambda connection: _facts(connection, run))).hand
    return run.hand


async def _facts(connection: AsyncConnection, run: Remembered) -> RunFacts:
    """As they were sealed with the run; of a run from before that, as the tables say."""
    if run.started.facts is not None:
        return run.started.facts
    spec = await spec_store.find(connection, run.row.spec_id, run.row.spec_revision)
    machine = await machine_store.find(connection, run.row.machine_id)
    checked = await checked_by(connection, spec, run.entries[0].at_server)
    return facts_of(spec, machine, run.started.position, run.row.procedure, checked=checked)


async def now(context: Context, run_id: UUID, *, fresh: bool = True) -> Now:
    """A run as it stands; `fresh` looks for what other devices recorded.

    Raises:
        NotOnFile: no run has this id.
    """
    run = context.remembered.get(run_id)
    if run is None or fresh:
        run = await context.run(run_id)
    return now_of(run.started, run.state, run.entries, await hand_of(context, run))


async def stream(context: Context, run_id: UUID, after: int) -> bytes:
    """What a tablet needs to hold a run, as JSON: the entries after a number, as they were sealed, and the hand of the threads; and
    the epoch, in which alone a number stands for an entry.

    Raises:
        NotOnFile: no run has this id.
    """
    run = await context.run(run_id)
    hand = await hand_of(context, run)
    bodies = await context.database.run(lambda connection: run_store.bodies(connection, run_id, after))
    entries = b",".join(bytes(body) for body in bodies)
    return b'{"hand":"%s","epoch":%d,"entries":[%s]}' % (hand.encode(), await context.epoch(), entries)


async def paper(context: Context, run_id: UUID) -> PaperRun:
    """A run as it stands, to be printed.

    Raises:
        NotOnFile: no run has this id.
    """
    run = await context.run(run_id)
    return paper_of(run.started, run.state)


async def sheet(context: Context, run_id: UUID) -> RunSheet:
    """What does not change in a run.

    Raises:
        NotOnFile: no run has this id.
    """
    return await _sheet(context, await context.run(run_id))


async def _sheet(context: Context, run: Remembered) -> RunSheet:
    facts = await context.database.run(lambda connection: _facts(connection, run))
    return sheet_of(facts, run.started, run.entries[0], job=run.row.job_id)


async def lines(context: Context, run_id: UUID) -> tuple[EntryLine, ...]:
    """Every entry of a run, in words, by seq."""
    return await _lines(context, await context.run(run_id))


async def _lines(context: Context, run: Remembered) -> tuple[EntryLine, ...]:
    async def names(connection: AsyncConnection) -> tuple[dict[UUID, str], dict[UUID, str]]:
        return await names_shown(connection), await people_store.device_names(connection)

    people, devices = await context.database.run(names)
    return tuple(entry_line(run.started, run.state, entry, people, devices) for entry in run.entries)


async def _checkpoint(connection: AsyncConnection, run_id: UUID) -> CheckpointLine | None:
    """The newest checkpoint, if the log covers the run."""
    covered, signed = await log_store.covering(connection, run_id), await log_store.latest(connection)
    if covered is None or signed is None:
        return None
    point = signed.checkpoint
    return CheckpointLine(at=point.time, size=point.size, code=point.code, note=signed.note, covers=covered.head.seq)


async def card(context: Context, run_id: UUID) -> Card:
    """The job card: everything on it as the ledger has it now, not as it is remembered.

    Raises:
        NotOnFile: no run has this id.
        Unreadable: its record is gone, or cannot be read.
    """
    shop = await context.shop()
    run, chain = await context.database.run(lambda connection: context.sealed(connection, run_id))
    every, people = await _lines(context, run), await context.database.run(names_shown)
    signed = signatures_that_count(run.entries)
    return Card(
        shop=shop.name,
        time_zone=shop.time_zone,
        dates=shop.dates,
        sheet=await _sheet(context, run),
        now=now_of(run.started, run.state, run.entries, await hand_of(context, run)),
        entries=every,
        table=card_table(run.started.plan, run.state, run.entries, people),
        adjustments=run.adjustments,
        signatures=tuple(f"{line.by}, {moment_words(shop, line.at)}" for line in every if line.id in signed and line.counts),
        seals_hold=broken_at(chain) is None,
        last_seal=chain[-1][2].hex(),
        checkpoint=await context.database.run(lambda connection: _checkpoint(connection, run_id)),
    )
