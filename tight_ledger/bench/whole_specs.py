"""Files whole generated specs by the use case that files a library: their content, their entries in the ledger, their index."""

import asyncio
import random
import time
from collections.abc import Iterator
from itertools import islice
from typing import Any
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.bench import generated_specs
from tight_ledger.core.specs.applicability import Applies
from tight_ledger.core.specs.spec import Spec
from tight_ledger.demo.load import demo_lead, specs
from tight_ledger.installation.databases import Databases, with_context
from tight_ledger.services.context import Context
from tight_ledger.services.specs.revisions import file_specs
from tight_ledger.store.specs import Filed

AT_ONCE = 500


def whole_specs(count: int, seed: int = 7) -> Iterator[Spec]:
    """So many specs: the layouts and steps of the demo's, for the machines and joints of `generated_specs`."""
    dice, made, known = random.Random(seed + 1), generated_specs.stock(count, seed), specs()
    for number in range(count):
        at, base, what = number * len(made.who) // count, dice.choice(known), dice.choice(made.what)[1]
        who, first = made.who[at][1], dice.randrange(1990, 2025) if dice.random() < 0.7 else None
        last = first + dice.randrange(3, 9) if first is not None else None
        changed: dict[str, Any] = {
            "id": UUID(int=number + 1), "revision": 1, "title": what.title, "joint": what.joint, "system": what.system,
            "applies_to": (Applies(maker=who.maker, model=who.model, variant=who.variant, year_from=first, year_to=last),),
            "cautions": (dice.choice(made.notes)[1],), "source": base.source.model_copy(update={"document": made.sources[at][1]}),
        }  # fmt: skip
        yield base.model_copy(update=changed)


def build(found: Databases, count: int) -> dict[str, Any]:
    """File `count` specs, checked; how long it took."""
    started = time.perf_counter()
    asyncio.run(with_context(found, lambda context: _file(context, count)))
    return {"specs": count, "whole": True, "build_s": round(time.perf_counter() - started, 1)}


async def _file(context: Context, count: int) -> None:
    actor = demo_lead()
    made = whole_specs(count)
    while batch := [Filed.of(spec) for spec in islice(made, AT_ONCE)]:

        async def work(connection: AsyncConnection, batch: list[Filed] = batch) -> None:
            await file_specs(context, connection, actor, batch, actor)

        await context.database.run(work, transaction=True)
