"""Durable entries a second through the API, beside a bare FastAPI endpoint that inserts the same rows, and the bare inserts.

The same MariaDB, driver, number of clients and rows; rounds alternate, and the ratios are of their medians. The clients are
tablets that judge their runs themselves: what they send was worked out before, and they ask for brief answers.
"""

import asyncio
import json
import multiprocessing
import statistics
import time
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

import asyncmy
import uvicorn
from sqlalchemy import URL, create_engine, text

from tight_ledger.api.app import Settings, create_app
from tight_ledger.bench.bare import INSERT, serve_bare
from tight_ledger.core.base.people import Person
from tight_ledger.core.kinds.acts import Act
from tight_ledger.core.records.entries import Report
from tight_ledger.core.records.upcasting import read_entry
from tight_ledger.core.runs.local import LocalRun
from tight_ledger.demo.load import demo_id, workshop
from tight_ledger.store.ids import new_id
from tight_ledger.store.server import HOST, free_port

ROUNDS = 3
DEVICE = UUID(int=1)


def serve(serving: URL, port: int) -> None:
    uvicorn.run(
        create_app(Settings(serving=serving.render_as_string(hide_password=False), log="off")),
        host=HOST,
        port=port,
        log_level="error",
        access_log=False,
    )


class Client:
    """A keep-alive HTTP/1.1 connection with the least work on the client's side."""

    def __init__(self, port: int, cookie: str = "", host: str = HOST) -> None:
        self.port, self.cookie, self.host = port, cookie, host

    async def open(self) -> "Client":
        self.reader, self.writer = await asyncio.open_connection(self.host, self.port)
        return self

    async def close(self) -> None:
        """Close the connection, whatever became of the other side."""
        self.writer.close()
        with suppress(OSError):
            await self.writer.wait_closed()

    async def send(self, method: str, path: str, body: dict[str, Any] | None = None) -> tuple[int, str, dict[str, Any]]:
        data = json.dumps(body).encode() if body is not None else b""
        cookie = f"Cookie: {self.cookie}\r\n" if self.cookie else ""
        head = f"{method} {path} HTTP/1.1\r\nHost: {self.host}\r\n"
        head += f"{cookie}Content-Type: application/json\r\nContent-Length: {len(data)}\r\n\r\n"
        self.writer.write(head.encode() + data)
        answer = (await self.reader.readuntil(b"\r\n\r\n")).decode()
        fields = dict(line.split(": ", 1) for line in answer.split("\r\n")[1:] if ": " in line)
        content = await self.reader.readexactly(int(fields.get("content-length", 0)))
        return int(answer.split(" ", 2)[1]), fields.get("set-cookie", ""), json.loads(content or b"{}")


async def ready(port: int, host: str = HOST) -> Client:
    for _ in range(1_200):
        try:
            return await Client(port, host=host).open()
        except OSError:
            await asyncio.sleep(0.1)
    raise TimeoutError("the server did not come up")


async def sign_in(port: int, host: str = HOST, name: str = "bench") -> str:
    """The cookies of a tablet that was introduced, and of its session."""
    client, person = await ready(port, host), workshop()["people"][0]
    who = {"person": str(demo_id("person", person["name"])), "pin": person["pin"]}
    status, tablet, answer = await client.send("POST", "/api/tablets", {"id": str(new_id()), "name": name} | who)
    assert status == 204, answer
    client.cookie = tablet.split(";")[0]
    status, session, answer = await client.send("POST", "/api/sessions", who)
    await client.close()
    assert status == 201, answer
    return f"{client.cookie}; {session.split(';')[0]}"


async def start(client: Client, number: int) -> str:
    """A run of the bus's wheel on a machine of its own."""
    machine, run = str(new_id()), str(new_id())
    fleet = f"BN-{str(machine)[-6:]}-{number}"
    status, _, answer = await client.send(
        "POST", "/api/machines", {"id": machine, "fleet_number": fleet, "maker_model": "Fennick Causeway 12"}
    )
    assert status == 201, answer
    body = {
        "id": run, "spec": str(demo_id("spec", "Fennick Causeway 12 Rear wheel nuts")), "revision": 1, "procedure": "tighten",
        "machine": machine, "position": {"axle": "rear", "side": "left"}, "tooling": [{"wrench": str(demo_id("wrench", "W-11 one-inch"))}],
        "proof": "10 studs, M22", "at_device": datetime.now(UTC).isoformat(),
    }  # fmt: skip
    status, _, answer = await client.send("POST", "/api/runs", body)
    assert status == 201, answer
    return run


async def _reports(client: Client, run: str, entries: int) -> list[dict[str, Any]]:
    """What a tablet that holds the run sends while somebody does what comes next."""
    _, _, told = await client.send("GET", f"/api/runs/{run}/stream")
    held = LocalRun([read_entry(json.dumps(body)) for body in told["entries"]], told["hand"])
    person, at, sent = workshop()["people"][0], datetime.now(UTC), []
    me, wrench = Person(id=demo_id("person", person["name"]), name=person["name"], roles=("lead",)), demo_id("wrench", "W-11 one-inch")
    for number in range(entries):
        now = held.now
        act = now.prompt.acts[0] if now.prompt.acts else Act(say="", kind="noted", unplanned=True)
        said: dict[str, Any] = {"kind": act.kind, "how": act.how, "moved": act.moved, "option": act.option, "setting": act.setting}
        said |= {"tools": (wrench,)} if act.kind == "set" else {}
        said |= {} if act.unplanned else {"pull": now.prompt.pull, "fastener": now.prompt.fastener}
        common = {"id": new_id(), "by": me.id, "claimed_seq": now.seq + 1, "at_device": at + timedelta(seconds=4 * number)}
        report = Report.model_validate(common | {name: value for name, value in said.items() if value is not None})
        held.report(me, DEVICE, report)
        sent.append(json.loads(report.model_dump_json(exclude_none=True)))
    return sent


