"""A simulated torque-angle wrench that speaks the device protocol: `./tight wrench CODE`."""

import asyncio
import json
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from ssl import SSLContext
from typing import Any
from uuid import UUID

from uuid6 import uuid7
from websockets.asyncio.client import ClientConnection, connect
from websockets.exceptions import ConnectionClosed

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.runs.line_protocol import VERSION, Target
from tight_ledger.core.runs.panel_wrench import aim_of, joint_for
from tight_ledger.core.simulation import hands
from tight_ledger.core.simulation.fasteners import Joint

STEP_S = 0.02
LIVE_EVERY_S = 0.1
TRIES_AGAIN_S = 1.0


@dataclass
class SimulatedWrench:
    """A wrench that pairs by a code, makes each pull that it is asked for, and sends it again until it is acknowledged."""

    url: str
    code: str
    manner: hands.Manner = "steady"
    seed: int = 1
    in_real_time: bool = True
    """Otherwise a pull takes no time."""
    now: Callable[[], datetime] = field(default=lambda: datetime.now(UTC))
    """Its clock."""
    drop_acks: int = 0
    """Number of acknowledgements that it loses, for tests: those pulls are sent again."""
    joint: Joint | None = None
    instrument: UUID | None = None
    """Under which it was registered, for tests and measurements; without it, what it tells is practice."""
    key: str = ""
    trusts: SSLContext | None = None
    """The authorities that it trusts, over HTTPS."""
    unacknowledged: "OrderedDict[UUID, dict[str, Any]]" = field(default_factory=OrderedDict)
    pulls: int = 0

    def __post_init__(self) -> None:
        self._wrench = hands.WrenchInHand(manner=self.manner, seed=self.seed)

    async def work(self) -> int:
        """Pull whatever comes until nothing more is asked for; how many pulls it made.

        Raises:
            Invalid: the code is refused.
        """
        while True:
            try:
                async with connect(self.url, ssl=self.trusts) as socket:
                    known = {"instrument": str(self.instrument), "key": self.key} if self.instrument is not None else {}
                    await self._say(socket, {"type": "hello", "v": VERSION, "code": self.code, "name": "simulated"} | known)
                    for told in list(self.unacknowledged.values()):
                        await self._say(socket, told)
                    return await self._serve(socket)
            except (ConnectionClosed, OSError):
                await asyncio.sleep(TRIES_AGAIN_S)

    async def _say(self, socket: ClientConnection, message: dict[str, Any]) -> None:
        await socket.send(json.dumps(message))

    async def _serve(self, socket: ClientConnection) -> int:
        quiet_s: float | None = None
        while True:
            try:
                said = json.loads(await asyncio.wait_for(socket.recv(), quiet_s))
            except TimeoutError:
                return self.pulls
            if said["type"] == "refused" and said.get("id") is None:
                raise Invalid("code", said["fault"], "Ask the run's screen for a new code.")
            if said["type"] in ("ack", "refused"):
                await self._heard(socket, UUID(said["id"]))
            elif said["type"] == "target":
                target = Target.model_validate(said)
                if target.kind != "none":
                    await self._pull(socket, target)
                quiet_s = 2.0 if target.kind == "none" else None

    async def _heard(self, socket: ClientConnection, told: UUID) -> None:
        if self.drop_acks > 0:
            self.drop_acks -= 1
            await self._say(socket, self.unacknowledged[told])
            return
        self.unacknowledged.pop(told, None)

    async def _pull(self, socket: ClientConnection, target: Target) -> None:
        if self.joint is None:
            self.joint = joint_for(target, self.seed)
        fastener, aim, shown = self.joint.fastener(target.fastener or ""), aim_of(target), 0.0
        for step in range(int(60 / STEP_S)):
            live = self._wrench.hold(fastener, STEP_S, aim)
            if self.in_real_time:
                await asyncio.sleep(STEP_S)
            if step * STEP_S >= shown and self.in_real_time:
                shown += LIVE_EVERY_S
                await self._say(socket, {"type": "live", "torque_nm": live.torque_nm, "angle_deg": live.angle_deg})
            if self._wrench.is_reached(aim):
                break
        made = self._wrench.let_go()
        if made is None:
            return
        told_id = UUID(str(uuid7()))
        told = {
            "type": "pulled", "id": str(told_id), "at": self.now().isoformat(), "torque_nm": made.torque_nm,
            "angle_deg": made.angle_deg, "curve": made.curve,
        }  # fmt: skip
        self.unacknowledged[told_id] = told
        self.pulls += 1
        await self._say(socket, told)
