"""One shop for all tests of the API; one bare database for those of the store."""

import pytest

import tests.examples  # noqa: F401  (loads the profile)
from tests.shop import Shop
from tight_ledger.store import schema
from tight_ledger.store.server import OWNER, SERVING, PrivateServer


@pytest.fixture(scope="session")
def shop(tmp_path_factory):
    running = Shop(tmp_path_factory.mktemp("shop")).start()
    yield running
    running.stop()


@pytest.fixture(scope="session")
def server(tmp_path_factory):
    private = PrivateServer(tmp_path_factory.mktemp("store"))
    private.start()
    schema.migrate(private.url(OWNER))
    schema.grant(private.url(OWNER), private.url(SERVING))
    yield private
    private.stop()


@pytest.fixture
def tam(shop):
    return shop.hand("Tam Reddick")


@pytest.fixture
def ines(shop):
    return shop.hand("Ines Okoro")
