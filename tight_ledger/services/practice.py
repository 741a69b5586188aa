"""Practice: drills from the shop's own things, and what each person has behind them. Nothing of it enters the ledger."""

from collections.abc import Sequence
from datetime import date
from uuid import UUID

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.people import require_right
from tight_ledger.core.practice.drills import MOST_ANSWERS, DrillAnswer, DrillName, DrillNow, Materials
from tight_ledger.core.practice.progress import ComesAgain, DrillResult, comes_again
from tight_ledger.core.practice.registry import DRILLS, drill_now
from tight_ledger.core.tools.wrenches import Wrench
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.services.tools.inventory import today_at
from tight_ledger.store import people as people_store
from tight_ledger.store import practice as practice_store
from tight_ledger.store import search as search_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store import tools as tool_store
from tight_ledger.store.shop import Shop

MOST_SPECS = 60
MOST_SEED = 1_000_000


class DrillTried(Model):
    """A drill's answers so far."""

    seed: int = Field(ge=1, le=MOST_SEED)
    answers: tuple[DrillAnswer, ...] = Field(default=(), max_length=MOST_ANSWERS)


class DrillDone(Command, DrillTried):
    """A drill that is over, to be kept."""


class DrillLine(Model):
    """A drill as somebody has it behind them."""

    name: DrillName
    title: str
    trains: str
    done: int
    passed_on: date | None
    """The last time that it was passed."""
    due: ComesAgain | None
    """The first of its exercises that comes again."""


class PracticePage(Model):
    """A person's own page of practice."""

    drills: tuple[DrillLine, ...]
    due_now: tuple[ComesAgain, ...]
    by_eye_deg: float | None
    """Within how many degrees they turned by eye the last time that they practised it."""
    shop_by_eye_deg: float
    """What the shop lets pass."""


class Trained(Model):
    """What a lead sees of somebody: which drills were passed, and when."""

    person: UUID
    name: str
    passed: dict[DrillName, date]


async def materials(connection: AsyncConnection, shop: Shop, actor: Actor, name: str) -> Materials:
    """What a drill draws from: the shop's wrenches, the person's own first, and specs in force; nothing where it needs none of it."""
    if name in DRILLS and not DRILLS[name].draws_on_shop:
        return Materials(policy=shop.policy)
    wrenches = [tool for tool in await tool_store.tools(connection) if isinstance(tool, Wrench)]
    named = await search_store.in_force(connection, UUID(int=0), MOST_SPECS, drafts=True)
    return Materials(
        wrenches=tuple(sorted(wrenches, key=lambda wrench: (wrench.owner != actor.person.name, wrench.name))),
        specs=tuple(await spec_store.read_many(connection, named)),
        policy=shop.policy,
    )


async def now(context: Context, actor: Actor, name: str, tried: DrillTried) -> DrillNow:
    """A drill after some answers.

    Raises:
        NotOnFile: no drill has this name.
        Invalid: more answers than questions, or nothing on file to ask about.
    """
    shop = await context.shop()
    return drill_now(
        name, tried.seed, tried.answers, await context.database.run(lambda connection: materials(connection, shop, actor, name))
    )


async def keep(context: Context, actor: Actor, name: str, done: DrillDone) -> DrillNow:
    """Judge a drill that is over, and keep its result for the person.

    Raises:
        NotOnFile: no drill has this name.
        Invalid: it is not over.
        Stale: the id belongs to another result.
    """
    shop, at = await context.shop(), context.now()

    async def work(connection: AsyncConnection) -> DrillNow:
        told = drill_now(name, done.seed, done.answers, await materials(connection, shop, actor, name))
        if not told.done:
            raise Invalid("answers", "The drill is not over.", "Answer the questions that are left.")
        result = DrillResult(
            drill=told.drill, seed=done.seed, on=today_at(shop, at), passed=told.passed, missed=told.missed, by_eye_deg=told.by_eye_deg
        )
        await practice_store.add(connection, done.id, actor.person.id, at, result)
        return told

    return await context.database.run(work, transaction=True)


async def page(context: Context, actor: Actor) -> PracticePage:
    """Somebody's own page: what they did, what comes again."""
    shop = await context.shop()
    kept = await context.database.run(lambda connection: practice_store.of_person(connection, actor.person.id))
    results, today = [result for _, result in kept], today_at(shop, context.now())
    again = comes_again(results)
    return PracticePage(
        drills=tuple(
            DrillLine(
                name=each.name,
                title=each.title,
                trains=each.trains,
                done=sum(result.drill == each.name for result in results),
                passed_on=_passed(results).get(each.name),
                due=next((exercise for exercise in again if exercise.drill == each.name), None),
            )
            for each in DRILLS.values()
        ),
        due_now=tuple(exercise for exercise in again if exercise.due <= today),
        by_eye_deg=next((result.by_eye_deg for result in reversed(results) if result.by_eye_deg is not None), None),
        shop_by_eye_deg=shop.policy.by_eye_deg,
    )


def _passed(results: Sequence[DrillResult]) -> dict[DrillName, date]:
    return {result.drill: result.on for result in results if result.passed}


async def trained(context: Context, actor: Actor) -> tuple[Trained, ...]:
    """What everybody who works here has passed, for a lead; not what they missed.

    Raises:
        NotAllowed: for anybody else.
    """
    require_right(actor.person.roles, "training", "person")

    async def work(connection: AsyncConnection) -> tuple[Trained, ...]:
        passed = await practice_store.passed(connection)
        return tuple(
            Trained(person=each.id, name=each.name, passed=passed.get(each.id, {})) for each in await people_store.here(connection)
        )

    return await context.database.run(work)
