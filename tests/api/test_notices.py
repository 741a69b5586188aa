"""What happens elsewhere reaches the run under way, the bay, the machine, and a list that is worked off."""

from uuid import uuid4

import pytest
from sqlalchemy import create_engine, text

from tests.shop import BUS_SPEC, demo_id
from tight_ledger.demo.load import specs
from tight_ledger.store.server import OWNER


@pytest.fixture
def wheel(ines):
    """A spec of one's own, so that no other test is reached."""
    written = next(spec for spec in specs() if str(spec.id) == str(BUS_SPEC)).model_dump(mode="json")
    own = written | {"id": str(uuid4()), "title": f"Hoist wheel {uuid4().hex[:6]}"}
    assert ines.http.post("/api/specs", json=own).status_code == 201
    return own["id"]


def good(hand, machine, **changes):
    run = hand.start(machine, **changes)
    hand.go_on(run)
    assert hand.finish(run).status_code == 201
    return run


def notice_of(hand, subject):
    return next(each for each in hand.get("/api/notices") if each["subject"] == subject)


def test_a_spec_withdrawn_at_noon_reaches_the_run_and_the_two_machines_done_before(tam, ines, wheel):
    done = [good(tam, tam.machine(), spec=wheel) for _ in range(2)]
    machine = tam.machine()
    under_way = tam.start(machine, spec=wheel)
    tam.go_on(under_way, until="s2:1")
    reason = {"reason": "the figure is from the wrong column"}
    assert ines.command(f"/api/specs/{wheel}/revisions/1/withdraw", reason).status_code == 204

    now = tam.go_on(under_way)
    assert any("wrong column" in line["words"] for line in now["to_settle"])
    refused = tam.finish(under_way)
    assert (refused.status_code, "wrong column" in refused.json()["fault"]) == (422, True)
    notice = notice_of(tam, wheel)
    assert (notice["kind"], notice["left"]) == ("spec withdrawn", 3)
    assert {place["run"] for place in notice["places"]} == {*done, under_way}
    assert all(place["people"] == ["Tam Reddick"] for place in notice["places"])
    assert wheel in {each["subject"] for each in tam.get("/api/dashboard")["notices"]}
    assert [each["subject"] for each in tam.get("/api/notices", machine=machine)] == [wheel]

    said = {"run": done[0], "text": "checked at 605, none turned"}
    assert tam.command(f"/api/notices/{notice['id']}/reviewed", said).status_code == 403  # a lead's to say
    for _ in range(2):
        assert ines.command(f"/api/notices/{notice['id']}/reviewed", said).status_code == 204
    about = next(line["about"] for line in now["to_settle"])
    ines.record(under_way, "deviated", about=about, text="the right figure is the same here", claimed_seq=tam.now(under_way)["seq"] + 1)
    assert tam.finish(under_way).status_code == 201
    left = notice_of(tam, wheel)
    assert {place["run"]: place["worked_off"] for place in left["places"]} == {
        done[0]: "checked at 605, none turned", done[1]: "", under_way: "decided in the run",
    }  # fmt: skip


def settled(shop, subject):
    """Of the notices about something: whether home need not ask again."""
    engine = create_engine(shop.database().url(OWNER))
    with engine.connect() as connection:
        query = text("SELECT settled FROM notices_now WHERE stream = :stream")
        found = list(connection.execute(query, {"stream": subject.replace("-", "")}).scalars())
    engine.dispose()
    return found


def test_a_dropped_wrench_the_same_until_another_has_tightened_it_again_and_while_that_stands(shop, tam, ines):
    wrench = {
        "kind": "wrench",
        "name": f"Z-{uuid4().hex[:6]}",
        "drive": "1 in",
        "unit": "N·m",
        "lowest": 140,
        "highest": 760,
        "graduation": 5,
        "lever_mm": 900,
    }
    added = tam.command("/api/tools", {"tool": wrench | {"id": str(uuid4())}})
    assert added.status_code == 201, added.text
    tool = added.json()["id"]
    machine = tam.machine()
    run = good(tam, machine, wrench=tool)
    assert tam.command(f"/api/tools/{tool}/aside", {"mishap": "dropped"}).status_code == 204
    assert [(place["run"], place["worked_off"]) for place in notice_of(tam, tool)["places"]] == [(run, "")]
    again = good(tam, machine)
    for _ in range(2):
        assert notice_of(tam, tool)["places"][0]["worked_off"] == "tightened again since"
        assert tool not in {each["subject"] for each in tam.get("/api/dashboard")["notices"]}
        assert settled(shop, tool) == [1]
    tam.record(again, "loosened", fastener="3", text="to look at it")  # what put it right is not good any more
    assert tool in {each["subject"] for each in tam.get("/api/dashboard")["notices"]}
    assert settled(shop, tool) == [0]
    assert notice_of(tam, tool)["left"] == 1


@pytest.mark.parametrize(("path", "body"), [("leave", {}), ("roles", {"roles": ["auditor"]})])
def test_whose_right_ended_is_read_about_in_the_run_where_they_pulled(shop, tam, ines, path, body):
    name = shop.employ("mechanic")
    guest = shop.hand(name)
    run = guest.start()
    guest.go_on(run, until="s2:1")
    assert ines.command(f"/api/people/{shop.person(name)}/{path}", body).status_code == 204
    line = tam.now(run)["to_read"][0]
    assert name in line["words"]
    tam.record(run, "clarified", about=line["about"], option="seen", claimed_seq=tam.now(run)["seq"] + 1)
    assert tam.now(run)["to_read"] == []


def test_a_machine_that_is_another_variant_reaches_what_was_done_on_it(tam):
    machine = tam.machine("Aldermoor Lapwing", meters=())

    def answer(value):
        return tam.command(f"/api/machines/{machine}/variant", {"attribute": "wheel", "value": value})

    assert answer("alloy").status_code == 200
    position, proof = {"axle": "front", "side": "left"}, "5 studs, cone seat"
    spec, wrench = demo_id("spec", "Aldermoor Lapwing Wheel nuts, alloy wheel"), demo_id("wrench", "W-02 half-inch")
    run = good(tam, machine, spec=str(spec), wrench=str(wrench), position=position, proof=proof)
    assert answer("alloy").status_code == 200
    assert all(each["subject"] != machine for each in tam.get("/api/notices"))
    assert answer("steel").status_code == 200
    notice = notice_of(tam, machine)
    assert (notice["reason"], [place["run"] for place in notice["places"]]) == ("its wheel is steel, not alloy", [run])
