"""What a tablet takes along, so that it works without the server: the bay's machines, their specs, their open runs, the crib.

It is made in parts, each with a version: a tablet reads the list of them, and fetches those that it has in another version.
"""

import asyncio
import hashlib
import math
import time
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import chain
from uuid import UUID
from weakref import WeakKeyDictionary

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Busy, Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.source import source_digest
from tight_ledger.core.planning.choosing import CribNow
from tight_ledger.core.records.entries import WITH_A_TOOL
from tight_ledger.core.runs.jobs import JobNow
from tight_ledger.core.runs.starting import STARTABLE, MachineBefore
from tight_ledger.core.runs.view import RunSheet
from tight_ledger.services.context import Context
from tight_ledger.services.jobs import job_of
from tight_ledger.services.machine_maps import specs_for
from tight_ledger.services.machines import MachineNow, machine_now
from tight_ledger.services.runs import views
from tight_ledger.services.runs.preparing import crib_now, place_before
from tight_ledger.services.runs.views import Stream
from tight_ledger.services.specs.editing import SpecFile, spec_files
from tight_ledger.services.specs.search import SearchAnswer, find
from tight_ledger.services.standing import open_followups
from tight_ledger.services.summaries import catch_up
from tight_ledger.services.tools.inventory import Crib, certificates, crib
from tight_ledger.store import ledger, places, summaries, told
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store.database import Database

MOST_MACHINES, MOST_SPECS, MOST_RUNS = 20, 60, 20
"""How many machines, how many specs of a machine, and how many open runs are taken along."""
MOST_PARTS, SPECS_AT_ONCE = 50, 10
"""How many parts are asked for at once, and how many specs are made before others get their turn."""
HOLDS_S = 600
"""What was made holds so long at most, though nothing is recorded: what is due changes with the time."""
OF_ITS_MACHINE = {"meter_read", "happened"}
"""Kinds of note on a machine that say nothing about what is taken along of others."""


class ShopAlong(Model):
    """The crib, and the shop's choices."""

    version: str = ""
    policy: Policy
    crib: CribNow
    shown: Crib
    certificates: dict[UUID, str]


class MachineAlong(Model):
    """A machine: what the core works from, what its page shows, and what a search for it alone finds."""

    version: str = ""
    before: MachineBefore
    now: MachineNow
    found: SearchAnswer


class SpecAlong(Model):
    """A spec as its sheet shows it."""

    version: str = ""
    file: SpecFile
    startable: bool
    checked: bool


class RunAlong(Model):
    """An open run, to go on with."""

    version: str = ""
    sheet: RunSheet
    stream: Stream


class Along(Model):
    """What there is to take along: the names of its parts with their versions, and what is small."""

    core: str
    """Digest of the core that this server runs; a tablet with another one fetches it."""
    parts: dict[str, str]
    """By name (`shop`, `machine/<id>`, `spec/<id>`, `run/<id>`) the version; machines in their sequence, the most urgent first."""
    jobs: dict[UUID, JobNow]
    """By machine, the job that is open on it."""
    left_out: int
    """How many machines of the fleet are not among them."""


class PartsAsked(Model):
    """Parts that a tablet has not, or in another version."""

    names: tuple[str, ...] = Field(max_length=MOST_PARTS)


class Parts(Model):
    """Those of the parts that were asked for which still are to be taken along."""

    shop: ShopAlong | None = None
    machines: tuple[MachineAlong, ...] = ()
    specs: tuple[SpecAlong, ...] = ()
    runs: tuple[RunAlong, ...] = ()


@dataclass(frozen=True, slots=True)
class PartAlong:
    """A part as it was made last."""

    made_from: str
    """What it was made from: it is made again when that is another."""
    version: str
    """Of its content: what was made again and says the same is not fetched again."""
    body: bytes
    specs: tuple[UUID, ...] = ()
    """Of a machine: those that fit it."""
    runs: tuple[UUID, ...] = ()
    """Of a machine: those that are open."""


@dataclass(frozen=True, slots=True)
class FitsMachine:
    """The specs that fit a machine, as long as neither they nor the fleet change."""

    made_from: str
    answer: SearchAnswer
    fitting: list[tuple[UUID, int]]


@dataclass(slots=True)
class Packs:
    """What tablets take along, made once for all of them as long as nothing is recorded."""

    tag: str = ""
    parts: dict[str, PartAlong] = field(default_factory=dict)
    found: dict[UUID, "FitsMachine"] = field(default_factory=dict)
    """By machine, which specs fit it."""
    worked: tuple[UUID, ...] = ()
    """Machines with an open job."""
    jobs: dict[tuple[UUID, UUID], tuple[str, JobNow]] = field(default_factory=dict)
    """By machine and tablet, what the job on it was made from, and how it stands for that tablet."""
    left_out: int = 0
    begun: float = -math.inf
    """When the making of it began, by the process's own clock."""
    making: asyncio.Lock = field(default_factory=asyncio.Lock)
    taking: set[UUID] = field(default_factory=set)
    """Tablets that are being answered."""


