"""The fold's judgements: what each means in plain words, what to do now, and which keep a run from being good."""

from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model

Code = Literal[
    "low", "high", "watch", "implausible", "hurried", "twice", "one_or_two", "second_click", "out_of_order", "stage_early", "skipped",
    "not_called_for", "no_figure", "not_set", "check_low", "not_judged", "out_of_band", "unsure", "off_plan", "late", "early",
    "wrong_tool", "reopened", "stopped", "deviated", "conflict", "turned", "spent", "long_pause", "wrench_changed", "from_the_past",
]  # fmt: skip

WORDS: dict[str, tuple[str, str]] = {
    "low": ("below the band", "Pull it again."),
    "high": ("above the band", "Loosen it, look at thread and seat, bring it up again."),
    "watch": ("an odd end", "Look at this one before going on."),
    "implausible": ("faster than a pull can be made", "Pull it again, and let the wrench click."),
    "hurried": ("a pass faster than any hand", "Check every one at the figure, or let a lead decide."),
    "twice": ("pulled twice", "Loosen it, look, bring it up again, or let a lead decide."),
    "one_or_two": ("recorded on two devices", "Say whether it was one pull, or two."),
    "second_click": ("clicked a second time as a check", ""),
    "out_of_order": ("pulled out of order", "Go back to the one that was passed over."),
    "stage_early": ("pulled before the stage before was finished", "Finish the stage before."),
    "skipped": ("left out in a stage", "Loosen it and bring it up through every stage, or let a lead decide."),
    "not_called_for": ("not called for", "Note why it was done."),
    "no_figure": ("nothing to judge it by", "Do it again, and say what it showed."),
    "not_set": ("nobody said what the wrench is set to", "Look at the scale, say what it is set to, and pull again."),
    "check_low": ("checked below the figure, which proves nothing", "Pull again, to the figure."),
    "not_judged": ("decided by the lead, not measured", "Only a lead can release this run."),
    "out_of_band": ("out of its band", "Set it right and measure again, or let a lead decide."),
    "unsure": ("nobody knows how far it went", "Loosen it; it comes up through its stages again."),
    "off_plan": ("not in this plan", "Note what was done."),
    "late": ("too late after the step before", "Do the step before again."),
    "early": ("too early after the step before", "Wait, then do it again."),
    "wrong_tool": ("pulled with a wrench, or a setting, that was not the planned one", "Pull it again as planned."),
    "reopened": ("loosened: its stages start again", ""),
    "stopped": ("tried as often as allowed", "A lead must decide."),
    "deviated": ("decided by the lead", ""),
    "conflict": ("recorded on two devices at once", ""),
    "turned": ("turned in the check", "Check all of them again."),
    "spent": ("past its angle into yield", "Replace it; the new one comes up through every stage."),
    "long_pause": ("a long pause within its angle", "Look at the paint mark: if it moved, loosen it and start its stages again."),
    "wrench_changed": ("another wrench within one pass", "Pull those from before again with it, or note why it was changed."),
    "from_the_past": ("its clock was set back", "Look whether it belongs here."),
}
"""Words, and what to do now."""

BAD: frozenset[str] = frozenset(
    {
        "low", "high", "implausible", "hurried", "twice", "one_or_two", "skipped", "not_called_for", "no_figure", "not_set", "check_low",
        "not_judged", "out_of_band", "unsure", "off_plan", "late", "early", "wrong_tool", "stopped", "spent",
    }
)  # fmt: skip
"""A run with one of these unanswered is not good."""

CLOSED_BY_ITS_PULL: frozenset[str] = frozenset({"low", "no_figure", "not_set", "check_low"})
"""Answered when the pull that was left open has been made."""


class Verdict(Model):
    """A judgement of one entry."""

    code: Code
    entry: UUID | None = None
    seq: int = 0
    pull: str | None = None
    fastener: str | None = None
    name: str = ""
    """What the fastener is called: `nut 4`."""
    detail: str = ""
    """What was measured or tried, where the code alone does not say it."""
    answered: bool = False

    @property
    def said(self) -> str:
        """What is wrong, without the fastener: `pulled twice`, `end play: too loose`."""
        return self.detail or WORDS[self.code][0]

    @property
    def words(self) -> str:
        """`nut 4: pulled twice`."""
        return f"{self.name}: {self.said}" if self.name else self.said

    @property
    def remedy(self) -> str:
        """What to do now."""
        return WORDS[self.code][1]
