"""Files of specs in work: how far each is, and what was accepted; in the database, so that any server process can go on."""

from datetime import datetime
from uuid import UUID

from sqlalchemy import delete, insert, select, update
from sqlalchemy.dialects.mysql import insert as upsert
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.store.tables import import_pieces, imports


async def add(connection: AsyncConnection, import_id: UUID, state: str, content: str, now: datetime, most: int) -> bool:
    """Keep a new import; whether it was new. Of all, the newest `most` are kept."""
    given = {"id": import_id, "at": now, "touched_at": now, "state": state, "content": content}
    done = await connection.execute(upsert(imports).values(**given).prefix_with("IGNORE"))
    kept = select(imports.c.id).order_by(imports.c.at.desc(), imports.c.id.desc()).limit(most)
    newest = [row.id for row in await connection.execute(kept)]
    await connection.execute(delete(imports).where(imports.c.id.not_in(newest)))
    return bool(done.rowcount)


async def find(connection: AsyncConnection, import_id: UUID) -> tuple[str, str, datetime] | None:
    """State, content and when it was last touched; None if it is not kept."""
    row = (await connection.execute(select(imports).where(imports.c.id == import_id))).first()
    return (row.state, row.content, row.touched_at) if row else None


async def put(connection: AsyncConnection, import_id: UUID, state: str, content: str, now: datetime) -> None:
    """Store how far an import is."""
    await connection.execute(update(imports).where(imports.c.id == import_id).values(state=state, content=content, touched_at=now))


async def claim(connection: AsyncConnection, import_id: UUID, before: str, after: str, now: datetime) -> bool:
    """Move an import from one state to the next; whether this caller did it."""
    moved = update(imports).where(imports.c.id == import_id, imports.c.state == before).values(state=after, touched_at=now)
    return bool((await connection.execute(moved)).rowcount)


async def add_piece(connection: AsyncConnection, import_id: UUID, place: int, content: str) -> None:
    """Keep a batch of accepted specs."""
    await connection.execute(insert(import_pieces).values(import_id=import_id, place=place, content=content))


async def piece(connection: AsyncConnection, import_id: UUID, place: int) -> str | None:
    """A batch of accepted specs; None after the last one."""
    query = select(import_pieces.c.content).where(import_pieces.c.import_id == import_id, import_pieces.c.place == place)
    return (await connection.execute(query)).scalar_one_or_none()


async def forget_pieces(connection: AsyncConnection, import_id: UUID) -> None:
    """Remove the batches of an import that is on file."""
    await connection.execute(delete(import_pieces).where(import_pieces.c.import_id == import_id))
