"""Durable entries a second through the API, beside bare durable inserts of the same rows.

The same MariaDB, driver, number of clients and rows; rounds alternate, and the ratios are of their medians.
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
from tight_ledger.demo.load import demo_id, workshop
from tight_ledger.store.ids import new_id
from tight_ledger.store.server import HOST, free_port

ROUNDS = 3
INSERT = "INSERT INTO ledger (stream, seq, id, subject, kind, at_server, body, seal) VALUES (%s, %s, %s, %s, %s, %s, %s, %s)"


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

    def __init__(self, port: int, cookie: str = "") -> None:
        self.port, self.cookie = port, cookie

    async def open(self) -> "Client":
        self.reader, self.writer = await asyncio.open_connection(HOST, self.port)
        return self

    async def close(self) -> None:
        """Close the connection, whatever became of the other side."""
        self.writer.close()
        with suppress(OSError):
            await self.writer.wait_closed()

    async def send(self, method: str, path: str, body: dict[str, Any] | None = None) -> tuple[int, str, dict[str, Any]]:
        data = json.dumps(body).encode() if body is not None else b""
        cookie = f"Cookie: {self.cookie}\r\n" if self.cookie else ""
        head = f"{method} {path} HTTP/1.1\r\nHost: {HOST}\r\n{cookie}Content-Type: application/json\r\nContent-Length: {len(data)}\r\n\r\n"
        self.writer.write(head.encode() + data)
        answer = (await self.reader.readuntil(b"\r\n\r\n")).decode()
        fields = dict(line.split(": ", 1) for line in answer.split("\r\n")[1:] if ": " in line)
        content = await self.reader.readexactly(int(fields.get("content-length", 0)))
        return int(answer.split(" ", 2)[1]), fields.get("set-cookie", ""), json.loads(content or b"{}")


async def ready(port: int) -> Client:
    for _ in range(300):
        try:
            return await Client(port).open()
        except OSError:
            await asyncio.sleep(0.1)
    raise TimeoutError("the server did not come up")


async def sign_in(port: int) -> str:
    """The cookies of a tablet that was introduced, and of its session."""
    client, person = await ready(port), workshop()["people"][0]
    who = {"person": str(demo_id("person", person["name"])), "pin": person["pin"]}
    status, tablet, answer = await client.send("POST", "/api/tablets", {"id": str(new_id()), "name": "bench"} | who)
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


async def _pull(client: Client, run: str, person: str, entries: int, times: list[float]) -> None:
    _, _, now = await client.send("GET", f"/api/runs/{run}/now")
    at = datetime.now(UTC)
    for number in range(entries):
        prompt, seq = now["prompt"], now["seq"]
        act: dict[str, Any] = prompt["acts"][0] if prompt["acts"] else {"kind": "noted", "unplanned": True}
        body: dict[str, Any] = {
            "id": str(new_id()), "by": person, "claimed_seq": seq + 1, "at_device": (at + timedelta(seconds=4 * number)).isoformat(),
            **{name: act.get(name) for name in ("kind", "how", "moved", "option", "setting")},
        }  # fmt: skip
        body |= {"tools": [str(demo_id("wrench", "W-11 one-inch"))]} if act["kind"] == "set" else {}
        body |= {} if act["unplanned"] else {"pull": prompt["pull"], "fastener": prompt["fastener"]}
        started = time.perf_counter()
        status, _, answer = await client.send("POST", f"/api/runs/{run}/entries", body)
        times.append(time.perf_counter() - started)
        assert status == 201, answer
        now = answer["now"]


async def _through_api(port: int, cookie: str, clients: int, entries: int) -> tuple[float, list[float], list[str]]:
    hands = [await Client(port, cookie).open() for _ in range(clients)]
    runs = [await start(client, number) for number, client in enumerate(hands)]
    person, times = str(demo_id("person", workshop()["people"][0]["name"])), []  # type: str, list[float]
    started = time.perf_counter()
    await asyncio.gather(*(_pull(client, run, person, entries, times) for client, run in zip(hands, runs, strict=True)))
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
    port = free_port()
    server = multiprocessing.get_context("spawn").Process(target=serve, args=(serving, port), daemon=True)
    server.start()
    try:
        return asyncio.run(_measure(owner, port, clients, entries))
    finally:
        server.terminate()
        server.join()


async def _measure(owner: URL, port: int, clients: int, entries: int) -> dict[str, Any]:
    cookie = await sign_in(port)
    await _through_api(port, cookie, clients, 5)
    api: list[tuple[float, list[float]]] = []
    bare: list[tuple[float, list[float]]] = []
    for _ in range(ROUNDS):
        took, times, runs = await _through_api(port, cookie, clients, entries)
        api.append((took, times))
        bare.append(await _bare(owner, _rows(owner, runs)))
    through, inserts = _figures(api), _figures(bare)
    return {
        "clients": clients,
        "entries": clients * entries * ROUNDS,
        "api": through,
        "bare_inserts": inserts,
        "ratio": {
            "time_per_entry": round(inserts["entries_per_s"] / through["entries_per_s"], 2),
            "p50": round(through["p50_ms"] / inserts["p50_ms"], 2),
            "p95": round(through["p95_ms"] / inserts["p95_ms"], 2),
        },
    }
