"""The crib as a whole: its wrenches, what they reach of the shop's specs, and what they do not."""

from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base import Model
from tight_ledger.core.tools.coverage import Coverage, coverage
from tight_ledger.core.tools.wrenches import Wrench
from tight_ledger.store import files, finding
from tight_ledger.work.office import Office

MOST_FIGURES = 20_000
MOST_MISSING = 50


class Missing(Model):
    """A spec that nothing in the crib can pull."""

    spec: UUID
    title: str
    maker_model: str


class Crib(Model):
    """The wrenches, the picture, and the specs that are out of reach."""

    wrenches: tuple[Wrench, ...]
    coverage: Coverage
    specs: int
    out_of_reach: tuple[Missing, ...]


async def crib(office: Office) -> Crib:
    """The crib against what the shop works to."""

    async def work(connection: AsyncConnection) -> Crib:
        wrenches = await files.wrenches(connection)
        figures = await finding.figures(connection, MOST_FIGURES)
        found = coverage([(low, high) for _, low, high in figures], wrenches)
        wanted = {figures[place][0] for place in found.missing[:MOST_MISSING]}
        named = await finding.in_force_of(connection, wanted)
        missing = [
            Missing(spec=spec.id, title=spec.title, maker_model=f"{spec.applies_to[0].maker} {spec.applies_to[0].model}")
            for spec in await files.specs(connection, named)
        ]
        return Crib(
            wrenches=tuple(wrenches), coverage=found, specs=len(figures), out_of_reach=tuple(sorted(missing, key=lambda one: one.title))
        )

    return await office.database.run(work)
