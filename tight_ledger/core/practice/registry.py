"""The drills by name, in the sequence in which they are offered."""

from collections.abc import Mapping, Sequence

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.core.practice.drills import DrillAnswer, DrillNow, Materials, NamedDrill, play
from tight_ledger.core.practice.finding import find_it
from tight_ledger.core.practice.measuring import measure
from tight_ledger.core.practice.reading import say_it_in_units, set_the_scale, which_wrench
from tight_ledger.core.practice.spotting import what_is_wrong
from tight_ledger.core.practice.turning import pull_and_feel, snap_a_bolt, the_angle, the_order

DRILLS: Mapping[str, NamedDrill] = {
    each.name: each
    for each in (
        NamedDrill("scale", "Set the scale", "Set figures and read them back, on every kind of scale.", set_the_scale, draws_on_shop=True),
        NamedDrill("order", "The order", "Tap the nuts in order, and find it again after an interruption.", the_order, draws_on_shop=True),
        NamedDrill("angle", "The angle", "Turn on by an angle, by the gauge and by eye; learn your own error.", the_angle),
        NamedDrill("measure", "Measure", "Read the dial, believe it or not, choose the next move.", measure),
        NamedDrill("wrong", "What is wrong here", "A colleague's run with a mistake in it: name it.", what_is_wrong),
        NamedDrill("pull", "Pull and feel", "Stop at the click; see what a jerk and a second click cost.", pull_and_feel),
        NamedDrill("snap", "Snap a bolt", "See what yielding looks like before it breaks.", snap_a_bolt),
        NamedDrill("units", "Say it in units", "The slips that happen between units.", say_it_in_units),
        NamedDrill("wrench", "Which wrench, which mark", "A spec of the library, the shop's own crib.", which_wrench, draws_on_shop=True),
        NamedDrill("find", "Find it", "Ten questions in the shop's own library.", find_it, draws_on_shop=True),
    )
}


def drill_now(name: str, seed: int, answers: Sequence[DrillAnswer], materials: Materials) -> DrillNow:
    """A drill after some answers.

    Args:
        seed: what it draws from.
        answers: all so far, the oldest first.
        materials: what the shop has.
    Raises:
        NotOnFile: no drill has this name.
        Invalid: more answers than the drill has questions.
    """
    if name not in DRILLS:
        raise NotOnFile("drill", f"There is no drill “{name}”.", f"They are {', '.join(DRILLS)}.")
    return play(DRILLS[name], seed, answers, materials)
