"""A simulated wrench that a person holds with a key on the screen: what it reports at each step. The caller keeps the time."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal
from uuid import UUID

from tight_ledger.core.base.models import Model
from tight_ledger.core.runs.line_protocol import Live, Target, Told, Trouble
from tight_ledger.core.simulation import hands
from tight_ledger.core.simulation.fasteners import Joint

STEP_S = 0.05
SLIPS_BACK = 0.6
"""Of the peak, when it slips off before it got there."""
WrenchSaid = Live | Told | Trouble


class PanelAct(Model):
    """What the hand does: down, up, or something that goes wrong."""

    type: Literal["hold", "let go", "slip", "twice", "battery", "out of range"]
    manner: hands.Manner = "steady"


def joint_for(target: Target, seed: int) -> Joint:
    """A joint that suits the first target that a wrench is told."""
    return Joint(seed=seed, final_nm=(target.torque_nm or 60.0) * 1.5, yields=target.yields)


def aim_of(target: Target) -> hands.PullTarget:
    """What a hand works to."""
    kind = target.kind if target.kind != "none" else "torque"
    return hands.PullTarget(kind=kind, torque_nm=target.torque_nm, angle_deg=target.angle_deg)


@dataclass
class PanelWrench:
    """One panel's wrench, on the joint of its run."""

    seed: int = 1
    target: Target = field(default_factory=lambda: Target(kind="none"))
    joint: Joint | None = None
    away: bool = False

    def __post_init__(self) -> None:
        self._wrench = hands.WrenchInHand(seed=self.seed)
        self._kept: list[Told] = []

    def hold(self, manner: hands.Manner) -> list[WrenchSaid]:
        """The key is down for one step more; nothing happens while nothing is to be pulled."""
        if self.target.kind == "none":
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
        told = self._let_go(at, ids[0], slipped=act.type == "slip")
        if act.type == "twice" and self.joint is not None:
            self._wrench.hold(self.joint.fastener(self.target.fastener or ""), STEP_S, aim_of(self.target))
            told += self._let_go(at, ids[1], slipped=False)
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
