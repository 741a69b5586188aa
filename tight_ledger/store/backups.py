"""Backup and restore: one consistent file, its seals verified before it is written and before it takes over."""

import asyncio
import gzip
import hashlib
import json
import os
import shutil
import subprocess
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from tempfile import NamedTemporaryFile, TemporaryDirectory
from uuid import UUID

from sqlalchemy import URL, create_engine, insert, inspect, text

from tight_ledger.core.base.errors import Invalid
from tight_ledger.store.database import Database
from tight_ledger.store.ids import new_id
from tight_ledger.store.ledger import moment, verify_all
from tight_ledger.store.schema import migrate
from tight_ledger.store.tables import backups

MAGIC = b"TIGHT-LEDGER-BACKUP 1\n"


@dataclass(frozen=True, slots=True)
class BackupResult:
    """What a backup or a restore found."""

    entries: int
    file: Path


def _client(program: str, url: URL, *arguments: str, stdin: object = None, stdout: object = None) -> None:
    """Run one of MariaDB's own clients; the password goes through the environment, never the command line."""
    command = [program, "--no-defaults", f"--host={url.host}", f"--port={url.port}", f"--user={url.username}", "--protocol=tcp"]
    done = subprocess.run(
        [*command, *arguments], stdin=stdin, stdout=stdout, stderr=subprocess.PIPE, check=False,  # type: ignore[call-overload]
        env=os.environ | {"MYSQL_PWD": url.password or ""},
    )  # fmt: skip
    if done.returncode:
        raise Invalid("database", f"{program} failed.", done.stderr.decode(errors="replace").strip()[-300:])


def verified(owner: URL) -> int:
    """The number of entries, all of whose seals hold.

    Raises:
        Invalid: a stream does not hold.
    """

    async def look() -> tuple[int, dict[UUID, int]]:
        database = Database(owner, pool_size=1)
        try:
            return await database.run(verify_all)
        finally:
            await database.close()

    count, broken = asyncio.run(look())
    if broken:
        stream, seq = next(iter(broken.items()))
        raise Invalid(
            "ledger",
            f"Stream {stream} does not hold from entry {seq} on.",
            "Somebody changed the data. Keep everything, and call for help.",
        )
    return count


def backup(owner: URL, file: Path) -> BackupResult:
    """Write everything into one file, whole or not at all.

    Raises:
        Invalid: the seals do not hold, the file is there already, or the dump failed.
    """
    if file.exists():
        raise Invalid("file", f"{file} is there already.", "Give a new name; backups are not overwritten.")
    entries = verified(owner)
    with TemporaryDirectory(dir=file.resolve().parent) as folder:
        dump = Path(folder) / "dump.sql"
        with dump.open("wb") as out:
            _client("mariadb-dump", owner, "--single-transaction", "--hex-blob", "--no-tablespaces", str(owner.database), stdout=out)
        with dump.open("rb") as source:
            digest = hashlib.file_digest(source, "sha256").hexdigest()
        packed = Path(folder) / "packed"
        with packed.open("wb") as raw:
            raw.write(MAGIC + json.dumps({"sha256": digest, "entries": entries}).encode() + b"\n")
            with gzip.GzipFile(fileobj=raw, mode="wb") as out, dump.open("rb") as source:
                shutil.copyfileobj(source, out)
        packed.rename(file)
    engine = create_engine(owner)
    with engine.begin() as connection:
        row = dict(id=new_id(), at=moment(datetime.now(UTC)), file_name=file.name, entries=entries)
        connection.execute(insert(backups).values(**row))
    engine.dispose()
    return BackupResult(entries, file)


def restore(owner: URL, file: Path, scratch: str) -> BackupResult:
    """Put a backup in the place of what is there, after it was loaded aside and its seals were verified.

    Raises:
        Invalid: not a backup, damaged, from a newer version, or its seals do not hold. Then nothing has changed.
    """
    if not file.exists():
        raise Invalid("file", f"There is no {file}.", "Give the path of a backup.")
    with file.open("rb") as raw, NamedTemporaryFile() as dump:
        if raw.readline() != MAGIC:
            raise Invalid("file", f"{file.name} is not a backup of Tight Ledger.", "Give one that ./tight backup wrote.")
        try:
            head = json.loads(raw.readline())
            with gzip.GzipFile(fileobj=raw) as packed:
                shutil.copyfileobj(packed, dump)
        except (EOFError, OSError, ValueError) as error:
            raise Invalid("file", f"{file.name} is damaged.", "Take another backup.") from error
        dump.flush()
        dump.seek(0)
        if hashlib.file_digest(dump, "sha256").hexdigest() != head["sha256"]:
            raise Invalid("file", f"{file.name} is damaged.", "Take another backup.")
        dump.seek(0)
        aside, engine = owner.set(database=scratch), create_engine(owner)
        with engine.begin() as connection:
            connection.execute(text(f"DROP DATABASE IF EXISTS `{scratch}`"))
            connection.execute(text(f"CREATE DATABASE `{scratch}`"))
        _client("mariadb", owner, scratch, stdin=dump)
    entries = verified(aside)
    migrate(aside)
    if entries != head["entries"]:
        raise Invalid("file", f"{file.name} holds {entries} entries, not {head['entries']}.", "Take another backup.")
    with engine.begin() as connection:
        old = inspect(connection).get_table_names()
        new = inspect(connection).get_table_names(schema=scratch)
        connection.execute(text("SET foreign_key_checks = 0"))
        for table in old:
            connection.execute(text(f"DROP TABLE `{table}`"))
        moves = ", ".join(f"`{scratch}`.`{table}` TO `{owner.database}`.`{table}`" for table in new)
        connection.execute(text(f"RENAME TABLE {moves}"))
        connection.execute(text(f"DROP DATABASE `{scratch}`"))
    engine.dispose()
    return BackupResult(entries, file)
