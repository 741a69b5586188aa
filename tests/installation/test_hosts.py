"""The simulated hosts: each has its own address, and its cable can be cut."""

import subprocess
import sys

import pytest

from tight_ledger.core.base.errors import Invalid
from tight_ledger.installation.hosts import Hosts, lacking
from tight_ledger.installation.programs import answers


def comes_to(wanted, url, place):
    return any(answers(url, place) is wanted for _ in range(20))


def test_a_host_whose_cable_is_cut_is_reached_by_itself_alone_until_it_is_mended(tmp_path):
    if lacking():
        pytest.skip(lacking())
    hosts = Hosts(tmp_path)
    try:
        try:
            hosts.connect()
        except Invalid as refused:
            pytest.skip(f"This machine allows no network namespaces: {refused.fault}")
        first, second, third = hosts.all
        served, url = [sys.executable, "-m", "http.server", "--bind", second.address, "8000"], f"http://{second.address}:8000/"
        with subprocess.Popen(second.place.command(*served), cwd=tmp_path, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as serving:
            assert all(comes_to(True, url, host.place) for host in (first, third))
            second.cut()
            assert comes_to(False, url, first.place)
            assert answers(url, second.place)
            second.mend()
            assert comes_to(True, url, first.place)
            serving.terminate()
    finally:
        hosts.stop()
