"""Migrations, rights, and the sentences that say what is in the way."""

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import create_engine, text
from sqlalchemy.exc import OperationalError

from tight_ledger.core.base.errors import Invalid
from tight_ledger.store import schema
from tight_ledger.store.server import HOST, OWNER, SERVING, PrivateServer
from tight_ledger.store.tables import INSERT_ONLY, metadata


@pytest.fixture
def owner(server):
    engine = create_engine(server.url(OWNER), isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        yield connection
    engine.dispose()


def test_the_migrations_make_the_tables_that_the_code_means(owner):
    read = {"include_object": lambda named, name, kind, *_: kind != "column" or (named.table.name, name) != ("ledger", "body")}
    assert compare_metadata(MigrationContext.configure(owner, opts=read), metadata) == []
    body = text("SELECT is_nullable, column_type FROM information_schema.columns WHERE table_name = 'ledger' AND column_name = 'body'")
    assert [tuple(row) for row in owner.execute(body)] == [("NO", "mediumtext /*M!100301 COMPRESSED*/")]  # SQLAlchemy cannot read that


@pytest.mark.parametrize("table", [t.name for t in INSERT_ONLY])
@pytest.mark.parametrize("change", ["DELETE FROM {}", "UPDATE {} SET {} = {}", "DROP TABLE {}", "TRUNCATE {}"])
def test_the_serving_account_cannot_change_what_was_recorded(server, table, change):
    engine = create_engine(server.url(SERVING))
    column = next(iter(metadata.tables[table].columns)).name
    with engine.connect() as connection, pytest.raises(OperationalError, match="command denied"):
        connection.execute(text(change.format(table, column, column)))
    engine.dispose()


def test_exact_rights_are_accepted_any_more_or_fewer_refused(server, owner):
    schema.check_rights(server.url(SERVING))
    for grant, revoke, named in (
        (f"GRANT UPDATE ON ledger TO '{SERVING}'@'{HOST}'", f"REVOKE UPDATE ON ledger FROM '{SERVING}'@'{HOST}'", "UPDATE on ledger"),
        (f"GRANT DELETE ON tight.* TO '{SERVING}'@'{HOST}'", f"REVOKE DELETE ON tight.* FROM '{SERVING}'@'{HOST}'", "DELETE everywhere"),
        (f"REVOKE INSERT ON ledger FROM '{SERVING}'@'{HOST}'", f"GRANT INSERT ON ledger TO '{SERVING}'@'{HOST}'", "lacks INSERT on ledger"),
    ):
        owner.execute(text(grant))
        try:
            with pytest.raises(Invalid, match=named):
                schema.check_rights(server.url(SERVING))
        finally:
            owner.execute(text(revoke))
    schema.check_rights(server.url(SERVING))


def test_data_from_a_newer_version(server, owner):
    owner.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    try:
        with pytest.raises(Invalid, match="newer version"):
            schema.migrate(server.url(OWNER))
    finally:
        owner.execute(text("UPDATE alembic_version SET version_num = '0001'"))


def test_a_full_disk_is_one_sentence(tmp_path, monkeypatch):
    monkeypatch.setattr("tight_ledger.store.server.LEAST_FREE_BYTES", 10**18)
    with pytest.raises(Invalid, match="Make room"):
        PrivateServer(tmp_path).start()
