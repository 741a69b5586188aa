"""What is shown of a run: what does not change, how it stands, and its entries in words."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.layouts import Layout
from tight_ledger.core.joints.proposals import why
from tight_ledger.core.kinds.guide import GuidePage, guide_page
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import Registry
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.meters import Meter
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.records.entries import PHYSICAL, TIGHTENING, Entry, Outcome, Started
from tight_ledger.core.records.facts import RunFacts
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.records.verdicts import LOOKED_AT, SETTLED_BY_A_LEAD, Verdict
from tight_ledger.core.runs.descriptions import FastenerNow, PassLine, entry_words, fasteners_now, pass_lines
from tight_ledger.core.runs.outcomes import reasons
from tight_ledger.core.runs.prompt import Prompt, prompt
from tight_ledger.core.runs.returning import Return, returning
from tight_ledger.core.runs.run import RunState
from tight_ledger.core.specs.spec import Hand, Source
from tight_ledger.core.tools.chains import adapter_words
from tight_ledger.core.tools.inventory import tool_words
from tight_ledger.core.tools.wrenches import Wrench


class InHand(Model):
    """A wrench as it is used in this run."""

    wrench: Wrench
    on_its_end: str
    meant_for: str
    """Empty if it is for everything."""
    overridden: str
    certificate: str
    """Of its last check before the run; empty if none is on file."""


class RunSheet(Model):
    """What does not change in a run."""

    run: UUID
    job: UUID | None
    """None as long as only a tablet knows the run."""
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
    guide: GuidePage
    """The page of the guide that helps at this joint."""
    sealed: bool
    """Whether machine, spec and papers are shown as they were sealed with the run; older runs show what the tables say."""


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
    done_at: datetime | None
    """When it was done, of what was entered from paper."""


class VerdictLine(Model):
    """One judgement, in words."""

    code: str
    words: str
    remedy: str
    answered: bool
    keeps_from_good: bool
    about: UUID | None
    """The entry that it judges."""


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
    in_pass: bool
    """Whether a pass of pulls is under way: a tablet that is left alone then does not lock."""
    last_device: UUID
    last_undoable: EntryLine | None
    one_or_two: tuple[EntryLine, ...]
    """Entries of which nobody has said yet whether they are a pull of their own."""
    returning: Return | None
    """What is asked of somebody who comes back to the run."""
    to_settle: tuple[VerdictLine, ...]
    """What the server said of an entry, about which a lead decides; `about` is the entry."""
    to_read: tuple[VerdictLine, ...]
    """Notices of what happened elsewhere, which somebody reads before it ends; `about` is the entry."""
    to_look_at: tuple[VerdictLine, ...]
    """Odd ends: somebody looks, and says what they found; `about` is the entry."""
    unproven: tuple[UUID, ...]
    """People who confirm with their PIN what was recorded under their names without it."""


NOBODY: Mapping[UUID, str] = {}


def now_of(started: Started, state: RunState, entries: Sequence[Entry], hand: Hand, kinds: Registry = KINDS) -> Now:
    """How a run stands.

    Args:
        started: the plan and the tooling in force.
        entries: the run's, by seq.
        hand: of the thread.
        kinds: the kinds of step that the plan can have.
    """
    plan = started.plan
    bad = {id(verdict) for verdict in state.unanswered()}
    last = next((entry for entry in reversed(entries) if entry.id in state.undoable), None)
    passes = pass_lines(plan, state, kinds)
    return Now(
        seq=state.seq,
        prompt=prompt(plan, state, hand, started.tooling, kinds),
        fasteners=fasteners_now(plan, state, kinds),
        passes=passes,
        verdicts=tuple(_line(verdict, bad) for verdict in state.verdicts),
        complete=state.complete,
        clean=state.clean,
        paused=state.paused,
        outcome=state.outcome,
        standing=state.standing,
        reasons=state.reasons or reasons(plan, state),
        signed_by=state.signed_by,
        pulled_something=any(entry.kind in TIGHTENING for entry in entries),
        in_pass=any(line.status == "current" and line.done > 0 and not line.task for line in passes),
        last_device=next((entry.device for entry in reversed(entries) if entry.kind in PHYSICAL), entries[0].device),
        last_undoable=entry_line(started, state, last) if last is not None else None,
        one_or_two=tuple(entry_line(started, state, entry) for entry in entries if entry.id in state.one_or_two),
        returning=returning(plan, state, entries, kinds),
        to_settle=tuple(_line(v, bad) for v in state.verdicts if v.code in SETTLED_BY_A_LEAD and not v.answered),
        to_read=tuple(_line(v, bad) for v in state.verdicts if v.code == "notice" and not v.answered),
        to_look_at=tuple(_line(v, bad) for v in state.verdicts if v.code in LOOKED_AT and not v.answered),
        unproven=state.unproven,
    )  # fmt: skip


def _line(verdict: Verdict, bad: set[int]) -> VerdictLine:
    return VerdictLine(
        code=verdict.code, words=verdict.words, remedy=verdict.remedy, answered=verdict.answered, keeps_from_good=id(verdict) in bad,
        about=verdict.entry,
    )  # fmt: skip


def entry_line(
    started: Started, state: RunState, entry: Entry, people: Mapping[UUID, str] = NOBODY, devices: Mapping[UUID, str] = NOBODY
) -> EntryLine:
    """An entry in words.

    Args:
        started: the plan in force.
        people: names by id.
        devices: names by id.
    """
    return EntryLine(
        id=entry.id,
        seq=entry.seq,
        kind=entry.kind,
        words=entry_words(started.plan, entry, clicked_at=state.clicked_at.get(entry.id)),
        by=people.get(entry.by, "somebody no longer named"),
        recorded_by=people.get(entry.recorded_by, "somebody no longer named"),
        device=devices.get(entry.device, "a device"),
        at=entry.at_server,
        counts=entry.id in state.live,
        files=entry.files or (),
        undoable=entry.id in state.undoable,
        in_conflict=entry.in_conflict,
        done_at=_done_at(entry),
    )


LATER_MS = 60_000
"""What waited this long on its tablet is shown with when it was done."""


def _done_at(entry: Entry) -> datetime | None:
    """When it was done, where it came later: from paper, or after a time without the server."""
    if not entry.is_timed:
        return entry.at_device
    return entry.done_at if (entry.waited_ms or 0) >= LATER_MS else None


def _in_hand(tooling: Tooling, facts: RunFacts) -> InHand:
    of = (tooling.of,) if isinstance(tooling.of, str) else tooling.of or ()
    meant_for = " · ".join(", ".join(part) for part in (of, tooling.steps or ()) if part)
    return InHand(
        wrench=tooling.wrench, on_its_end=adapter_words(tooling.adapters, tooling.factor, tooling.tilt_deg), meant_for=meant_for,
        overridden=tooling.overridden, certificate=facts.certificates.get(tooling.wrench.id, ""),
    )  # fmt: skip


def sheet_of(facts: RunFacts, started: Started, first: Entry, *, job: UUID | None) -> RunSheet:
    """What does not change in a run.

    Args:
        facts: as they were sealed with the run; of an older run, as the tables say.
        started: the tooling in force.
        first: the run's first entry.
    """
    return RunSheet(
        run=first.run,
        job=job,
        machine=facts.machine,
        position=started.position,
        position_words=started.position.words,
        spec=facts.spec,
        spec_revision=started.spec_revision,
        title=facts.title,
        procedure=facts.procedure,
        hand=facts.hand,
        layout=facts.layout,
        tools=tuple(_in_hand(tooling, facts) for tooling in started.tooling),
        why_this_order=why(facts.layout),
        supports=tuple(f"{support.name}, {tool_words(support)}" for support in started.supports),
        source=facts.source,
        condition=facts.condition,
        seat=facts.seat,
        guide=guide_page({pass_.kind for pass_ in started.plan.passes}),
        meters=started.meters,
        checked=facts.checked,
        proof_ask=facts.proof_ask,
        proof=started.proof,
        started_at=first.at_server,
        plan_digest=first.plan or "",
        sealed=started.facts is not None,
    )


def signatures_that_count(entries: Sequence[Entry]) -> set[UUID]:
    """Ids of the signatures under the last end of a run."""
    ended = max((entry.seq for entry in entries if entry.kind == "finished"), default=0)
    return {entry.id for entry in entries if entry.kind == "signed" and entry.seq > ended}
