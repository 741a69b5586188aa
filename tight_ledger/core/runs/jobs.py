"""A job: the runs of one machine that are worked on together, in one sequence. Pure: server and tablet use it.

Where the procedures bring the machine into another state on the way, as a wheel's does when it is lowered, all joints are
brought up to that point stage by stage, the machine is brought there once, and then each joint is finished, axle by axle.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from uuid import UUID

from tight_ledger.core.base.display import Shown
from tight_ledger.core.base.models import Model
from tight_ledger.core.joints.names import name_of
from tight_ledger.core.kinds.acts import Act
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.records.entries import PHYSICAL, Entry, Outcome, Started
from tight_ledger.core.records.plans import Pass, Plan
from tight_ledger.core.runs.outcomes import reasons
from tight_ledger.core.runs.prompt import current_pull, prompt, stage_words
from tight_ledger.core.runs.run import RunState
from tight_ledger.core.specs.spec import Hand

LEAVING: frozenset[str] = frozenset({"paused", "handed_over"})


@dataclass(frozen=True, slots=True)
class Block:
    """What is done at a joint in one go: a stage with the tasks before it, something done to the machine, or all of the rest."""

    passes: tuple[int, ...]
    """Places in the plan."""
    machine: str = ""
    """What is done to the machine; empty for work at the joint."""
    segment: int = 0
    """How many such steps come before it."""
    last: bool = False
    """Whether nothing is done to the machine after it."""


def blocks_of(plan: Plan) -> tuple[Block, ...]:
    """The blocks of a plan. A block never ends within a time limit: from a pass that starts a limit on, all up to its end are one."""
    steps = [place for place, pass_ in enumerate(plan.passes) if pass_.whole_machine]
    bound = _time_limits(plan.passes)
    found: list[Block] = []
    gathered: list[int] = []

    def close(*, last: bool = False) -> None:
        if gathered:
            segment = sum(step < gathered[0] for step in steps)
            found.append(Block(passes=tuple(gathered), segment=segment, last=last))
            gathered.clear()

    for place, pass_ in enumerate(plan.passes):
        if pass_.whole_machine and place not in bound:
            close()
            found.append(Block(passes=(place,), machine=pass_.on_machine, segment=sum(step < place for step in steps)))
            continue
        gathered.append(place)
        is_stage = any(pull.fastener is not None for pull in pass_.pulls)
        if is_stage and place not in bound and any(step > place for step in steps):
            close()
    close(last=True)
    return tuple(found)


def _time_limits(passes: Sequence[Pass]) -> frozenset[int]:
    """The passes after which the next one belongs to the same block: those between the start of a time limit and its end."""
    by_id = {pass_.id: place for place, pass_ in enumerate(passes)}
    bound: set[int] = set()
    for place, pass_ in enumerate(passes):
        if pass_.at_most_s is not None:
            first = min((by_id[each] for rounds in pass_.after for each in rounds), default=place)
            bound.update(range(first, place))
    return frozenset(bound)


@dataclass(frozen=True)
class InJob:
    """A run of a job, as it stands."""

    run: UUID
    started: Started
    state: RunState
    entries: Sequence[Entry]
    hand: Hand = "right"

    @cached_property
    def blocks(self) -> tuple[Block, ...]:
        """What is done at it in one go."""
        return blocks_of(self.started.plan)

    @cached_property
    def at(self) -> Block | None:
        """The block that comes now; None at the end."""
        found = current_pull(self.started.plan, self.state)
        if found is None:
            return None
        place = self.started.plan.passes.index(found[0])
        return next(block for block in self.blocks if place in block.passes)

    @property
    def is_open(self) -> bool:
        """Whether it has not ended."""
        return self.state.standing is None

    @property
    def axle(self) -> str:
        """Of its position; empty for a joint of the whole machine."""
        return self.started.position.axle

    def comes_to(self, machine: str) -> bool:
        """Whether something that is done to the machine is still ahead of it."""
        status = {pass_.id: pass_.status for pass_ in self.state.passes}
        passes = self.started.plan.passes
        ahead = (pass_ for pass_ in passes if pass_.whole_machine and pass_.on_machine == machine)
        return any(status[pass_.id] in ("ahead", "maybe") for pass_ in ahead)

    @cached_property
    def is_begun(self) -> bool:
        """Whether a part of the block that comes now is done."""
        if self.at is None:
            return False
        pulls = {pull.id for place in self.at.passes for pull in self.started.plan.passes[place].pulls}
        return any(each.id in pulls and each.status != "open" and each.outcome is not None for each in self.state.pulls)

    @cached_property
    def last(self) -> Entry | None:
        """The newest entry that says what somebody did at it."""
        return next((entry for entry in reversed(self.entries) if entry.kind in PHYSICAL | LEAVING), None)

    @property
    def is_timed(self) -> bool:
        """Whether a time limit runs."""
        return self.state.doing.limit is not None


class JobRun(Model):
    """A run of a job, as the list shows it."""

    run: UUID
    seq: int
    position_key: str
    position: str
    joint: str
    title: str
    standing: Outcome | None
    paused: bool
    finished: bool
    """Whether nothing is left to do in it but to end it."""
    touched: bool
    clean: bool
    stage: str
    figure: Shown | None
    fastener: str
    done: int
    of: int
    """How many pulls of the pass are done, and of how many."""
    waits: str
    """For what it waits; empty if it can go on."""
    leads_on: bool
    """Whether this tablet does nothing more at this joint now: it waits, or is done for now, or the whole machine comes next."""
    by: UUID | None
    device: UUID | None
    """Who works on this joint now, with their tablet; None if nobody does."""
    left_by: UUID | None
    left_at: datetime | None
    why_left: str
    again: tuple[str, ...]
    """What is wrong with it, and what must be done again."""


class TaskOf(Model):
    """The pull of one run that a task of the machine answers."""

    run: UUID
    pull: str
    seq: int


class MachineTask(Model):
    """Something that is done to the machine, once, and recorded in every run that waits for it."""

    step: str
    say: str
    act: Act
    runs: tuple[TaskOf, ...]
    where: tuple[str, ...]


class JobStage(Model):
    """A line of the job's sequence."""

    words: str
    where: tuple[str, ...]
    done: bool
    now: bool