async def _send(client: Client, path: str, bodies: list[dict[str, Any]], times: list[float]) -> None:
    for body in bodies:
        started = time.perf_counter()
        status, _, answer = await client.send("POST", path, body)
        times.append(time.perf_counter() - started)
        assert status == 201, answer


async def _bare_endpoint(port: int, clients: list[list[tuple[Any, ...]]]) -> tuple[float, list[float]]:
    names = ("stream", "seq", "id", "subject", "kind", "at_server", "body", "seal")
    hands, times = [await (await ready(port)).open() for _ in clients], list[float]()
    bodies = [[dict(zip(names, (*row[:5], str(row[5]), row[6], row[7].hex()), strict=True)) for row in rows] for rows in clients]
    started = time.perf_counter()
    await asyncio.gather(*(_send(client, "/rows", rows, times) for client, rows in zip(hands, bodies, strict=True)))
    took = time.perf_counter() - started
    for client in hands:
        await client.close()
    return took, times


async def _through_api(port: int, cookie: str, clients: int, entries: int) -> tuple[float, list[float], list[str]]:
    hands = [await Client(port, cookie).open() for _ in range(clients)]
    runs = [await start(client, number) for number, client in enumerate(hands)]
    bodies = [await _reports(client, run, entries) for client, run in zip(hands, runs, strict=True)]
    times: list[float] = []
    started = time.perf_counter()
    await asyncio.gather(
        *(_send(client, f"/api/runs/{run}/entries?brief=true", sent, times) for client, run, sent in zip(hands, runs, bodies, strict=True))
    )
    return time.perf_counter() - started, times, runs


async def _bare(owner: URL, clients: list[list[tuple[Any, ...]]]) -> tuple[float, list[float]]:
    times: list[float] = []
    pool = [
        await asyncmy.connect(
            host=owner.host, port=owner.port, user=owner.username, password=owner.password, db=owner.database, autocommit=True
        )
        for _ in clients
    ]

    async def write_rows(connection: Any, rows: list[tuple[Any, ...]]) -> None:
        async with connection.cursor() as cursor:
            for row in rows:
                started = time.perf_counter()
                await cursor.execute(INSERT, row)
                times.append(time.perf_counter() - started)

    started = time.perf_counter()
    await asyncio.gather(*(write_rows(connection, rows) for connection, rows in zip(pool, clients, strict=True)))
    took = time.perf_counter() - started
    for connection in pool:
        connection.close()
    return took, times


def _rows(owner: URL, runs: list[str]) -> list[list[tuple[Any, ...]]]:
    """The rows that the API wrote, under new keys: the same bytes once more."""
    engine = create_engine(owner)
    with engine.connect() as connection:
        found = [
            connection.execute(
                text("SELECT seq, subject, kind, at_server, body, seal FROM ledger WHERE stream = :run AND seq > 1 ORDER BY seq"),
                {"run": UUID(run)},
            ).all()
            for run in runs
        ]
    engine.dispose()
    return [
        [(stream, row.seq, str(new_id()), row.subject, row.kind, row.at_server, row.body, row.seal) for row in rows]
        for rows in found
        for stream in (str(new_id()),)
    ]


def _figures(rounds: list[tuple[float, list[float]]]) -> dict[str, float]:
    times = sorted(t for _, each in rounds for t in each)
    rate = statistics.median(len(each) / took for took, each in rounds)
    return {
        "entries_per_s": round(rate, 1),
        "p50_ms": round(times[len(times) // 2] * 1e3, 2),
        "p95_ms": round(times[int(len(times) * 0.95)] * 1e3, 2),
    }


def record(owner: URL, serving: URL, *, clients: int, entries: int) -> dict[str, Any]:
    """Run it; figures of both ways and their ratios (API over bare, in time)."""
    port, bare_port, spawn = free_port(), free_port(), multiprocessing.get_context("spawn")
    known = owner.render_as_string(hide_password=False)
    servers = [
        spawn.Process(target=serve, args=(serving, port), daemon=True),
        spawn.Process(target=serve_bare, args=(known, bare_port), daemon=True),
    ]
    for server in servers:
        server.start()
    try:
        return asyncio.run(_measure(owner, port, bare_port, clients, entries))
    finally:
        for server in servers:
            server.terminate()
            server.join()


async def _measure(owner: URL, port: int, bare_port: int, clients: int, entries: int) -> dict[str, Any]:
    cookie = await sign_in(port)
    await _through_api(port, cookie, clients, 5)
    rounds: dict[str, list[tuple[float, list[float]]]] = {"api": [], "bare_endpoint": [], "bare_inserts": []}
    for _ in range(ROUNDS):
        took, times, runs = await _through_api(port, cookie, clients, entries)
        rounds["api"].append((took, times))
        rounds["bare_endpoint"].append(await _bare_endpoint(bare_port, _rows(owner, runs)))
        rounds["bare_inserts"].append(await _bare(owner, _rows(owner, runs)))
    figures = {name: _figures(each) for name, each in rounds.items()}
    through = figures["api"]
    return {
        "clients": clients,
        "entries": clients * entries * ROUNDS,
        **figures,
        "api_over": {
            name: {
                "time_per_entry": round(figures[name]["entries_per_s"] / through["entries_per_s"], 2),
                "p50": round(through["p50_ms"] / figures[name]["p50_ms"], 2),
                "p95": round(through["p95_ms"] / figures[name]["p95_ms"], 2),
            }
            for name in ("bare_endpoint", "bare_inserts")
        },
    }
