"""The registry of the kinds of step: every kind is whole, and a new one needs its module, its shape and a line in the registry."""

from typing import Annotated, Any, Literal, get_args
from uuid import uuid4

from pydantic import Field

from tests.core.play import LONG, Run, wheel_spec
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.kinds.acts import Act
from tight_ledger.core.kinds.by_hand import amount_prompt, ask_if_done, pulls_for_each
from tight_ledger.core.kinds.judged import Judged, JudgedVerdict
from tight_ledger.core.kinds.registry import KINDS
from tight_ledger.core.kinds.step_kind import StepCells, StepKind
from tight_ledger.core.library.reading_aloud import read_aloud
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.planning.stages import Stages, stages_by_kind
from tight_ledger.core.records.entries import ANSWERING, Report
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.runs.accepting import require_acceptable
from tight_ledger.core.runs.descriptions import entry_words, pass_lines
from tight_ledger.core.runs.prompt import prompt
from tight_ledger.core.runs.returning import returning
from tight_ledger.core.runs.run import replay
from tight_ledger.core.spec_table.step_cells import STEP_COLUMNS, read_step, step_kinds, write_step
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import AnyStep, StepBase


def test_every_kind_of_the_union_is_in_the_registry_and_whole() -> None:
    union = {get_args(step.model_fields["kind"].annotation)[0]: step for step in get_args(AnyStep)}
    assert {name: kind.step for name, kind in KINDS.items()} == union
    for name, kind in KINDS.items():
        assert kind.name == name
        assert kind.says
        given = {part for part in ("passes", "answered_by", "judge") if getattr(kind, part) is not None}
        assert given == (set() if kind.is_block else {"passes"} if kind.only_a_lead else {"passes", "answered_by", "judge"})
        assert bool(kind.outcomes) == ("judge" in given)
        assert kind.answered_by is None or kind.answered_by in ANSWERING
        assert kind.is_block or kind.ask is not StepKind.ask or name == "stop" or kind.answered_by == "confirmed"
    assert [kind.name for kind in step_kinds()] == list(KINDS)
    assert all(set(kind.columns) <= set(STEP_COLUMNS) for kind in step_kinds())


class Stake(StepBase):
    """Stake the collar of a nut into its groove."""

    kind: Literal["stake"]
    blows: float = Field(gt=0)


STRUCK = Act(say="is staked", kind="turned")
STAKE = StepKind(
    name="stake", step=Stake, says="stake a collar into its groove", aloud=lambda _spec, step: f"stake it with {step.blows:g} blows",
    cells=StepCells(amount_field="blows"), outcomes=frozenset({"staked", "cracked"}),
    passes=lambda builder, step, context: pulls_for_each(builder, step, context, amount=step.blows),
    answered_by="turned",
    judge=lambda _fold, entry, _pass, _pull: Judged("cracked", verdicts=(JudgedVerdict("out_of_band", "the collar cracked"),))
    if entry.option == "cracked" else Judged("staked"),
    title=lambda _pass, _place, _of: "stake", is_stage=True, stage=lambda pass_, _pull, _figure: f"staked, {pass_.amount:g} blows",
    told=lambda entry, _pass, _pull, _figures: entry.option or "staked",
    ask=lambda _pass: "align", prompt=lambda pass_, _pull, _doing: amount_prompt(f"{pass_.amount:g} blows"),
    acts=lambda _pass, _pull, _doing: (STRUCK, Act(say="the collar cracked", kind="turned", option="cracked")),
    on_return=lambda _pass, _pull, _doing: ask_if_done(STRUCK),
)  # fmt: skip
WIDER = KINDS | {"stake": STAKE}
WiderStep = Annotated[AnyStep | Stake, Field(discriminator="kind")]


class WiderSpec(Spec):
    procedures: dict[str, tuple[WiderStep, ...]]  # type: ignore[assignment]


STEPS: tuple[dict[str, Any], ...] = ({"id": "t", "kind": "torque", "share": 1}, {"id": "k", "kind": "stake", "blows": 2})


def test_a_new_kind_is_compiled_judged_asked_told_and_written_by_its_module_alone() -> None:
    spec = WiderSpec.model_validate(wheel_spec(count=3).model_dump() | {"procedures": {"tighten": STEPS}})
    tooling = (Tooling(wrench=LONG),)
    plan = compile_plan(spec, "tighten", tooling, Policy(final_check=False), kinds=WIDER)
    run = Run(plan)
    for label in "132":
        run.click(f"t:{label}")
    state = replay(plan, run.entries, run.policy, WIDER)
    now = prompt(plan, state, "right", kinds=WIDER)
    assert (now.pull, now.stage, now.amount, now.acts[0]) == ("k:1", "stake", "2 blows", STRUCK)
    asked = returning(plan, state, run.entries, WIDER)
    assert asked is not None
    assert "nut 1, stake" in asked.ask.casefold()
    report = Report(id=uuid4(), kind="turned", by=run.person, at_device=run.entries[-1].at_device, pull="k:1", fastener="1")
    require_acceptable(plan, state, tooling, ("mechanic",), report, WIDER)

    run.add("turned", pull="k:1", fastener="1")
    run.add("turned", pull="k:3", fastener="3")
    cracked = run.add("turned", pull="k:2", fastener="2", option="cracked")
    ended = replay(plan, run.entries, run.policy, WIDER)
    assert ended.complete
    assert [(verdict.code, verdict.words) for verdict in ended.unanswered()] == [("out_of_band", "nut 2: the collar cracked")]
    assert entry_words(plan, cracked, WIDER) == "nut 2, stake: cracked"
    assert [line.words for line in pass_lines(plan, ended, WIDER)] == ["stage 1 of 1", "stake"]

    (kind,) = stages_by_kind(spec.layout, plan.passes, "middle", {}, WIDER)
    assert [stage.words for stage in kind.stages] == ["565–605 N·m", "staked, 2 blows"]
    step = spec.procedures["tighten"][1]
    assert [line.words for line in read_aloud(spec, (step,), Stages((), ()), WIDER)] == ["stake it with 2 blows"]
    row = write_step(step, WIDER)
    assert row == {"step": "k", "kind": "stake", "amount": "2"}
    assert read_step(row, {}, WIDER) == ({"id": "k", "kind": "stake", "blows": 2}, [])
    assert "stake" in {kind.name for kind in step_kinds(WIDER)}
