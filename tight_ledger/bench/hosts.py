"""Measures three hosts under load while a cable is cut and repaired, and while a whole host is killed and started again.

The hosts are simulated on one machine: each has its own network, but they share the disk and the processor cores.
"""

import asyncio
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tight_ledger.bench.clustered import crossing, end
from tight_ledger.bench.faults import Resender, kept_once, noted
from tight_ledger.bench.record import Client, sign_in, start
from tight_ledger.core.base.errors import Invalid
from tight_ledger.demo.load import demo_id, workshop
from tight_ledger.installation.hosts import Host, Hosts, lacking
from tight_ledger.store.backups import verified
from tight_ledger.store.galera import ClusterNode
from tight_ledger.store.keeper import keeper
from tight_ledger.store.server import OWNER
from tight_ledger.store.verification import KnownOutside

BACK_WITHIN_S = 120.0
PATIENCE_S = 2.0
"""How long a client waits for an answer before it tries the next host. A cut cable sends no refusal, so only waiting tells."""
SETTLES_S = 10.0
"""How long the clients keep working after each change."""


async def _clients(hosts: Hosts, clients: int) -> list[Resender]:
    """Clients that are spread evenly over the hosts. Each knows the other hosts too."""
    first = hosts.all[0]
    cookie, person = await sign_in(first.port, first.address), str(demo_id("person", workshop()["people"][0]["name"]))
    client, made = await Client(first.port, cookie, first.address).open(), []
    for number in range(clients):
        at, *others = [hosts.all[(number + further) % len(hosts.all)] for further in range(len(hosts.all))]
        known = tuple((host.address, host.port) for host in others)
        made.append(Resender(at.port, cookie, await start(client, number), person, others=known, host=at.address, patience_s=PATIENCE_S))
    await client.close()
    return made


def _until(holds: Callable[[], bool], what: str) -> None:
    until = time.monotonic() + BACK_WITHIN_S
    while not holds():
        if time.monotonic() > until:
            raise Invalid("hosts", f"{what} does not happen.", "Look into the logs in its folder.")
        time.sleep(0.1)


def _mended(host: Host) -> None:
    host.mend()
    _until(lambda: host.ready, "The host comes back")


def _back(host: Host) -> None:
    _node(host).start(_node(host).port)
    host.begin()


def _node(host: Host) -> ClusterNode:
    assert host.node is not None
    return host.node


async def _at_work(hosts: Hosts, clients: int) -> tuple[list[Resender], dict[str, Any]]:
    resenders, (first, second, third) = await _clients(hosts, clients), hosts.all
    working = [asyncio.create_task(resender.work()) for resender in resenders]
    pauses: dict[str, float] = {}

    async def measured(what: str, done: Callable[[], object]) -> None:
        for each in resenders:
            each.last, each.longest_s = time.monotonic(), 0.0
        await asyncio.to_thread(done)
        await asyncio.sleep(SETTLES_S)
        pauses[what] = round(max(max(each.longest_s, time.monotonic() - each.last) for each in resenders), 2)

    await measured("nothing", lambda: None)
    await measured("the cable of a host is cut", first.cut)
    takes_none = not await asyncio.to_thread(lambda: first.ready)
    await measured("it is mended", lambda: _mended(first))
    await measured("a whole host dies", second.die)
    await measured("it is started again", lambda: _back(second))
    writes, reads = [await Client(host.port, resenders[0].cookie, host.address).open() for host in (first, third)]
    crossing_ms = await crossing(writes, reads, resenders[0])
    await end(working)
    return resenders, {
        "longest_pause_s_when": pauses, "a_host_that_is_cut_off_takes_no_work": takes_none, "told_by_another_host_within_ms": crossing_ms,
    }  # fmt: skip


def run(folder: Path, *, clients: int) -> dict[str, Any]:
    """Measure.

    Args:
        folder: an empty directory that every account can enter.
        clients: at work at once.

    Raises:
        Invalid: such hosts cannot be made on this machine.
    """
    if why := lacking():
        raise Invalid("hosts", why, "Run it as root, with iproute2, haproxy and util-linux.")
    hosts = Hosts(folder)
    try:
        hosts.start()
        resenders, found = asyncio.run(_at_work(hosts, clients))
        hosts.stop_programs()  # an entry may still be on its way when its client has gone
        nodes, kept = [_node(host) for host in hosts.all], keeper(folder / "proof")
        known = KnownOutside(key=kept.key, public=kept.public, outside=tuple(kept.written()))
        same = len({verified(node.url(OWNER), known) for node in nodes}) == 1
        runs = {each.run for each in resenders}
        rows = [row for row in noted(nodes[0].url(OWNER)) if row[2].startswith("note") and row[1] in runs]
    finally:
        hosts.stop()
    return {"hosts": len(hosts.all), "clients": clients, **found, **kept_once(resenders, rows), "every_node_has_the_same": same}
