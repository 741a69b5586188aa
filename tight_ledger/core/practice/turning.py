"""Drills of the hand: the order, the angle, the click, and a bolt that is turned until it breaks."""

import itertools
import random
import statistics
from collections.abc import Mapping

from tight_ledger.core.base.bands import Band
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.joints.layouts import Layout, ranked
from tight_ledger.core.joints.proposals import why
from tight_ledger.core.joints.shapes import bolt_circle
from tight_ledger.core.joints.threads import parse_thread, strength
from tight_ledger.core.lab.bolts import LabBolt
from tight_ledger.core.mechanics.friction import lubricant
from tight_ledger.core.practice.drills import Course, DrillQuestion, LayoutShown, Marks, Materials, PullShown, TurnShown, keys
from tight_ledger.core.runs.descriptions import FastenerNow
from tight_ledger.core.simulation.fasteners import Joint

FEWEST, MOST = 4, 14
OTHER_COUNTS = (5, 6, 8, 10)


def _layouts(materials: Materials) -> list[Layout]:
    own = [spec.layout for spec in materials.specs if FEWEST <= len(spec.layout.fasteners) <= MOST]
    return own or [bolt_circle(count=count, diameter_mm=200, kind="nut", thread="M14×1.5", noun="nut") for count in OTHER_COUNTS]


def _marked(layout: Layout, label: str, done: Mapping[str, int]) -> FastenerNow:
    name, marks = f"{layout.nouns[label]} {label}", done.get(label, 0)
    words = f"{name}: {'one mark' if marks else 'no mark'}"
    return FastenerNow(label=label, name=name, marks=marks, of=1, checked="", next=False, flagged=False, words=words)


def the_order(chance: random.Random, materials: Materials, marks: Marks) -> Course:
    """Tap the fasteners in order, with an interruption; losing count, and finding it again from the marks."""
    layout = chance.choice(_layouts(materials))
    ranks = [set(ranked(rank)) for rank in layout.orders["main"]]
    many = len(list(itertools.chain.from_iterable(ranks)))
    break_after = chance.randint(2, max(2, many - 2))
    done: dict[str, int] = {}
    ask = f"Tap them in the order in which they are tightened. {why(layout).rstrip('.')}."
    while ranks:
        shown = LayoutShown(layout=layout, fasteners=tuple(_marked(layout, label, done) for label in layout.nouns))
        answer = yield DrillQuestion(ask=ask, picture=shown)
        ask = "Go on."
        if answer.key not in ranks[0]:
            wanted = " or ".join(sorted(ranks[0]))
            again = "has its mark already" if answer.key in done else "comes later"
            marks.tell(f"{answer.key} {again}; {wanted} is next.", right=False)
            continue
        done[answer.key] = 1
        ranks[0].discard(answer.key)
        if not ranks[0]:
            ranks.pop(0)
        if len(done) == break_after and ranks:
            ask = "The phone rang. Ten minutes later you are back: only the paint marks say where you were. Which is next?"
    marks.tell(f"All {many}, in order.", right=None)


ANGLE_BAND_DEG = 5.0
"""By the gauge."""
MOST_NUTS = 4
THAT_IS_IT = "That is it"


def the_angle(chance: random.Random, materials: Materials, marks: Marks) -> Course:
    """Turn on by an angle in several swings: once with the gauge, then by eye. What comes out is one's own error."""
    errors: list[float] = []
    for number in range(MOST_NUTS):
        aim, gauge, done = float(chance.choice((60, 75, 90, 120, 150))), number == 0, 0.0
        slack = ANGLE_BAND_DEG if gauge else materials.policy.by_eye_deg
        band = Band(quantity="angle", low=aim - slack, high=aim + slack)
        by = "by the gauge" if gauge else "by eye, from the paint mark"
        while True:
            answer = yield DrillQuestion(
                ask=f"Nut {number + 1}: on by {aim:g}°, {by}. Hold to turn, let go to take the ratchet back.",
                picture=TurnShown(aim_deg=aim, done_deg=done, gauge=gauge, deg_per_s=chance.choice((35.0, 45.0))),
                keys=keys(THAT_IS_IT),
            )
            if answer.key == THAT_IS_IT:
                break
            done += min(max(answer.figure or 0.0, 0.0), 360.0)
        error = done - aim
        if not gauge:
            errors.append(error)
        judged = band.judge(done)
        over = " What is over is recorded, and never made up on the next one." if judged == "high" else ""
        marks.tell(f"{done:.0f}° of {aim:g}°: {error:+.0f}°.{over}", right=judged == "ok")
    middle, spread = statistics.mean(errors), 2 * statistics.pstdev(errors)
    within = max(spread, abs(middle))
    marks.by_eye_deg = nine_digits(within)
    marks.tell(f"By eye you were {middle:+.0f}° off, within ±{within:.0f}°; this shop lets {materials.policy.by_eye_deg:g}° pass.")


