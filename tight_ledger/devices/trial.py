"""A simulated wrench held by a key in the browser: the server turns the fastener while the key is down."""

import asyncio
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field

from uuid6 import uuid7

from tight_ledger.core.runs.line_protocol import Target
from tight_ledger.core.runs.panel_wrench import STEP_S, PanelAct, PanelWrench, WrenchSaid
from tight_ledger.core.simulation import hands
from tight_ledger.store import clock


@dataclass
class Trial:
    """One panel's wrench, held by the server's clock."""

    tell: Callable[[WrenchSaid], Awaitable[None]]
    wrench: PanelWrench = field(default_factory=PanelWrench)

    def __post_init__(self) -> None:
        self._holding: asyncio.Task[None] | None = None

    def aim(self, target: Target) -> None:
        """The run asks for something else."""
        self.wrench.target = target

    async def act(self, act: PanelAct) -> None:
        """A key goes down or up, or something goes wrong."""
        if act.type == "hold":
            if self._holding is None and self.wrench.target.kind != "none":
                await self._step(act.manner)
                self._holding = asyncio.create_task(self._hold(act.manner))
            return
        if act.type in ("let go", "slip", "twice"):
            self.stop()
        for said in self.wrench.act(act, clock.now(), (uuid7(), uuid7())):
            await self.tell(said)

    async def _hold(self, manner: hands.Manner) -> None:
        while True:
            await asyncio.sleep(STEP_S)
            await self._step(manner)

    async def _step(self, manner: hands.Manner) -> None:
        """What one step of holding shows; the first is taken at once, so that the shortest press counts."""
        for said in self.wrench.hold(manner):
            await self.tell(said)

    def stop(self) -> None:
        """The key is up, or the panel is closed."""
        if self._holding is not None:
            self._holding.cancel()
            self._holding = None
