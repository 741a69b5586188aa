"""A bolt of the lab: thread, class, seat, what it clamps, and what follows from them."""

from dataclasses import dataclass
from typing import Any

from tight_ledger.core.joints.threads import Strength, Thread, classes_at, parse_thread, strength, tables
from tight_ledger.core.lab.pages import Knobs
from tight_ledger.core.mechanics.friction import FrictionRange, TorqueParts, lubricant, lubricants, torque_parts
from tight_ledger.core.mechanics.stiffness import (
    ALUMINIUM_MPA,
    IRON_MPA,
    STEEL_MPA,
    bolt_compliance_mm_per_n,
    joint_compliance_mm_per_n,
)
from tight_ledger.core.mechanics.stress import Bears, bears
from tight_ledger.core.mechanics.yielding import Turning

THREADS = (
    "M6",
    "M8",
    "M10",
    "M10×1.25",
    "M12",
    "M12×1.5",
    "M14×1.5",
    "M16",
    "M18×1.5",
    "M20",
    "M22×1.5",
    "M24",
    "1/2-13 UNC",
    "5/8-11 UNC",
    "3/4-16 UNF",
)
METRIC_CLASSES, GRADES = ("5.8", "8.8", "9.8", "10.9", "12.9"), ("grade 2", "grade 5", "grade 8")
CLAMPED = {"steel": STEEL_MPA, "cast iron": IRON_MPA, "aluminium": ALUMINIUM_MPA}
SEATS = ("hexagon", "flange", "cone 60°")
CONE_FACTOR = 2.0
"""On a cone of 60° the face presses by 1 / sin 30° of the load (derived)."""
CONE_DIAMETER = 1.35
"""Middle of the cone's face over the thread's diameter. Common practice, no source."""
SCORED = FrictionRange("scored washer", 0.25, 0.40)
"""A face that has galled. Common practice, no source."""
USUAL_SHARE = 0.9
"""Of yield, to which a bolt is tightened in VDI 2230's tables."""


@dataclass(frozen=True)
class LabBolt:
    """A bolt and its joint."""

    thread: Thread
    strength: Strength
    grip_mm: float
    clamped: str
    seat: str
    lubricant: FrictionRange
    washer: str = "sound"

    @property
    def head_diameter_mm(self) -> float:
        """Where the friction under the head acts, a cone's pressure reckoned in [mm]."""
        if self.seat == "cone 60°":
            return CONE_DIAMETER * self.thread.diameter_mm * CONE_FACTOR
        row: dict[str, Any] = tables()["bearings"][f"{self.thread.diameter_mm:g}"]
        return float(row["flange_mm" if self.seat == "flange" else "face_mm"] + row["hole_mm"]) / 2

    @property
    def compliance_mm_per_n(self) -> float:
        """Of bolt and joint together: half of the grip is plain shank."""
        half = self.grip_mm / 2
        bolt = bolt_compliance_mm_per_n(thread=self.thread, shank_mm=half, thread_mm=half)
        return bolt + joint_compliance_mm_per_n(
            diameter_mm=self.thread.diameter_mm, grip_mm=self.grip_mm, modulus_mpa=CLAMPED[self.clamped]
        )

    def bears(self, friction: float) -> Bears:
        """What it bears at a friction in its thread."""
        return bears(self.strength, self.thread, friction)

    def parts(self, clamp_n: float, friction: float) -> TorqueParts:
        """The torque for a clamp load, at a friction of the lubricant; a scored washer has its own."""
        head = friction
        if self.washer == "scored":
            share = (friction - self.lubricant.low) / (self.lubricant.high - self.lubricant.low)
            head = SCORED.low + share * (SCORED.high - SCORED.low)
        return torque_parts(
            clamp_n=clamp_n, thread=self.thread, thread_friction=friction, head_friction=head, head_diameter_mm=self.head_diameter_mm
        )

    def clamp_n(self, torque_nm: float, friction: float) -> float:
        """The clamp load that a torque gives at a friction; what is beyond the most that it bears means that it breaks."""
        return torque_nm / self.parts(1.0, friction).whole_nm

    def turning(self, friction: float) -> Turning:
        """The bolt as a nut's turn sees it."""
        ductile_mm = self.strength.elongation * max(self.grip_mm / 2, self.thread.diameter_mm)
        return Turning(self.bears(friction), self.compliance_mm_per_n, self.thread.pitch_mm, ductile_mm)

    @property
    def usual_nm(self) -> float:
        """The torque that takes it to 90 % of yield at the middle of its friction, rounded as a manual would [N·m]."""
        mid = self.lubricant.mid
        torque = self.parts(USUAL_SHARE * self.bears(mid).yield_n, mid).whole_nm
        step = 1 if torque < 50 else 5
        return max(step, round(torque / step) * step)


def bolt_of(knobs: Knobs, resets: tuple[str, ...] = (), *, seats: bool = True) -> LabBolt:
    """The bolt that a page's knobs describe.

    Args:
        resets: what begins anew when thread or class are changed.
        seats: whether the seat and the washer can be chosen.
    Raises:
        Invalid: a knob is out of its range.
    """
    thread = parse_thread(knobs.choice("thread", "thread", THREADS, "M12", ("class", *resets)))
    metric = thread.system == "metric"
    of_its_kind = METRIC_CLASSES if metric else GRADES
    made = tuple(each for each in classes_at(thread.diameter_mm) if each in of_its_kind)
    property_class = knobs.choice("class", "class", made, "8.8" if metric else "grade 5", resets)
    usual = round(2.5 * thread.diameter_mm / 5) * 5
    grip_mm = knobs.slider("grip", "what it clamps, thick", "mm", (10, 200, 5), usual)
    clamped = knobs.choice("clamped", "of", tuple(CLAMPED), "steel")
    seat = knobs.choice("seat", "seat", SEATS, "hexagon") if seats else "hexagon"
    washer = knobs.choice("washer", "face under the head", ("sound", "scored"), "sound") if seats else "sound"
    chosen = lubricant(knobs.choice("lubricant", "thread and face are", tuple(each.name for each in lubricants()), "oiled"))
    return LabBolt(thread, strength(property_class, thread.diameter_mm), grip_mm, clamped, seat, chosen, washer)


def kn(force_n: float) -> str:
    """`44.4 kN`."""
    return f"{force_n / 1_000:.3g} kN"
