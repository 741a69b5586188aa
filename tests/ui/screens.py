"""`./tight bench screens`: performance, best practices and layout shift of the main screens, as the median of several visits.

Lighthouse visits them as a phone on a slow line, with the page's thread slowed to a quarter (its own mobile throttle).
"""

import json
import os
import statistics
import subprocess
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright

from tests.shop import BUS_SPEC, ROOT, Shop
from tests.ui.conftest import CHROMIUM, QUIET
from tests.ui.tablet import Tablet
from tight_ledger.demo.load import demo_id
from tight_ledger.store import clock

VISITS, TRIES = 5, 3
LIGHTHOUSE = ROOT / "web/bench/node_modules/.bin/lighthouse"
FLAGS = "--headless=new --no-sandbox --disable-gpu --disable-dev-shm-usage"


def visited(address: str, cookies: str) -> dict[str, float]:
    """What one visit finds: scores of 100, and the sum of layout shifts."""
    with tempfile.TemporaryDirectory() as made:
        found = Path(made) / "found.json"
        command = [
            str(LIGHTHOUSE), address, "--quiet", "--only-categories=performance,best-practices", "--output=json",
            f"--output-path={found}", f"--chrome-flags={FLAGS}", f"--extra-headers={json.dumps({'Cookie': cookies})}",
        ]  # fmt: skip
        for _ in range(TRIES):  # a visit in which the browser itself came to nothing says nothing
            if subprocess.run(command, check=False, env=os.environ | {"CHROME_PATH": "/usr/bin/chromium"}, timeout=300).returncode == 0:
                break
        report = json.loads(found.read_text())
    scores = {name: round(100 * part["score"]) for name, part in report["categories"].items()}
    timings = {name: report["audits"][name]["numericValue"] for name in ("cumulative-layout-shift", "largest-contentful-paint")}
    return scores | {name: round(value, 3) for name, value in timings.items()}


def main() -> None:
    with tempfile.TemporaryDirectory() as made, Shop(Path(made) / "data") as shop, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        hand = shop.hand()
        run = hand.start()
        hand.go_on(run, until="s2:3")
        tablet = Tablet(browser, shop).sign_in()
        cookies = "; ".join(f"{each['name']}={each['value']}" for each in tablet.context.cookies())
        machine = demo_id("machine", "SB-05")
        addresses = {
            "home": "/", "spec": f"/specs/{BUS_SPEC}", "run": f"/runs/{run}", "job": f"/machines/{machine}", "crib": "/crib",
        }  # fmt: skip
        found = {name: [visited(f"{shop.url}{path}", cookies) for _ in range(VISITS)] for name, path in addresses.items()}
        browser.close()
    medians = {name: {what: statistics.median(visit[what] for visit in visits) for what in visits[0]} for name, visits in found.items()}
    print(json.dumps({"at": clock.now().isoformat(timespec="seconds"), "visits": VISITS, **medians}, indent=1))


if __name__ == "__main__":
    main()
