"""Devices: wrenches that connect, screens that watch a run, and a simulated wrench to try it with."""

import asyncio
from collections.abc import AsyncIterator, Awaitable, Callable, Coroutine
from contextlib import asynccontextmanager, suppress
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Query, WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from tight_ledger.api.dependencies import COOKIE, SignedIn, TheContext, Working
from tight_ledger.core.base.errors import Fault
from tight_ledger.core.base.models import Model
from tight_ledger.core.runs.line_protocol import FROM_WRENCH, Ack, GaugeLive, GaugeRead, Hello, Live, Paired, Refused, Target, Told, Trouble
from tight_ledger.core.runs.panel_wrench import PanelAct, WrenchSaid
from tight_ledger.core.runs.wire import SentPull, SentReading, target_of
from tight_ledger.devices.trial import Trial
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.services.devices import instruments, wrenches
from tight_ledger.services.devices.instruments import Instrument, NewInstrument
from tight_ledger.services.devices.wrenches import Claim, Pairing
from tight_ledger.services.people import who
from tight_ledger.services.runs import curves
from tight_ledger.services.runs.curves import Curves
from tight_ledger.services.runs.recording import Sender
from tight_ledger.store.database import DatabaseAway

router = APIRouter(prefix="/api", tags=["devices"])
TRIES_AGAIN_S = 1.0
MOST_WATCHED = 60
"""Runs that one screen watches."""
LEAST_GAP_S = 0.05
"""Shortest time between two live figures that are passed on; those in between are dropped."""
HELLO_S = 10.0
"""How long a wrench may take to say who it is."""
RIGHTS_S = 0.4
"""How often an open socket's right is looked at."""
NO_RIGHT = 4401
"""Close code of a socket whose user has lost the right to it."""


class PairingCode(Model):
    """What a wrench is told, to speak for a run."""

    code: str


@router.post("/runs/{run_id}/wrenches", operation_id="pair_wrench", status_code=201)
async def pair_wrench(run_id: UUID, request: Command, context: TheContext, actor: Working) -> PairingCode:
    """A code for a wrench to speak for this run."""
    return PairingCode(code=await wrenches.pair(context, actor, run_id, request))


@router.get("/instruments", operation_id="list_instruments")
async def list_instruments(context: TheContext, actor: SignedIn) -> tuple[Instrument, ...]:
    """The wrenches that may tell what they pulled."""
    return await instruments.instruments(context)


@router.post("/instruments", operation_id="register_instrument", status_code=204)
async def register_instrument(request: NewInstrument, context: TheContext, actor: SignedIn) -> None:
    """A keeper registers a wrench with the key that it shows."""
    await instruments.register(context, actor, request)


@router.post("/instruments/{instrument_id}/retire", operation_id="retire_instrument", status_code=204)
async def retire_instrument(instrument_id: UUID, request: Command, context: TheContext, actor: SignedIn) -> None:
    """A keeper takes a wrench off the line for good."""
    await instruments.retire(context, actor, instrument_id, request)


@router.get("/runs/{run_id}/curves", operation_id="read_curves")
async def read_curves(run_id: UUID, context: TheContext, actor: SignedIn) -> Curves:
    """Torque over angle, pull by pull, where a wrench told it; and which fastener stands out."""
    return await curves.of_run(context, run_id)


async def follow(context: Context, run: UUID, event: asyncio.Event, tell: Callable[[Target], Awaitable[None]]) -> None:
    """Send the next target whenever it changes. While the database is away it waits."""
    last: Target | None = None
    while True:
        await event.wait()
        event.clear()
        try:
            target = target_of(await wrenches.wanted(context, run))
        except DatabaseAway:
            await asyncio.sleep(TRIES_AGAIN_S)
            event.set()
            continue
        if target != last:
            await tell(target)
            last = target


@asynccontextmanager
async def _following(context: Context, run: UUID, tell: Callable[[Target], Awaitable[None]]) -> AsyncIterator["asyncio.Task[None]"]:
    """Follow a run in a task of its own; an error in it is raised when the block ends."""
    with context.listeners.wrench(run) as event:
        task = asyncio.create_task(follow(context, run, event, tell))
        try:
            yield task
        finally:
            task.cancel()
            with suppress(asyncio.CancelledError, WebSocketDisconnect, RuntimeError):
                await task


async def _until_one_ends(
    socket: WebSocket, following: "asyncio.Task[None]", work: Coroutine[Any, Any, None], ended: Callable[[], Awaitable[object]]
) -> None:
    """Serve a socket until its work ends, the run is no longer followed, or the right to it has ended; then close it.

    Args:
        ended: says whether the right has ended.
    """
    serving, right = asyncio.create_task(work), asyncio.create_task(_until(ended))
    try:
        await asyncio.wait({serving, following, right}, return_when=asyncio.FIRST_COMPLETED)
        if serving.done():
            serving.result()
        else:
            await socket.close(code=NO_RIGHT if right.done() else 1011)
    finally:
        serving.cancel()
        right.cancel()


async def _until(ended: Callable[[], Awaitable[object]]) -> None:
    """Wait until a right has ended, by this process or another. While the database is away the right is taken to hold."""
    while True:
        await asyncio.sleep(RIGHTS_S)
        with suppress(DatabaseAway):
            if await ended():
                return


