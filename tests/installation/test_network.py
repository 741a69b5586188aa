"""The shop's network over HTTPS: `over_https.py`, run in a network of its own with an address that is not loopback."""

import os
import subprocess
import sys

import pytest

from tests.shop import ROOT

ADDRESS = "192.0.2.10"
UNSHARE = ["unshare", "--net", *(["--map-root-user"] if os.geteuid() else [])]


def test_the_shops_network():
    if subprocess.run([*UNSHARE, "ip", "link", "set", "lo", "up"], capture_output=True, check=False).returncode:
        pytest.skip("This machine does not let us make a network of its own.")
    tests = f"exec {sys.executable} -m pytest -q -p no:cacheprovider tests/installation/over_https.py"
    command = f"ip link set lo up && ip address add {ADDRESS}/32 dev lo && {tests}"
    done = subprocess.run([*UNSHARE, "sh", "-c", command], cwd=ROOT, capture_output=True, text=True, timeout=300, check=False)
    assert done.returncode == 0, done.stdout[-4_000:] + done.stderr[-2_000:]