class JobNow(Model):
    """A job as it stands."""

    runs: tuple[JobRun, ...]
    task: MachineTask | None
    next: UUID | None
    """The run where the tablet that asks is of most use now."""
    sequence: tuple[JobStage, ...]


def job_now(runs: Sequence[InJob], device: UUID) -> JobNow:
    """A job as it stands, for a tablet.

    Args:
        runs: in the sequence in which they were started.
        device: of the tablet that asks; every tablet is offered another run.
    """
    here = _present(runs)
    at, chosen = here.get(device), _offers(runs, here, device).get(device)
    task = _machine_task(runs)
    together = {each.run for each in task.runs} if task is not None else set[UUID]()
    if at is not None and not at.is_begun and chosen != at.run:
        together.add(at.run)
    return JobNow(
        runs=tuple(_line(each, runs, here, leads_on=each.run in together) for each in runs),
        task=task,
        next=chosen,
        sequence=_sequence(runs),
    )


def _present(runs: Sequence[InJob]) -> dict[UUID, InJob]:
    """By tablet, the run that it was used at last, unless that was left or is over."""
    newest: dict[UUID, tuple[datetime, int, InJob]] = {}
    for each in runs:
        for entry in each.entries:
            if entry.kind in PHYSICAL | LEAVING:
                known = newest.get(entry.device)
                if known is None or (entry.at_server, entry.seq) > known[:2]:
                    newest[entry.device] = entry.at_server, entry.seq, each
    found = {device: each for device, (_, _, each) in newest.items()}
    return {
        device: each
        for device, each in found.items()
        if each.is_open and not each.state.paused and each.last is not None and each.last.device == device and each.last.kind not in LEAVING
    }


