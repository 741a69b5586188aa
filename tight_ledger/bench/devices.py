"""Runs going on at once, each with a wrench on the line and a second screen: what is lost, how late the screen is."""

import asyncio
import json
import multiprocessing
import resource
import time
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import URL
from websockets.asyncio.client import connect

from tight_ledger.bench.record import Client, ready, serve, sign_in, start
from tight_ledger.core.runs.line_protocol import VERSION
from tight_ledger.demo.load import demo_id, workshop
from tight_ledger.store.ids import new_id
from tight_ledger.store.server import HOST, free_port

LIVE_FOR_S, LIVE_EVERY_S = 2.0, 0.1
CURVE = tuple((float(n), n * 6.5) for n in range(90))


async def _up_to_the_first_pull(client: Client, run: str, person: str) -> int:
    """Confirm the tasks before it; gives the seq of the newest entry."""
    while True:
        _, _, now = await client.send("GET", f"/api/runs/{run}/now")
        if now["prompt"]["ask"] != "confirm":
            return int(now["seq"])
        body = {"id": str(new_id()), "kind": "confirmed", "by": person, "pull": now["prompt"]["pull"], "at_device": _now()}
        await client.send("POST", f"/api/runs/{run}/entries", body)


def _now() -> str:
    return datetime.now(UTC).isoformat()


async def _wrench(port: int, code: str, pulls: int, sent: list[float]) -> int:
    """Live figures ten times a second, then the pull with its whole curve; how many were acknowledged."""
    acknowledged = 0
    async with connect(f"ws://{HOST}:{port}/api/devices") as socket:
        await socket.send(json.dumps({"type": "hello", "v": VERSION, "code": code}))
        while acknowledged < pulls:
            said = json.loads(await socket.recv())
            acknowledged += said["type"] == "ack"
            if said["type"] != "target" or said["kind"] != "torque":
                continue
            for _ in range(int(LIVE_FOR_S / LIVE_EVERY_S)):
                await socket.send(json.dumps({"type": "live", "torque_nm": 100.0, "angle_deg": 20.0}))
                await asyncio.sleep(LIVE_EVERY_S)
            told = {"type": "pulled", "id": str(UUID(str(new_id()))), "at": _now(), "torque_nm": said["torque_nm"], "angle_deg": 90.0}
            sent.append(time.perf_counter())
            await socket.send(json.dumps(told | {"curve": CURVE}))
    return acknowledged


async def _screen(port: int, cookie: str, run: str, before: int, pulls: int, sent: list[float], late: list[float]) -> int:
    """A second screen: how long after each pull was sent it is told; how many live figures it saw.

    Args:
        before: seq of the run's newest entry before the first pull.
    """
    live, changed = 0, 0
    async with connect(f"ws://{HOST}:{port}/api/watch?run={run}", additional_headers={"Cookie": cookie}) as socket:
        while changed < pulls:
            said = json.loads(await socket.recv())
            live += said["type"] == "live"
            if said["type"] == "changed":
                now = said["seq"] - before
                late += [time.perf_counter() - sent[pull] for pull in range(changed, now)]
                changed = max(changed, now)
    return live


async def _all(port: int, screens: int, runs: int, pulls: int) -> dict[str, Any]:
    await ready(port)
    await ready(screens)
    cookie = await sign_in(port)
    client, person = await Client(port, cookie).open(), str(demo_id("person", workshop()["people"][0]["name"]))
    work, late = [], list[float]()
    for number in range(runs):
        run, sent = await start(client, number), list[float]()
        before = await _up_to_the_first_pull(client, run, person)
        _, _, code = await client.send("POST", f"/api/runs/{run}/wrenches", {"id": str(new_id())})
        work.append(asyncio.gather(_wrench(port, code["code"], pulls, sent), _screen(screens, cookie, run, before, pulls, sent, late)))
    started = time.perf_counter()
    done = await asyncio.gather(*work)
    took, late = time.perf_counter() - started, sorted(late)
    return {
        "runs": runs, "pulls": runs * pulls, "acknowledged": sum(counted[0] for counted in done),
        "live_figures_seen": sum(counted[1] for counted in done),
        "live_figures_sent": runs * pulls * int(LIVE_FOR_S / LIVE_EVERY_S), "seconds": round(took, 1),
        "to_the_second_screen_ms": {"p50": round(late[len(late) // 2] * 1e3, 1), "p95": round(late[int(len(late) * 0.95)] * 1e3, 1)},
    }  # fmt: skip


def run(serving: URL, *, runs: int, pulls: int, apart: bool) -> dict[str, Any]:
    """What was lost, how late the second screens were, and the memory of the clients and the servers.

    Args:
        apart: whether the second screens are served by another process.
    """
    ports = [free_port(), free_port()] if apart else [free_port()]
    servers = [multiprocessing.get_context("spawn").Process(target=serve, args=(serving, port)) for port in ports]
    for server in servers:
        server.start()
    try:
        result = asyncio.run(_all(ports[0], ports[-1], runs, pulls))
    finally:
        for server in servers:
            server.terminate()
        for server in servers:
            server.join()
    return result | {"server_memory_mb": round(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1_024)}
