"""What is erased, when, and what stops it; and everything that is held about a person."""

import json
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, delete, or_, select
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import NotAllowed, NotOnFile
from tight_ledger.core.base.people import rights_of
from tight_ledger.core.records.holds import Hold
from tight_ledger.core.records.notes import Note
from tight_ledger.core.records.upcasting import read_entry
from tight_ledger.core.tool_care.care import after_months
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.proof.holds import in_force
from tight_ledger.services.runs.curves import curve_id
from tight_ledger.store import attachments as attachment_store
from tight_ledger.store import ledger
from tight_ledger.store import people as people_store
from tight_ledger.store import practice as practice_store
from tight_ledger.store import records as record_store
from tight_ledger.store import runs as run_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.ledger import moment
from tight_ledger.store.tables import attachments, devices, pin_attempts, press_keys, runs, sessions
from tight_ledger.store.verification import CURVES

FORMAT = "tight-ledger personal data"


def _months_ago(now: datetime, months: int) -> datetime:
    return datetime.combine(after_months(now.date(), -months), now.timetz())


async def erase_old(context: Context) -> int:
    """Erase files that are older than the shop keeps them, and old attempts to sign in. Returns the number of files.

    A file under a hold stays. Each erasure is an entry of the file's own stream; the entries that name the file stay as they are.
    """
    shop, now = await context.shop(), context.now().astimezone(UTC)
    old = or_(
        (attachments.c.media_type == CURVES) & (attachments.c.at < moment(_months_ago(now, shop.settings.curves_months))),
        (attachments.c.media_type != CURVES) & (attachments.c.at < moment(_months_ago(now, shop.settings.photos_months))),
    )

    async def work(connection: AsyncConnection) -> int:
        before = moment(_months_ago(now, shop.settings.attempts_months))
        await connection.execute(delete(pin_attempts).where(pin_attempts.c.at < before))
        return await _erase_files(connection, old, now)

    return await context.database.run(work, transaction=True)


async def _erase_files(connection: AsyncConnection, which: ColumnElement[bool], now: datetime) -> int:
    holds, many = await in_force(connection), 0
    kept = await _kept_by_machine(connection, holds)
    rows = (await connection.execute(select(attachments.c.id, attachments.c.at, attachments.c.digest).where(which))).all()
    for row in rows:
        at = row.at.replace(tzinfo=UTC)
        if str(row.id) in kept or any(hold.keeps(None, at) for hold in holds):
            continue

        def note(seq: int, file: UUID = row.id, digest: str = row.digest) -> Note:
            return Note(id=new_id(), stream=file, subject="file", kind="erased", seq=seq, at_server=now, digest=digest)

        await connection.execute(delete(attachments).where(attachments.c.id == row.id))
        await ledger.add_next(connection, "file", row.id, note)
        many += 1
    return many


async def _kept_by_machine(connection: AsyncConnection, holds: tuple[Hold, ...]) -> set[str]:
    """The ids of the files of the runs of machines that are under a hold, as the entries write them."""
    kept: set[str] = set()
    for hold in holds:
        if hold.machine is None:
            continue
        for run_id in (await connection.execute(select(runs.c.id).where(runs.c.machine_id == hold.machine))).scalars().all():
            for entry in await run_store.entries(connection, run_id):
                if hold.keeps(hold.machine, entry.at_server):
                    kept |= {file.lower() for file in entry.files or ()}
                    kept |= {str(curve_id(entry.id))} if entry.curve is not None else set()
    return kept


async def require_not_held(connection: AsyncConnection, person: UUID) -> None:
    """Refuse to erase somebody whose work is under a hold.

    Raises:
        NotAllowed: it is.
    """
    holds = await in_force(connection)
    if not holds:
        return
    for run_id, machine in await record_store.worked_in(connection, person):
        entries = [entry for entry in await run_store.entries(connection, run_id) if person in (entry.by, entry.recorded_by)]
        held = next((hold for hold in holds for entry in entries if hold.keeps(machine, entry.at_server)), None)
        if held is not None:
            raise NotAllowed("person", f"A hold keeps their work: {held.reason}.", "A lead lifts the hold first.")


async def held_about(context: Context, actor: Actor, person_id: UUID) -> bytes:
    """Everything that is held about a person, as JSON: for themselves, and for whoever keeps the list of people.

    Raises:
        NotAllowed: for somebody else.
        NotOnFile: nobody has this id.
    """
    if actor.person.id != person_id and "people" not in rights_of(actor.person.roles):
        raise NotAllowed("person", "This is somebody else's.", "They can read it themselves; so can a keeper.")

    async def work(connection: AsyncConnection) -> dict[str, Any]:
        person = next((each for each in await people_store.everybody(connection) if each.id == person_id), None)
        if person is None:
            raise NotOnFile("person", "Nobody has this id.", "Pick somebody from the list.")
        own = [json.loads(body) for _, body, _ in await ledger.read(connection, person_id, subject="person")]
        did = []
        for run_id, machine in await record_store.worked_in(connection, person_id):
            entries = [read_entry(body) for body in await run_store.bodies(connection, run_id)]
            mine = [
                entry.model_dump(mode="json", exclude_none=True, exclude={"started"})
                for entry in entries
                if person_id in (entry.by, entry.recorded_by)
            ]
            did.append({"run": str(run_id), "machine": str(machine), "entries": mine})
        signed_in = (
            select(sessions.c.device_id, sessions.c.expires_at, devices.c.name)
            .join(devices, devices.c.id == sessions.c.device_id, isouter=True)
            .where(sessions.c.person_id == person_id)
        )
        keys = select(press_keys.c.device_id, press_keys.c.until, press_keys.c.public).where(press_keys.c.person_id == person_id)
        practised = await practice_store.of_person(connection, person_id)
        tried = select(pin_attempts.c.at, pin_attempts.c.good).where(pin_attempts.c.person_id == person_id).order_by(pin_attempts.c.at)
        return {
            "practised": [{"at": at.isoformat(), **result.model_dump(mode="json")} for at, result in practised],
            "format": FORMAT, "version": 1, "person": person.model_dump(mode="json"), "own_entries": own, "runs": did,
            "sessions": [{"device": row.name, "until": row.expires_at.isoformat()} for row in await connection.execute(signed_in)],
            "keys_of_sessions": [
                {"device": str(row.device_id), "until": row.until.isoformat(), "public": bytes(row.public).hex()}
                for row in await connection.execute(keys)
            ],
            "pin_attempts": [{"at": row.at.isoformat(), "good": bool(row.good)} for row in await connection.execute(tried)],
        }  # fmt: skip

    return json.dumps(await context.database.run(work), ensure_ascii=False, indent=1).encode()


async def seal_file(connection: AsyncConnection, kept: attachment_store.Attachment, now: datetime, actor: Actor | None) -> None:
    """Seal the digest of a file that was handed in."""

    def note(seq: int) -> Note:
        by, device = (actor.person.id, actor.device) if actor is not None else (None, None)
        return Note(
            id=new_id(), stream=kept.id, subject="file", kind="filed", seq=seq, at_server=now, digest=kept.digest, text=kept.name, by=by,
            device=device,
        )  # fmt: skip

    await ledger.add_next(connection, "file", kept.id, note)
