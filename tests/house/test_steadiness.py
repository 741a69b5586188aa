"""What `./tight test` makes of a test that fails: red, or unsteady; never green by being run again without a word."""

import os
import subprocess
import sys

import pytest

from tests.steadiness import KEPT
from tight_ledger.store import clock

CONFTEST = "from tests.steadiness import *\nfrom tests.steadiness import say_what_is_unsteady as pytest_unconfigure\n"
RED = "def test_{0}():\n    assert False, 'always'\n"
ONCE = "import os\n\ndef test_{0}():\n    assert os.path.exists('{0}') or open('{0}', 'w').close()\n"


def run(folder, tests, where="ui"):
    place = folder / "tests" / where
    place.mkdir(parents=True)
    (folder / "conftest.py").write_text(CONFTEST)
    (folder / "pytest.ini").write_text("[pytest]\n")
    for number, words in enumerate(tests):
        (place / f"test_{number}.py").write_text(words.format(f"number_{number}"))
    given = os.environ | {"PYTHONPATH": os.getcwd(), KEPT: str(folder / "kept"), clock.VARIABLE: ""}
    command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "--second-look"]
    return subprocess.run(command, cwd=folder, env=given, capture_output=True, text=True, check=False)


@pytest.mark.parametrize(
    ("tests", "passes", "unsteady"),
    [((ONCE, ONCE), True, 2), ((ONCE, ONCE, ONCE), False, 3), ((ONCE, RED), False, 1), ((RED,), False, 0)],
    ids=["two unsteady", "three unsteady", "one of them red", "red"],
)
def test_unsteady_tests_are_named_last_and_more_than_two_of_them_fail_like_a_red_one(tmp_path, tests, passes, unsteady):
    done = run(tmp_path, tests)
    assert (done.returncode == 0) == passes, done.stdout
    last = done.stdout.splitlines()[-unsteady:] if unsteady else []
    assert all(line.startswith("unsteady: tests/ui/test_") for line in last)
    assert done.stdout.count("\nunsteady: ") == unsteady
    assert "seconds of each file" in done.stdout


def test_the_words_of_both_failures_are_kept(tmp_path):
    run(tmp_path, [RED])
    assert ["always" in file.read_text() for file in sorted(tmp_path.glob("kept/*/*/call.txt"))] == [True, True]


def test_a_test_that_drives_nothing_is_red_at_once(tmp_path):
    done = run(tmp_path, [ONCE], where="core")
    assert (done.returncode, done.stdout.count("unsteady: ")) == (1, 0)
