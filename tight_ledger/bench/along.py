"""Tablets that come back all at once and ask for what is taken along, and what a press waits meanwhile."""

import asyncio
import json
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
CHANGES, PARTS_AT_ONCE = 10, 20
"""How often a tablet takes along what one press changed; how many parts it asks for at once."""


async def _press(client: Client, run: str, person: str) -> float:
    """Record a note; how long its answer took [s]."""
    body = {"id": str(new_id()), "kind": "noted", "by": person, "at_device": "2026-06-11T09:00:00+00:00", "text": "looked at"}
    started = time.perf_counter()
    status, _, answer = await client.send("POST", f"/api/runs/{run}/entries?brief=true", body)
    assert status == 201, answer
    return time.perf_counter() - started


async def _takes_along(client: Client, known: dict[str, str]) -> tuple[float, int, int]:
    """How long a tablet waits for what it has not yet [s], in how many parts and bytes of JSON it comes; `known` is its versions."""
    started = time.perf_counter()
    status, _, listed = await client.send("GET", "/api/runs/along")
    assert status == 200, listed
    names = [name for name, version in listed["parts"].items() if known.get(name) != version]
    size = len(json.dumps(listed))
    for first in range(0, len(names), PARTS_AT_ONCE):
        status, _, parts = await client.send("POST", "/api/runs/along/parts", {"names": names[first : first + PARTS_AT_ONCE]})
        assert status == 200, parts
        size += len(json.dumps(parts))
    took = time.perf_counter() - started
    known |= listed["parts"]
    return took, len(names), size


async def _first_of_a_tablet(port: int, cookie: str) -> tuple[float, int, int]:
    client = await Client(port, cookie).open()
    taken = await _takes_along(client, {})
    await client.close()
    return taken


def _told(times: list[float]) -> dict[str, float]:
    return {"median_ms": round(statistics.median(times) * 1e3, 1), "worst_ms": round(max(times) * 1e3, 1), "presses": len(times)}


async def _all(port: int, tablets: int) -> dict[str, Any]:
    await (await ready(port)).close()
    cookies = [await sign_in(port, name=f"bench {number}") for number in range(tablets + 1)]
    client, person = await Client(port, cookies[-1]).open(), str(demo_id("person", workshop()["people"][0]["name"]))
    run = await start(client, 0)
    quiet = [await _press(client, run, person) for _ in range(PRESSES)]
    known: dict[str, str] = {}
    await _takes_along(client, known)
    changed = []
    for _ in range(CHANGES):
        await _press(client, run, person)
        changed.append(await _takes_along(client, known))
    asked = [asyncio.create_task(_first_of_a_tablet(port, cookie)) for cookie in cookies[:-1]]
    beside = []
    while not all(each.done() for each in asked):
        beside.append(await _press(client, run, person))
    took = [each.result() for each in asked]
    return {
        "tablets": tablets, "parts_each": took[0][1], "kb_each": took[0][2] // 1024,
        "all_have_it_after_s": round(max(each[0] for each in took), 2),
        "one_run_changed_ms": round(statistics.median(each[0] for each in changed) * 1e3, 1),
        "one_run_changed_kb": changed[-1][2] // 1024, "one_run_changed_parts": changed[-1][1],
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
