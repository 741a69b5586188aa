"""A simulated torque-angle wrench and a simulated gauge that speak the device protocol: `./tight wrench CODE`, `./tight gauge CODE`."""

import asyncio
import json
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from ssl import SSLContext
from typing import Any
from uuid import UUID

from uuid6 import uuid7
from websockets.asyncio.client import ClientConnection, connect
from websockets.exceptions import ConnectionClosed

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.runs.line_protocol import VERSION, Target
from tight_ledger.core.runs.panel_wrench import GaugeInHand, aim_of, joint_for
from tight_ledger.core.simulation import hands
from tight_ledger.core.simulation.fasteners import Joint
from tight_ledger.store import clock

STEP_S = 0.02
LIVE_EVERY_S = 0.1
TRIES_AGAIN_S = 1.0


@dataclass
class OnTheLine:
    """A device that pairs by a code, answers what it is asked for, and sends each answer again until it is acknowledged."""

    url: str
    code: str
    seed: int = 1
    in_real_time: bool = True
    """Otherwise what it does takes no time."""
    now: Callable[[], datetime] = field(default=clock.now)
    """Its clock."""
    drop_acks: int = 0
    """Number of acknowledgements that it loses, for tests: those answers are sent again."""
    instrument: UUID | None = None
    """Under which it was registered, for tests and measurements; without it, what it tells is practice."""
    key: str = ""
    waits_s: float = 2.0
    """How long it waits while nothing is asked for that it can do."""
    trusts: SSLContext | None = None
    """The authorities that it trusts, over HTTPS."""
    unacknowledged: "OrderedDict[UUID, dict[str, Any]]" = field(default_factory=OrderedDict)
    answers: int = 0
    """How many it gave."""
    name = "simulated"

    def does(self, target: Target) -> bool:
        """Whether it can answer a target."""
        raise NotImplementedError

    async def answer(self, socket: ClientConnection, target: Target) -> None:
        """Do what is asked for, and tell it."""
        raise NotImplementedError

    async def work(self) -> int:
        """Answer whatever comes until nothing more is asked for that it can do; how many answers it gave.

        Raises:
            Invalid: the code is refused.
        """
        while True:
            try:
                async with connect(self.url, ssl=self.trusts) as socket:
                    known = {"instrument": str(self.instrument), "key": self.key} if self.instrument is not None else {}
                    await self._say(socket, {"type": "hello", "v": VERSION, "code": self.code, "name": self.name} | known)
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
                return self.answers
            if said["type"] == "refused" and said.get("id") is None:
                raise Invalid("code", said["fault"], "Ask the run's screen for a new code.")
            if said["type"] in ("ack", "refused"):
                await self._heard(socket, UUID(said["id"]))
            elif said["type"] == "target":
                target = Target.model_validate(said)
                if self.does(target):
                    await self.answer(socket, target)
                quiet_s = None if self.does(target) else self.waits_s

    async def _heard(self, socket: ClientConnection, told: UUID) -> None:
        if self.drop_acks > 0:
            self.drop_acks -= 1
            await self._say(socket, self.unacknowledged[told])
            return
        self.unacknowledged.pop(told, None)

    async def _tell(self, socket: ClientConnection, told: dict[str, Any]) -> None:
        """Tell an answer, and keep it until it is acknowledged."""
        told_id = UUID(str(uuid7()))
        self.unacknowledged[told_id] = {"id": str(told_id), "at": self.now().isoformat()} | told
        self.answers += 1
        await self._say(socket, self.unacknowledged[told_id])


@dataclass
class SimulatedWrench(OnTheLine):
    """A wrench that makes each pull that it is asked for."""

    manner: hands.Manner = "steady"
    joint: Joint | None = None

    def __post_init__(self) -> None:
        self._wrench = hands.WrenchInHand(manner=self.manner, seed=self.seed)

    def does(self, target: Target) -> bool:
        """Whether it is a pull."""
        return target.is_pull

    async def answer(self, socket: ClientConnection, target: Target) -> None:
        """Pull to the target."""
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
        await self._tell(socket, {"type": "pulled", "torque_nm": made.torque_nm, "angle_deg": made.angle_deg, "curve": made.curve})


@dataclass
class SimulatedGauge(OnTheLine):
    """A gauge that reads what it is asked for, on a joint that answers to what was done in the run."""

    held_s: float = 1.0
    """How long its needle is looked at before its button is pressed."""
    name = "simulated gauge"

    def __post_init__(self) -> None:
        self._gauge = GaugeInHand(self.seed)

    def does(self, target: Target) -> bool:
        """Whether it is a reading of which it is known what it should come to; any other is left to the mechanic."""
        return target.kind == "read" and (target.adjusts != "" or target.low is not None)

    async def answer(self, socket: ClientConnection, target: Target) -> None:
        """Look at the needle, then press the button."""
        for _ in range(max(1, int(self.held_s / LIVE_EVERY_S)) if self.in_real_time else 1):
            await self._say(socket, self._gauge.needle(target).model_dump())
            if self.in_real_time:
                await asyncio.sleep(LIVE_EVERY_S)
        for read in self._gauge.read(target, self.now(), UUID(str(uuid7()))):
            await self._tell(socket, {"type": "read", "figure": read.figure, "unit": read.unit})
