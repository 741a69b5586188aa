"""What is due: the list of it, and tags for it."""

from collections.abc import Sequence
from uuid import UUID

from tight_ledger.core.base.errors import NotOnFile
from tight_ledger.core.specs.followups import DueStatus
from tight_ledger.services.context import Context
from tight_ledger.services.standing import OpenFollowup, open_followups
from tight_ledger.services.summaries import catch_up


async def followups(context: Context, statuses: Sequence[DueStatus] = ()) -> tuple[OpenFollowup, ...]:
    """The open follow-ups, the most urgent first; of some statuses, or all."""
    await catch_up(context)
    found = await context.database.run(lambda connection: open_followups(context, connection))
    return tuple(each for each in found if not statuses or each.due.status in statuses)


async def followup(context: Context, root: UUID, name: str) -> OpenFollowup:
    """One open follow-up.

    Raises:
        NotOnFile: it is not open: it was done, or never was.
    """
    found = next((each for each in await followups(context) if each.root == root and each.due.followup == name), None)
    if found is None:
        raise NotOnFile("followup", "This follow-up is not open any more.", "Open the machine; its history says what was done.")
    return found
