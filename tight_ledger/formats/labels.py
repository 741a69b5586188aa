"""Labels for the things of a shop: each opens what somebody wants to do there."""

from typing import Literal
from urllib.parse import quote

from starlette.concurrency import run_in_threadpool

from tight_ledger.core.base.errors import Invalid
from tight_ledger.formats.tags import Label, labels_pdf
from tight_ledger.services.context import Context
from tight_ledger.services.machines import machine_now, machines
from tight_ledger.services.specs.search import find
from tight_ledger.services.tools.inventory import crib

Labelled = Literal["machines", "positions", "tools", "specs"]


async def labels_for(context: Context, of: Labelled, base: str) -> bytes:
    """Labels as PDF.

    Args:
        base: the address of this shop.

    Raises:
        Invalid: there is nothing to label.
    """
    found = await _labels(context, of, base)
    if not found:
        raise Invalid("of", f"There are no {of} to label.", "Put them on file first.")
    return await run_in_threadpool(labels_pdf, found)


async def _labels(context: Context, of: Labelled, base: str) -> list[Label]:
    fleet = await machines(context)
    if of == "machines":
        return [Label(each.fleet_number, f"{each.maker} {each.model}", f"{base}/machines/{each.id}") for each in fleet]
    if of == "tools":
        return [Label(each.name, each.words, f"{base}/crib/{each.id}") for each in (await crib(context)).tools]
    if of == "positions":
        said = []
        for each in fleet:
            spots = (await machine_now(context, each.id)).map.spots
            said += [
                Label(f"{each.fleet_number} {spot.words}", each.model, f"{base}/machines/{each.id}?place={quote(spot.key)}")
                for spot in spots
            ]
        return said
    specs = {hit.spec: hit for each in fleet for hit in (await find(context, "", each.id, most=200)).hits}
    return [Label(hit.title, hit.maker_model, f"{base}/specs/{hit.spec}") for hit in specs.values()]
