"""`./tight bench press`: from the press of the key to the next nut on the screen, by the tablet's own core and by the server.

Rounds alternate on one machine; each is a run of its own. Slowed: the page's thread at a quarter of its speed.
"""

import json
import statistics
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Browser, sync_playwright

from tests.shop import Shop
from tests.ui.conftest import CHROMIUM, QUIET
from tests.ui.tablet import Tablet
from tight_ledger.store import clock

ROUNDS, PULLS = 3, 9
PRESS = """
() => new Promise(done => {
  const now = document.querySelector('section[aria-label=now]');
  const before = now.textContent, at = performance.now();
  const look = new MutationObserver(() => {
    if (document.querySelector('section[aria-label=now]').textContent === before) return;
    look.disconnect();
    requestAnimationFrame(() => done(performance.now() - at));
  });
  look.observe(document.body, { subtree: true, childList: true, characterData: true });
  window.dispatchEvent(new KeyboardEvent('keydown', { key: ' ', code: 'Space', bubbles: true }));
})
"""


def memory_mb() -> float:
    """What the browser's pages hold, shared parts by their share [MB]."""
    found = 0
    for process in Path("/proc").glob("[0-9]*"):
        try:
            if b"--type=renderer" in (process / "cmdline").read_bytes():
                found += int((process / "smaps_rollup").read_text().split("Pss:")[1].split()[0])
        except (OSError, IndexError):
            continue
    return found / 1_000


def presses(tablet: Tablet) -> list[float]:
    """The times of the pulls of a pass [ms]."""
    times = []
    for _ in range(PULLS):
        tablet.later()
        times.append(tablet.page.evaluate(PRESS))
        tablet.page.wait_for_timeout(200)
    return times


def measured(browser: Browser, shop: Shop, *, local: bool, slowed: bool) -> tuple[list[float], dict[str, float]]:
    hand = shop.hand()
    run, before = hand.begun(), memory_mb()
    tablet = Tablet(browser, shop, local=local).sign_in()
    ready = {}
    for visit in ("first", "second") if local else ("server",):
        started = time.monotonic()
        tablet.page.goto(f"/runs/{run}")
        if local:
            tablet.at_held_run(run)
        tablet.expect_nut("1")
        ready[visit] = time.monotonic() - started
    if slowed:
        tablet.context.new_cdp_session(tablet.page).send("Emulation.setCPUThrottlingRate", {"rate": 4})
    times = presses(tablet)
    ready["memory"] = memory_mb() - before
    tablet.close()
    return times, ready


def told(times: list[float]) -> dict[str, float]:
    ordered = sorted(times)
    return {
        "median_ms": round(statistics.median(ordered), 1),
        "p95_ms": round(ordered[int(len(ordered) * 0.95)], 1),
        "presses": len(ordered),
    }


def main() -> None:
    with tempfile.TemporaryDirectory() as made, Shop(Path(made) / "data") as shop, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        found: dict[str, list[float]] = {}
        ready: list[dict[str, float]] = []
        for _ in range(ROUNDS):
            for slowed in (False, True):
                for local in (True, False):
                    times, visits = measured(browser, shop, local=local, slowed=slowed)
                    found.setdefault(f"{'own core' if local else 'server'}{', slowed' if slowed else ''}", []).extend(times)
                    ready += [visits] if local else []
        browser.close()
    result = {
        "at": clock.now().isoformat(timespec="seconds"),
        **{name: told(times) for name, times in found.items()},
        "ready_s": {visit: round(statistics.median(each[visit] for each in ready), 1) for visit in ("first", "second")},
        "memory_mb": round(statistics.median(each["memory"] for each in ready)),
    }
    print(json.dumps(result, indent=1))


if __name__ == "__main__":
    main()
