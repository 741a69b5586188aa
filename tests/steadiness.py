"""Of a test that failed: whether it is red or unsteady, and what shows why. Nothing is run again to be green.

A test that drives a browser or a process and failed is run once more, alone, in a shop of its own. What fails again is red. What
does not is unsteady: it has shown a race. More than two of those fail the run, as a red one does. For each failure a folder keeps
the words, the screens, the log of each server and its newest entries.
"""

import os
import re
import subprocess
import sys
from collections import Counter
from contextlib import suppress
from pathlib import Path

import pytest
from sqlalchemy import create_engine, select

from tight_ledger.store.server import OWNER
from tight_ledger.store.tables import ledger

ALONE = "TIGHT_TEST_ALONE"
"""Set for the second run."""
KEPT = "TIGHT_TEST_KEPT"
"""Names the folder for what is kept, if it is not the usual one."""
DRIVES = re.compile(r"^tests/(ui|api|store|formats|installation)/")
MOST_UNSTEADY, MOST_LOOKED_AT = 2, 12
MOST_ENTRIES = 200


def pytest_addoption(parser):
    parser.addoption(
        "--second-look", action="store_true", help="Run what failed once more by itself, to say whether it is red or unsteady."
    )


def folder_of(nodeid: str) -> Path:
    kept = Path(os.environ.get(KEPT) or Path(__file__).parents[1] / ".tight" / "failures")
    return kept / re.sub(r"[^\w.-]+", "-", nodeid)[-150:] / ("alone" if ALONE in os.environ else "first")


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item):
    report = yield
    if report.failed:
        keep(folder_of(item.nodeid), report)
    return report


def keep(folder: Path, report: pytest.TestReport) -> None:
    """What is there when a test fails: its words, the screens that are open, the servers that run."""
    folder.mkdir(parents=True, exist_ok=True)
    (folder / f"{report.when}.txt").write_text(f"{report.longreprtext}\n{report.capstdout}\n{report.capstderr}")
    tablets, shops = (sys.modules.get(name) for name in ("tests.ui.tablet", "tests.shop"))
    for number, tablet in enumerate(tablets.Tablet.opened if tablets else ()):
        with suppress(Exception):  # a page that does not answer has no picture; the words are kept
            tablet.page.screenshot(path=folder / f"screen-{number}.png", timeout=5_000)
            (folder / f"screen-{number}.txt").write_text(
                f"{tablet.page.url}\n{tablet.page.inner_text('body', timeout=5_000)}\n{tablet.faults}"
            )
    for number, shop in enumerate(shops.Shop.running_now if shops else ()):
        with suppress(Exception):  # a database that does not answer has no entries to show
            (folder / f"server-{number}.jsonl").write_bytes(shop.log_file.read_bytes()[-400_000:])
            engine = create_engine(shop.database().url(OWNER))
            with engine.connect() as connection:
                newest = select(ledger.c.body).order_by(ledger.c.at_server.desc(), ledger.c.seq.desc()).limit(MOST_ENTRIES)
                bodies = connection.execute(newest).scalars().all()
            (folder / f"entries-{number}.jsonl").write_text("\n".join(reversed(bodies)))
            engine.dispose()


def pytest_sessionfinish(session):
    """Say of each failure whether it is red or unsteady; only where one session has everything."""
    config = session.config
    config.unsteady = []
    if hasattr(config, "workerinput") or not config.getoption("--second-look") or session.exitstatus != pytest.ExitCode.TESTS_FAILED:
        return
    told = config.pluginmanager.get_plugin("terminalreporter").stats
    failed = list(dict.fromkeys(report.nodeid for report in [*told.get("failed", ()), *told.get("error", ())]))
    if len(failed) > MOST_LOOKED_AT or not all(DRIVES.match(nodeid) for nodeid in failed):
        return
    config.unsteady = [nodeid for nodeid in failed if passes_alone(nodeid)]
    if len(config.unsteady) == len(failed) <= MOST_UNSTEADY:
        session.exitstatus = pytest.ExitCode.OK


def passes_alone(nodeid: str) -> bool:
    command = (sys.executable, "-m", "pytest", "-q", "-p", "no:xdist", nodeid)
    done = subprocess.run(command, env=os.environ | {ALONE: "1"}, capture_output=True, text=True, check=False)
    return done.returncode == 0


def pytest_terminal_summary(terminalreporter):
    """The seconds of every file, the slowest first."""
    seconds: Counter[str] = Counter()
    for reports in terminalreporter.stats.values():
        for report in reports:
            if isinstance(report, pytest.TestReport):
                seconds[report.nodeid.split("::")[0]] += report.duration
    if terminalreporter.config.getoption("--second-look"):
        terminalreporter.section("seconds of each file")
        terminalreporter.write_line("  ".join(f"{round(many)} {file.removeprefix('tests/')}" for file, many in seconds.most_common()))


def say_what_is_unsteady(config):
    """The last lines of a run."""
    for nodeid in getattr(config, "unsteady", ()):
        print(f"unsteady: {nodeid} failed, and passed alone; see {folder_of(nodeid).parent}")
