"""A run as the screen and the job card see it."""

from datetime import datetime
from uuid import UUID
from zoneinfo import ZoneInfo

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.layouts import Layout
from tight_ledger.core.joints.proposals import why
from tight_ledger.core.library.sheet import CAUTION
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.records.entries import PHYSICAL, TIGHTENING, Entry, Outcome
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.records.seals import broken_at
from tight_ledger.core.runs.descriptions import FastenerNow, PassLine, entry_words, fasteners_now, pass_lines
from tight_ledger.core.runs.outcomes import reasons
from tight_ledger.core.runs.prompt import Prompt, prompt
from tight_ledger.core.runs.returning import Return, returning
from tight_ledger.core.specs.spec import Hand, Source
from tight_ledger.core.tools.chains import adapter_words
from tight_ledger.core.tools.inventory import tool_words
from tight_ledger.core.tools.wrenches import Wrench
from tight_ledger.services.context import Context, Remembered
from tight_ledger.services.specs.search import checked_by
from tight_ledger.store import ledger
from tight_ledger.store import machines as machine_store
from tight_ledger.store import people as people_store
from tight_ledger.store import specs as spec_store


class InHand(Model):
    """A wrench as it is used in this run."""

    wrench: Wrench
    on_its_end: str
    meant_for: str
    """Empty if it is for everything."""
    overridden: str


class RunSheet(Model):
    """What does not change in a run."""

    run: UUID
    job: UUID
    machine: Machine
    position: Position
    position_words: str
    spec: UUID
    spec_revision: int
    title: str
    procedure: str
    hand: Hand
    layout: Layout
    tools: tuple[InHand, ...]
    supports: tuple[str, ...]
    why_this_order: str
    source: Source
    condition: str
    seat: str
    meters: tuple[Meter, ...]
    checked: bool
    proof_ask: str
    proof: str
    started_at: datetime
    plan_digest: str


class EntryLine(Model):
    """One entry, in words."""

    id: UUID
    seq: int
    kind: str
    words: str
    by: str
    recorded_by: str
    device: str
    at: datetime
    counts: bool
    files: tuple[str, ...]
    """Photos and papers, by id."""
    undoable: bool
    in_conflict: bool


class VerdictLine(Model):
    """One judgement, in words."""

    code: str
    words: str
    remedy: str
    answered: bool
    keeps_from_good: bool


class Now(Model):
    """A run as it stands."""

    seq: int
    prompt: Prompt
    fasteners: tuple[FastenerNow, ...]
    passes: tuple[PassLine, ...]
    verdicts: tuple[VerdictLine, ...]
    complete: bool
    clean: bool
    paused: bool
    outcome: Outcome | None
    standing: Outcome | None
    reasons: tuple[str, ...]
    signed_by: tuple[UUID, ...]
    pulled_something: bool
    last_device: UUID
    last_undoable: EntryLine | None
    one_or_two: tuple[EntryLine, ...]
    """Entries of which nobody has said yet whether they are a pull of their own."""
    returning: Return | None
    """What is asked of somebody who comes back to the run."""


class Card(Model):
    """The job card: the run, every entry, and whether its seals hold."""

    shop: str
    time_zone: str
    sheet: RunSheet
    now: Now
    entries: tuple[EntryLine, ...]
    signatures: tuple[str, ...]
    seals_hold: bool
    last_seal: str
    caution: str = CAUTION


def now_of(run: Remembered, hand: Hand) -> Now:
    """The changing part of the view. Pure: the caller has read what is new."""
    plan, state = run.started.plan, run.state
    bad = {id(v) for v in state.unanswered()}
    last = next((e for e in reversed(run.entries) if e.id in state.undoable), None)
    return Now(
        seq=state.seq,
        prompt=prompt(plan, state, hand, run.started.tooling),
        fasteners=fasteners_now(plan, state),
        passes=pass_lines(plan, state),
        verdicts=tuple(
            VerdictLine(code=v.code, words=v.words, remedy=v.remedy, answered=v.answered, keeps_from_good=id(v) in bad)
            for v in state.verdicts
        ),
        complete=state.complete,
        clean=state.clean,
        paused=state.paused,
        outcome=state.outcome,
        standing=state.standing,
        reasons=state.reasons or reasons(plan, state),
        signed_by=state.signed_by,
        pulled_something=any(e.kind in TIGHTENING for e in run.entries),
        last_device=next((e.device for e in reversed(run.entries) if e.kind in PHYSICAL), run.entries[0].device),
        last_undoable=_line(run, last, {}, {}) if last is not None else None,
        one_or_two=tuple(_line(run, entry, {}, {}) for entry in run.entries if entry.id in state.one_or_two),
        returning=returning(plan, state, run.entries),
    )


