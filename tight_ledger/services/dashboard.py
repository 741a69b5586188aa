"""The home screen: what stands open, what must not move, what is due."""

import shutil
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.models import Model
from tight_ledger.core.base.settings import shift_at, shift_ends
from tight_ledger.services.bay import MachineInBay, by_machine
from tight_ledger.services.checkpoints import Verification, last_verified
from tight_ledger.services.context import Context
from tight_ledger.services.notices import NoticeNow, notices
from tight_ledger.services.specs.revisions import ToCheck, to_check
from tight_ledger.services.standing import attention, open_followups
from tight_ledger.store.tables import backups

LITTLE_ROOM_MB = 2_000
"""With less than this the home screen says so, long before anything is refused."""


class Dashboard(Model):
    """What needs somebody, over all machines."""

    bay: tuple[MachineInBay, ...]
    """The machines that need somebody, and those of which something is to come; the most serious first."""
    notices: tuple[NoticeNow, ...]
    """Those that are not worked off."""
    to_check: tuple[ToCheck, ...]
    to_check_in_all: int
    last_backup: datetime | None
    """When a backup was last made and tried."""
    verified: Verification | None
    """When the ledger was last verified, and whether everything fitted."""
    shift: str
    """The shift that is now, by the shop's settings; empty where there are none."""
    shift_ends: datetime | None
    little_room_mb: int | None
    """How much room is left on the disk, if it is little."""


async def dashboard(context: Context) -> Dashboard:
    """The home screen's list."""

    said, shop, now = await notices(context, most_worked_off=0), await context.shop(), context.now()

    async def work(connection: AsyncConnection) -> Dashboard:
        last = (await connection.execute(select(backups.c.at).order_by(backups.c.at.desc()).limit(1))).scalar()
        waiting, many = await to_check(connection)
        return Dashboard(
            bay=by_machine(await attention(context, connection, None), await open_followups(context, connection)),
            notices=tuple(each for each in said if each.left > 0),
            to_check=tuple(waiting),
            to_check_in_all=many,
            last_backup=last.replace(tzinfo=UTC) if last is not None else None,
            verified=await last_verified(connection),
            shift=shift_at(shop.settings, shop.time_zone, now),
            shift_ends=shift_ends(shop.settings, shop.time_zone, now),
            little_room_mb=_little_room_mb(context.disk),
        )

    return await context.database.run(work)


def _little_room_mb(disk: Path | None) -> int | None:
    free_mb = shutil.disk_usage(disk).free // 1_000_000 if disk is not None else LITTLE_ROOM_MB
    return free_mb if free_mb < LITTLE_ROOM_MB else None
