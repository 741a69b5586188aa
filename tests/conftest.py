"""One shop for all tests of the API; one bare database for those of the store."""

import os
import shutil
import tempfile

import pytest

import tests.examples  # noqa: F401  (loads the profile)
from tests.shop import TEMPLATE, Shop
from tight_ledger.store import schema
from tight_ledger.store.server import OWNER, SERVING, PrivateServer


def pytest_configure(config):
    """Before the workers: a folder that they share, for the first shop's data."""
    if TEMPLATE not in os.environ:
        os.environ[TEMPLATE] = config.made_template = tempfile.mkdtemp(prefix="tight-template-")


def pytest_unconfigure(config):
    if hasattr(config, "made_template"):
        shutil.rmtree(config.made_template, ignore_errors=True)


@pytest.fixture(scope="session")
def shop(tmp_path_factory):
    running = Shop(tmp_path_factory.mktemp("shop")).start()
    yield running
    running.stop()


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


SLOWEST = (
    "test_screens", "test_cluster", "test_jobs",
    "test_started_without_server", "test_every_way", "test_without_network", "test_backups", "test_adjusting",
    "test_a_shops_day", "test_a_wheel", "test_depots", "test_any_input", "test_server_lost", "test_races", "test_proxy", "test_crib", "test_library",
    "test_lab_and_practice", "test_what_happens_elsewhere", "test_existing_server", "test_people", "test_tablet_core", "test_network",
    "test_verification", "test_guide", "test_faults", "test_without_server", "test_week", "test_records",
)  # fmt: skip
"""Files that take longest, the longest first: each worker takes the next file that is left, and all end at about the same time.

The first makes the demo's data, for which all others wait; so the second and the third are files that need none.
"""


def pytest_collection_modifyitems(items):
    places = {name: place for place, name in enumerate(SLOWEST)}
    items.sort(key=lambda item: places.get(item.path.stem, len(SLOWEST)))
