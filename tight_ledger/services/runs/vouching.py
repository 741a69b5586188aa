"""Confirming with a PIN what was recorded under a name without it."""

from uuid import UUID

from pydantic import Field

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.moments import DeviceTime
from tight_ledger.core.records.entries import MOST_SEQ
from tight_ledger.services.actors import Actor
from tight_ledger.services.commands import Command
from tight_ledger.services.context import Context
from tight_ledger.services.people import admit, verified
from tight_ledger.services.runs.recording import Accepted, Given, append, begin


class Vouch(Command):
    """Somebody says with their PIN: what this run says that I did, I did."""

    person: UUID
    pin: str = Field(max_length=20)
    seq: int = Field(ge=1, le=MOST_SEQ)
    at_device: DeviceTime


async def vouch(context: Context, actor: Actor, run_id: UUID, request: Vouch) -> Accepted:
    """Confirm what was recorded under a name.

    Raises:
        Invalid: nothing waits for this person.
        Stale: something was recorded meanwhile.
        NotAllowed, Busy, NotOnFile: the PIN is wrong, or was too often, or nobody here has this id.
    """
    said: Given = {
        "id": request.id, "kind": "vouched", "by": request.person, "at_device": request.at_device, "claimed_seq": request.seq + 1,
    }  # fmt: skip
    run, before = await begin(context, actor, run_id, said, decides=True)
    if before is not None:
        return before
    if request.person not in run.state.unproven:
        raise Invalid("person", "Nothing in this run waits for this person.", "Look at the run again.")
    person, pin_hash = await admit(context, request.person, actor.device)
    await verified(context, person, actor.device, pin_hash, request.pin)
    return await append(context, actor, run, said, decides=True)
