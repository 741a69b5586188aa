"""Another wrench in the middle of a run: other settings, the same pulls."""

from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, Stale
from tight_ledger.core.base.models import digest
from tight_ledger.core.base.moments import DeviceTime
from tight_ledger.core.planning.checklist import checklist, load_at
from tight_ledger.core.planning.choosing import Taken, tooling_of
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.entries import MOST_SEQ, Started
from tight_ledger.core.records.plans import Plan
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.services.runs.preparing import crib_now
from tight_ledger.services.runs.recording import Accepted, Given, append, begin
from tight_ledger.store import machines as machine_store
from tight_ledger.store import specs as spec_store


class Retool(Command):
    """What is taken from now on, and why."""

    tooling: tuple[Taken, ...] = Field(min_length=1, max_length=20)
    text: str = Field(default="", max_length=500)
    seq: int = Field(ge=1, le=MOST_SEQ)
    at_device: DeviceTime


def _pulls(plan: Plan) -> list[str]:
    return [pull.id for pass_ in plan.passes for pull in pass_.pulls]


async def retool(context: Context, actor: Actor, run_id: UUID, request: Retool) -> Accepted:
    """Go on with other tools.

    Raises:
        Stale: something was recorded meanwhile, or the run has ended.
        Invalid, NotAllowed: a wrench that cannot do it.
    """
    said: Given = {
        "id": request.id, "kind": "retooled", "by": actor.person.id, "at_device": request.at_device, "claimed_seq": request.seq + 1,
        "text": request.text or None,
    }  # fmt: skip
    run, sent_before = await begin(context, actor, run_id, said, decides=True)
    if sent_before is not None:
        return sent_before
    if run.state.outcome is not None:
        raise Stale("seq", "This run has ended meanwhile.", "Look again; a run that has ended keeps its wrenches.")
    before, shop = run.started, await context.shop()

    async def compile_again(connection: AsyncConnection) -> Started:
        spec = await spec_store.find(connection, run.row.spec_id, run.row.spec_revision)
        machine = await machine_store.find(connection, run.row.machine_id)
        procedure, load = run.row.procedure, load_at(machine.axle_loads_kg, before.position)
        crib = await crib_now(context, connection, shop)
        tooling = tooling_of(crib, shop.policy, actor.person.roles, spec, procedure, before.position, request.tooling)
        plan = compile_plan(
            spec, procedure, tooling, before.policy,
            lambda passes: checklist(spec, procedure, tooling, passes, before.policy, load, before.supports),
        )  # fmt: skip
        if sorted(_pulls(plan)) != sorted(_pulls(before.plan)):
            raise Invalid("tooling", "With these tools the run would have other tasks.", "End this run, and start one with them.")
        return before.model_copy(update={"plan": plan, "tooling": tooling})

    started = await context.database.run(compile_again)
    return await append(context, actor, run, said | {"plan": digest(started.plan), "started": started}, decides=True)
