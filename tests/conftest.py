"""A shop for each file of tests that asks for one; one bare database for those of the store."""

import os
import tempfile
from pathlib import Path

import pytest
from sqlalchemy import create_engine

import tests.examples  # noqa: F401  (loads the profile)
from tests import order
from tests.clock import OTHER_DAYS, START, Clock
from tests.shop import Shop
from tests.steadiness import (  # noqa: F401  (hooks of pytest)
    pytest_addoption,
    pytest_runtest_makereport,
    pytest_sessionfinish,
    pytest_terminal_summary,
    say_what_is_unsteady,
)
from tight_ledger.store import clock, schema
from tight_ledger.store.server import OWNER, SERVING, PrivateServer


def pytest_configure(config):
    """The clock of what runs in the tests' own process."""
    config.clock_folder = tempfile.TemporaryDirectory(prefix="tight-clock-")
    os.environ[clock.VARIABLE] = str(Clock(Path(config.clock_folder.name) / "clock").file)


def pytest_unconfigure(config):
    config.clock_folder.cleanup()
    say_what_is_unsteady(config)


@pytest.fixture(scope="module")
def shop(tmp_path_factory, request):
    """A shop for the tests of a file: a copy of one with the demo's data that was loaded once."""
    with Shop(tmp_path_factory.mktemp("shop") / "data", at=getattr(request, "param", START)) as running:
        yield running


def pytest_generate_tests(metafunc):
    """A file that reads a date is tried on other days too."""
    if metafunc.definition.get_closest_marker("dated") and "shop" in metafunc.fixturenames:
        days = {"a Wednesday morning": START} | OTHER_DAYS
        metafunc.parametrize("shop", list(days.values()), ids=list(days), indirect=True, scope="module")


@pytest.fixture
def owner(shop):
    """A connection of the account that owns the tables of the file's shop, to change what no program changes."""
    engine = create_engine(shop.database().url(OWNER), isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        yield connection
    engine.dispose()


@pytest.fixture
def own(tmp_path):
    """A shop of a test's own, to be cut off; stopped whatever becomes of the test."""
    with Shop(tmp_path / "own") as running:
        yield running


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


def pytest_collection_modifyitems(config, items):
    """Files in order, or shuffled with their tests by a seed."""
    order.arrange(items, os.environ.get(order.SEED))
