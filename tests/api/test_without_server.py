"""What a tablet did while the server was away arrives as a fact; what the server could not look at is flagged."""

import asyncio
import json
from datetime import timedelta
from io import BytesIO
from uuid import UUID, uuid4

import pypdf
import pytest
from sqlalchemy import create_engine, insert

from tests.shop import PINS, W11, Shop
from tight_ledger.core.base.models import digest
from tight_ledger.core.base.people import Person
from tight_ledger.core.runs.pack import Begun, Pack, begin
from tight_ledger.core.runs.starting import MachineBefore, Start
from tight_ledger.services import along
from tight_ledger.services.context import Context
from tight_ledger.store.database import Database
from tight_ledger.store.server import OWNER, SERVING
from tight_ledger.store.tables import backups


def on_tablet(hand, machine: str, *, unproven: bool = False, **changes) -> Begun:
    """A run that the tablet of somebody starts from what it took along."""
    told = hand.along()["pack"]
    known = hand.get(f"/api/machines/{machine}")["machine"]
    pack = Pack.model_validate(told | {"machines": [json.loads(MachineBefore.model_validate({"machine": known}).model_dump_json())]})
    me = next(Person.model_validate(each) for each in hand.get("/api/sign-in")["people"] if each["id"] == hand.id)
    return begin(pack, Start.model_validate(hand.start_body(machine, **changes)), me, uuid4(), unproven=unproven)


def arrives(hand, begun: Begun, **query):
    answer = hand.http.post("/api/runs/begun", content=begun.model_dump_json(), headers={"content-type": "application/json"}, params=query)
    assert answer.status_code == 201, answer.text
    return answer.json()["id"]


def codes(hand, run: str) -> dict[str, bool]:
    """By verdict, whether it keeps the run from good."""
    return {line["code"]: line["keeps_from_good"] for line in hand.now(run)["verdicts"]}


def decide(hand, run: str):
    flag, now = hand.now(run)["to_settle"][0], hand.now(run)
    return hand.post(run, hand.entry("deviated", about=flag["about"], text="looked at it", claimed_seq=now["seq"] + 1))


def test_what_is_taken_along_is_told_once_until_something_is_recorded(tam, ines):
    first = tam.http.get("/api/runs/along")
    tag = {"If-None-Match": first.headers["etag"]}
    again = tam.http.get("/api/runs/along", headers=tag)
    assert (again.status_code, again.content) == (304, b"")
    other = ines.http.get("/api/runs/along")
    assert other.headers["etag"] != first.headers["etag"]
    told = [answer.json() | {"jobs": None} for answer in (first, other)]
    assert told[0] == told[1]  # all but the jobs is the same for every tablet
    machine = tam.machine()
    changed = tam.http.get("/api/runs/along", headers=tag)
    assert changed.status_code == 200
    assert f"machine/{machine}" in changed.json()["parts"] or changed.json()["left_out"] > told[0]["left_out"]


def test_what_happens_in_a_run_changes_its_own_parts_alone(tam):
    run, other = tam.begun(), tam.begun()
    machine = tam.get(f"/api/runs/{run}/sheet")["machine"]["id"]

    def changed(before, after):
        return {name for name in before | after if before.get(name) != after.get(name)}

    before = tam.along()
    versions = before["list"]["parts"]
    assert {f"run/{run}", f"run/{other}", f"machine/{machine}"} <= set(versions)
    assert {part["version"] for part in before["machines"] + before["specs"] + before["runs"]} | {before["shop"]["version"]} == set(
        versions.values()
    )
    tam.record(run, "noted", text="a nut was cross-threaded")
    noted = tam.along()["list"]["parts"]
    assert changed(versions, noted) == {f"run/{run}"}
    tam.act(run, now := tam.now(run), now["prompt"]["acts"][0])
    assert {f"run/{run}"} <= changed(noted, tam.along()["list"]["parts"]) <= {f"run/{run}", f"machine/{machine}", "shop"}
    assert tam.http.post("/api/runs/along/parts", json={"names": [f"run/{uuid4()}", "run", "x/y"]}).json() == {
        "shop": None, "machines": [], "specs": [], "runs": [],
    }  # fmt: skip


async def test_parts_that_are_kept_are_those_that_would_be_made_anew(shop, tam, ines):
    """Whatever is recorded in between: a part that was not made again says what it would say if it were."""
    context, packs = Context(Database(shop.database().url(SERVING)), now=shop.clock.now), along.Packs()
    machine = tam.machine()
    run = tam.start(machine)
    acts = (
        lambda: tam.record(run, "noted", text="looked at"),
        lambda: tam.command(f"/api/machines/{machine}/meters", {"kind": "km", "figure": 412}),
        lambda: tam.command(f"/api/tools/{W11}/aside", {"mishap": "dropped"}),
        lambda: ines.command(f"/api/tools/{W11}/clear", {"text": "looked at"}),
        lambda: tam.go_on(run),
        lambda: tam.finish(run),
        tam.machine,
        lambda: tam.start(tam.machine()),
    )
    for act in acts:
        act()
        await along._make(context, packs)
        anew = along.Packs()
        await along._make(context, anew)
        assert {name: part.version for name, part in packs.parts.items()} == {name: part.version for name, part in anew.parts.items()}
    await context.database.close()


