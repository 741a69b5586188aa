"""What the shop sees of its proof: the last checkpoint, the last verification, the public key."""

from datetime import datetime

from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.proof.findings import Finding
from tight_ledger.services.checkpoints import last_verified
from tight_ledger.services.context import Context
from tight_ledger.store import log as log_store


class ProofNow(Model):
    """How the proof stands."""

    key: str
    """The public key as it is written; empty where nothing is signed."""
    checkpoint_at: datetime | None
    checkpoint_code: str
    checkpoint_note: str
    size: int
    """Number of leaves that the last checkpoint stands over."""
    verified_at: datetime | None
    """When the ledger was last verified."""
    verified_whole: bool
    finding: Finding | None
    finding_words: str
    """What did not fit then; empty if everything did."""


async def proof_now(context: Context) -> ProofNow:
    """How the proof stands."""

    async def work(connection: AsyncConnection) -> ProofNow:
        signed, verified = await log_store.latest(connection), await last_verified(connection)
        point = signed.checkpoint if signed is not None else None
        finding = verified.finding if verified is not None else None
        return ProofNow(
            key=context.keeper.key.public.written if context.keeper is not None else "",
            checkpoint_at=point.time if point else None, checkpoint_code=point.code if point else "",
            checkpoint_note=signed.note if signed else "", size=point.size if point else 0,
            verified_at=verified.at if verified else None, verified_whole=verified.whole if verified else False,
            finding=finding, finding_words=finding.words if finding else "",
        )  # fmt: skip

    return await context.database.run(work)
