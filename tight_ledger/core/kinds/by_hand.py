"""What the kinds that are done by hand share: how far, in words."""

from typing import Any

from tight_ledger.core.kinds.acts import Act, done_meanwhile, resumed
from tight_ledger.core.kinds.plan_builder import Built, PlanBuilder, StepContext
from tight_ledger.core.records.plans import Pass, Pull
from tight_ledger.core.specs.steps import Step


def pulls_for_each(builder: PlanBuilder, step: Step, context: StepContext, **fields: Any) -> Built:
    """A pull for each fastener, without a figure; `fields` are the pass's."""
    return tuple(Pull(**common) for _, common in builder.pull_fields(step, context)), fields


def amount_words(pass_: Pass) -> str:
    """How far: `2 turns`, `1 lock position`, `35°`; empty without an amount."""
    figure = "" if pass_.amount is None else f"{pass_.amount:g}"
    plural = "" if figure == "1" else "s"
    return {"turns": f"{figure} turn{plural}", "deg": f"{figure}°", "positions": f"{figure} lock position{plural}"}.get(pass_.unit, "")


def ask_if_done(act: Act) -> tuple[str, tuple[Act, ...]]:
    """The question on coming back to something that is done by hand."""
    return "was it done while nobody recorded?", (resumed("Not done", "not pulled"), done_meanwhile("Yes, it is done", act))


def amount_prompt(words: str) -> dict[str, Any]:
    """The prompt's field for an amount."""
    return {"amount": words}
