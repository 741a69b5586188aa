"""The real screens in headless Chromium."""

import pytest
from playwright.sync_api import expect, sync_playwright

from tests.ui.tablet import Tablet

QUIET = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync"]


expect.set_options(timeout=15_000)  # machines are noisy; a wait that is not needed costs nothing


@pytest.fixture(scope="module")
def chromium():
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
        yield browser
        browser.close()


@pytest.fixture
def tablet(chromium, shop):
    opened = Tablet(chromium, shop)
    yield opened
    opened.close()
