"""Kills at random points while people record: of the server, of its database, of what shows the screen.

Every client keeps what it sends until it is acknowledged, and sends it again. Two clients record on each run, neither
waiting for the other. At the end each acknowledged entry stands in the ledger once, in its own run, as it was sent.
"""

import asyncio
import os
import random
import signal
import time
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from uuid import UUID

from sqlalchemy import URL, create_engine, text

from tight_ledger.bench.record import Client, sign_in, start
from tight_ledger.demo.load import demo_id, workshop
from tight_ledger.installation.programs import Program
from tight_ledger.store.backups import verified
from tight_ledger.store.ids import new_id
from tight_ledger.store.keeper import keeper
from tight_ledger.store.server import HOST, OWNER, PrivateServer
from tight_ledger.store.verification import KnownOutside

PAUSE_S = 0.5
PRESSED = "2026-06-11T09:00:00+00:00"
"""The moment of every press: sent again, an entry is the same."""
KINDS = ("server", "database", "screen")


def kill_database(data: Path) -> None:
    """Kill the database; the program starts it again."""
    with suppress(OSError, ValueError):
        os.kill(int((data / "mariadb.pid").read_text()), signal.SIGKILL)


@dataclass
class Resender:
    """A client with its outbox, which outlives its screen."""

    port: int
    cookie: str
    run: str
    person: str
    others: tuple[tuple[str, int], ...] = ()
    """Further hosts with their ports. If a host does not answer, the client tries the next."""
    host: str = HOST
    patience_s: float = 10.0
    """How long it waits for an answer before it asks again."""
    outbox: dict[str, str] = field(default_factory=dict)
    acknowledged: dict[str, str] = field(default_factory=dict)
    number: int = 0
    last: float = field(default_factory=time.monotonic)
    longest_s: float = 0.0
    """The longest time without an acknowledgement."""

    async def work(self) -> None:
        """Record note after note; whatever is lost is sent again."""
        while True:
            with suppress(OSError, asyncio.IncompleteReadError, ValueError, IndexError):
                async with asyncio.timeout(self.patience_s):
                    client = await Client(self.port, self.cookie, self.host).open()
                try:
                    await self._notes(client)
                finally:
                    await client.close()
            if self.others:
                (next_host, next_port), *more = self.others
                self.others, self.host, self.port = (*more, (self.host, self.port)), next_host, next_port
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
            async with asyncio.timeout(self.patience_s):
                status, _, _ = await client.send("POST", f"/api/runs/{self.run}/entries", body)
            if status >= 500 and self.others:
                raise OSError(status)
            if status == 201:
                self.acknowledged[entry] = self.outbox.pop(entry)
                now = time.monotonic()
                self.last, self.longest_s = now, max(self.longest_s, now - self.last)
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
            kill_database(program.data)
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
    before, until = sum(len(resender.acknowledged) for resender in resenders), time.monotonic() + 180
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
        program.wait()
        resenders, counted = asyncio.run(_shoot(program, kills, clients, seed))
    finally:
        program.stop()
    server = PrivateServer(data)  # the last kill may have been the database's, and the program just starting it again
    server.start()
    try:
        rows, kept = noted(server.url(OWNER)), keeper(data / "proof")
        verified(server.url(OWNER), KnownOutside(key=kept.key, public=kept.public, outside=tuple(kept.written())))
    finally:
        server.stop()
    return {"kills": counted, **kept_once(resenders, rows), "seals_hold": True, "host": HOST}


def noted(owner: URL) -> list[tuple[str, str, str]]:
    """Every note in the ledger: its id, its run, its words."""
    engine = create_engine(owner)
    with engine.connect() as connection:
        rows = connection.execute(text("SELECT HEX(id), HEX(stream), JSON_VALUE(body, '$.text') FROM ledger WHERE kind = 'noted'")).all()
    engine.dispose()
    return [(str(UUID(entry)), str(UUID(stream)), words) for entry, stream, words in rows]


def kept_once(resenders: list[Resender], rows: list[tuple[str, str, str]]) -> dict[str, int]:
    """How much of what was acknowledged is lost, doubled, or at another place."""
    stored: dict[str, list[str]] = {}
    for entry, stream, _ in rows:
        stored.setdefault(entry, []).append(stream)
    sent = {entry: resender.run for resender in resenders for entry in resender.acknowledged}
    return {
        "acknowledged": len(sent),
        "lost": sum(entry not in stored for entry in sent),
        "doubled": sum(len(found) > 1 for found in stored.values()) + len(rows) - len({words for _, _, words in rows}),
        "at_another_place": sum(stored[entry][0] != place for entry, place in sent.items() if entry in stored),
    }
