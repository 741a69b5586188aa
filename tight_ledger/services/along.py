"""What a tablet takes along, so that it works without the server: the bay's machines, their specs, the crib."""

import asyncio
import math
import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import chain
from uuid import UUID
from weakref import WeakKeyDictionary

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Busy, Unreadable
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.source import source_digest
from tight_ledger.core.runs.jobs import JobNow
from tight_ledger.core.runs.pack import Pack
from tight_ledger.core.runs.starting import STARTABLE, MachineBefore, SpecBefore
from tight_ledger.core.runs.view import RunSheet
from tight_ledger.services.context import Context
from tight_ledger.services.jobs import job_of
from tight_ledger.services.machines import MachineNow, machine_now
from tight_ledger.services.runs import views
from tight_ledger.services.runs.preparing import crib_now, place_before
from tight_ledger.services.runs.views import Stream
from tight_ledger.services.specs.editing import SpecFile, spec_files
from tight_ledger.services.specs.search import SearchAnswer, find
from tight_ledger.services.standing import OpenFollowup, PlaceNow, attention, open_followups
from tight_ledger.services.summaries import catch_up
from tight_ledger.services.tools.inventory import Crib, certificates, crib
from tight_ledger.store import ledger, told
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store.database import Database

MOST_MACHINES, MOST_SPECS, MOST_RUNS = 20, 60, 20
"""How many machines, how many specs of a machine, and how many open runs are taken along."""
HOLDS_S = 600
"""What was made holds so long at most, though nothing is recorded: what is due changes with the time."""


class RunAlong(Model):
    """An open run, to go on with."""

    sheet: RunSheet
    stream: Stream


class Along(Model):
    """What a tablet takes along: what the core works from, and what the screens show."""

    core: str
    """Digest of the core that this server runs; a tablet with another one fetches it."""
    pack: Pack
    machines: tuple[MachineNow, ...]
    files: tuple[SpecFile, ...]
    found: dict[UUID, SearchAnswer]
    """By machine, what a search for it alone finds."""
    crib: Crib
    runs: tuple[RunAlong, ...]
    """The open runs of these machines."""
    jobs: dict[UUID, JobNow]
    """By machine, the job that is open on it."""
    left_out: int
    """How many machines of the fleet are not among them."""


@dataclass(slots=True)
class Packs:
    """What tablets take along, made once for all of them as long as nothing is recorded."""

    tag: str = ""
    body: bytes = b""
    """As JSON, without the jobs, which each tablet has its own view of."""
    worked: tuple[UUID, ...] = ()
    """Machines with an open job."""
    begun: float = -math.inf
    """When the making of it began, by the process's own clock."""
    making: asyncio.Lock = field(default_factory=asyncio.Lock)
    taking: set[UUID] = field(default_factory=set)
    """Tablets that are being answered."""


_packs: "WeakKeyDictionary[Database, Packs]" = WeakKeyDictionary()