def test_a_run_that_was_started_without_the_server_is_the_run_that_the_server_would_have_started(tam):
    machine = tam.machine()
    begun = on_tablet(tam, machine)
    run = arrives(tam, begun)
    assert arrives(tam, begun) == run
    sheet = tam.get(f"/api/runs/{run}/sheet")
    assert (sheet["plan_digest"], sheet["machine"]["id"]) == (digest(begun.started.plan), machine)
    assert tam.get(f"/api/runs/{run}/entries")[0]["id"] == str(begun.id)
    assert codes(tam, run) == {}
    tam.go_on(run)
    assert tam.finish(run).json()["now"]["standing"] == "good"


def test_a_tool_that_was_set_aside_meanwhile_is_flagged_and_a_lead_decides(tam, ines):
    begun = on_tablet(tam, tam.machine())
    tam.command(f"/api/tools/{W11}/aside", {"mishap": "dropped"})
    run = arrives(tam, begun)
    ines.command(f"/api/tools/{W11}/clear", {"text": "looked at"})
    assert codes(tam, run) == {"differs": True}
    tam.go_on(run)
    assert "would not have been started" in tam.finish(run).json()["fault"]
    assert decide(tam, run).status_code == 403
    assert decide(ines, run).status_code == 201
    assert tam.finish(run).json()["now"]["standing"] == "good"


def test_a_plan_that_does_not_follow_from_the_spec_is_flagged_whoever_says_what(tam):
    for again in (False, True):
        begun = on_tablet(tam, tam.machine())
        plan = begun.started.plan
        easier = plan.model_copy(update={"passes": plan.passes[:-1]})
        forged = begun.model_copy(update={"started": begun.started.model_copy(update={"plan": easier})})
        run = arrives(tam, forged, again=again)
        assert codes(tam, run)["differs"]
    other = begun.model_copy(update={"start": begun.start.model_copy(update={"id": uuid4(), "proof": "8 studs, M20"})})
    refused = tam.http.post("/api/runs/begun", json=json.loads(other.model_dump_json()))
    assert (refused.status_code, refused.json()["field"]) == (422, "started")


async def test_tablets_that_ask_at_once_share_what_is_taken_along_though_somebody_goes_on_pressing(shop, tam, monkeypatch):
    context, run, made, original = Context(Database(shop.database().url(SERVING)), now=shop.clock.now), tam.start(), [], along._Making.all

    async def counted(making):
        made.append(await original(making))
        tam.record(run, "noted", text="meanwhile")
        return made[-1]

    monkeypatch.setattr(along._Making, "all", counted)
    told = await asyncio.gather(*(along.along(context, uuid4()) for _ in range(6)))
    await context.database.close()
    assert (len(made) <= 2, len(set(told))) == (True, len(made))


def test_two_runs_at_one_place_stay_open_until_a_lead_decides_in_each(tam, ines):
    machine = tam.machine()
    begun = on_tablet(tam, machine)
    first = tam.start(machine)
    tam.go_on(first)
    second = arrives(tam, begun)
    tam.go_on(second)
    for run in (first, second):
        assert codes(tam, run)["contested"]
        assert tam.finish(run).status_code == 422
        assert decide(tam, run).status_code == 403
    for run in (second, first):
        while tam.now(run)["to_settle"]:
            assert decide(ines, run).status_code == 201
        assert tam.finish(run).json()["now"]["standing"] == "good"
    tam.start(machine)  # the place is free again


def test_who_may_not_work_any_more_is_flagged_and_named_in_no_seal(shop, tam, ines):
    guest = shop.employ("mechanic")
    run, begun = tam.start(), on_tablet(shop.hand(guest, "yard"), tam.machine())
    ines.command(f"/api/people/{shop.person(guest)}/leave")
    tam.record(run, "noted", text="the left one", by=shop.person(guest))
    for flagged in (run, arrives(tam, begun)):
        assert codes(tam, flagged)["right_ended"]
        assert guest not in tam.http.get(f"/api/runs/{flagged}/stream").text
    assert tam.post(run, tam.entry("noted", text="x", by=str(uuid4()))).status_code == 422


