"""Labels for the things of a shop: each opens what somebody wants to do there."""

from typing import Literal
from urllib.parse import quote
from uuid import UUID

from starlette.concurrency import run_in_threadpool

from tight_ledger.core.base.errors import Invalid
from tight_ledger.formats.tags import Label, labels_pdf
from tight_ledger.services.context import Context
from tight_ledger.services.machine_maps import MOST_SPECS
from tight_ledger.services.machines import machine_now, machines
from tight_ledger.services.specs.search import find
from tight_ledger.services.tools.inventory import crib

Labelled = Literal["machines", "positions", "tools", "specs"]


async def labels_for(context: Context, of: Labelled, machine: UUID | None, base: str) -> bytes:
    """Labels as PDF.

    Args:
        machine: whose positions, or whose specs.
        base: the address of this shop.

    Raises:
        NotOnFile: no machine has this id.
        Invalid: there is nothing to label, or no machine is named.
    """
    found = await _labels(context, of, machine, base)
    if not found:
        raise Invalid("of", f"There are no {of} to label.", "Put them on file first.")
    return await run_in_threadpool(labels_pdf, found)


async def _labels(context: Context, of: Labelled, machine: UUID | None, base: str) -> list[Label]:
    if of == "machines":
        return [Label(each.fleet_number, f"{each.maker} {each.model}", f"{base}/machines/{each.id}") for each in await machines(context)]
    if of == "tools":
        return [Label(each.name, each.words, f"{base}/crib/{each.id}") for each in (await crib(context)).tools]
    if machine is None:
        raise Invalid("machine", f"Nobody said whose {of}.", "Name a machine.")
    if of == "specs":
        hits = (await find(context, "", machine, most=MOST_SPECS)).hits
        return [Label(hit.title, hit.maker_model, f"{base}/specs/{hit.spec}") for hit in hits]
    now = await machine_now(context, machine)
    return [
        Label(f"{now.machine.fleet_number} {spot.words}", now.machine.model, f"{base}/machines/{machine}?place={quote(spot.key)}")
        for spot in now.map.spots
    ]
