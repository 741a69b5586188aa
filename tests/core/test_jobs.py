"""Several joints of one machine in one sequence, by one tablet or by two."""

from datetime import timedelta
from uuid import UUID, uuid4

from hypothesis import given
from hypothesis import strategies as st

from tests.core.play import LONG, START, wheel_spec
from tests.examples import examples
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.entries import Entry, Started
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.runs.jobs import InJob, blocks_of, job_now
from tight_ledger.core.runs.prompt import prompt
from tight_ledger.core.runs.run import Run

TAM, WREN = UUID(int=11), UUID(int=12)
SEALANT = (
    {"id": "s1", "kind": "torque", "share": 0.5},
    {"id": "s2", "kind": "torque", "share": 1, "timing": {"after": "s1", "at_most_s": 600}},
    {"id": "down", "kind": "do", "say": "Lower it.", "whole_machine": True},
    {"id": "check", "kind": "check"},
)
WHEELS = (("front", "left"), ("front", "right"), ("rear", "left"), ("rear", "right"))


class Job:
    """Wheels of one machine, in the hands of two tablets."""

    def __init__(self, wheels=WHEELS, spec=None, at=START):
        self.at, self.runs = at, []
        specs = spec if isinstance(spec, tuple) else (spec or wheel_spec(4),) * len(wheels)
        for number, ((axle, side), spec) in enumerate(zip(wheels, specs, strict=True)):
            tooling = (Tooling(wrench=LONG),)
            started = Started(
                plan=compile_plan(spec, "tighten", tooling, Policy(final_check=False)), spec_revision=1, tooling=tooling, policy=Policy(),
                machine=UUID(int=4), position=Position(axle=axle, side=side), proof="4", engine="1",
            )  # fmt: skip
            self.runs.append((UUID(int=100 + number), started, Run(started.plan)))
            self.add(self.runs[-1], TAM, kind="started", started=started)

    def add(self, run, tablet, **fields):
        run_id, _, fold = run
        self.at += timedelta(seconds=6)
        of = {"run": run_id, "by": tablet, "recorded_by": tablet, "device": tablet, "at_device": self.at, "at_server": self.at}
        fold.add([Entry(id=uuid4(), seq=len(fold.entries) + 1, **of, **fields)])

    def now(self, tablet):
        return job_now([InJob(run_id, started, fold.state(), fold.entries) for run_id, started, fold in self.runs], tablet)

    def of(self, run_id):
        return next(run for run in self.runs if run[0] == run_id)

    def press(self, run_id, tablet):
        run = self.of(run_id)
        _, started, fold = run
        now = prompt(started.plan, fold.state(), "right")
        act = now.acts[0]
        said = {"kind": act.kind, "how": act.how, "moved": act.moved, "option": act.option}
        said |= {"setting": act.setting, "tools": (LONG.id,)} if act.kind == "set" else {"pull": now.pull, "fastener": now.fastener}
        self.add(run, tablet, **{name: value for name, value in said.items() if value is not None})
        return f"{started.position.words}, {now.stage}"

    def work(self, tablet):
        """One press where the job sends this tablet, or the task of the machine; where it was."""
        now = self.now(tablet)
        if now.task is not None:
            for each in now.task.runs:
                self.press(each.run, tablet)
            return now.task.step
        return self.press(now.next, tablet) if now.next is not None else None

    def all_of(self, *tablets):
        done = []
        while any(steps := [self.work(tablet) for tablet in tablets]):
            done += steps
        return [where for place, where in enumerate(done) if where is not None and (place == 0 or done[place - 1] != where)]


def test_stage_one_on_all_then_lowered_once_then_axle_by_axle():
    job = Job()
    went = [each for each in job.all_of(TAM) if not each.endswith(", ")]
    first = [f"{axle} {side}, stage 1 of 3" for axle, side in WHEELS]
    rest = [f"{axle} {side}, {stage}" for axle, side in WHEELS for stage in ("stage 2 of 3", "stage 3 of 3", "check 1 of at most 3")]
    assert went == [*first, "lower", *rest]
    assert [(line.words, len(line.where)) for line in job.now(TAM).sequence] == [
        ("stage 1 of 3", 4), ("Lower until the tyre just carries.", 4), ("stage 2 of 3 to the end", 2), ("stage 2 of 3 to the end", 2),
    ]  # fmt: skip
    assert all(line.done for line in job.now(TAM).sequence)


def test_a_wheel_that_is_up_to_the_step_waits_and_says_for_whom():
    job = Job(WHEELS[:2])
    while job.now(TAM).runs[0].stage != "Lower until the tyre just carries.":
        job.work(TAM)
    waits = job.now(TAM)
    assert (waits.task, waits.next) == (None, UUID(int=101))
    assert waits.runs[0].waits == "waits for front right"