def _waits(each: InJob, runs: Sequence[InJob]) -> bool:
    """Whether it stands at a step of the machine that others have yet to come to."""
    at = each.at
    return at is not None and bool(at.machine) and any(other.is_open and other.comes_to(at.machine) for other in runs)


def _machine_task(runs: Sequence[InJob]) -> MachineTask | None:
    """What is to be done to the machine now; where each joint waits for what comes later at another, the first one's."""
    going = [each for each in runs if each.is_open and each.at is not None]
    stand = [each for each in going if each.at is not None and each.at.machine]
    ready = [each for each in stand if not _waits(each, runs)] or (stand if len(stand) == len(going) else [])
    if not ready or ready[0].at is None:
        return None
    first, done = ready[0], ready[0].at
    together = [each for each in stand if each.at is not None and each.at.machine == done.machine]
    shown = prompt(first.started.plan, first.state, first.hand)
    return MachineTask(
        step=first.started.plan.passes[done.passes[0]].step, say=shown.say, act=shown.acts[0],
        where=tuple(each.started.position.words for each in together),
        runs=tuple(TaskOf(run=each.run, pull=each.state.next[0], seq=each.state.seq) for each in together),
    )  # fmt: skip


def _rank(each: InJob, runs: Sequence[InJob]) -> tuple[int, int, int, int, int]:
    """What comes first: a running time limit, what is begun, stages that stand before a step of the machine, then axle by axle."""
    at = each.at
    axles = list(dict.fromkeys(other.axle for other in runs))
    place, axle = runs.index(each), axles.index(each.axle)
    if at is None:
        return (3, 0, 0, axle, place)
    urgent = 0 if each.is_timed else 1 if each.is_begun else 2
    return (urgent, 1, 0, axle, place) if at.last else (urgent, 0, each.blocks.index(at), axle, place)


def _offers(runs: Sequence[InJob], here: dict[UUID, InJob], device: UUID) -> dict[UUID, UUID]:
    """By tablet, the run where it is of most use: another one for each, at another axle than the others where that can be.

    A tablet stays where a stage is begun. The tablets are asked in the sequence of their first entries, so that all of them
    come to the same answer; nobody is sent away from a run that another tablet was only offered, if there is no other.
    """
    free = [each for each in runs if each.is_open and each.at is not None and not each.at.machine]
    given: dict[UUID, UUID] = {}
    offered: list[InJob] = []
    for tablet in dict.fromkeys((*_at_work(runs), device)):
        at = here.get(tablet)
        held = [each for other, each in here.items() if other != tablet and each.is_begun]
        able = [each for each in free if all(each is not other for other in held)]
        stays = at if at is not None and any(at is each for each in able) and (at.is_begun or at.is_timed) else None
        chosen = stays or min(able, key=lambda each: _use(each, runs, offered, held), default=None)
        if chosen is not None:
            given[tablet] = chosen.run
            offered.append(chosen)
    return given


def _at_work(runs: Sequence[InJob]) -> list[UUID]:
    """The tablets that are used in the job and were not left, by their first entries."""
    first: dict[UUID, Entry] = {}
    newest: dict[UUID, Entry] = {}
    for entry in sorted((entry for each in runs for entry in each.entries), key=lambda entry: (entry.at_server, entry.seq)):
        first.setdefault(entry.device, entry)
        newest[entry.device] = entry
    return [device for device in first if newest[device].kind not in LEAVING]


def _use(each: InJob, runs: Sequence[InJob], offered: Sequence[InJob], held: Sequence[InJob]) -> tuple[int, ...]:
    """A sort key; the smallest is offered.

    First come runs that no other tablet was offered and that are not paused, then those of the lowest rank, then those at
    another axle than the other tablets.
    """
    rank = _rank(each, runs)
    is_offered = any(each is other for other in offered)
    is_near = each.axle in {other.axle for other in (*offered, *held)}
    return (is_offered, each.state.paused, *rank[:3], is_near, *rank[3:])


