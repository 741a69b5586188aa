"""`repeat`: a block, a number of times, or until a condition holds; then, if it does not, an implied stop."""

from tight_ledger.core.kinds.reading_aloud import again_aloud
from tight_ledger.core.kinds.step_kind import StepCells, StepKind
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Repeat


def _aloud(_spec: Spec, step: Repeat) -> str:
    if step.until is None:
        return f"{step.times} times:"
    return f"again {again_aloud(step.until)}, at most {step.times} times:"


REPEAT = StepKind(
    name="repeat", step=Repeat, says="a block, several times or until something holds", aloud=_aloud,
    cells=StepCells(amount_field="times", for_fasteners=False),
    is_block=True, takes_fasteners=lambda _step: False,
)  # fmt: skip
