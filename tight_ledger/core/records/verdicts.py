"""Verdicts: what each means in plain words, what to do now, why it is there, and which keep a run from being good."""

from typing import Literal, NamedTuple
from uuid import UUID

from tight_ledger.core.base.models import Model

VerdictCode = Literal[
    "low", "high", "watch", "outside_limit", "implausible", "hurried", "twice", "one_or_two", "second_click", "out_of_order", "stage_early",
    "skipped", "not_called_for", "no_figure", "not_set", "check_low", "not_judged", "out_of_band", "unsure", "off_plan", "late", "early",
    "wrong_tool", "reopened", "stopped", "deviated", "conflict", "turned", "spent", "long_pause", "wrench_changed", "from_the_past",
    "trial", "contested", "differs", "right_ended", "not_proven", "brought_back", "from_paper", "no_sheet", "same_person", "notice",
    "recalled", "against_advice", "at_the_limit", "unproven_reading", "clock_ahead", "clock_moved", "kept_back",
]  # fmt: skip


class Text(NamedTuple):
    """A verdict in words."""

    said: str
    remedy: str
    """What to do now; empty if nothing."""
    story: str
    """Why the rule is there. Common practice, no source."""


TEXTS: dict[VerdictCode, Text] = {
    "low": Text("below the band", "Pull it again.", "the wrench was let go at the first creak; the nut came back to the bench on the road"),
    "high": Text(
        "above the band",
        "Loosen it, look at thread and seat, bring it up again.",
        "one more for luck: the stud's yield is gone, and it breaks in winter",
    ),
    "watch": Text(
        "an odd end",
        "Look at this one before going on, and say what you found.",
        "the angle was right and the torque was not: grit under the head",
    ),
    "outside_limit": Text(
        "outside a limit of the spec",
        "Loosen it, look at thread and seat, bring it up again; or a lead decides.",
        "the book said 90 N·m at least when the angle is done; it came to 60, and somebody wrote “looked at, fine”",
    ),
    "implausible": Text("faster than a pull can be made", "Pull it again, and let the wrench click.", "somebody leaned on the key"),
    "hurried": Text(
        "a pass faster than any hand",
        "Check every one at the figure, or let a lead decide.",
        "a wheel of ten in under a minute: tapped in the office",
    ),
    "twice": Text(
        "pulled twice",
        "Loosen it, look, bring it up again, or let a lead decide.",
        "the phone rang in the middle of the round, and the count began again one nut too early",
    ),
    "one_or_two": Text(
        "recorded on two devices",
        "Say whether it was one pull, or two.",
        "two tablets, one click: the second nut was told to come off for nothing",
    ),
    "second_click": Text("clicked a second time as a check", "", "some shops want it so; others have found the nut turned by it"),
    "out_of_order": Text(
        "pulled out of order", "Go back to the one that was passed over.", "the flange closed on one side first, and leaked on the other"
    ),
    "stage_early": Text(
        "pulled before the stage before was finished",
        "Finish the stage before.",
        "two nuts at full torque and eight by hand: the wheel sat on an edge",
    ),
    "skipped": Text(
        "left out in a stage",
        "Loosen it and bring it up through every stage, or let a lead decide.",
        "a nut that jumped a stage carries what its neighbours should",
    ),
    "not_called_for": Text(
        "not called for", "Note why it was done.", "the pull that nobody can explain is the one that is looked for afterwards"
    ),
    "no_figure": Text(
        "nothing to judge it by",
        "Do it again, and say what it showed.",
        "the drag was never measured, so the figure that adds to it was nobody's",
    ),
    "not_set": Text(
        "nobody said what the wrench is set to",
        "Look at the scale, say what it is set to, and pull again.",
        "three stages, and the wrench had stood at the first all along",
    ),
    "check_low": Text(
        "checked below the figure, which proves nothing",
        "Pull again, to the figure.",
        "the checking wrench stood at the old figure: everything “did not turn”",
    ),
    "not_judged": Text(
        "decided by the lead, not measured",
        "Only a lead can release this run.",
        "the lead said go on; a month later nobody knew what had been waved through",
    ),
    "out_of_band": Text(
        "out of its band",
        "Set it right and measure again, or let a lead decide.",
        "the hub had half a millimetre of play; it was written down, and the wheel went on",
    ),
    "unsure": Text(
        "nobody knows how far it went",
        "Loosen it; it comes up through its stages again.",
        "the phone, half an angle, and two people who each thought the other had marked it",
    ),
    "off_plan": Text("not in this plan", "Note what was done.", "a fastener of another joint, on the wrong card"),
    "late": Text("too late after the step before", "Do the step before again.", "the sealant had a skin before the bolts were home"),
    "early": Text("too early after the step before", "Wait, then do it again.", "it was pulled while the sealant was still wet"),
    "wrong_tool": Text(
        "pulled with a wrench, or a setting, that was not the planned one",
        "Pull it again as planned.",
        "set for the crowfoot, used without it",
    ),
    "reopened": Text("loosened: its stages start again", "", "what was loosened to look at and forgotten"),
    "stopped": Text("tried as often as allowed", "A lead must decide.", "a fourth try at the same nut shows that something else is wrong"),
    "deviated": Text("decided by the lead", "", "a month later somebody asks who decided it, and why"),
    "conflict": Text("recorded on two devices at once", "", "two people on one joint, each thinking the other had done it"),
    "turned": Text("turned in the check", "Check all of them again.", "the first ones settle while the last are pulled"),
    "spent": Text(
        "past its angle into yield",
        "Replace it; the new one comes up through every stage.",
        "a bolt that is past its yield holds today; under heat it stretches on and the gasket goes",
    ),
    "long_pause": Text(
        "a long pause within its angle",
        "Look at the paint mark: if it moved, loosen it and start its stages again.",
        "the mark was wiped off, and the angle began again from where it was",
    ),
    "wrench_changed": Text(
        "another wrench within one pass",
        "Pull those from before again with it, or note why it was changed.",
        "two wrenches that differ by six per cent, half a flange each",
    ),
    "trial": Text(
        "told by a simulated wrench: practice",
        "Tighten it with a real one in a run of its own; a run with practice in it cannot end good.",
        "the new apprentice tried the simulated wrench on a real bus; the card looked like any other",
    ),
    "from_the_past": Text(
        "its clock was set back", "Look whether it belongs here.", "an entry that belongs to yesterday, between two of today"
    ),
    "clock_ahead": Text(
        "its tablet's clock is ahead",
        "Set the tablet's clock, and say what you found.",
        "the tablet came back from repair in the year 2099; so did its wheels",
    ),
    "clock_moved": Text(
        "its tablet's clock tells another time than passed",
        "",
        "the clock was put right between two nuts; the pause that counted was never made",
    ),
    "kept_back": Text(
        "kept on its tablet while the server was answering it",
        "Say why it was not sent when it was done.",
        "a wheel of last night, written down in the morning with last night's time",
    ),
    "contested": Text(
        "two runs at one place",
        "Look at both. A lead decides which counts, and says so in each.",
        "two tablets out of reach, one wheel: each card was good, and nobody had done the last stage",
    ),
    "differs": Text(
        "started without the server, which would not have started it so",
        "A lead looks at what differs, and decides.",
        "the figure had been corrected at noon; the yard worked to the old one until night",
    ),
    "right_ended": Text(
        "by somebody who may not record work any more",
        "A lead looks at it, and decides.",
        "the tablet of a man who had left was still warm",
    ),
    "not_proven": Text(
        "recorded under a name without its PIN",
        "Whoever it was confirms it with their PIN.",
        "anybody can touch a name; the card said it was the apprentice",
    ),
    "brought_back": Text(
        "brought back by a tablet after the server was restored",
        "",
        "the disk died on Tuesday; the tablet still knew what was done on Monday",
    ),
    "same_person": Text(
        "checked by somebody who pulled here",
        "Somebody who did not pull checks it, under their own name.",
        "the one who had left a nut out looked at his own work, and saw ten",
    ),
    "notice": Text(
        "something happened elsewhere meanwhile", "Read it, and say that you have.", "it was pinned on the board; nobody at the wheel knew"
    ),
    "recalled": Text(
        "what it was worked to, or with, is in doubt now",
        "Stop. A lead looks at it, and decides.",
        "the figure had been copied from the wrong column; three wheels more went out to it that afternoon",
    ),
    "against_advice": Text(
        "left otherwise than its readings advise",
        "Go on as advised, or let a lead decide.",
        "it read well once, and was locked; the bearing was in preload, and burnt on the hill",
    ),
    "at_the_limit": Text("at the limit", "", "it passed; in winter, with another gauge, it did not, and nobody knew that it had been near"),
    "unproven_reading": Text(
        "at the limit: not proven",
        "Set it nearer to the middle and read again, or let a lead decide.",
        "the gauge was as wrong as the reading was good",
    ),
    "from_paper": Text("entered from paper", "", "the tablet was dead; ten ticks on a sheet, and nobody could say when"),
    "no_sheet": Text(
        "entered from paper, though no sheet of it was printed before",
        "A lead looks at the paper, and decides.",
        "ten nuts in twenty seconds, each of them “from paper”: nothing asked how fast",
    ),
}