def through(*steps):
    """A wheel that is worked through stages and what is done to the machine, each under a name of its own."""
    stages = [{"id": f"t{place}", "kind": "torque", "share": (place + 1) / (len(steps) + 1)} for place in range(len(steps) + 1)]
    done = [{"id": step, "kind": "do", "say": step, "whole_machine": True} | more for step, more in steps]
    return wheel_spec(3, steps=[each for pair in zip(stages, done, strict=False) for each in pair] + stages[-1:])


def tasks_of(*specs) -> list[str]:
    job = Job(WHEELS[: len(specs)], specs)
    names = {step for each in specs for step in (step.id for step in each.procedures["tighten"] if step.kind == "do")}
    tasks = [each for each in job.all_of(TAM) if each in names]
    assert all(state.complete for state in (fold.state() for _, _, fold in job.runs))
    return tasks


LOWER, WARM = {"operation": "lower"}, {"operation": "warm up"}


def test_what_is_done_to_the_machine_is_one_by_what_it_is_not_by_its_name():
    assert tasks_of(through(("lower", LOWER)), through(("down", LOWER))) == ["lower"]
    assert tasks_of(through(("a", LOWER)), through(("a", WARM))) == ["a", "a"]
    assert tasks_of(through(("own", {})), through(("own", {}))) == ["own"]
    assert tasks_of(through(("own", {})), through(("own", {"say": "Otherwise."}))) == ["own", "own"]
    lines = [line.words for line in Job(WHEELS[:2], (through(("a", LOWER)), through(("a", WARM | {"say": "Warm."})))).now(TAM).sequence]
    assert lines[1:3] == ["a", "Warm."]


@given(st.lists(st.permutations([("raise", {"operation": "raise"}), ("down", LOWER), ("warm", WARM)]), min_size=2, max_size=4))
@examples(40)
def test_whatever_comes_in_whatever_sequence_no_job_stands_still(orders):
    tasks = tasks_of(*(through(*order) for order in orders))
    assert {"raise", "down", "warm"} <= set(tasks)
    if len({tuple(step for step, _ in order) for order in orders}) == 1:
        assert len(tasks) == 3


def test_a_run_that_has_ended_is_not_waited_for():
    job = Job(WHEELS[:2])
    while job.now(TAM).runs[0].stage != "Lower until the tyre just carries.":
        job.work(TAM)
    job.add(job.runs[1], TAM, kind="finished", outcome="abandoned", reasons=("the jack is needed",))
    assert [each.run for each in job.now(TAM).task.runs] == [UUID(int=100)]


def test_two_tablets_are_sent_to_different_axles_and_stay_with_what_they_began():
    job = Job()
    for _ in range(3):
        job.work(TAM)
        job.work(WREN)
    now = job.now(WREN)
    assert [(each.position, each.device) for each in now.runs if each.device] == [("front left", TAM), ("rear left", WREN)]
    assert (job.now(TAM).next, now.next) == (UUID(int=100), UUID(int=102))


def test_who_stops_leaves_the_run_with_the_reason_and_the_other_may_take_it():
    job = Job(WHEELS[:2])
    for _ in range(5):
        job.work(TAM)
    job.add(job.runs[0], TAM, kind="handed_over", text="end of the shift; nut 3 creaks")
    left = job.now(WREN).runs[0]
    assert (left.device, left.left_by, left.why_left) == (None, TAM, "end of the shift; nut 3 creaks")
    assert job.now(WREN).next == UUID(int=100)


def test_nothing_is_interleaved_across_a_running_time_limit():
    spec = wheel_spec(4, steps=SEALANT)
    job = Job(WHEELS[:2], spec)
    blocks = [[job.runs[0][1].plan.passes[place].step for place in block.passes] for block in blocks_of(job.runs[0][1].plan)]
    assert blocks == [["s1", "s2"], ["down"], ["check"]]
    while job.now(TAM).runs[0].stage != "stage 2 of 2":
        job.work(TAM)
    assert (job.now(TAM).next, job.now(WREN).next) == (UUID(int=100), UUID(int=101))  # the limit runs where Tam is
    assert job.all_of(TAM)[:2] == ["front left, stage 2 of 2", "front right, stage 1 of 2"]


@examples(20)
@given(
    hands=st.lists(st.sampled_from([TAM, WREN]), min_size=100, max_size=100),
    wheels=st.lists(st.sampled_from([*WHEELS, ("", None)]), min_size=1, max_size=5, unique=True),
)
def test_whoever_presses_it_comes_to_its_end_and_nobody_is_sent_where_another_has_begun(hands, wheels):
    job = Job(wheels, wheel_spec(3))
    for tablet in hands:
        now, other = job.now(tablet), WREN if tablet == TAM else TAM
        held = {each.run for each in now.runs if each.device == other and 0 < each.done < each.of}
        assert now.next not in held
        job.work(tablet)
    job.all_of(TAM, WREN)
    assert all(each.finished and each.clean for each in job.now(TAM).runs)
