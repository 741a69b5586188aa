"""A run's data as JSON: what anybody needs to read it and to verify its seals."""

import json
from uuid import UUID

from tight_ledger.services import people
from tight_ledger.services.context import Context
from tight_ledger.services.runs import views
from tight_ledger.store import ledger


async def run_json(context: Context, run_id: UUID) -> bytes:
    """The card, and every entry's stored text with its seal.

    A name is proved by its salt: SHA-256 over the salt and the name is the digest of the `named` entry of the person's stream.
    A seal is SHA-256 over the seal before it (32 zero bytes before the first) and the UTF-8 bytes of `stored`.
    """
    card = await views.card(context, run_id)
    chain = await context.database.run(lambda connection: ledger.read(connection, run_id))
    names = await context.database.run(lambda connection: people.proofs(connection, {line.by for line in card.entries}))
    entries = [{"seq": seq, "stored": stored.decode(), "seal": seal.hex()} for seq, stored, seal in chain]
    document = {"format": "tight-ledger run", "version": 1, "card": card.model_dump(mode="json"), "entries": entries, "names": names}
    return json.dumps(document, ensure_ascii=False, indent=1).encode()
