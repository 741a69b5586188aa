"""Clients at work while a database node, a process and a whole host die and come back; and how many entries a second get in, and where.

On one machine: three nodes share its disk and its cores, so the rates compare only with each other.
"""

import asyncio
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tight_ledger.bench.faults import Resender, kept_once, noted
from tight_ledger.bench.record import Client, sign_in, start
from tight_ledger.demo.load import demo_id, workshop
from tight_ledger.installation.programs import Arrangement, Program
from tight_ledger.store.backups import verified
from tight_ledger.store.keeper import keeper
from tight_ledger.store.server import OWNER
from tight_ledger.store.verification import KnownOutside

SETTLES_S = 5.0
"""How long clients work before something is killed, and after it is back."""
LOOKS_EVERY_S, LOOKS = 0.01, 100


async def _clients(port: int, clients: int) -> list[Resender]:
    cookie, person = await sign_in(port), str(demo_id("person", workshop()["people"][0]["name"]))
    client = await Client(port, cookie).open()
    runs = [await start(client, number) for number in range(clients)]
    await client.close()
    return [Resender(port, cookie, run, person) for run in runs]


async def _rate(port: int, clients: int, seconds: float) -> float:
    """Acknowledged entries per second; each client has its own run."""
    resenders = await _clients(port, clients)
    working = [asyncio.create_task(resender.work()) for resender in resenders]
    await asyncio.sleep(1)
    before, began = sum(len(each.acknowledged) for each in resenders), time.monotonic()
    await asyncio.sleep(seconds)
    rate = (sum(len(each.acknowledged) for each in resenders) - before) / (time.monotonic() - began)
    await end(working)
    return round(rate, 1)


async def end(working: list["asyncio.Task[None]"]) -> None:
    """Stop the clients. If the server refused an entry of one of them, that refusal is raised here."""
    for task in working:
        task.cancel()
    failed = [done for done in await asyncio.gather(*working, return_exceptions=True) if isinstance(done, AssertionError)]
    assert not failed, failed[0]


async def _killed(arranged: Arrangement, clients: int) -> tuple[list[Resender], dict[str, float], float]:
    """The clients; the longest pause that any saw, by what died; and within what an entry was told by the other process [ms]."""
    resenders = await _clients(arranged.port, clients)
    working = [asyncio.create_task(resender.work()) for resender in resenders]
    node, program = arranged.nodes, arranged.programs

    def host_dies() -> None:
        program[1].kill()
        node[1].kill()

    def host_is_back() -> None:
        node[1].start(node[1].port)
        program[1].start()
        program[1].wait()

    def process_is_back() -> None:
        program[0].start()
        program[0].wait()

    pauses: dict[str, float] = {}
    stages: tuple[tuple[str, Callable[[], None], Callable[[], object]], ...] = (
        ("nothing", lambda: None, lambda: None),
        ("a node that is written to", node[0].kill, lambda: node[0].start(node[0].port)),
        ("a process", program[0].kill, process_is_back),
        ("a whole host: a node and its process", host_dies, host_is_back),
    )
    for what, dies, is_back in stages:
        for each in resenders:
            each.longest_s = 0.0
        await asyncio.sleep(SETTLES_S)
        await asyncio.to_thread(dies)
        await asyncio.sleep(SETTLES_S)
        await asyncio.to_thread(is_back)
        await asyncio.sleep(SETTLES_S)
        pauses[what] = round(max(each.longest_s for each in resenders), 2)
    writes, reads = [await Client(each.port, resenders[0].cookie).open() for each in program]
    crossing_ms = await crossing(writes, reads, resenders[0])
    await end(working)
    return resenders, pauses, crossing_ms


async def crossing(writes: Client, reads: Client, known: Resender) -> float:
    """How long after its acknowledgement by one process an entry is told by another, in milliseconds: the longest of many.

    Both connections are closed.
    """
    run, longest = await start(writes, 0), 0.0
    for number in range(LOOKS):
        entry = {
            "id": str(demo_id("crossing", f"{run} {number}")),
            "kind": "noted",
            "by": known.person,
            "at_device": "2026-06-11T09:00:00+00:00",
        }
        status, _, answer = await writes.send("POST", f"/api/runs/{run}/entries", entry | {"text": f"crossing {run} {number}"})
        assert status == 201, answer
        began, wanted = time.monotonic(), answer["now"]["seq"]
        while True:
            _, _, told = await reads.send("GET", f"/api/runs/{run}/now")
            if told["seq"] >= wanted:
                break
            await asyncio.sleep(LOOKS_EVERY_S)
        longest = max(longest, time.monotonic() - began)
    for each in (writes, reads):
        await each.close()
    return round(longest * 1e3, 1)


def _alone(data: Path, clients: int, seconds: float, *options: str) -> float:
    program = Program(data, *options)
    program.start()
    try:
        program.wait()
        return asyncio.run(_rate(program.port, clients, seconds))
    finally:
        program.stop()


def run(folder: Path, *, clients: int, seconds: float) -> dict[str, Any]:
    """Measure.

    Args:
        folder: an empty directory that everybody may enter.
        clients: at work at once.
        seconds: how long each rate is measured.
    """
    rates = {
        "one server, one process": _alone(folder / "alone", clients, seconds),
        "one server, two processes": _alone(folder / "two", clients, seconds, "--processes", "2"),
    }
    arranged = Arrangement(folder / "cluster")
    try:
        arranged.start()
        rates["three nodes, two processes, proxy"] = asyncio.run(_rate(arranged.port, clients, seconds))
        resenders, pauses, crossing_ms = asyncio.run(_killed(arranged, clients))
        for program in arranged.programs:
            program.stop()  # an entry may still be on its way when its client has gone
        kept = keeper(arranged.folder / "proof")
        known = KnownOutside(key=kept.key, public=kept.public, outside=tuple(kept.written()))
        entries = {verified(node.url(OWNER), known) for node in arranged.nodes}
        rows = [row for row in noted(arranged.nodes[0].url(OWNER)) if row[2].startswith("note")]
    finally:
        arranged.stop()
    alone = rates["one server, one process"]
    return {
        "clients": clients,
        "entries_per_s": rates,
        "over_one_process": {name: round(rate / alone, 2) for name, rate in rates.items()},
        "longest_pause_s_when_dies": pauses,
        "told_by_the_other_process_within_ms": crossing_ms,
        **kept_once(resenders, [row for row in rows if row[1] in {each.run for each in resenders}]),
        "every_node_has_the_same": len(entries) == 1,
    }
