"""Kills at random points while people record: of the server, of its database, of what shows the screen.

Every client keeps what it sends until it is acknowledged, and sends it again. Two clients record on each run, neither
waiting for the other. At the end each acknowledged entry stands in the ledger once, in its own run, as it was sent.
"""

import asyncio
import os
import random
import signal
import subprocess
import sys
import time
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from uuid import UUID

from sqlalchemy import create_engine, text

from tight_ledger.bench.record import Client, sign_in, start
from tight_ledger.demo.load import demo_id, workshop
from tight_ledger.store.backups import verified
from tight_ledger.store.ids import new_id
from tight_ledger.store.server import HOST, OWNER, PrivateServer, free_port

NOTED = "SELECT id, stream, JSON_VALUE(body, '$.text') FROM ledger WHERE kind = 'noted'"
PAUSE_S = 0.5
PRESSED = "2026-06-11T09:00:00+00:00"
"""The moment of every press: sent again, an entry is the same."""
KINDS = ("server", "database", "screen")


@dataclass
class Program:
    """`./tight up` as a process of its own, over a data directory."""

    data: Path
    port: int = field(default_factory=free_port)
    process: "subprocess.Popen[bytes] | None" = None

    def start(self) -> None:
        """Start it, or start it again after a kill."""
        command = [sys.executable, "-m", "tight_ledger.cli", "up", "--port", str(self.port), "--log", "off"]
        known = os.environ | {"TIGHT_DATA": str(self.data), "PYTHONPATH": str(Path(__file__).parents[2])}
        self.process = subprocess.Popen(command, env=known, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)

    def kill(self) -> None:
        """Kill it, as a power cut would; its database goes on."""
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def kill_database(self) -> None:
        """Kill the database; the program starts it again."""
        with suppress(OSError, ValueError):
            os.kill(int((self.data / "mariadb.pid").read_text()), signal.SIGKILL)

    def stop(self) -> None:
        """Stop in order."""
        assert self.process is not None
        self.process.terminate()
        self.process.wait(timeout=60)


@dataclass
class Resender:
    """A client with its outbox, which outlives its screen."""

    port: int
    cookie: str
    run: str
    person: str
    outbox: dict[str, str] = field(default_factory=dict)
    acknowledged: dict[str, str] = field(default_factory=dict)
    number: int = 0

    async def work(self) -> None:
        """Record note after note; whatever is lost is sent again."""
        while True:
            with suppress(OSError, asyncio.IncompleteReadError, ValueError, IndexError):
                client = await Client(self.port, self.cookie).open()
                try:
                    await self._notes(client)
                finally:
                    await client.close()
            await asyncio.sleep(0.05)

    async def _notes(self, client: Client) -> None:
        while True:
            if not self.outbox:
                self.number += 1
                self.outbox[str(new_id())] = f"note {self.number} of {id(self)}"
            await self._send(client)

    async def _send(self, client: Client) -> None:
        for entry, words in list(self.outbox.items()):
            body = {"id": entry, "kind": "noted", "by": self.person, "at_device": PRESSED, "text": words}
            status, _, _ = await client.send("POST", f"/api/runs/{self.run}/entries", body)
            if status == 201:
                self.acknowledged[entry] = self.outbox.pop(entry)
            elif status < 500:
                raise AssertionError(f"refused with {status}")


async def _under_fire(program: Program, resenders: list[Resender], kills: int, dice: random.Random) -> dict[str, int]:
    working = [asyncio.create_task(resender.work()) for resender in resenders]
    counted = dict.fromkeys(KINDS, 0)
    for _ in range(kills):
        await asyncio.sleep(dice.uniform(0, PAUSE_S))
        kind = dice.choice(KINDS)
        counted[kind] += 1
        if kind == "server":
            program.kill()
            program.start()
        elif kind == "database":
            program.kill_database()
        else:
            place = dice.randrange(len(resenders))
            working[place].cancel()
            working[place] = asyncio.create_task(resenders[place].work())
        await _again(resenders)
    for task in working:
        task.cancel()
    failed = [done for done in await asyncio.gather(*working, return_exceptions=True) if isinstance(done, AssertionError)]
    assert not failed, failed[0]
    return counted


async def _again(resenders: list[Resender]) -> None:
    """Wait until something is acknowledged again."""
    before, until = sum(len(resender.acknowledged) for resender in resenders), time.monotonic() + 60
    while sum(len(resender.acknowledged) for resender in resenders) == before:
        assert time.monotonic() < until, "nothing is acknowledged any more"
        await asyncio.sleep(0.02)


async def _shoot(program: Program, kills: int, clients: int, seed: int) -> tuple[list[Resender], dict[str, int]]:
    cookie = await sign_in(program.port)
    client, person = await Client(program.port, cookie).open(), str(demo_id("person", workshop()["people"][0]["name"]))
    runs = [await start(client, number) for number in range((clients + 1) // 2)]
    await client.close()
    resenders = [Resender(program.port, cookie, runs[number // 2], person) for number in range(clients)]
    return resenders, await _under_fire(program, resenders, kills, random.Random(seed))


def run(data: Path, *, kills: int, clients: int, seed: int) -> dict[str, Any]:
    """Shoot, and count what is lost, doubled, or at another place.

    Args:
        data: an empty directory.
        kills: of server, database and screens together.
        clients: two record on each run.
    """
    program = Program(data)
    program.start()
    try:
        resenders, counted = asyncio.run(_shoot(program, kills, clients, seed))
        server = PrivateServer(data)
        server.port = server.running_port() or 0
        engine = create_engine(server.url(OWNER))
        with engine.connect() as connection:
            rows = connection.execute(
                text("SELECT HEX(id), HEX(stream), JSON_VALUE(body, '$.text') FROM ledger WHERE kind = 'noted'")
            ).all()
        engine.dispose()
        verified(server.url(OWNER))
    finally:
        program.stop()
    stored: dict[str, list[tuple[str, str]]] = {}
    for entry, stream, words in rows:
        stored.setdefault(str(UUID(str(entry))), []).append((str(UUID(str(stream))), words))
    sent = {entry: (resender.run, words) for resender in resenders for entry, words in resender.acknowledged.items()}
    return {
        "kills": counted,
        "acknowledged": len(sent),
        "lost": sum(entry not in stored for entry in sent),
        "doubled": sum(len(found) > 1 for found in stored.values()) + len(rows) - len({words for _, _, words in rows}),
        "at_another_place": sum(stored[entry][0] != place for entry, place in sent.items() if entry in stored),
        "seals_hold": True,
        "host": HOST,
    }
