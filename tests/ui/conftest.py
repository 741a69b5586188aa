"""The real screens in headless Chromium."""

import pytest
from playwright.sync_api import expect, sync_playwright

from tests.ui.tablet import Tablet
from tests.waiting import PATIENCE_S

CHROMIUM = "/usr/bin/chromium-headless-shell"
"""Debian's headless shell of Chromium: a file of tests took a fifth less time with it than with the full browser."""
QUIET = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update", "--disable-sync"]
COMPILED_ONCE = "--js-flags=--no-wasm-tier-up --no-wasm-dynamic-tiering"
"""WebAssembly is compiled once, not a second time for speed: the core of a tablet starts with a quarter less CPU time."""


expect.set_options(timeout=1_000 * PATIENCE_S)


@pytest.fixture(scope="module")
def chromium():
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*QUIET, COMPILED_ONCE])
        yield browser
        browser.close()


@pytest.fixture
def tablet(chromium, shop):
    opened = Tablet(chromium, shop)
    yield opened
    opened.close()
