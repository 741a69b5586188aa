"""The lab: its pages, and a spec of the library opened in it. It writes nothing."""

from typing import Annotated
from uuid import UUID

from pydantic import Field, StringConstraints
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.lab.pages import LabPage
from tight_ledger.core.library.revisions import in_force, statuses
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.trials.joint import asked_of
from tight_ledger.core.trials.registry import any_page
from tight_ledger.services.context import Context
from tight_ledger.store import ledger
from tight_ledger.store import specs as spec_store

KnobName = Annotated[str, StringConstraints(max_length=20)]
KnobValue = Annotated[str, StringConstraints(max_length=80)]


class LabAsked(Model):
    """How a page's knobs stand, and a spec whose joint is played."""

    values: dict[KnobName, KnobValue] = Field(default={}, max_length=40)
    spec: UUID | None = None
    procedure: str = Field(default="", max_length=60)


async def page(context: Context, name: str, asked: LabAsked) -> LabPage:
    """A page as its knobs stand.

    Raises:
        NotOnFile: no such page, or no such spec.
        Invalid: a knob is out of its range, or a procedure that cannot be followed.
    """
    if name != "joint" or asked.spec is None:
        return any_page(name, asked.values)
    spec_id, shop = asked.spec, await context.shop()

    async def work(connection: AsyncConnection) -> Spec:
        known = statuses(await ledger.notes(connection, "spec", spec_id))
        return await spec_store.find(connection, spec_id, in_force(known))

    spec = await context.database.run(work)
    return any_page(name, asked.values, asked_of(spec, asked.procedure, shop.policy))