@router.websocket("/devices")
async def wrench_speaks(socket: WebSocket) -> None:
    """A wrench, by the device protocol."""
    await socket.accept()
    context: Context = socket.app.state.context
    with suppress(WebSocketDisconnect):
        pairing = await _hello(socket, context)
        if pairing is None:
            return

        async def tell(target: Target) -> None:
            await socket.send_text(target.model_dump_json())

        async with _following(context, pairing.run, tell) as following:
            await _until_one_ends(socket, following, _listen(socket, context, pairing), lambda: wrenches.right_ended(context, pairing))


async def _hello(socket: WebSocket, context: Context) -> Pairing | None:
    """Read the first message and find the run of its code; None after a refusal was sent."""
    try:
        async with asyncio.timeout(HELLO_S):
            said = FROM_WRENCH.validate_json(await socket.receive_text())
        if not isinstance(said, Hello):
            raise ValueError("the first message is hello")
        claimed = Claim(said.instrument, said.key) if said.instrument is not None else None
        pairing = await wrenches.paired(context, said.code, claimed)
    except (Fault, ValidationError, ValueError, TimeoutError) as error:
        fault = error.fault if isinstance(error, Fault) else "The first message is hello, with the code and version 1."
        await socket.send_text(Refused(fault=fault).model_dump_json())
        await socket.close()
        return None
    await socket.send_text(Paired(run=pairing.run).model_dump_json())
    return pairing


async def _listen(socket: WebSocket, context: Context, pairing: Pairing) -> None:
    clock, shown = asyncio.get_running_loop(), 0.0
    while True:
        try:
            said = FROM_WRENCH.validate_json(await socket.receive_text())
        except ValidationError:
            await socket.send_text(Refused(fault="This is no message of version 1.").model_dump_json())
            continue
        if isinstance(said, Live | GaugeLive):
            if clock.time() - shown >= LEAST_GAP_S:
                shown = clock.time()
                _show(context, pairing.run, said)
        elif isinstance(said, Told | GaugeRead):
            await _told(socket, context, pairing, said)
        elif isinstance(said, Trouble):
            context.listeners.tell(pairing.run, said.model_dump())


def _show(context: Context, run_id: UUID, said: Live | GaugeLive) -> None:
    """Show everybody who looks at a run what its wrench or its gauge shows now."""
    if isinstance(said, Live):
        wrenches.live(context, run_id, said.torque_nm, said.angle_deg)
    else:
        wrenches.needle(context, run_id, said.figure, said.unit)


async def _told(socket: WebSocket, context: Context, pairing: Pairing, said: Told | GaugeRead) -> None:
    try:
        if isinstance(said, GaugeRead):
            await wrenches.take_reading(context, pairing, SentReading(said.id, said.at, said.figure, said.unit))
        else:
            await wrenches.take(context, pairing, SentPull(said.id, said.at, said.torque_nm, said.angle_deg, said.curve))
    except Fault as fault:
        await socket.send_text(Refused(id=said.id, fault=fault.fault).model_dump_json())
    else:
        await socket.send_text(Ack(id=said.id).model_dump_json())


@router.websocket("/runs/{run_id}/trial")
async def trial_wrench(socket: WebSocket, run_id: UUID) -> None:
    """A simulated wrench, held by a key in the browser. It is sent each target: from the first on, a press is heard."""
    context: Context = socket.app.state.context
    try:
        actor = await who(context, socket.cookies.get(COOKIE, ""))
    except Fault:
        await socket.close(code=NO_RIGHT)
        return
    await socket.accept()
    pairing = Pairing(run_id, actor, Sender(None))

    async def tell(said: WrenchSaid) -> None:
        if isinstance(said, Told | GaugeRead):
            await _told(socket, context, pairing, said)
        elif isinstance(said, Live | GaugeLive):
            _show(context, run_id, said)
        else:
            context.listeners.tell(run_id, said.model_dump())

    trial = Trial(tell)

    async def aim(target: Target) -> None:
        trial.aim(target)
        await socket.send_text(target.model_dump_json())

    async def act() -> None:
        while True:
            await trial.act(PanelAct.model_validate_json(await socket.receive_text()))

    async with _following(context, run_id, aim) as following:
        try:
            with suppress(WebSocketDisconnect):
                await _until_one_ends(socket, following, act(), lambda: wrenches.right_ended(context, pairing))
        finally:
            trial.stop()


@router.websocket("/watch")
async def watch(socket: WebSocket, run: Annotated[list[UUID], Query(max_length=MOST_WATCHED)]) -> None:
    """A screen that watches runs: it hears when something was recorded, and what the wrench shows."""
    context: Context = socket.app.state.context
    token = socket.cookies.get(COOKIE, "")

    async def signed_out() -> bool:
        try:
            await who(context, token)
        except Fault:
            return True
        return False

    if await signed_out():
        await socket.close(code=NO_RIGHT)
        return
    await socket.accept()
    with context.listeners.screen(set(run)) as queue:
        gone, ended = asyncio.create_task(socket.receive_text()), asyncio.create_task(_until(signed_out))
        try:
            while not gone.done() and not ended.done():
                coming = asyncio.create_task(queue.get())
                await asyncio.wait({coming, gone, ended}, return_when=asyncio.FIRST_COMPLETED)
                if ended.done():
                    await socket.close(code=NO_RIGHT)
                elif coming.done():
                    await socket.send_text(coming.result())
                coming.cancel()
        except (WebSocketDisconnect, RuntimeError):
            pass
        finally:
            gone.cancel()
            ended.cancel()
            with suppress(WebSocketDisconnect, asyncio.CancelledError):
                await gone
