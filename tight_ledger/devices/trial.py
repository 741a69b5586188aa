"""A simulated wrench held by a key in the browser: the server turns the fastener while the key is down."""

import asyncio
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Literal

from uuid6 import uuid7

from tight_ledger.core.base.models import Model
from tight_ledger.core.simulation import hands
from tight_ledger.core.simulation.fasteners import Joint
from tight_ledger.devices.protocol import Live, Target, Told, Trouble
from tight_ledger.devices.simulated import aim_of, joint_for

STEP_S = 0.05
SLIPS_BACK = 0.6
"""Of the peak, when it slips off before it got there."""


class TrialAct(Model):
    """What the hand does: down, up, or something that goes wrong."""

    type: Literal["hold", "let go", "slip", "twice", "battery", "out of range"]
    manner: hands.Manner = "steady"


@dataclass
class Trial:
    """One panel's wrench, on the joint of its run."""

    tell: Callable[[Live | Told | Trouble], Awaitable[None]]
    seed: int = 1
    target: Target = field(default_factory=lambda: Target(kind="none"))
    joint: Joint | None = None
    away: bool = False

    def __post_init__(self) -> None:
        self._wrench = hands.WrenchInHand(seed=self.seed)
        self._holding: asyncio.Task[None] | None = None
        self._kept: list[Told] = []

    async def act(self, act: TrialAct) -> None:
        """A key goes down or up, or something goes wrong."""
        if act.type == "hold" and self._holding is None and self.target.kind != "none":
            self._wrench.manner = act.manner
            self._holding = asyncio.create_task(self._hold())
        elif act.type in ("let go", "slip", "twice"):
            await self._let_go(slipped=act.type == "slip")
            if act.type == "twice" and self.joint is not None:
                self._wrench.hold(self.joint.fastener(self.target.fastener or ""), STEP_S, aim_of(self.target))
                await self._let_go(slipped=False)
        elif act.type == "battery":
            await self.tell(Trouble(type="trouble", what="battery"))
        elif act.type == "out of range":
            self.away = not self.away
            if not self.away:
                for told in self._kept:
                    await self.tell(told)
                self._kept.clear()

    async def _hold(self) -> None:
        if self.joint is None:
            self.joint = joint_for(self.target, self.seed)
        fastener, aim = self.joint.fastener(self.target.fastener or ""), aim_of(self.target)
        while True:
            live = self._wrench.hold(fastener, STEP_S, aim)
            if not self.away:
                await self.tell(Live(type="live", torque_nm=live.torque_nm, angle_deg=live.angle_deg))
            await asyncio.sleep(STEP_S)

    async def _let_go(self, *, slipped: bool) -> None:
        if self._holding is not None:
            self._holding.cancel()
            self._holding = None
        made = self._wrench.let_go()
        if made is None:
            return
        torque_nm = made.torque_nm * (SLIPS_BACK if slipped else 1)
        told = Told(
            type="pulled", id=uuid7(), at=datetime.now(UTC), torque_nm=torque_nm, angle_deg=max(made.angle_deg, 0), curve=made.curve
        )
        if self.away:
            self._kept.append(told)
        else:
            await self.tell(told)

    def stop(self) -> None:
        """The panel is closed."""
        if self._holding is not None:
            self._holding.cancel()
