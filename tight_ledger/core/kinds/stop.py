"""`stop`: a lead must decide. Loops that end without success have one implied."""

from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.kinds.step_kind import StepCells, StepKind
from tight_ledger.core.records.plans import Pull
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Stop


def _passes(_builder: PlanBuilder, step: Stop, context: StepContext) -> Built:
    return (Pull(id=step.id + context.suffix()),), {}


def _aloud(_spec: Spec, step: Stop) -> str:
    return f"stop: {step.say or 'a lead decides'}"


STOP = StepKind(
    name="stop", step=Stop, says="a lead decides", aloud=_aloud, says_it=True,
    cells=StepCells(for_fasteners=False), passes=_passes, takes_fasteners=lambda _step: False,
    ask=lambda _pass: "stop",
)  # fmt: skip
