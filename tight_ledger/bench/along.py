"""Tablets that come back all at once and ask for what is taken along, and what a press waits meanwhile."""

import asyncio
import multiprocessing
import statistics
import time
from typing import Any

from sqlalchemy import URL

from tight_ledger.bench.record import Client, ready, serve, sign_in, start
from tight_ledger.demo.load import demo_id, workshop
from tight_ledger.store.ids import new_id
from tight_ledger.store.server import free_port

PRESSES = 40
"""Presses without anybody else, before."""


async def _press(client: Client, run: str, person: str) -> float:
    """Record a note; how long its answer took [s]."""
    body = {"id": str(new_id()), "kind": "noted", "by": person, "at_device": "2026-06-11T09:00:00+00:00", "text": "looked at"}
    started = time.perf_counter()
    status, _, answer = await client.send("POST", f"/api/runs/{run}/entries?brief=true", body)
    assert status == 201, answer
    return time.perf_counter() - started


async def _takes_along(port: int, cookie: str) -> tuple[float, int]:
    """How long a tablet waits for what it takes along [s], and how large it is [bytes]."""
    client = await Client(port, cookie).open()
    started = time.perf_counter()
    status, _, answer = await client.send("GET", "/api/runs/along")
    assert status == 200, answer
    await client.close()
    return time.perf_counter() - started, len(answer["pack"]["machines"])


def _told(times: list[float]) -> dict[str, float]:
    return {"median_ms": round(statistics.median(times) * 1e3, 1), "worst_ms": round(max(times) * 1e3, 1), "presses": len(times)}


async def _all(port: int, tablets: int) -> dict[str, Any]:
    await (await ready(port)).close()
    cookies = [await sign_in(port, name=f"bench {number}") for number in range(tablets + 1)]
    client, person = await Client(port, cookies[-1]).open(), str(demo_id("person", workshop()["people"][0]["name"]))
    run = await start(client, 0)
    quiet = [await _press(client, run, person) for _ in range(PRESSES)]
    asked = [asyncio.create_task(_takes_along(port, cookie)) for cookie in cookies[:-1]]
    beside = []
    while not all(each.done() for each in asked):
        beside.append(await _press(client, run, person))
    took = [each.result()[0] for each in asked]
    return {
        "tablets": tablets, "machines_each": asked[0].result()[1], "all_have_it_after_s": round(max(took), 2),
        "press_quiet": _told(quiet), "press_beside": _told(beside),
    }  # fmt: skip


def run(serving: URL, *, tablets: int) -> dict[str, Any]:
    """Every tablet asks at the same moment, while somebody goes on pressing."""
    server = multiprocessing.get_context("spawn").Process(target=serve, args=(serving, port := free_port()))
    server.start()
    try:
        return asyncio.run(_all(port, tablets))
    finally:
        server.terminate()
        server.join()
