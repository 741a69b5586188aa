"""Labels for the things of a shop: each opens what somebody wants to do there."""

from typing import TYPE_CHECKING, Literal
from urllib.parse import quote
from uuid import UUID

from starlette.concurrency import run_in_threadpool

from tight_ledger.core.base.errors import Invalid
from tight_ledger.services.context import Context
from tight_ledger.services.machine_maps import MOST_SPECS
from tight_ledger.services.machines import machine_now, machines
from tight_ledger.services.specs.search import find
from tight_ledger.services.tools.inventory import crib

if TYPE_CHECKING:
    from tight_ledger.formats.tags import Label

Labelled = Literal["machines", "positions", "tools", "stock", "specs"]


async def labels_for(context: Context, of: Labelled, machine: UUID | None, base: str) -> bytes:
    """Labels as PDF.

    Args:
        machine: whose positions, or whose specs.
        base: the address of this shop.

    Raises:
        NotOnFile: no machine has this id.
        Invalid: there is nothing to label, or no machine is named.
    """
    from tight_ledger.formats.tags import labels_pdf

    found = await _labels(context, of, machine, base)
    if not found:
        raise Invalid("of", f"There are no {of} to label.", "Put them on file first.")
    return await run_in_threadpool(labels_pdf, found)


async def _labels(context: Context, of: Labelled, machine: UUID | None, base: str) -> "list[Label]":
    from tight_ledger.formats.tags import Label

    if of == "machines":
        return [Label(each.fleet_number, f"{each.maker} {each.model}", f"{base}/machines/{each.id}") for each in await machines(context)]
    if of in ("tools", "stock"):
        found = [each for each in (await crib(context)).tools if (each.piece is not None) == (of == "stock")]
        return [Label(each.name, each.words, f"{base}/crib/{each.id}") for each in found]
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
