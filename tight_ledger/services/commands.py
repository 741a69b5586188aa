"""Commands: each carries an id that is made at the press, so that a command that is sent twice is carried out once."""

from collections.abc import Awaitable, Callable
from datetime import datetime
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.records.notes import Note
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.store import ledger


class Command(Model):
    """A request to change something."""

    id: UUID


def note(now: datetime, actor: Actor | None, **fields: object) -> ledger.Build:
    """Build a note by whoever makes the request, from its fields without its number.

    Args:
        actor: None for what is done on the server itself.
    """
    by, device = (actor.person.id, actor.device) if actor is not None else (None, None)
    common = {"by": by, "device": device, "at_server": now} | fields
    return lambda seq: Note.model_validate(common | {"seq": seq})


async def done_before(connection: AsyncConnection, command: UUID, stream: UUID, build: ledger.Build) -> bool:
    """Whether a command was carried out: its entry is in the ledger.

    Args:
        stream: where its entry stands.
        build: makes its entry.

    Raises:
        Stale: the id belongs to another entry, or to one that says something else.
    """
    return await ledger.recorded(connection, stream, command, build) is not None


async def once(
    context: Context, command: UUID, stream: tuple[str, UUID], build: ledger.Build, act: Callable[[AsyncConnection], Awaitable[None]]
) -> None:
    """Carry out a command and write its entry, both or neither; one that was carried out before changes nothing.

    Args:
        stream: its subject and id, where the entry stands.
        build: makes the entry.
        act: changes the tables.

    Raises:
        Stale: as `done_before`.
    """

    async def work(connection: AsyncConnection) -> None:
        if not await done_before(connection, command, stream[1], build):
            await act(connection)
            await ledger.add_next(connection, *stream, build)

    await context.database.run(work, transaction=True)
