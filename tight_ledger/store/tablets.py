"""The tablets that were introduced here. Each shows a secret, of which only the hash is kept."""

from datetime import datetime
from uuid import UUID

from sqlalchemy import delete, insert, select, update
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import NotOnFile, Stale
from tight_ledger.core.base.models import Model
from tight_ledger.store.tables import devices, press_keys, sessions


class Tablet(Model):
    """A tablet that was introduced."""

    id: UUID
    name: str
    since: datetime
    lost: bool


async def introduce(connection: AsyncConnection, tablet: UUID, name: str, secret_hash: bytes, at: datetime) -> bool:
    """Keep a tablet. Introduced again before anybody signed in on it, as when the answer was lost, it is the same one with
    a new secret. Returns whether it was new.

    Raises:
        Stale: the id stands for another already.
    """
    row = (await connection.execute(select(devices.c.name, devices.c.lost_at).where(devices.c.id == tablet))).first()
    if row is None:
        await connection.execute(insert(devices).values(id=tablet, name=name, first_seen=at, secret_hash=secret_hash))
        return True
    used = (await connection.execute(select(sessions.c.device_id).where(sessions.c.device_id == tablet).limit(1))).first()
    if used is not None or row.lost_at is not None or row.name != name:
        raise Stale("id", "This id stands for a tablet already.", "Press again; a new one is made.")
    await connection.execute(update(devices).where(devices.c.id == tablet).values(secret_hash=secret_hash))
    return False


async def known(connection: AsyncConnection, secret_hash: bytes) -> tuple[UUID, str] | None:
    """The id and name of the tablet that shows a secret; None if it was not introduced, or is lost."""
    found = await connection.execute(select(devices.c.id, devices.c.name).where(devices.c.secret_hash == secret_hash))
    row = found.first()
    return (row.id, row.name) if row is not None else None


async def lose(connection: AsyncConnection, tablet: UUID, at: datetime) -> None:
    """A tablet is lost or sold: its secret counts no more, and its sessions end.

    Raises:
        NotOnFile: no tablet has this id.
    """
    lost = update(devices).where(devices.c.id == tablet).values(secret_hash=None, lost_at=at)
    if (await connection.execute(lost)).rowcount == 0:
        raise NotOnFile("tablet", "No tablet has this id.", "Pick one from the list.")
    await connection.execute(delete(press_keys).where(press_keys.c.device_id == tablet))
    await connection.execute(delete(sessions).where(sessions.c.device_id == tablet))


async def everything(connection: AsyncConnection) -> list[Tablet]:
    """Every tablet that was introduced, by name."""
    query = select(devices).where(devices.c.secret_hash.is_not(None) | devices.c.lost_at.is_not(None)).order_by(devices.c.name)
    return [Tablet(id=row.id, name=row.name, since=row.first_seen, lost=row.lost_at is not None) for row in await connection.execute(query)]
