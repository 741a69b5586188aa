"""Before a run: what it is judged on and compiled from, as the database knows it."""

from collections.abc import Sequence
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.library.revisions import statuses
from tight_ledger.core.planning.choosing import Asked, CribNow, Offered, offer
from tight_ledger.core.runs.starting import DueHere, Ground, MachineBefore, PlaceBefore, SpecBefore, Start
from tight_ledger.core.runs.yielded import in_yield_after
from tight_ledger.services.context import Context
from tight_ledger.services.specs.editing import spec_file
from tight_ledger.services.specs.search import checked_by
from tight_ledger.services.standing import OpenFollowup, open_followups, place_standing, specs_of
from tight_ledger.services.tools.inventory import cared_for, certificates, pieces_now, today_at
from tight_ledger.store import ledger, summaries, told
from tight_ledger.store import machines as machine_store
from tight_ledger.store import runs as run_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store import tools as tool_store
from tight_ledger.store.runs import RunRow
from tight_ledger.store.shop import Shop


async def crib_now(context: Context, connection: AsyncConnection, shop: Shop) -> CribNow:
    """The crib as a choice needs it."""
    tools, now = await tool_store.tools(connection), context.now()
    cared, pieces = await cared_for(connection, tools, shop.policy, now, today_at(shop, now)), await pieces_now(connection, tools)
    return CribNow(tools=tuple(tools), care=cared, pieces=tuple(pieces.values()))


async def offered(context: Context, spec_id: UUID, request: Asked) -> Offered:
    """What the crib offers for a spec's stages, with what is on the end.

    Raises:
        NotOnFile, Invalid: no such spec, procedure or thing on the end.
    """
    spec, shop = (await spec_file(context, spec_id)).spec, await context.shop()

    async def work(connection: AsyncConnection) -> Offered:
        machine = await machine_store.find(connection, request.machine) if request.machine is not None else None
        return offer(await crib_now(context, connection, shop), shop.policy, spec, machine, request)

    return await context.database.run(work)


async def spec_before(context: Context, connection: AsyncConnection, spec_id: UUID, revision: int) -> SpecBefore:
    """A revision of a spec with how it stands.

    Raises:
        NotOnFile: it is not on file.
    """
    spec = await spec_store.find(connection, spec_id, revision)
    status = statuses(await ledger.notes(connection, "spec", spec.id))[spec.revision]
    return SpecBefore(spec=spec, status=status, checked=await checked_by(connection, spec, context.now()))


async def place_before(
    context: Context, connection: AsyncConnection, machine_id: UUID, place: tuple[str, str], followups: Sequence[OpenFollowup]
) -> PlaceBefore:
    """A joint at a position before a run starts there.

    Args:
        place: its key and the joint.
        followups: those that are open on the machine.
    """
    position_key, joint = place
    rows = await run_store.at_place(connection, machine_id, position_key, joint)
    last = await place_standing(context, connection, machine_id, position_key, joint)
    due = tuple(
        DueHere(procedure=each.due.procedure, followup=each.due.followup, root=each.root)
        for each in followups
        if (each.position_key, each.joint) == place
    )
    return PlaceBefore(
        position_key=position_key, joint=joint, unfinished=last is not None and last.standing is None,
        standing=last.standing if last is not None else None, last=(last.row.parent_id or last.row.id) if last is not None else None,
        settled=len(await summaries.settled(connection, [row.id for row in rows])), due=due,
        in_yield=await _in_yield(context, connection, rows),
    )  # fmt: skip


async def _in_yield(context: Context, connection: AsyncConnection, rows: Sequence[RunRow]) -> dict[str, int]:
    """What is in yield at a place; its runs are read only where a spec that they were made to has fasteners that yield.

    Args:
        rows: the place's runs, newest first.
    """
    specs = await specs_of(connection, rows)
    turned = {key for key, spec in specs.items() if any(kind.yields for kind in spec.layout.kinds.values())}
    if not turned:
        return {}
    runs = [await context.readable(connection, row.id) for row in reversed(rows)]
    return in_yield_after((run.started, run.state) for run in runs if run is not None)


async def ground_of(context: Context, connection: AsyncConnection, shop: Shop, request: Start) -> Ground:
    """Everything that a start is judged on and compiled from.

    Raises:
        NotOnFile: the spec's revision or the machine is not on file.
    """
    spec = await spec_before(context, connection, request.spec, request.revision)
    machine = await machine_store.find(connection, request.machine)
    place = await place_before(
        context, connection, machine.id, (request.position.key, spec.spec.joint), await open_followups(context, connection, machine.id)
    )
    return Ground(
        policy=shop.policy, spec=spec, crib=await crib_now(context, connection, shop),
        machine=MachineBefore(machine=machine, meters=await told.meters(connection, machine.id), places=(place,)),
        certificates=await certificates(connection, [row.wrench for row in request.tooling], shop.policy),
    )  # fmt: skip
