"""The shop's own choices, where mechanics disagree."""

from pydantic import Field
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base import Model
from tight_ledger.core.choices import ShopChoice, choose, questions
from tight_ledger.core.people import require_lead
from tight_ledger.store import files
from tight_ledger.work.office import Actor, Office


class Chosen(Model):
    """A question answered otherwise."""

    field: str = Field(max_length=60)
    value: str = Field(min_length=1, max_length=40)


async def choices(office: Office) -> tuple[ShopChoice, ...]:
    """The questions, and what this shop has chosen."""
    return questions((await office.shop()).policy)


async def answer(office: Office, actor: Actor, request: Chosen) -> tuple[ShopChoice, ...]:
    """A lead answers a question otherwise; runs that have begun keep what was in force when they did.

    Raises:
        NotAllowed: by somebody who is not a lead.
        Invalid: no such question, or no such answer.
    """
    require_lead(actor.person.role, "field", "change the shop's choices")
    policy = choose((await office.shop()).policy, request.field, request.value)

    async def work(connection: AsyncConnection) -> None:
        await files.keep_policy(connection, policy)

    await office.database.run(work)
    return questions(policy)