def _line(each: InJob, runs: Sequence[InJob], here: dict[UUID, InJob], *, leads_on: bool) -> JobRun:
    plan, state, started = each.started.plan, each.state, each.started
    found = current_pull(plan, state)
    shown = prompt(plan, state, each.hand)
    standing = {pass_.id: pass_ for pass_ in state.passes}
    at = standing[found[0].id] if found is not None else None
    who = next((device for device, run in here.items() if run is each), None)
    last = each.last
    facts = started.facts
    left = last if last is not None and who is None and state.standing is None else None
    return JobRun(
        run=each.run, seq=state.seq, position_key=started.position.key, position=started.position.words, standing=state.standing,
        joint=facts.joint if facts is not None else "", title=facts.title if facts is not None else "",
        paused=state.paused, finished=found is None, touched=bool(state.touched), clean=state.clean,
        stage=(stage_words(plan)[found[0].id] or shown.say) if found is not None else "", figure=shown.figure,
        fastener=name_of(plan.nouns, shown.fastener) if shown.fastener is not None else "",
        done=at.done if at is not None else 0, of=at.total if at is not None else 0,
        waits=_waiting_words(each, runs) if _waits(each, runs) else "",
        leads_on=len(runs) > 1 and each.is_open and (leads_on or _waits(each, runs)),
        device=who, by=last.by if who is not None and last is not None else None,
        left_by=left.by if left is not None else None, left_at=left.at_server if left is not None else None,
        why_left=(left.text or "") if left is not None and left.kind in LEAVING else "",
        again=_again(plan, state),
    )  # fmt: skip


def _waiting_words(each: InJob, runs: Sequence[InJob]) -> str:
    done = each.at.machine if each.at is not None else ""
    behind = [other.started.position.words for other in runs if other.is_open and other.comes_to(done)]
    return f"waits for {', '.join(behind)}"


def _again(plan: Plan, state: RunState) -> tuple[str, ...]:
    """What is wrong, and what to do about it, each thing once; of a run that has ended, why it did so."""
    if state.standing is not None:
        return state.reasons or (reasons(plan, state) if state.standing != "good" else ())
    said = (f"{verdict.words}. {verdict.remedy}" for verdict in state.unanswered())
    return tuple(dict.fromkeys(said))


def _sequence(runs: Sequence[InJob]) -> tuple[JobStage, ...]:
    """What is done one after the other, over all joints: each line a stage or a step of the machine, with where."""
    lines: dict[tuple[object, ...], list[tuple[InJob, Block]]] = {}
    for each in sorted(runs, key=lambda run: _axle_place(run, runs)):
        for number, block in enumerate(each.blocks):
            key: tuple[object, ...] = (
                (1, _axle_place(each, runs)[0]) if block.last else (0, block.segment, bool(block.machine), number, block.machine)
            )
            lines.setdefault(key, []).append((each, block))
    return tuple(_stage_line(lines[key]) for key in sorted(lines))


def _axle_place(each: InJob, runs: Sequence[InJob]) -> tuple[int, int]:
    axles = list(dict.fromkeys(other.axle for other in runs))
    return axles.index(each.axle), runs.index(each)


def _stage_line(together: Sequence[tuple[InJob, Block]]) -> JobStage:
    each, block = together[0]
    words = stage_words(each.started.plan)
    passes = [each.started.plan.passes[place] for place in block.passes]
    named = [words[pass_.id] or pass_.say for pass_ in passes if words[pass_.id] or pass_.whole_machine]
    said = named[0] if len(named) == 1 else f"{named[0]} to the end" if named else KINDS[passes[0].kind].says
    return JobStage(
        words=said, where=tuple(run.started.position.words for run, _ in together),
        done=all(_is_past(run, its) for run, its in together), now=any(run.is_open and run.at == its for run, its in together),
    )  # fmt: skip


def _is_past(each: InJob, block: Block) -> bool:
    status = {pass_.id: pass_.status for pass_ in each.state.passes}
    passes = each.started.plan.passes
    return not each.is_open or all(status[passes[place].id] in ("done", "skipped", "maybe") for place in block.passes)
