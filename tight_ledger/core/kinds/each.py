"""`each`: a block, done for one fastener, unit or group before the next."""

from tight_ledger.core.kinds.step_kind import StepKind
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Each


def _aloud(_spec: Spec, step: Each) -> str:
    over = " then ".join(step.over) if step.over else "each fastener"
    return f"{over}, one finished before the next:"


EACH = StepKind(
    name="each", step=Each, says="a block, for one fastener before the next", aloud=_aloud, is_block=True,
    takes_fasteners=lambda _step: False,
)  # fmt: skip
