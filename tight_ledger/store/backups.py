"""Backup and restore: what is counted and verified is the dump itself, loaded aside by an account that reaches nothing else."""

import asyncio
import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import NamedTemporaryFile, TemporaryDirectory
from typing import IO

from sqlalchemy import URL, Connection, Engine, insert, inspect, text
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.records.notes import Note
from tight_ledger.store import backup_files, clock, ledger, names, schema
from tight_ledger.store import shop as shop_store
from tight_ledger.store.addresses import create_engine, reached
from tight_ledger.store.database import Database
from tight_ledger.store.ids import new_id
from tight_ledger.store.tables import backups
from tight_ledger.store.verification import KnownOutside, verify

NAME = "tight-%Y%m%d-%H%M%S.backup"
WAIT_S = 600
"""How long one backup waits for another to be done with the database aside."""


@dataclass(frozen=True, slots=True)
class Places:
    """The owner's database; and the one aside, with an account that reaches only it."""

    owner: URL
    aside: URL

    @property
    def before(self) -> str:
        """The database in which the state before a restore stays until the new one has been served."""
        return f"{self.owner.database}_before"


@dataclass(frozen=True, slots=True)
class BackupResult:
    """What a backup or a restore found."""

    entries: int
    file: Path
    discarded: int = 0


def _client(program: str, url: URL, *arguments: str, stdin: object = None, stdout: object = None) -> None:
    """Run one of MariaDB's own clients; the password goes through the environment, never the command line."""
    url = reached(url)
    command = [program, "--no-defaults", f"--host={url.host}", f"--port={url.port}", f"--user={url.username}", "--protocol=tcp"]
    done = subprocess.run(
        [*command, *arguments], stdin=stdin, stdout=stdout, stderr=subprocess.PIPE, check=False,  # type: ignore[call-overload]
        env=os.environ | {"MYSQL_PWD": url.password or ""},
    )  # fmt: skip
    if done.returncode:
        raise Invalid("database", f"{program} failed.", done.stderr.decode(errors="replace").strip()[-300:])


def verified(url: URL, known: KnownOutside) -> int:
    """The number of entries, everything of which fits what is known outside.

    Raises:
        Invalid: something does not.
    """
    done = verify(url, replace(known, shorter=True), whole=True, processes=os.cpu_count() or 1)
    if done.findings:
        raise Invalid("ledger", done.findings[0].words, "Keep everything, and call for help.")
    return done.entries


@contextmanager
def _aside(places: Places) -> Iterator[Engine]:
    """The database aside, empty, for one at a time; removed afterwards, whatever happens."""
    engine, name = create_engine(places.owner), places.aside.database
    try:
        with engine.connect() as holder:
            if not holder.execute(text("SELECT GET_LOCK(:name, :wait)"), {"name": name, "wait": WAIT_S}).scalar():
                raise Invalid("backup", "Another backup is under way.", "Wait until it is done.")
            _run(engine, f"DROP DATABASE IF EXISTS `{name}`", f"CREATE DATABASE `{name}`")
            try:
                yield engine
            finally:
                _run(engine, f"DROP DATABASE IF EXISTS `{name}`")
    finally:
        engine.dispose()


def _run(engine: Engine, *statements: str) -> None:
    with engine.begin() as connection:
        for statement in statements:
            connection.execute(text(statement))


def _load(places: Places, dump: IO[bytes]) -> None:
    """Load a dump aside. The client refuses what reaches files or a shell; its account reaches no other database."""
    _client("mariadb", places.aside, "--sandbox", str(places.aside.database), stdin=dump)


def backup(places: Places, file: Path, known: KnownOutside, passphrase: str = "") -> BackupResult:
    """Write everything into one file, whole or not at all; it was restored aside and verified before it is called done.

    Args:
        known: what it must fit outside of the database.

    Raises:
        Invalid: the seals do not hold, the file is there already, or the dump failed.
    """
    if file.exists():
        raise Invalid("file", f"{file} is there already.", "Give a new name; backups are not overwritten.")
    owner, at = places.owner, clock.now()  # what was in the tables before this moment is in it
    with TemporaryDirectory(dir=file.resolve().parent, prefix=".tight-") as folder:
        dump = Path(folder) / "dump.sql"
        with os.fdopen(os.open(dump, os.O_WRONLY | os.O_CREAT, 0o600), "wb") as out:
            _client("mariadb-dump", owner, "--single-transaction", "--hex-blob", "--no-tablespaces", str(owner.database), stdout=out)
        with _aside(places), dump.open("rb") as source:
            _load(places, source)
            schema.migrate(places.owner.set(database=places.aside.database))
            entries = verified(places.aside, known)
        backup_files.write(file, dump, {"entries": entries, "at": at.isoformat(timespec="seconds")}, passphrase)
    engine = create_engine(owner)
    with engine.begin() as connection:
        connection.execute(insert(backups).values(id=new_id(), at=ledger.moment(at), file_name=file.name, entries=entries))
    engine.dispose()
    return BackupResult(entries, file)


def keep(places: Places, folder: Path, known: KnownOutside, most: int, passphrase: str = "") -> BackupResult:
    """Write a backup named by its time into a folder, and remove the oldest of those above a number.

    Raises:
        Invalid: as `backup`.
    """
    folder.mkdir(parents=True, exist_ok=True)
    done = backup(places, folder / clock.now().strftime(NAME), known, passphrase)
    for old in sorted(folder.glob("tight-*.backup"))[:-most]:
        old.unlink()
    return done


