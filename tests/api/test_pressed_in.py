"""A command counts for the person who pressed it, even if it is sent in somebody else's session."""

import json
from uuid import uuid4

import httpx
import pytest
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.asymmetric.utils import decode_dss_signature
from cryptography.hazmat.primitives.serialization import Encoding, PublicFormat

from tests.api.test_without_server import codes, on_tablet
from tests.shop import PINS, W11

TABLET, TAM, WREN = "the shared tablet", "Tam Reddick", "Wren Halloway"
POINT = Encoding.X962, PublicFormat.UncompressedPoint


class Session:
    """Somebody who signs in at a tablet that signs what is pressed there."""

    def __init__(self, shop, name, tablet=TABLET):
        self.private, self.clock = ec.generate_private_key(ec.SECP256R1()), shop.clock
        self.http = httpx.Client(base_url=shop.url, timeout=30, cookies={"tight_tablet": shop.tablet(tablet)})
        said = {"person": shop.person(name), "pin": PINS[name], "press_key": self.private.public_key().public_bytes(*POINT).hex()}
        answer = self.http.post("/api/sessions", json=said)
        assert answer.status_code == 201, answer.text
        self.key, self.tablet = answer.json()["press_key"], answer.json()["device"]

    def press(self, path: str, body: dict) -> dict:
        """What the tablet keeps of a press."""
        content = json.dumps(body).encode()
        r, s = decode_dss_signature(self.private.sign(f"POST {path}\n".encode() + content, ec.ECDSA(hashes.SHA256())))
        return {
            "path": path,
            "content": content,
            "mark": f"{self.key}.{r.to_bytes(32).hex()}{s.to_bytes(32).hex()}",
            "at": self.clock.now(),
        }

    def deliver(self, pressed: dict) -> httpx.Response:
        waited_ms = (self.clock.now() - pressed["at"]).total_seconds() * 1000
        headers = {"content-type": "application/json", "waited-ms": f"{waited_ms:.0f}"}
        headers |= {"pressed-in": pressed["mark"]} if pressed["mark"] else {}
        return self.http.post(pressed["path"], content=pressed["content"], headers=headers)

    def leave(self) -> None:
        self.clock.wind(seconds=20)
        assert self.http.delete("/api/sessions").is_success
        self.clock.wind(seconds=20)


@pytest.fixture
def enters(shop):
    opened = []

    def enter(name, tablet=TABLET):
        opened.append(Session(shop, name, tablet))
        return opened[-1]

    yield enter
    for session in opened:
        session.http.close()


@pytest.fixture
def run(tam):
    return tam.start()


@pytest.fixture
def note(shop, tam, run):
    """The body of a note in the run."""
    return lambda name=TAM: tam.entry("noted", text="the hub is clean", by=shop.person(name))


def test_what_was_pressed_in_a_session_is_its_persons_whoever_delivers_it_after_it_has_ended(tam, enters, run, note):
    path, first = f"/api/runs/{run}/entries", enters(TAM)
    begun = on_tablet(tam, tam.machine())
    pressed = [first.press(path, note()), first.press("/api/runs/begun", json.loads(begun.model_dump_json()))]
    said = {"id": str(uuid4()), "outcome": "abandoned", "text": "called away", "seq": 2, "at_device": tam.clock.isoformat()}
    pressed.append(first.press(f"/api/runs/{run}/finish", said))
    first.leave()
    wren = enters(WREN)
    assert {wren.deliver(each).status_code for each in pressed * 2} == {201}
    told = [(line["kind"], line["by"], line["recorded_by"]) for line in tam.get(f"/api/runs/{run}/entries")]
    assert told == [(kind, TAM, TAM) for kind in ("started", "noted", "finished")]
    started = str(begun.start.id)
    assert (tam.now(run)["unproven"], tam.now(started)["unproven"]) == ([], [])