BAD: frozenset[str] = frozenset(
    {
        "low", "high", "watch", "outside_limit", "implausible", "hurried", "twice", "one_or_two", "skipped", "not_called_for",
        "no_figure", "not_set", "check_low",
        "not_judged", "out_of_band", "unsure", "off_plan", "late", "early", "wrong_tool", "stopped", "spent", "trial", "contested",
        "differs", "right_ended", "not_proven", "same_person", "notice", "recalled", "against_advice", "unproven_reading",
        "clock_ahead", "kept_back", "no_sheet",
    }
)  # fmt: skip
"""A run with one of these unanswered is not good."""

SETTLED_BY_A_LEAD: frozenset[str] = frozenset({"contested", "differs", "right_ended", "recalled", "no_sheet"})
"""What was said of an entry as it came, and only a lead's decision about that entry answers."""

LOOKED_AT: frozenset[str] = frozenset({"watch", "clock_ahead", "kept_back"})
"""What somebody looks at, and answers with what they found: a window that is watched is no limit, and a clock is no proof."""

CLOSED_BY_ITS_PULL: frozenset[str] = frozenset({"low", "no_figure", "not_set", "check_low", "same_person"})
"""Answered when the pull that was left open has been made."""


class Verdict(Model):
    """A judgement of one entry."""

    code: VerdictCode
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
        return self.detail or TEXTS[self.code].said

    @property
    def words(self) -> str:
        """`nut 4: pulled twice`."""
        return f"{self.name}: {self.said}" if self.name else self.said

    @property
    def remedy(self) -> str:
        """What to do now."""
        return TEXTS[self.code].remedy