def test_a_name_without_its_pin_keeps_a_run_from_good_until_it_is_typed(tam):
    run = arrives(tam, on_tablet(tam, tam.machine(), unproven=True))
    tam.go_on(run)
    tam.record(run, "noted", text="it was me", unproven=True)
    assert tam.now(run)["unproven"] == [tam.id]
    assert tam.finish(run).status_code == 422
    assert tam.post(run, tam.entry("vouched")).status_code == 422  # an entry `vouched` comes from the PIN form only
    body = {"person": tam.id, "pin": "0000", "seq": tam.now(run)["seq"], "at_device": tam.clock.isoformat()}
    assert tam.command(f"/api/runs/{run}/vouch", body).status_code == 403
    assert tam.command(f"/api/runs/{run}/vouch", body | {"pin": PINS["Tam Reddick"]}).status_code == 201
    assert codes(tam, run) == {"not_proven": False}
    tam.record(run, "noted", text="and this", unproven=True)
    assert tam.now(run)["unproven"] == [tam.id]


def test_what_is_entered_from_paper_without_a_sheet_is_a_leads_to_confirm(tam, ines):
    run = tam.begun()
    at = tam.clock - timedelta(minutes=20)
    tam.record(run, "printed")  # after it was done, so it was not done from this sheet
    for _ in range(2):
        now = tam.now(run)
        tam.act(run, now, now["prompt"]["acts"][0], at_device=at.isoformat(), from_paper=True)
    tam.go_on(run)
    assert codes(tam, run)["no_sheet"]
    assert tam.finish(run).status_code == 422
    assert decide(tam, run).status_code == 403
    assert decide(ines, run).status_code == 201
    assert codes(tam, run) == {"no_sheet": False}
    assert tam.finish(run).json()["now"]["standing"] == "good"


def test_from_paper_it_is_what_was_ticked_and_no_measure_of_a_hand(tam):
    run = tam.begun()
    tam.record(run, "printed")
    at = tam.clock
    while (now := tam.now(run))["prompt"]["pull"] != "s2:1":
        tam.act(run, now, now["prompt"]["acts"][0], at_device=at.isoformat(), from_paper=True)
    assert codes(tam, run) == {"from_paper": False}
    line = tam.get(f"/api/runs/{run}/entries")[-1]
    assert "from paper" in line["words"]
    assert line["done_at"].startswith(at.isoformat()[:19])
    card = "".join(page.extract_text() for page in pypdf.PdfReader(BytesIO(tam.http.get(f"/api/runs/{run}/card.pdf").content)).pages)
    assert "(done " in card
    printed = tam.get(f"/api/runs/{run}/paper")["passes"]
    boxes = {box["done"] for each in printed if each["words"].startswith("stage 1") for box in each["boxes"]}
    assert boxes == {True}
    later = next(each for each in printed if each["words"].startswith("stage 2"))
    assert [box["name"] for box in later["boxes"]] == [f"nut {label}" for label in ("1", "6", "3", "8", "5", "10", "7", "2", "9", "4")]
    assert "N·m" in later["figure"]


@pytest.fixture(scope="module")
def own(tmp_path_factory):
    folder = tmp_path_factory.mktemp("restored")
    shop = Shop(folder / "data").start()
    yield shop, folder
    shop.stop()


def test_what_a_restore_lost_comes_back_from_the_tablet_flagged(own):
    shop, folder = own
    tam = shop.hand()
    kept = [tam.entry("noted", text="before the backup")]
    run, begun = tam.start(), on_tablet(tam, tam.machine())
    tam.post(run, kept[0])
    assert shop.run("backup", str(folder / "old.backup")).returncode == 0
    arrives(tam, begun)
    kept.append(tam.entry("noted", text="after the backup"))
    tam.post(run, kept[1])
    ids = {"ids": [each["id"] for each in kept] + [str(begun.id)]}
    assert tam.http.post("/api/runs/safe", json=ids).json() == {"safe": [], "lost": []}
    shop.stop()
    shop.run("restore", str(folder / "old.backup"), "--discard", "2")
    shop.start()
    tam = shop.hand()
    lost = tam.http.post("/api/runs/safe", json=ids).json()["lost"]
    assert set(map(UUID, lost)) == {UUID(kept[1]["id"]), begun.id}
    assert tam.http.post(f"/api/runs/{run}/entries", json=kept[1], params={"again": True}).status_code == 201
    arrives(tam, begun, again=True)
    for brought in (run, str(begun.start.id)):
        assert codes(tam, brought) == {"brought_back": False}
    assert tam.get(f"/api/runs/{run}/entries")[-1]["words"] == "noted (after the backup)"
    engine = create_engine(shop.database().url(OWNER))
    with engine.begin() as owner:  # the next backup, made a while after
        owner.execute(insert(backups).values(id=uuid4(), at=shop.clock.wind(minutes=2), file_name="new.backup", entries=1))
    engine.dispose()
    assert set(map(UUID, tam.http.post("/api/runs/safe", json=ids).json()["safe"])) == set(map(UUID, ids["ids"]))