@pytest.mark.parametrize(
    ("forge", "leaves_first"),
    [
        (lambda tam, wren, path, body: wren.press(path, body), True),
        (lambda tam, wren, path, body: wren.press(path, body) | {"mark": ""}, True),
        (lambda tam, wren, path, body: wren.press(path, body) | {"mark": tam.press(path, body | {"text": "another"})["mark"]}, True),
        (lambda tam, wren, path, body: wren.press(path, body) | {"mark": tam.press(f"/api/runs/{uuid4()}/entries", body)["mark"]}, True),
        (lambda tam, wren, path, body: tam.press(path, body), True),
        (lambda tam, wren, path, body: tam.press(path, body) | {"mark": f"{uuid4()}.{'00' * 64}"}, False),
        (lambda tam, wren, path, body: tam.press(path, body) | {"mark": "nonsense"}, False),
    ],
    ids=[
        "by the other's key",
        "without a mark",
        "of another text",
        "of another run",
        "after it had ended",
        "unknown key",
        "a mark that cannot be read",
    ],
)
def test_what_cannot_be_shown_is_kept_and_not_proven(tam, enters, run, note, forge, leaves_first):
    path, first = f"/api/runs/{run}/entries", enters(TAM)
    if leaves_first:
        first.leave()
    wren = enters(WREN)
    assert wren.deliver(forge(first, wren, path, note())).status_code == 201
    assert tam.now(run)["unproven"] == [tam.id]
    assert codes(tam, run) == {"not_proven": True}


def test_in_a_session_that_signs_what_comes_without_a_mark_is_not_proven(shop, tam, enters, run, note):
    """Pressed by one in the other's name, and left there for the other's session to deliver."""
    wren = enters(WREN)
    assert wren.deliver(wren.press(f"/api/runs/{run}/entries", note(WREN)) | {"mark": ""}).status_code == 201
    assert tam.now(run)["unproven"] == [shop.person(WREN)]


def test_another_tablets_key_shows_nothing_here(tam, enters, run, note):
    elsewhere = enters(TAM, "another tablet")
    assert enters(WREN).deliver(elsewhere.press(f"/api/runs/{run}/entries", note())).status_code == 201
    assert tam.now(run)["unproven"] == [tam.id]


def test_a_command_that_nobody_can_be_shown_to_have_pressed_is_refused(tam, enters):
    first, body = enters(TAM), {"id": str(uuid4()), "mishap": "dropped"}
    forged = first.press(f"/api/tools/{W11}/aside", body | {"mishap": "overloaded"})["mark"]
    pressed = first.press(f"/api/tools/{W11}/aside", body)
    wren = enters(WREN)
    before = tam.get(f"/api/tools/{W11}")
    refused = wren.deliver(pressed | {"mark": forged})
    assert (refused.status_code, refused.json()["field"]) == (403, "session")
    assert tam.get(f"/api/tools/{W11}") == before


@pytest.mark.parametrize("ends", ["the PIN is reset", "the tablet is lost"])
def test_a_key_ends_with_what_its_session_came_from(shop, tam, ines, enters, run, note, ends):
    name = shop.employ("mechanic")
    theirs = enters(name, ends)
    pressed = theirs.press(f"/api/runs/{run}/entries", note(name))
    path, body = {
        "the PIN is reset": (f"/api/people/{shop.person(name)}/pin", {"pin": "8305"}),
        "the tablet is lost": (f"/api/tablets/{theirs.tablet}/lost", {}),
    }[ends]
    kept = f"/api/people/{shop.person(name)}/data.json"
    assert len(ines.get(kept)["keys_of_sessions"]) == 1
    assert ines.command(path, body).status_code == 204
    assert ines.get(kept)["keys_of_sessions"] == []
    assert enters(WREN, TABLET if "lost" in ends else ends).deliver(pressed).status_code == 201
    assert tam.now(run)["unproven"] == [shop.person(name)]


def test_a_key_that_is_none_is_refused(shop):
    said = {"person": shop.person(TAM), "pin": PINS[TAM], "press_key": "04" + "00" * 64}
    answer = httpx.post(f"{shop.url}/api/sessions", json=said, cookies={"tight_tablet": shop.tablet(TABLET)})
    assert (answer.status_code, answer.json()["field"]) == (422, "press_key")
