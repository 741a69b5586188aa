"""Records are found by what somebody knows of them, go out in one pack, are kept by a hold, and are forgotten in time."""

import asyncio
import csv
import hashlib
import io
import json
import zipfile
from datetime import timedelta
from uuid import UUID, uuid4

import pytest
from PIL import Image
from pypdf import PdfReader
from sqlalchemy import create_engine, text

from tests.shop import BUS_SPEC, W11
from tight_ledger.core.base.canonical_json import canonical_json
from tight_ledger.core.proof.cards import check_card
from tight_ledger.core.proof.checkpoints import read_checkpoints
from tight_ledger.core.proof.keys import exactly, read_public
from tight_ledger.services.context import Context
from tight_ledger.services.proof.daily import daily
from tight_ledger.services.proof.privacy import erase_old
from tight_ledger.store import log
from tight_ledger.store.database import Database
from tight_ledger.store.keeper import keeper
from tight_ledger.store.server import OWNER, SERVING


@pytest.fixture(scope="module")
def signed(shop):
    """(machine, run): a new machine, and the run of its rear left wheel, which Tam Reddick finished and signed."""
    tam = shop.hand("Tam Reddick")
    machine = tam.machine()
    run = tam.start(machine)
    tam.go_on(run)
    assert tam.finish(run).status_code == 201
    body = {"seq": tam.now(run)["seq"], "at_device": tam.clock.isoformat()}
    assert tam.command(f"/api/runs/{run}/sign", body).status_code == 201
    return machine, run


def runs(hand, **asked):
    found = hand.get("/api/records", **asked)
    assert found["in_all"] >= len(found["lines"])
    return {line["run"] for line in found["lines"]}


def test_a_run_is_found_by_each_thing_that_somebody_knows(shop, tam, ines, signed):
    machine, run = signed
    today = shop.clock.now().date()
    known = {
        "machine": machine, "position": "rear/left/", "joint": "wheel", "person": tam.id, "tool": str(W11), "spec": str(BUS_SPEC), "part": "stud",
        "outcome": "good", "since": str(today - timedelta(days=1)), "until": str(today + timedelta(days=1)),
    }  # fmt: skip
    assert runs(tam, **known) == {run}
    others = {
        "machine": tam.machine(), "position": "front/left/", "joint": "sump", "person": ines.id, "tool": str(uuid4()), "spec": str(uuid4()),
        "part": "no such", "outcome": "do not move", "since": str(today + timedelta(days=1)), "until": str(today - timedelta(days=2)),
    }  # fmt: skip
    for name, other in others.items():
        assert run in runs(tam, **{name: known[name]}), name
        assert run not in runs(tam, machine=machine, **({name: other} if name != "machine" else {})) or name == "machine", name
    assert runs(tam, machine=others["machine"]) == set()


def test_an_open_run_is_found_by_who_pulls_in_it(tam, ines):
    run = ines.begun()
    assert run in runs(tam, person=ines.id, outcome="open")
    assert run not in runs(tam, person=tam.id, outcome="open")


def test_the_same_as_csv(tam, signed):
    machine, run = signed
    [line] = csv.DictReader(io.StringIO(tam.http.get("/api/records.csv", params={"machine": machine}).text))
    assert (line["run"], line["outcome"], line["people"]) == (run, "good", "Tam Reddick")


def test_a_card_says_nut_by_nut_what_was_required_and_got_and_which_checkpoint_covers_it(tam, signed):
    _, run = signed
    card = tam.get(f"/api/runs/{run}/card")
    assert len(card["table"]["rows"]) == 10
    [first, *_] = card["table"]["rows"][3]["cells"]
    assert (first["got"].startswith("clicked at"), "–" in first["required"], first["by"], first["wrong"]) == (True, True, "Tam Reddick", [])
    assert card["checkpoint"]["covers"] == len(card["entries"])
    assert check_card(tam.http.get(f"/api/runs/{run}/card.json").content).holds
    job = tam.http.get(f"/api/jobs/{card['sheet']['job']}/cards.pdf")
    assert job.content.startswith(b"%PDF")


