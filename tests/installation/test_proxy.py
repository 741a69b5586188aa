"""HAProxy before two processes, by the configuration that ships: a run stays on one; one after the other is restarted, or killed, and no request is lost."""

import os
import re
import shutil
import signal
import socket
import ssl
import subprocess
from contextlib import suppress
from string import Template

import httpx
import pytest
from websockets.sync.client import connect

from tests.installation.at_work import at_work, each_stands_once
from tests.shop import PINS, ROOT
from tests.waiting import until
from tight_ledger.installation.authority import certificates
from tight_ledger.store import clock
from tight_ledger.store.server import free_port

NAMES = ("one", "two")
UNIT = ROOT / "deploy/tight-ledger@.service"


def as_the_unit_starts_it(**named):
    """The options with which systemd starts a process, after its port."""
    words = re.search(r"^ExecStart=\S+ up --port \$\{PORT\} (.+)$", UNIT.read_text(), re.MULTILINE)[1].split()
    return [Template(word).substitute(named) for word in words]


def test_systemd_understands_the_unit(tmp_path):
    if shutil.which("systemd-analyze") is None:
        pytest.skip("systemd is not installed on this machine.")
    (tmp_path / UNIT.name).write_text(UNIT.read_text().replace("/opt/tight-ledger", str(ROOT)))
    told = subprocess.run(["systemd-analyze", "verify", tmp_path / UNIT.name], capture_output=True, text=True, check=False)
    assert (told.returncode, [line for line in told.stderr.splitlines() if UNIT.name.partition("@")[0] in line]) == (0, [])