_packs: "WeakKeyDictionary[Database, Packs]" = WeakKeyDictionary()


async def tag_of(context: Context, device: UUID) -> str:
    """Changes whenever something else is to be taken along: with each entry, with the core, and with the time, as what is due does."""
    return f"{await _tag(context)}-{device}"


async def _tag(context: Context) -> str:
    newest = await context.database.run(ledger.newest)
    return f"{_digest(repr(sorted(newest.items())).encode())}-{await _base(context)}"


async def _base(context: Context) -> str:
    """What everything depends on besides what is recorded."""
    return f"{source_digest()[:16]}-{await context.epoch()}-{int(context.now().timestamp() // HOLDS_S)}"


def _digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()[:32]


async def along(context: Context, device: UUID) -> bytes:
    """What there is to take along, as the JSON of `Along`.

    Raises:
        Busy: this tablet is being answered already.
    """
    packs = _packs.setdefault(context.database, Packs())
    if device in packs.taking:
        raise Busy("tablet", "This tablet is taking things along already.", "Wait for the answer.")
    packs.taking.add(device)
    try:
        await _make(context, packs)
        parts, left_out = packs.parts, packs.left_out  # while the jobs are read, others may make it again
        jobs = {machine: await _job(context, packs, parts, machine, device) for machine in packs.worked}
        listed = {name: part.version for name, part in parts.items()}
        return Along(core=source_digest(), parts=listed, jobs=jobs, left_out=left_out).model_dump_json().encode()
    finally:
        packs.taking.discard(device)


async def _job(context: Context, packs: Packs, parts: Mapping[str, PartAlong], machine: UUID, device: UUID) -> JobNow:
    made_from = parts[f"machine/{machine}"].made_from
    before = packs.jobs.get((machine, device))
    if before is not None and before[0] == made_from:
        return before[1]
    job = await job_of(context, machine, device)
    packs.jobs[machine, device] = made_from, job
    return job


async def parts_of(context: Context, names: Sequence[str]) -> bytes:
    """Parts by their names, as the JSON of `Parts`; without those that are not to be taken along any more."""
    packs = _packs.setdefault(context.database, Packs())
    if not all(name in packs.parts for name in names):  # another process made the list
        await _make(context, packs)
    bodies: dict[str, list[bytes]] = {"shop": [], "machine": [], "spec": [], "run": []}
    for name in dict.fromkeys(names):
        if (part := packs.parts.get(name)) is not None:
            bodies[name.split("/")[0]].append(b'{"version":"%s",%s' % (part.version.encode(), part.body.removeprefix(b'{"version":"",')))
    lists = [b'"%ss":[%s]' % (kind.encode(), b",".join(bodies[kind])) for kind in ("machine", "spec", "run")]
    return b'{"shop":%s,%s}' % ((bodies["shop"] or [b"null"])[0], b",".join(lists))


async def _make(context: Context, packs: Packs) -> None:
    """Make again what was made from something else. Many tablets ask at once after an outage: what was begun since this was asked is
    new enough for it, whatever is pressed."""
    asked = time.monotonic()
    async with packs.making:
        tag = await _tag(context)
        if tag == packs.tag or packs.begun >= asked:
            return
        begun = time.monotonic()
        packs.parts, packs.worked, packs.left_out = await _Making(context, packs).all()
        packs.tag, packs.begun = tag, begun
        packs.found = {machine: found for machine, found in packs.found.items() if f"machine/{machine}" in packs.parts}
        packs.jobs = {of: job for of, job in packs.jobs.items() if of[0] in packs.worked}