CLICK_DEG_S, JERK_DEG_S, TOO_FAR = 14.0, 90.0, 0.10
LEAVE, AGAIN = "Leave it", "Once more, to be sure"


def pull_and_feel(chance: random.Random, _materials: Materials, marks: Marks) -> Course:
    """Stop at the click; see what a jerk and a second click cost."""
    final_nm = float(chance.choice((50, 80, 110, 140, 200)))
    joint = Joint(seed=chance.randint(1, 999), final_nm=final_nm)
    for number, speed in enumerate((CLICK_DEG_S, CLICK_DEG_S, JERK_DEG_S)):
        fastener, at = joint.fastener(str(number)), 0.0
        clicks = fastener.snug_deg + final_nm / fastener.friction / fastener.rate_nm_per_deg
        degrees = tuple(float(n) for n in range(int(clicks * 1.6)))
        shown = PullShown(
            degrees=degrees,
            torques_nm=tuple(fastener.torque_at(each) for each in degrees),
            from_deg=0.0,
            deg_per_s=speed,
            clicks_at_deg=clicks,
        )
        jerked = speed == JERK_DEG_S
        manner = "This time with a jerk: see how far it goes." if jerked else "Hold to pull, let go at the click."
        while at < clicks:
            answer = yield DrillQuestion(
                ask=f"Nut {number + 1}, {final_nm:g} N·m. {manner}", picture=shown.model_copy(update={"from_deg": at})
            )
            at = max(at, min(answer.figure or 0.0, degrees[-1]))
            if at < clicks:
                marks.tell("It did not click: pull on.")
        reached = fastener.torque_at(at)
        over = reached / final_nm - 1
        if jerked:
            marks.tell(f"The jerk went to {reached:.0f} N·m, {over:.0%} over. The wrench clicked all the same.")
        else:
            marks.tell(f"{reached:.0f} N·m: {over:.0%} over.", right=over <= TOO_FAR)
    answer = yield DrillQuestion(ask="The last nut clicked. You are not sure. What do you do?", keys=keys(LEAVE, AGAIN))
    cost = final_nm * (1 + chance.uniform(0.04, 0.09))
    marks.tell(
        f"Left. A second click would have turned it on to {cost:.0f} N·m."
        if answer.key == LEAVE
        else f"The second click turned it on to {cost:.0f} N·m: a check is a lighter pull, or none.",
        right=answer.key == LEAVE,
    )


def snap_a_bolt(chance: random.Random, _materials: Materials, marks: Marks) -> Course:
    """Turn a bolt until it yields, and then until it breaks: what it looks like before it goes."""
    thread = parse_thread(chance.choice(("M8", "M10", "M12")))
    oiled = lubricant("oiled")
    bolt = LabBolt(thread, strength("8.8", thread.diameter_mm), 3 * thread.diameter_mm, "steel", "hexagon", oiled)
    turning, per_n = bolt.turning(oiled.mid), bolt.parts(1.0, oiled.mid).whole_nm
    degrees, loads = turning.curve(60)
    shown = PullShown(
        degrees=degrees,
        torques_nm=tuple(each * per_n for each in loads),
        from_deg=0.0,
        deg_per_s=30.0,
        breaks_at_deg=turning.breaks_at_deg,
    )
    necks = turning.turned_deg(turning.ductile_mm / 2)
    at = 0.0
    while at <= turning.yields_at_deg:
        answer = yield DrillQuestion(
            ask=f"{thread.designation} 8.8. Hold to turn. Let go when the curve bends: that is where it yields.",
            picture=shown.model_copy(update={"from_deg": at}),
        )
        at = max(at, min(answer.figure or 0.0, turning.breaks_at_deg))
        if at <= turning.yields_at_deg:
            marks.tell("Still a straight line: it springs back from here. Turn on.")
    right = at < necks
    marks.tell(
        f"It bent at {turning.yields_at_deg:.0f}°, you let go at {at:.0f}°. It is longer for good, and holds."
        if right
        else f"Too far: from {necks:.0f}° the torque falls while it turns. It necks, and comes off in the hand.",
        right=right,
    )
    while at < turning.breaks_at_deg:
        answer = yield DrillQuestion(ask="Now snap it: hold on until it goes.", picture=shown.model_copy(update={"from_deg": at}))
        at = max(at, min(answer.figure or 0.0, turning.breaks_at_deg))
        if at < turning.breaks_at_deg:
            marks.tell("It turns easier than before: that is the warning. Hold on.")
    marks.tell("Broken. Before it went, it turned on while the torque stood still, and then fell.")
