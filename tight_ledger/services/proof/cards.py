"""A card's file, with everything that is needed to check it without us."""

import json
from typing import Any
from uuid import UUID

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.proof.cards import FORMAT, VERSION, signed_words
from tight_ledger.core.proof.checkpoints import SignedCheckpoint
from tight_ledger.services import people
from tight_ledger.services.context import Context
from tight_ledger.services.runs import views
from tight_ledger.store import ledger
from tight_ledger.store import log as log_store


async def card_file(context: Context, run_id: UUID) -> bytes:
    """The card, every entry's stored text with its seal, the names that can be proved, and the proof of the checkpoint, as JSON.

    Raises:
        NotOnFile: no run has this id.
    """
    card = await views.card(context, run_id)

    async def read(connection: AsyncConnection) -> dict[str, Any]:
        names = await people.proofs(connection, {line.by for line in card.entries} | {line.recorded_by for line in card.entries})
        streams = {each["person"]: await _stream(connection, UUID(each["person"])) for each in names}
        shown = json.loads(card.model_dump_json())
        document: dict[str, Any] = {
            "format": FORMAT, "version": VERSION, "card": shown, "entries": await _stream(connection, run_id), "names": names,
            "people": streams,
        }  # fmt: skip
        return document | {"proof": await _proof(context, connection, document, run_id, [UUID(each) for each in streams])}

    document = await context.database.run(read)
    return json.dumps(document, ensure_ascii=False, indent=1).encode()


async def _stream(connection: AsyncConnection, stream: UUID) -> list[dict[str, Any]]:
    rows = await ledger.read(connection, stream)
    return [{"seq": seq, "stored": stored.decode(), "seal": seal.hex()} for seq, stored, seal in rows]


async def _proof(
    context: Context, connection: AsyncConnection, document: dict[str, Any], run_id: UUID, others: list[UUID]
) -> dict[str, Any] | None:
    """What shows that a checkpoint covers the card; None where none does, or nothing is signed here."""
    signed = await log_store.latest(connection)
    if context.keeper is None or signed is None:
        return None
    leaves = {}
    for stream in (run_id, *others):
        covered = await log_store.covering(connection, stream)
        if covered is None:
            return None
        hashes = await log_store.inclusion(connection, covered.place, signed.checkpoint.size)
        leaves[str(stream)] = {"place": covered.place, "seq": covered.head.seq, "inclusion": [each.hex() for each in hashes]}
    return {
        "key": context.keeper.key.public.written, "checkpoint": signed.note, "leaves": leaves,
        "words": signed_words(document, str(run_id), context.keeper.key),
    }  # fmt: skip


async def covering(context: Context, run_id: UUID) -> SignedCheckpoint | None:
    """The newest checkpoint, if a checkpoint covers the run; otherwise None."""

    async def read(connection: AsyncConnection) -> SignedCheckpoint | None:
        return await log_store.latest(connection) if await log_store.covering(connection, run_id) is not None else None

    return await context.database.run(read)
