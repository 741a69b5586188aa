"""The shop: its name, its clock, its choices."""

from uuid import NAMESPACE_URL, uuid5

from sqlalchemy import insert, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid, NotOnFile
from tight_ledger.core.base.models import Model, canonical
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.settings import Dates, ShopSettings
from tight_ledger.store import tables

STREAM = uuid5(NAMESPACE_URL, "tight-ledger/shop")
"""Of the shop's own entries: there is one shop."""


class Shop(Model):
    """The shop: its name, its clock, its choices."""

    name: str
    time_zone: str
    policy: Policy
    settings: ShopSettings = ShopSettings()

    @property
    def dates(self) -> Dates:
        """The language and country whose way of writing dates is used."""
        return self.settings.dates


async def read(connection: AsyncConnection) -> Shop | None:
    """The shop; None before it was set up."""
    row = (await connection.execute(select(tables.shop))).first()
    if row is None:
        return None
    policy, settings = Policy.model_validate_json(row.policy), ShopSettings.model_validate_json(row.settings)
    return Shop(name=row.name, time_zone=row.time_zone, policy=policy, settings=settings)


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
            insert(tables.shop).values(
                id=1, name=new.name, time_zone=new.time_zone,
                policy=canonical(new.policy).decode(), settings=canonical(new.settings).decode(),
            )
        )  # fmt: skip
    except IntegrityError as error:
        raise Invalid("shop", "The shop is set up already.", "Sign in.") from error


async def keep_zone(connection: AsyncConnection, zone: str) -> None:
    """Store the shop's time zone."""
    await connection.execute(update(tables.shop).values(time_zone=zone))


async def keep_policy(connection: AsyncConnection, policy: Policy) -> None:
    """Store the shop's choices."""
    await connection.execute(update(tables.shop).values(policy=canonical(policy).decode()))


async def keep_settings(connection: AsyncConnection, settings: ShopSettings) -> None:
    """Store the shop's settings."""
    await connection.execute(update(tables.shop).values(settings=canonical(settings).decode()))