class Proxied:
    """Processes over the shop's database, and the proxy before them."""

    def __init__(self, *parts, scheme="http", **named):
        self.parts, self.port, self.watch = parts, free_port(), free_port()
        named |= {"TIGHT_BIND": f"127.0.0.1:{self.port}", "TIGHT_SLOW": "2s", "TIGHT_WATCH": f"127.0.0.1:{self.watch}"}
        named |= {f"TIGHT_{name.upper()}": f"127.0.0.1:{part.port}" for name, part in zip(NAMES, parts, strict=False)}
        command = ["haproxy", "-db", "-f", str(ROOT / "deploy/haproxy.cfg")]
        self.proxy = subprocess.Popen(command, env=os.environ | named, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        self.url = f"{scheme}://127.0.0.1:{self.port}"
        for part in parts:
            self.wait(part)

    def wait(self, part):
        """Until the proxy sends something to a process."""
        name = NAMES[self.parts.index(part)]

        def serves():
            with suppress(httpx.HTTPError):
                return httpx.get(f"{self.url}/api/health").headers.get("x-served-by") == name

        until(serves)

    def stop(self):
        self.proxy.terminate()
        self.proxy.wait()
        for part in self.parts:
            part.stop()


@pytest.fixture(scope="module")
def proxied(shop, tmp_path_factory):
    made, figures = tmp_path_factory.mktemp("proxied"), [free_port() for _ in NAMES]
    parts = [
        shop.beside(made / name, *as_the_unit_starts_it(NAME="127.0.0.1", METRICS=f"127.0.0.1:{port}"))
        for name, port in zip(NAMES, figures, strict=True)
    ]
    running = Proxied(*parts)
    running.figures = figures
    yield running
    running.stop()


def test_a_run_stays_on_one_process_and_a_screen_watches_it_through_the_proxy(proxied, tam):
    runs = [tam.start() for _ in range(8)]
    by = {}
    for run in runs * 3:
        answer = httpx.get(f"{proxied.url}/api/runs/{run}/now", cookies=dict(tam.http.cookies))
        assert answer.status_code == 200
        by.setdefault(run, set()).add(answer.headers["x-served-by"])
    assert all(len(served) == 1 for served in by.values())
    assert set().union(*by.values()) == {"one", "two"}
    cookie = {"Cookie": f"tight_session={tam.http.cookies['tight_session']}"}
    with connect(f"{proxied.url.replace('http', 'ws')}/api/watch?run={runs[0]}", additional_headers=cookie) as screen:
        tam.record(runs[0], "noted", text="seen")
        assert f'"run":"{runs[0]}"' in screen.recv(timeout=30).replace(" ", "")


def tried_twice(proxied):
    """How many requests the proxy has sent a second time."""
    told = httpx.get(f"http://127.0.0.1:{proxied.watch}/metrics").text
    return next(
        float(line.split()[-1])
        for line in told.splitlines()
        if line.startswith('haproxy_backend_retry_warnings_total{proxy="application"}')
    )


@pytest.mark.parametrize("how", [signal.SIGTERM, signal.SIGKILL])
def test_one_process_after_the_other_goes_and_no_request_is_lost_or_done_twice(proxied, tam, how):
    before = tried_twice(proxied)
    with at_work(proxied, tam) as (sent, troubles, again):
        for part in proxied.parts:
            part.process.send_signal(how)
            part.process.wait(timeout=60)
            part.up()
            proxied.wait(part)
    assert troubles == []
    if how == signal.SIGTERM:  # emptied first: no request met a process that was gone
        assert (again, tried_twice(proxied)) == ([], before)
    each_stands_once(sent, tam)


def test_slow_headers_end_at_the_proxy(proxied):
    with socket.create_connection(("127.0.0.1", proxied.port), timeout=30) as slow:
        slow.sendall(b"GET /api/health HTTP/1.1\r\nHost: 127.0.0.1\r\nX-")
        assert b"408" in slow.recv(100)


def test_its_figures_are_on_an_address_of_their_own(proxied):
    told = httpx.get(f"http://127.0.0.1:{proxied.watch}/metrics").text
    assert 'haproxy_backend_active_servers{proxy="application"} 2' in told
    assert "haproxy_" not in httpx.get(f"{proxied.url}/metrics").text


def test_each_process_tells_how_many_requests_it_answered_and_how_fast_and_no_ids(proxied, tam):
    run = tam.start()
    for _ in range(3):
        assert httpx.get(f"{proxied.url}/api/runs/{run}/now", cookies=dict(tam.http.cookies)).status_code == 200
        httpx.get(f"{proxied.url}/api/{run}")
    told = "".join(httpx.get(f"http://127.0.0.1:{port}/metrics").text for port in proxied.figures)
    asked = [line for line in told.splitlines() if 'tight_requests_total{method="GET",route="/api/runs/{run_id}/now",status="200"}' in line]
    assert sum(float(line.split()[-1]) for line in asked) >= 3
    assert 'tight_request_seconds_bucket{le="0.5",route="/api/runs/{run_id}/now"}' in told
    assert run not in told


def test_tls_ends_at_the_proxy_which_speaks_it_anew_with_a_process_that_it_verifies(shop, tmp_path, monkeypatch):
    known = certificates(tmp_path / "data/tls", ["127.0.0.1"], clock.of_the_machine())
    (tmp_path / "tight.pem").write_bytes(known.certificate.read_bytes() + known.key.read_bytes())
    monkeypatch.setenv("SSL_CERT_FILE", str(known.authority))
    trusted = ssl.create_default_context(cafile=known.authority)
    part = shop.beside(tmp_path / "data", "--host", "127.0.0.1", scheme="https")
    named = {"TIGHT_TLS": f"ssl crt {tmp_path}/tight.pem alpn h2,http/1.1", "TIGHT_TO": f"ssl verify required ca-file {known.authority}"}
    proxied = Proxied(part, scheme="https", **named)
    try:
        with httpx.Client(base_url=proxied.url, verify=trusted, cookies={"tight_tablet": shop.tablet("hoist 1")}) as http:
            person = {"person": shop.person("Tam Reddick"), "pin": PINS["Tam Reddick"]}
            signed_in = http.post("/api/sessions", json=person)
            assert signed_in.status_code == 201, signed_in.text
            assert "; secure" in signed_in.headers["set-cookie"].lower()
            run = shop.hand("Tam Reddick").start()
            cookie = {"Cookie": f"tight_session={http.cookies['tight_session']}"}
            with connect(f"{proxied.url.replace('http', 'ws')}/api/watch?run={run}", additional_headers=cookie, ssl=trusted) as screen:
                shop.hand("Tam Reddick").record(run, "noted", text="seen")
                assert run in screen.recv(timeout=30)
        other = certificates(tmp_path / "other", ["127.0.0.1"], clock.of_the_machine())
        strict = named | {"TIGHT_TO": f"ssl verify required ca-file {other.authority}", "TIGHT_ONE": f"127.0.0.1:{part.port}"}
        doubting = Proxied(scheme="https", **strict)

        def refuses():
            with suppress(httpx.TransportError):
                return httpx.get(f"{doubting.url}/api/health", verify=trusted).status_code == 503

        until(refuses)
        doubting.stop()
    finally:
        proxied.stop()
