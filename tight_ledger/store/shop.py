"""The shop: its name, its clock, its choices."""

from uuid import NAMESPACE_URL, uuid5

from sqlalchemy import insert, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.models import Model, canonical
from tight_ledger.core.base.policy import Policy
from tight_ledger.store import tables

STREAM = uuid5(NAMESPACE_URL, "tight-ledger/shop")
"""Of the shop's own entries: there is one shop."""


class Shop(Model):
    """The shop: its name, its clock, its choices."""

    name: str
    time_zone: str
    policy: Policy


async def read(connection: AsyncConnection) -> Shop | None:
    """The shop; None before it was set up."""
    row = (await connection.execute(select(tables.shop))).first()
    return Shop(name=row.name, time_zone=row.time_zone, policy=Policy.model_validate_json(row.policy)) if row else None


async def require(connection: AsyncConnection) -> Shop:
    """The shop.

    Raises:
        NotOnFile: it was not set up.
    """
    found = await read(connection)
    if found is None:
        raise NotOnFile("shop", "This shop is not set up yet.", "Open the start page and set it up.")
    return found


async def set_up(connection: AsyncConnection, new: Shop) -> None:
    """Set the shop up, once.

    Raises:
        Invalid: it is set up already.
    """
    try:
        await connection.execute(
            insert(tables.shop).values(id=1, name=new.name, time_zone=new.time_zone, policy=canonical(new.policy).decode())
        )
    except IntegrityError as error:
        raise Invalid("shop", "The shop is set up already.", "Sign in.") from error


async def keep_zone(connection: AsyncConnection, zone: str) -> None:
    """Store the shop's time zone."""
    await connection.execute(update(tables.shop).values(time_zone=zone))


async def keep_policy(connection: AsyncConnection, policy: Policy) -> None:
    """Store the shop's choices."""
    await connection.execute(update(tables.shop).values(policy=canonical(policy).decode()))