def _line(run: Remembered, entry: Entry, names: dict[UUID, str], devices: dict[UUID, str]) -> EntryLine:
    return EntryLine(
        id=entry.id,
        seq=entry.seq,
        kind=entry.kind,
        words=entry_words(run.started.plan, entry),
        by=names.get(entry.by, "somebody no longer named"),
        recorded_by=names.get(entry.recorded_by, "somebody no longer named"),
        device=devices.get(entry.device, "a device"),
        at=entry.at_server,
        counts=entry.id in run.state.live,
        files=entry.files or (),
        undoable=entry.id in run.state.undoable,
        in_conflict=entry.in_conflict,
    )


async def hand_of(context: Context, run: Remembered) -> Hand:
    """The thread hand at the run's position."""
    row = run.row
    if run.hand is None:
        spec = await context.database.run(lambda c: spec_store.find(c, row.spec_id, row.spec_revision))
        run.hand = spec.hand_at(run.started.position)
    return run.hand


async def now(context: Context, run_id: UUID, *, fresh: bool = True) -> Now:
    """A run as it stands; `fresh` looks for what other devices recorded.

    Raises:
        NotOnFile: no run has this id.
    """
    run = context.remembered.get(run_id)
    if run is None or fresh:
        run = await context.run(run_id)
    return now_of(run, await hand_of(context, run))


def _in_hand(tooling: Tooling) -> InHand:
    of = (tooling.of,) if isinstance(tooling.of, str) else tooling.of or ()
    meant_for = " · ".join(", ".join(part) for part in (of, tooling.steps or ()) if part)
    return InHand(
        wrench=tooling.wrench, on_its_end=adapter_words(tooling.adapters, tooling.factor, tooling.tilt_deg), meant_for=meant_for,
        overridden=tooling.overridden,
    )  # fmt: skip


async def _sheet(connection: AsyncConnection, run: Remembered) -> RunSheet:
    spec = await spec_store.find(connection, run.row.spec_id, run.row.spec_revision)
    first = run.entries[0]
    return RunSheet(
        run=run.row.id,
        job=run.row.job_id,
        machine=await machine_store.find(connection, run.row.machine_id),
        position=run.started.position,
        position_words=run.started.position.words,
        spec=spec.id,
        spec_revision=spec.revision,
        title=spec.title,
        procedure=run.row.procedure,
        hand=spec.hand_at(run.started.position),
        layout=spec.layout,
        tools=tuple(_in_hand(tooling) for tooling in run.started.tooling),
        why_this_order=why(spec.layout),
        supports=tuple(f"{one.name}, {tool_words(one)}" for one in run.started.supports),
        source=spec.source,
        condition=spec.condition,
        seat=spec.seat,
        meters=run.started.meters,
        checked=await checked_by(connection, spec, first.at_server),
        proof_ask=spec.proof.ask,
        proof=run.started.proof,
        started_at=first.at_server,
        plan_digest=first.plan or "",
    )


async def sheet(context: Context, run_id: UUID) -> RunSheet:
    """What does not change in a run.

    Raises:
        NotOnFile: no run has this id.
    """
    run = await context.run(run_id)
    return await context.database.run(lambda connection: _sheet(connection, run))


async def lines(context: Context, run_id: UUID) -> tuple[EntryLine, ...]:
    """Every entry of a run, in words, by seq."""
    run = await context.run(run_id)

    async def names(connection: AsyncConnection) -> tuple[dict[UUID, str], dict[UUID, str]]:
        return {p.id: p.name for p in await people_store.everybody(connection)}, await people_store.device_names(connection)

    who, where = await context.database.run(names)
    return tuple(_line(run, entry, who, where) for entry in run.entries)


async def card(context: Context, run_id: UUID) -> Card:
    """The job card.

    Raises:
        NotOnFile: no run has this id.
    """
    shop, run = await context.shop(), await context.run(run_id)
    chain = await context.database.run(lambda connection: ledger.read(connection, run_id))
    every = await lines(context, run_id)
    signed = [line for line in every if line.kind == "signed" and line.counts]
    return Card(
        shop=shop.name,
        time_zone=shop.time_zone,
        sheet=await sheet(context, run_id),
        now=await now(context, run_id),
        entries=every,
        signatures=tuple(
            f"{line.by}, {line.at.astimezone(ZoneInfo(shop.time_zone)):%d %b %Y %H:%M}" for line in signed if _stands(run, line.id)
        ),
        seals_hold=broken_at(chain) is None,
        last_seal=chain[-1][2].hex(),
    )


def _stands(run: Remembered, entry_id: UUID) -> bool:
    """Whether a signature is under the last end of the run."""
    ended = max((e.seq for e in run.entries if e.kind == "finished"), default=0)
    return any(e.id == entry_id and e.seq > ended for e in run.entries)
