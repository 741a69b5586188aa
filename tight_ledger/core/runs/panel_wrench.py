"""A simulated wrench that a person holds with a key on the screen: what it reports at each step. The caller keeps the time."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.rounding import nine_digits
from tight_ledger.core.runs.line_protocol import GaugeLive, GaugeRead, Live, Target, Told, Trouble
from tight_ledger.core.simulation import hands
from tight_ledger.core.simulation.fasteners import Joint
from tight_ledger.core.simulation.gauges import SimulatedJoint, ToRead

STEP_S = 0.05
SLIPS_BACK = 0.6
"""Of the peak, when it slips off before it got there."""
GRADUATIONS: dict[str, float] = {"mm": 0.01, "N·m": 0.1, "°": 1.0}
"""Of a simulated gauge, by the stored unit."""
WrenchSaid = Live | Told | GaugeLive | GaugeRead | Trouble


class PanelAct(Model):
    """What the hand does: down, up, or something that goes wrong."""

    type: Literal["hold", "let go", "slip", "twice", "battery", "out of range"]
    manner: hands.Manner = "steady"


def joint_for(target: Target, seed: int) -> Joint:
    """A joint that suits the first target that a wrench is told."""
    return Joint(seed=seed, final_nm=(target.torque_nm or 60.0) * 1.5, yields=target.yields)


def aim_of(target: Target) -> hands.PullTarget:
    """What a hand works to."""
    kind = target.kind if target.kind in ("torque", "angle", "check") else "torque"
    return hands.PullTarget(kind=kind, torque_nm=target.torque_nm, angle_deg=target.angle_deg)


@dataclass
class GaugeInHand:
    """A simulated gauge: its needle while it is held, and a reading when it is let go."""

    seed: int = 1

    def __post_init__(self) -> None:
        self._joint = SimulatedJoint(self.seed)
        self._held: float | None = None

    def needle(self, target: Target) -> GaugeLive:
        """Where the needle stands now, in the stored unit."""
        self._joint.graduation = GRADUATIONS.get(target.unit or "mm", 0.01)
        wanted = ToRead(target.adjusts, target.at, target.travel or 0.05, target.low, target.high)
        self._held = nine_digits(self._joint.shows(wanted, target.fastener or ""))
        return GaugeLive(type="needle", figure=self._held, unit=target.unit or "mm")

    def read(self, target: Target, at: datetime, reading: UUID) -> list[GaugeRead]:
        """Its button is pressed: the needle as it stands; nothing if it was not held."""
        if self._held is None:
            return []
        told = GaugeRead(type="read", id=reading, at=at, figure=self._held, unit=target.unit or "mm")
        self._held = None
        return [told]


@dataclass
class PanelWrench:
    """One panel's wrench, on the joint of its run."""

    seed: int = 1
    target: Target = field(default_factory=lambda: Target(kind="none"))
    joint: Joint | None = None
    away: bool = False

    def __post_init__(self) -> None:
        self._wrench = hands.WrenchInHand(seed=self.seed)
        self._kept: list[Told | GaugeRead] = []
        self._gauge = GaugeInHand(self.seed)

    def hold(self, manner: hands.Manner) -> list[WrenchSaid]:
        """The key is down for one step more; nothing happens while nothing is to be pulled."""
        if self.target.kind == "read":
            needle = self._gauge.needle(self.target)
            return [] if self.away else [needle]
        if not self.target.is_pull:
            return []
        self._wrench.manner = manner
        if self.joint is None:
            self.joint = joint_for(self.target, self.seed)
        live = self._wrench.hold(self.joint.fastener(self.target.fastener or ""), STEP_S, aim_of(self.target))
        return [] if self.away else [Live(type="live", torque_nm=live.torque_nm, angle_deg=live.angle_deg)]

    def act(self, act: PanelAct, at: datetime, ids: tuple[UUID, UUID]) -> list[WrenchSaid]:
        """The key goes up, or something goes wrong.

        Args:
            at: now.
            ids: for the pulls that it tells; at most two.
        """
        if act.type == "battery":
            return [Trouble(type="trouble", what="battery")]
        if act.type == "out of range":
            self.away = not self.away
            kept, self._kept = (self._kept, []) if not self.away else ([], self._kept)
            return [*kept]
        if act.type == "hold":
            return self.hold(act.manner)
        if self.target.kind == "read":
            return self._sent(self._gauge.read(self.target, at, ids[0]))
        told = self._let_go(at, ids[0], slipped=act.type == "slip")
        if act.type == "twice" and self.joint is not None:
            self._wrench.hold(self.joint.fastener(self.target.fastener or ""), STEP_S, aim_of(self.target))
            told += self._let_go(at, ids[1], slipped=False)
        return self._sent(told)

    def _sent(self, told: list[Told] | list[GaugeRead]) -> list[WrenchSaid]:
        """What is told now; out of range it is kept."""
        if self.away:
            self._kept += told
            return []
        return [*told]

    def _let_go(self, at: datetime, pull: UUID, *, slipped: bool) -> list[Told]:
        made = self._wrench.let_go()
        if made is None:
            return []
        torque_nm = made.torque_nm * (SLIPS_BACK if slipped else 1)
        return [Told(type="pulled", id=pull, at=at, torque_nm=torque_nm, angle_deg=max(made.angle_deg, 0), curve=made.curve)]
