"""What holds on the shop's network; run by `test_network.py`, in a network of its own."""

import hashlib
import os
import ssl
import subprocess
from io import BytesIO

import httpx
import pytest
from playwright.sync_api import sync_playwright
from pypdf import PdfReader

from tests.installation.test_network import ADDRESS
from tests.shop import PINS, Shop
from tests.ui.conftest import CHROMIUM, QUIET
from tests.ui.tablet import Tablet
from tight_ledger.devices.simulated import SimulatedWrench
from tight_ledger.installation.authority import certificates
from tight_ledger.store import clock


class OnTheNetwork(Shop):
    scheme, address = "https", ADDRESS

    @property
    def plain(self) -> str:
        return f"http://{ADDRESS}:{self.port + 1}"


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    folder = tmp_path_factory.mktemp("network")
    known = certificates(folder / "data" / "tls", [ADDRESS], clock.of_the_machine())
    os.environ["SSL_CERT_FILE"] = str(known.authority)  # httpx trusts it
    return known


@pytest.fixture(scope="module")
def shop(made):
    with OnTheNetwork(made.authority.parents[1], "--host", ADDRESS) as running:
        yield running


@pytest.fixture(scope="module")
def chromium(made, tmp_path_factory):
    """A browser that trusts the authority, as a tablet does after the page has led through it."""
    home = tmp_path_factory.mktemp("home")
    for place in (home / ".pki" / "nssdb", home / ".local" / "share" / "pki" / "nssdb"):
        place.mkdir(parents=True)
        subprocess.run(["certutil", "-d", f"sql:{place}", "-N", "--empty-password"], check=True)
        add = ["certutil", "-d", f"sql:{place}", "-A", "-t", "C,,", "-n", "workshop", "-i", str(made.authority)]
        subprocess.run(add, check=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET, env=os.environ | {"HOME": str(home)})
        yield browser
        browser.close()


def test_who_does_not_trust_it_is_not_served(shop):
    with pytest.raises(httpx.ConnectError, match="certificate verify failed"):
        httpx.get(shop.url, verify=ssl.create_default_context(cafile="/etc/ssl/certs/ca-certificates.crt"))


def test_plain_http_leads_to_https_and_takes_nothing(shop):
    led = httpx.get(f"{shop.plain}/runs/7?from=mail")
    assert (led.status_code, led.headers["location"]) == (308, f"{shop.url}/runs/7?from=mail")
    assert httpx.get(f"{shop.plain}/", headers={"Host": "evil.example"}).headers["location"] == f"{shop.url}/"
    assert httpx.post(f"{shop.plain}/api/sessions", json={}).status_code == 405


def test_the_page_and_the_sheet_lead_through_trusting_it(shop, made):
    page = httpx.get(f"{shop.plain}/trust").text
    certificate = httpx.get(f"{shop.plain}/trust/authority.crt").content
    sheet = PdfReader(BytesIO(httpx.get(f"{shop.plain}/trust/sheet.pdf").content)).pages[0].extract_text()
    assert hashlib.sha256(certificate).hexdigest().upper() == made.fingerprint.replace(":", "")
    for told in (page, "".join(sheet.split())):
        assert made.fingerprint[:47] in told
        assert made.fingerprint[48:] in told
    assert f"{shop.plain}/trust" in sheet
    assert (shop.data / "tls" / "trust-sheet.pdf").exists()


def test_cookies_stay_on_https_and_other_names_and_pages_are_refused(shop):
    tam = shop.hand()
    told = tam.http.post("/api/sessions", json={"person": tam.id, "pin": PINS["Tam Reddick"]}).headers["set-cookie"]
    assert ("tight_session" in told, "Secure" in told) == (True, True)
    assert int(tam.http.get("/api/me").headers["strict-transport-security"].partition("max-age=")[2]) > 86_400
    assert tam.http.get("/api/me", headers={"Host": "evil.example"}).status_code == 421
    assert tam.http.get("/api/me", headers={"Host": f"127.0.0.1:{shop.port}"}).status_code == 421
    body = {"id": "00000000-0000-4000-8000-000000000001", "fleet_number": "N-1", "maker_model": "Fennick X"}
    assert tam.http.post("/api/machines", json=body, headers={"Origin": "https://evil.example"}).status_code == 403
    assert tam.http.post("/api/machines", json=body, headers={"Origin": shop.url}).status_code == 201


async def test_a_wrench_speaks_over_it(shop, made):
    tam = shop.hand()
    run = tam.start()
    tam.go_on(run, until="s1:1")
    code = tam.command(f"/api/runs/{run}/wrenches").json()["code"]
    address, trusts = shop.url.replace("http", "ws") + "/api/devices", ssl.create_default_context(cafile=made.authority)
    assert await SimulatedWrench(address, code, in_real_time=False, trusts=trusts, **shop.instrument()).work() > 0


def test_a_tablet_works_over_it_without_a_warning(chromium, shop):
    tam = shop.hand()
    run = tam.start()
    tam.go_on(run, until="s1:3")
    tablet = Tablet(chromium, shop)
    sockets: list[str] = []
    tablet.page.on("websocket", lambda socket: sockets.append(socket.url))
    tablet.sign_in().open(f"/runs/{run}")
    assert tablet.page.evaluate("isSecureContext && 'serviceWorker' in navigator && 'wakeLock' in navigator")
    tablet.tap("Not pulled")
    tam.go_on(run, until="s1:8")
    tablet.expect_nut("8")
    assert sockets[0] == f"wss://{ADDRESS}:{shop.port}/api/watch?run={run}"
    tablet.close()
