"""Migrating under the owner's account; granting to, and checking, the account that serves."""

from contextlib import suppress
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import URL, Connection, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.ext.asyncio import AsyncConnection

from tight_ledger.core.base.errors import Invalid
from tight_ledger.store.addresses import create_engine
from tight_ledger.store.tables import INSERT_ONLY, READ_ONLY, metadata

WAITS_S = 600
"""How long a start waits for another that brings the tables up to date."""
_SEES = {"SELECT"}
_ADDS = {"SELECT", "INSERT"}
_WRITES = {"SELECT", "INSERT", "UPDATE", "DELETE"}


def allowed() -> dict[str, set[str]]:
    """The rights of the serving account, table by table."""
    rights = {table.name: _WRITES for table in metadata.tables.values()}
    return rights | {t.name: _ADDS for t in INSERT_ONLY} | {t.name: _SEES for t in READ_ONLY} | {"alembic_version": _SEES}


def _config(connection: Connection) -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["connection"] = connection
    return config


def newest() -> str:
    """The revision to which this program's migrations lead."""
    return ScriptDirectory(str(Path(__file__).parent / "migrations")).get_current_head() or ""


async def revision(connection: AsyncConnection) -> str:
    """The revision of the tables."""
    return str((await connection.execute(text("SELECT version_num FROM alembic_version"))).scalar_one())


def is_older(owner: URL) -> bool:
    """Whether there are tables, and they are of an older version than this program's."""
    engine = create_engine(owner)
    try:
        with engine.connect() as connection:
            now = MigrationContext.configure(connection).get_current_revision()
            return now is not None and now != newest()
    finally:
        engine.dispose()


def migrate(owner: URL) -> None:
    """Bring the tables up to date.

    Raises:
        Invalid: the tables were written by a newer version of this program.
    """
    engine = create_engine(owner)
    try:
        with engine.connect() as connection:
            config = _config(connection)
            known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
            now = MigrationContext.configure(connection).get_current_revision()
            if now is not None and now not in known:
                raise Invalid(
                    "data", "This data was written by a newer version of Tight Ledger.", "Start that version, or restore an older backup."
                )
            connection.execute(text("SELECT GET_LOCK('tight_migrate', :s)"), {"s": WAITS_S})  # two that start at once go one by one
            command.upgrade(config, "head")
            connection.commit()
    finally:
        engine.dispose()


def _account(serving: URL) -> str:
    """The serving account as the server knows it: 'user'@'host'. It need not see any database yet."""
    engine = create_engine(serving._replace(database=None))
    try:
        with engine.connect() as connection:
            user, host = str(connection.scalar(text("SELECT CURRENT_USER()"))).rsplit("@", 1)
    finally:
        engine.dispose()
    return f"'{user}'@'{host}'"


def grant(owner: URL, serving: URL) -> None:
    """Give the serving account what it needs; an owner who may not grant leaves that to the server's keeper."""
    account, engine = _account(serving), create_engine(owner)
    try:
        with engine.begin() as connection, suppress(OperationalError):
            for table, rights in allowed().items():
                connection.execute(text(f"GRANT {', '.join(sorted(rights))} ON `{owner.database}`.`{table}` TO {account}"))
    finally:
        engine.dispose()


def check_rights(serving: URL) -> None:
    """Refuse to serve under an account that could change the ledger, or that lacks what it needs.

    Raises:
        Invalid: the account has more rights than it needs, or fewer.
    """
    account, engine = _account(serving), create_engine(serving)
    try:
        with engine.connect() as connection:
            grantee = {"g": account, "d": serving.database}
            wide = connection.execute(
                text(
                    "SELECT PRIVILEGE_TYPE FROM information_schema.USER_PRIVILEGES WHERE GRANTEE = :g AND PRIVILEGE_TYPE <> 'USAGE'"
                    " UNION SELECT PRIVILEGE_TYPE FROM information_schema.SCHEMA_PRIVILEGES WHERE GRANTEE = :g"
                ),
                grantee,
            ).scalars()
            narrow = connection.execute(
                text("SELECT TABLE_NAME, PRIVILEGE_TYPE FROM information_schema.TABLE_PRIVILEGES WHERE GRANTEE = :g AND TABLE_SCHEMA = :d"),
                grantee,
            )
            has = {f"{right} on {table}" for table, right in narrow} | {f"{right} everywhere" for right in wide}
    except OperationalError as error:
        raise Invalid(
            "database account", f"{account} cannot open {serving.database}.", "Grant it what docs/architecture.md lists."
        ) from error
    finally:
        engine.dispose()
    needs = {f"{right} on {table}" for table, rights in allowed().items() for right in rights}
    if excess := sorted(has - needs):
        raise Invalid(
            "database account",
            f"{account} may do more than it needs: {', '.join(excess[:6])}.",
            "Serve under an account that can only read and add to the ledger.",
        )
    if lacking := sorted(needs - has):
        raise Invalid("database account", f"{account} lacks {', '.join(lacking[:6])}.", "Grant it what docs/architecture.md lists.")