class _Making:
    """One making of all parts: those that are as they were are kept."""

    def __init__(self, context: Context, packs: Packs) -> None:
        self.context, self.before, self.found, self.parts = context, packs.parts, packs.found, dict[str, PartAlong]()

    async def all(self) -> tuple[dict[str, PartAlong], tuple[UUID, ...], int]:
        """The parts by name, the machines with an open job, and how many machines are left out."""
        context, base = self.context, await _base(self.context)
        await catch_up(context)
        newest = await context.database.run(ledger.newest)
        others = {key: at for key, at in newest.items() if key[0] != "run" and (key[0] != "machine" or key[1] not in OF_ITS_MACHINE)}
        world = f"{base}-{_digest(repr(sorted(others.items())).encode())}"
        wanted, fleet = await context.database.run(lambda connection: _wanted(context, connection))
        counts = await context.database.run(lambda connection: run_store.entries_of_machines(connection, wanted))
        used = f"{world}-{[newest.get(('run', kind)) for kind in sorted(WITH_A_TOOL)]}"
        if not self._keeps("shop", used):
            self._add("shop", used, await self._shop())
        machines = [await self._machine(machine, f"{world}-{counts[machine]}", world) for machine in wanted]
        await self._specs(world, dict.fromkeys(chain.from_iterable(part.specs for part in machines)))
        open_runs = [(run, part.made_from) for part in machines for run in part.runs]
        for run, made_from in open_runs[:MOST_RUNS]:
            if not self._keeps(f"run/{run}", made_from):
                self._add(f"run/{run}", made_from, await _run(context, run))
        worked = tuple(machine for machine, part in zip(wanted, machines, strict=True) if part.runs)
        return self.parts, worked, fleet - len(wanted)

    def _keeps(self, name: str, made_from: str) -> PartAlong | None:
        """A part as it was; None if it is to be made again."""
        part = self.before.get(name)
        if part is None or part.made_from != made_from:
            return None
        self.parts[name] = part
        return part

    def _add(self, name: str, made_from: str, made: Model | None, specs: Iterable[UUID] = (), runs: Iterable[UUID] = ()) -> PartAlong:
        """A part that was made again; left out if it could not be read."""
        body = made.model_dump_json().encode() if made is not None else b""
        part = PartAlong(made_from, _digest(body), body, tuple(specs), tuple(runs))
        if made is not None:
            self.parts[name] = part
        return part

    async def _shop(self) -> ShopAlong:
        shop = await self.context.shop()

        async def work(connection: AsyncConnection) -> tuple[CribNow, dict[UUID, str]]:
            tools = await crib_now(self.context, connection, shop)
            return tools, await certificates(connection, [tool.id for tool in tools.wrenches], shop.policy)

        tools, told_of = await self.context.database.run(work)
        return ShopAlong(policy=shop.policy, crib=tools, certificates=told_of, shown=await crib(self.context))

    async def _specs_of(self, machine_id: UUID, world: str) -> FitsMachine:
        found = self.found.get(machine_id)
        if found is None or found.made_from != world:
            answer = await find(self.context, "", machine_id, most=MOST_SPECS)
            found = self.found[machine_id] = FitsMachine(world, answer, await specs_for(self.context, machine_id))
        return found

    async def _machine(self, machine_id: UUID, made_from: str, world: str) -> PartAlong:
        if (kept := self._keeps(name := f"machine/{machine_id}", made_from)) is not None:
            return kept

        async def work(connection: AsyncConnection) -> MachineBefore:
            machine = await machine_store.find(connection, machine_id)
            worked_on = dict.fromkeys((row.position_key, row.joint) for row in await run_store.newest(connection, machine_id))
            due = await open_followups(self.context, connection, machine_id)
            return MachineBefore(
                machine=machine, meters=await told.meters(connection, machine_id),
                places=tuple([await place_before(self.context, connection, machine_id, place, due) for place in worked_on]),
            )  # fmt: skip

        found = await self._specs_of(machine_id, world)
        now = await machine_now(self.context, machine_id, found.fitting)
        made = MachineAlong(before=await self.context.database.run(work), now=now, found=found.answer)
        open_runs = [place.run for place in now.attention if place.standing is None]
        return self._add(name, made_from, made, [hit.spec for hit in found.answer.hits], open_runs)

    async def _specs(self, world: str, specs: Iterable[UUID]) -> None:
        """Several at a time, from one reading of the database."""
        missing = [spec for spec in specs if not self._keeps(f"spec/{spec}", world)]
        for first in range(0, len(missing), SPECS_AT_ONCE):
            for file in await spec_files(self.context, dict.fromkeys(missing[first : first + SPECS_AT_ONCE])):
                made = SpecAlong(file=file, startable=file.status in STARTABLE, checked=bool(file.checked_at))
                self._add(f"spec/{file.spec.id}", world, made)
            await asyncio.sleep(0)


async def _run(context: Context, run_id: UUID) -> RunAlong | None:
    """An open run; None if it, or the spec of an old one, cannot be read: the others go along without it."""
    try:
        stream = Stream.model_validate_json(await views.stream(context, run_id, 0))
        return RunAlong(sheet=await views.sheet(context, run_id), stream=stream)
    except Unreadable:
        return None


async def _wanted(context: Context, connection: AsyncConnection) -> tuple[list[UUID], int]:
    """The machines that are taken along, the most urgent first: those with a place that must not move, or that is unfinished, then what
    is to follow, then those that were worked on last; and how many machines there are."""
    red = [row.machine_id for row in await summaries.red(connection)]
    urgent = [row.machine_id for row in await places.needing(connection)]
    due = [each.machine for each in await open_followups(context, connection)]
    lately = await run_store.worked_on_lately(connection, MOST_RUNS * MOST_MACHINES)
    others = await machine_store.first(connection, MOST_MACHINES)
    return list(dict.fromkeys((*red, *urgent, *due, *lately, *others)))[:MOST_MACHINES], await machine_store.count(connection)