def test_a_card_of_twenty_nuts_has_its_table_on_its_first_page(tam):
    run = tam.begin("Stourholm Heron 45", "Drive wheel nuts", "20 studs, wedge ring", axle="front", side="left", place="outer")
    tam.go_on(run)
    tam.finish(run)
    first = PdfReader(io.BytesIO(tam.http.get(f"/api/runs/{run}/card.pdf").content)).pages[0].extract_text()
    assert all(f"nut {number}\n" in first for number in range(1, 21)), first


def test_an_audit_pack_is_whole_and_signed_and_every_card_in_it_holds(tam, signed):
    machine, run = signed
    answer = tam.http.get("/api/audit-pack.zip", params={"machine": machine})
    with zipfile.ZipFile(io.BytesIO(answer.content)) as pack:
        files = {name: pack.read(name) for name in pack.namelist()}
    manifest = json.loads(files.pop("manifest.json"))
    assert manifest["files"] == {name: hashlib.sha256(content).hexdigest() for name, content in files.items()}
    signature, key = exactly(manifest.pop("signature")), read_public(manifest["key"])
    assert key.holds(signature, canonical_json(manifest))
    [card] = [content for name, content in files.items() if name.startswith("cards/") and name.endswith(".json")]
    assert check_card(card, key).holds
    assert json.loads(card)["card"]["sheet"]["run"] == run
    assert {
        "README.txt",
        "records.csv",
        "recalls.json",
        "holds.json",
        "verify.html",
        f"specs/{BUS_SPEC}-r1.json",
        f"tools/{W11}.json",
    } <= set(files)
    assert read_checkpoints(files["checkpoints/checkpoints.txt"].decode())[-1].is_signed_by(key)
    assert tam.http.get("/api/audit-pack.zip").status_code == 422
    assert "No run fits" in tam.http.get("/api/audit-pack.zip", params={"machine": tam.machine()}).text


# holds and forgetting -------------------------------------------------------------------------------------------------


def erased(shop, years):
    """How many files are erased when the shop's clock stands so much later."""

    async def work():
        database = Database(shop.database().url(SERVING), key=keeper(shop.data / "proof").key)
        try:
            return await erase_old(Context(database, now=lambda: shop.clock.now() + timedelta(days=366 * years)))
        finally:
            await database.close()

    return asyncio.run(work())


async def test_once_a_day_everything_is_covered_although_others_sign_off_meanwhile(shop, tam, signed):
    run = UUID(tam.begun())
    kept = keeper(shop.data / "proof")
    database = Database(shop.database().url(SERVING), key=kept.key)
    assert await database.run(lambda connection: log.covering(connection, run)) is None
    going_on = asyncio.create_task(daily(Context(database, keeper=kept)))
    while await database.run(lambda connection: log.covering(connection, run)) is None:
        assert not going_on.done()
        await asyncio.sleep(0.05)
    going_on.cancel()
    await database.close()


def photo(hand, run):
    """A photo with its place in it, kept with a note in a run."""
    picture, exif, made = Image.new("RGB", (40, 20), "red"), Image.Exif(), io.BytesIO()
    exif[0x0112] = 6  # it is looked at on its side
    exif.get_ifd(0x8825)[1] = "N"
    exif.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)
    picture.save(made, "JPEG", exif=exif)
    known = str(uuid4())
    assert hand.http.put(f"/api/attachments/{known}", content=made.getvalue(), params={"name": "seat.jpg"}).status_code == 204
    hand.record(run, "noted", text="the seat", files=[known])
    return known


def test_a_photo_loses_its_place_and_stands_as_it_is_looked_at(tam):
    kept = tam.http.get(f"/api/attachments/{photo(tam, tam.start())}")
    picture = Image.open(io.BytesIO(kept.content))
    assert (picture.size, dict(picture.getexif()), b"GPS" in kept.content) == ((20, 40), {}, False)