def restore(places: Places, file: Path, known: KnownOutside, passphrase: str = "", discard: int = 0) -> BackupResult:
    """Put a backup in the place of what is there, after it was loaded aside and its seals were verified.

    The restore is an entry of the shop's stream: it opens a new epoch, and says how much is missing.

    Args:
        known: what it must fit outside of the database; its log may be shorter, not another one.
        discard: the number of entries that are there now and not in the backup; they would be lost.

    Raises:
        Invalid: not a backup, damaged, from a newer version, its seals do not hold, or entries would be lost. Then
            nothing has changed.
    """
    with NamedTemporaryFile(prefix="tight-restore-") as dump:
        facts = backup_files.read(file, dump, passphrase)
        with _aside(places) as engine:
            _load(places, dump)
            _require_tables_only(engine, places, file)
            schema.migrate(places.owner.set(database=places.aside.database))
            entries = verified(places.aside, known)
            if entries < facts["entries"] or (entries > facts["entries"] and facts["version"] > 1):
                raise Invalid("file", f"{file.name} holds {entries} entries, not {facts['entries']}.", "Take another backup.")
            with engine.connect() as connection:
                lost, epoch = _lost(connection, places), 1 + _epoch(connection, places)
                has_ledger = "ledger" in inspect(connection).get_table_names()
            if lost != discard:
                raise Invalid(
                    "discard", f"{lost} entries that are here now are not in {file.name}.", f"To lose them, say --discard {lost}."
                )
            made = facts.get("at", "earlier")
            words = f"epoch {epoch}: restored from {file.name}, made {made}: {entries} entries; {lost} discarded"
            asyncio.run(_enter(places, words, epoch, has_ledger=has_ledger))
            _swap(engine, places)
    return BackupResult(entries, file, lost)


def _require_tables_only(engine: Engine, places: Places, file: Path) -> None:
    """Refuse a backup with more in it than tables: it would act by itself once it is in place.

    Raises:
        Invalid: it holds a trigger, a view, a routine or an event.
    """
    others = " UNION ".join(
        f"SELECT '{what}' FROM information_schema.{table} WHERE {column} = :name"
        for what, table, column in (
            ("a trigger", "TRIGGERS", "TRIGGER_SCHEMA"), ("a view", "VIEWS", "TABLE_SCHEMA"), ("a routine", "ROUTINES", "ROUTINE_SCHEMA"),
            ("an event", "EVENTS", "EVENT_SCHEMA"),
        )
    )  # fmt: skip
    with engine.connect() as connection:
        more = connection.execute(text(others), {"name": places.aside.database}).scalars().all()
    if more:
        raise Invalid("file", f"{file.name} holds {' and '.join(more)}; a backup of ours holds tables only.", "Take another backup.")


def _lost(connection: Connection, places: Places) -> int:
    """Number of entries that are here and not aside, apart from those that say what was restored."""
    here, aside = places.owner.database, places.aside.database
    if "ledger" not in inspect(connection).get_table_names():
        return 0
    joined = f"`{here}`.ledger AS h LEFT JOIN `{aside}`.ledger AS a ON a.id = h.id AND a.seal = h.seal"
    return int(connection.execute(text(f"SELECT COUNT(*) FROM {joined} WHERE a.id IS NULL AND h.kind <> 'restored'")).scalar_one())


def _epoch(connection: Connection, places: Places) -> int:
    """The epoch that both states have reached: the first, and one more with each restore."""
    found = [0]
    for name in (places.owner.database, places.aside.database):
        if "ledger" in inspect(connection).get_table_names(schema=name):
            asked = f"SELECT COUNT(*), COALESCE(MAX(JSON_VALUE(body, '$.figure') + 0), 1) FROM `{name}`.ledger WHERE kind = 'restored'"
            count, epoch = connection.execute(text(asked)).all()[0]
            found.append(max(int(count), int(epoch) - 1))
    return 1 + max(found)


async def _enter(places: Places, words: str, epoch: int, *, has_ledger: bool) -> None:
    """Write the restore into the shop's stream aside, if there is a shop: a new epoch begins. Who was erased here is erased there."""
    database = Database(places.owner.set(database=places.aside.database), pool_size=1)

    async def work(connection: AsyncConnection) -> None:
        if await shop_store.read(connection) is None:
            return

        def note(seq: int) -> Note:
            return Note(
                id=new_id(), stream=shop_store.STREAM, subject="shop", kind="restored", seq=seq, at_server=clock.now(),
                text=words, figure=epoch,
            )  # fmt: skip

        if has_ledger:
            await names.repeat_erasures(connection, str(places.owner.database), clock.now())
        await ledger.add_next(connection, "shop", shop_store.STREAM, note)

    try:
        await database.run(work, transaction=True)
    finally:
        await database.close()


def _swap(engine: Engine, places: Places) -> None:
    """Exchange the two states in one statement; the old one stays in a database of its own."""
    here, aside, before = places.owner.database, places.aside.database, places.before
    with engine.connect() as connection:
        old = inspect(connection).get_table_names()
        new = inspect(connection).get_table_names(schema=aside)
        connection.execute(text("SET foreign_key_checks = 0"))
        connection.execute(text(f"DROP DATABASE IF EXISTS `{before}`"))
        connection.execute(text(f"CREATE DATABASE `{before}`"))
        moves = [f"`{here}`.`{table}` TO `{before}`.`{table}`" for table in old]
        moves += [f"`{aside}`.`{table}` TO `{here}`.`{table}`" for table in new]
        connection.execute(text(f"RENAME TABLE {', '.join(moves)}"))
        connection.commit()


def forget_before(places: Places) -> None:
    """Remove the state before the last restore: the new one has been served."""
    engine = create_engine(places.owner)
    _run(engine, f"DROP DATABASE IF EXISTS `{places.before}`")
    engine.dispose()
