"""On a database server that somebody else keeps; and what a start refuses in one sentence."""

import asyncio
import os
from uuid import UUID

import pytest

from tests import shop as shops
from tests.shop import Shop
from tight_ledger.api.devices import follow
from tight_ledger.services.context import Context
from tight_ledger.store.database import Database, DatabaseAway
from tight_ledger.store.server import HOST, OWNER, SERVING, PrivateServer, free_port


@pytest.fixture
def elsewhere(tmp_path, monkeypatch):
    server = PrivateServer(tmp_path / "elsewhere")
    server.start()
    places = {"host": (f"{HOST}:{free_port()}", f"{HOST}:{server.port}")}  # two nodes; the first is dead
    accounts = {"TIGHT_DATABASE_URL": SERVING, "TIGHT_OWNER_DATABASE_URL": OWNER}
    urls = {
        variable: server.url(account).set(host=None, port=None).update_query_dict(places).render_as_string(hide_password=False)
        for variable, account in accounts.items()
    }
    monkeypatch.setattr(shops, "ENVIRONMENT", os.environ | urls)
    yield server
    server.stop()


def test_serves_from_the_first_address_that_answers_and_leaves_the_server_running(elsewhere, tmp_path):
    shop = Shop(tmp_path / "data").start()
    assert shop.hand().get("/api/find", asked="sb-04 rear")["hits"]
    shop.stop()
    assert not (tmp_path / "data" / "mariadb").exists()
    assert elsewhere.running_port() == elsewhere.port


async def test_a_wrench_is_told_what_comes_when_the_database_is_back(elsewhere, tmp_path):
    shop = Shop(tmp_path / "data").start()
    tam = shop.hand()
    run = tam.start()
    tam.go_on(run, until="s1:1")
    shop.stop()
    context, event, told = Context(Database(elsewhere.url(SERVING))), asyncio.Event(), asyncio.Queue()
    port = elsewhere.port
    await asyncio.to_thread(elsewhere.stop)
    event.set()
    following = asyncio.create_task(follow(context, UUID(run), event, told.put))
    with pytest.raises(DatabaseAway):
        await context.run(UUID(run))
    await asyncio.to_thread(elsewhere.start, port)
    target = await asyncio.wait_for(told.get(), 60)
    assert (target.kind, target.fastener) == ("torque", "1")
    following.cancel()
    await context.database.close()


def test_one_address_of_two_is_refused(elsewhere, tmp_path, monkeypatch):
    monkeypatch.setattr(shops, "ENVIRONMENT", {k: v for k, v in shops.ENVIRONMENT.items() if k != "TIGHT_OWNER_DATABASE_URL"})
    assert "One of two addresses is missing" in Shop(tmp_path / "data").run("up", "--port", "0").stderr


def test_a_serving_account_that_owns_everything_is_refused(elsewhere, tmp_path, monkeypatch):
    owner = shops.ENVIRONMENT["TIGHT_OWNER_DATABASE_URL"]
    monkeypatch.setattr(shops, "ENVIRONMENT", shops.ENVIRONMENT | {"TIGHT_DATABASE_URL": owner})
    refused = Shop(tmp_path / "data").run("up", "--port", "0")
    assert refused.returncode == 1
    assert "may do more than it needs" in refused.stderr


def test_a_port_that_is_taken(shop, tmp_path):
    refused = Shop(tmp_path / "data").run("up", "--port", str(shop.port))
    assert refused.stderr.strip() == f"Port {shop.port} is taken. Give another: ./tight up --port 8440."


@pytest.mark.parametrize("address", ["somewhere", "mariadb://a:b@/tight?host=one:3306&host=two:x"])
def test_what_is_no_address_is_said(tmp_path, address):
    given = {"TIGHT_DATABASE_URL": address, "TIGHT_OWNER_DATABASE_URL": address}
    told = Shop(tmp_path).run("verify", environment=given)
    assert told.returncode == 1
    assert "no address of a database" in told.stderr