def test_what_is_too_old_is_erased_unless_a_hold_keeps_it_and_its_entry_stays(shop, tam, ines):
    held, free = tam.machine(), tam.machine()
    run = tam.start(held)
    tam.record(run, "noted", text="a file that is none", files=["no id"])
    kept, gone = photo(tam, run), photo(tam, tam.start(free))
    body = {"id": str(uuid4()), "machine": held, "text": "a wheel came off"}
    assert tam.http.post("/api/holds", json=body).status_code == 403
    assert ines.http.post("/api/holds", json=body).status_code == 204
    assert [each["hold"]["reason"] for each in tam.get("/api/holds") if each["hold"]["machine"] == held] == ["a wheel came off"]
    assert erased(shop, years=1) == 0
    assert erased(shop, years=11) >= 1
    assert [tam.http.get(f"/api/attachments/{each}").status_code for each in (kept, gone)] == [200, 404]
    assert ines.command(f"/api/holds/{body['id']}/lift", {"text": "settled"}).status_code == 204
    assert ines.command(f"/api/holds/{body['id']}/lift", {"text": "settled"}).status_code == 404
    assert erased(shop, years=11) == 1
    assert tam.get(f"/api/runs/{run}/entries")[-1]["files"] == [kept]


def test_a_hold_names_something_and_does_not_end_before_it_begins(ines):
    assert "Nothing is named" in ines.command("/api/holds", {"text": "all of it"}).text
    assert "ends before it begins" in ines.command("/api/holds", {"text": "x", "since": "2026-02-01", "until": "2026-01-01"}).text


def test_somebody_who_has_left_is_forgotten_unless_a_hold_keeps_their_work_and_their_card_still_holds(shop, ines):
    name = shop.employ("mechanic")
    guest = shop.hand(name)
    machine = guest.machine()
    run = guest.start(machine)
    guest.go_on(run)
    guest.finish(run)
    guest.command(f"/api/runs/{run}/sign", {"seq": guest.now(run)["seq"], "at_device": guest.clock.isoformat()})
    assert ines.command(f"/api/people/{guest.id}/erase").status_code == 422
    assert ines.command(f"/api/people/{guest.id}/leave").status_code == 204
    hold = {"id": str(uuid4()), "machine": machine, "text": "a claim"}
    assert ines.http.post("/api/holds", json=hold).status_code == 204
    assert "A hold keeps their work: a claim" in ines.command(f"/api/people/{guest.id}/erase").text
    assert ines.command(f"/api/holds/{hold['id']}/lift", {"text": "settled"}).status_code == 204
    assert ines.command(f"/api/people/{guest.id}/erase").status_code == 204
    text = ines.http.get(f"/api/runs/{run}/card.json").text
    assert (name in text, "Former colleague" in text, check_card(text).holds) == (False, True, True)


def test_what_is_held_about_somebody_they_read_themselves_and_so_does_a_keeper(shop, tam, ines, signed):
    """Every run of theirs, as a look at every entry finds them: those that ended, those under way, and one of this moment."""
    _, run = signed
    tam.start()
    own = tam.get(f"/api/people/{tam.id}/data.json")
    assert (own["person"]["name"], run in {each["run"] for each in own["runs"]}) == ("Tam Reddick", True)
    assert all(tam.id in (entry["by"], entry["recorded_by"]) for each in own["runs"] for entry in each["entries"])
    engine = create_engine(shop.database().url(OWNER))
    with engine.connect() as owner:
        asked = "SELECT DISTINCT stream FROM ledger WHERE subject = 'run' AND :p IN (JSON_VALUE(body, '$.by'), JSON_VALUE(body, '$.recorded_by'))"
        every = {UUID(str(row.stream)) for row in owner.execute(text(asked), {"p": tam.id})}
    engine.dispose()
    assert {UUID(each["run"]) for each in own["runs"] if each["entries"]} == every
    assert ines.http.get(f"/api/people/{tam.id}/data.json").status_code == 200
    assert tam.http.get(f"/api/people/{ines.id}/data.json").status_code == 403