async def tag_of(context: Context, device: UUID) -> str:
    """Changes whenever something else is to be taken along: with each entry, with the core, and with the time, as what is due does."""
    newest = await context.database.run(ledger.newest)
    until = int(context.now().timestamp() // HOLDS_S)
    return f"{newest[:32]}-{source_digest()[:16]}-{await context.epoch()}-{until}-{device}"


async def along(context: Context, device: UUID) -> bytes:
    """What a tablet takes along, as the JSON of `Along`.

    Raises:
        Busy: this tablet is being answered already.
    """
    packs = _packs.setdefault(context.database, Packs())
    if device in packs.taking:
        raise Busy("tablet", "This tablet is taking things along already.", "Wait for the answer.")
    packs.taking.add(device)
    asked = time.monotonic()
    try:
        async with packs.making:  # many tablets ask at once after an outage: what was begun since is new enough, whatever is pressed
            tag = (await tag_of(context, device)).removesuffix(f"-{device}")
            if tag != packs.tag and packs.begun < asked:
                begun = time.monotonic()
                made, worked = await _made(context)
                packs.body, packs.worked, packs.tag, packs.begun = made.model_dump_json(exclude={"jobs"}).encode(), worked, tag, begun
        jobs = {machine: await job_of(context, machine, device) for machine in packs.worked}
        told = ",".join(f'"{machine}":{job.model_dump_json()}' for machine, job in jobs.items())
        return b'%s,"jobs":{%s}}' % (packs.body[:-1], told.encode())
    finally:
        packs.taking.discard(device)


async def _made(context: Context) -> tuple[Along, tuple[UUID, ...]]:
    """First the machines that need somebody, then those that were worked on last, then the others; and those with an open job."""
    await catch_up(context)
    shop = await context.shop()
    places = await context.database.run(lambda connection: attention(context, connection, None))
    wanted, fleet = await context.database.run(lambda connection: _wanted(context, connection, places))
    found = {machine_id: await find(context, "", machine_id, most=MOST_SPECS) for machine_id in wanted}
    hits = chain.from_iterable(answer.hits for answer in found.values())
    files = await spec_files(context, dict.fromkeys(hit.spec for hit in hits))
    worked_to = [each for each in files if each.status in STARTABLE]

    async def work(connection: AsyncConnection) -> Pack:
        tools = await crib_now(context, connection, shop)
        followups = await open_followups(context, connection)
        return Pack(
            policy=shop.policy, crib=tools, certificates=await certificates(connection, [tool.id for tool in tools.wrenches], shop.policy),
            machines=tuple([await _before(context, connection, machine_id, followups) for machine_id in wanted]),
            specs=tuple(SpecBefore(spec=each.spec, status=each.status, checked=bool(each.checked_at)) for each in worked_to),
        )  # fmt: skip

    open_now = [place.run for place in places if place.standing is None and place.machine in wanted and not place.unreadable]
    worked = dict.fromkeys(place.machine for place in places if place.standing is None and place.machine in wanted)
    made = Along(
        jobs={},
        runs=tuple([run for run_id in dict.fromkeys(open_now[:MOST_RUNS]) if (run := await _run(context, run_id)) is not None]),
        core=source_digest(),
        pack=await context.database.run(work), machines=tuple([await machine_now(context, machine_id) for machine_id in wanted]),
        files=tuple(files), found=found, crib=await crib(context), left_out=fleet - len(wanted),
    )  # fmt: skip
    return made, tuple(worked)


async def _run(context: Context, run_id: UUID) -> RunAlong | None:
    """An open run; None if it, or the spec of an old one, cannot be read: the others go along without it."""
    try:
        stream = Stream.model_validate_json(await views.stream(context, run_id, 0))
        return RunAlong(sheet=await views.sheet(context, run_id), stream=stream)
    except Unreadable:
        return None


async def _wanted(context: Context, connection: AsyncConnection, places: Sequence[PlaceNow]) -> tuple[list[UUID], int]:
    """The machines that are taken along, the most urgent first; and how many there are.

    Args:
        places: that need somebody.
    """
    urgent = [place.machine for place in places]
    due = [each.machine for each in await open_followups(context, connection)]
    lately = await run_store.worked_on_lately(connection, MOST_RUNS * MOST_MACHINES)
    others = await machine_store.first(connection, MOST_MACHINES)
    return list(dict.fromkeys((*urgent, *due, *lately, *others)))[:MOST_MACHINES], await machine_store.count(connection)


async def _before(context: Context, connection: AsyncConnection, machine_id: UUID, followups: Sequence[OpenFollowup]) -> MachineBefore:
    """A machine before a run starts on it.

    Args:
        followups: those that are open, on any machine.
    """
    machine = await machine_store.find(connection, machine_id)
    places = dict.fromkeys((row.position_key, row.joint) for row in await run_store.newest(connection, machine_id))
    due = [each for each in followups if each.machine == machine_id]
    return MachineBefore(
        machine=machine, meters=await told.meters(connection, machine_id),
        places=tuple([await place_before(context, connection, machine_id, place, due) for place in places]),
    )  # fmt: skip
