"""Parts of a step as it is read aloud, shared by the kinds."""

from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.specs.steps import Condition, StepBase

OUTCOME_WORDS = {"ok": "in the band", "in_time": "in time", "still": "still", "by_eye": "done by eye"}


def fasteners_aloud(spec: Spec, step: StepBase) -> str:
    """The fasteners of a step: `all`, `no. 3`, `long and short`."""
    if step.of is None:
        return "all" if len(spec.layout.fasteners) > 1 else f"the {spec.layout.fasteners[0].kind}"
    names = (step.of,) if isinstance(step.of, str) else step.of
    labels = {fastener.label for fastener in spec.layout.fasteners}
    return " and ".join(f"no. {name}" if name in labels else name for name in names)


def again_aloud(condition: Condition) -> str:
    """When a block is done again: `if any turns`, `until play is in the band`."""
    if condition.one_of == {"still"}:
        return "if any turns"
    return f"until {condition.step} is {outcomes_aloud(condition)}"


def outcomes_aloud(condition: Condition) -> str:
    """The outcomes that satisfy a condition: `in the band or done by eye`."""
    return " or ".join(OUTCOME_WORDS.get(outcome, outcome.replace("_", " ")) for outcome in sorted(condition.one_of))
