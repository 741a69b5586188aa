"""Every command takes an id that was made at the press, and answers the same to the same, once."""

from uuid import uuid4

import pytest

from tests.shop import BUS_SPEC, PINS, W11
from tight_ledger.api.app import create_app
from tight_ledger.demo.load import demo_id

WRITES_NOTHING = {"preview_spec", "offer_tooling", "draw_scale", "ask_what_is_safe", "read_parts_along", "read_lab_page", "try_drill"}
A_SESSION = {"sign_in", "sign_out", "end_session", "introduce_tablet", "make_feed", "end_feeds", "make_checkpoint"}
"""A second session does no harm, a session that is ended stays ended; a tablet is told its secret once, then it is another tablet;
a feed made again has another key; a checkpoint made again finds that nothing moved."""
OF_EACH = {"start_each", "record_each", "end_each"}
"""Commands for several runs: each part of such a command carries an id, and the command itself needs none."""
TOOL = {"kind": "socket", "drive": "1/2 in", "fits": "19 mm"}
MINIMAL = {
    "title": "Sump plug", "maker": "Tarn", "torque": "430 lbf·ft", "thread": "M20", "count": 8, "document": "a page", "thread_hand": "right",
}  # fmt: skip


def operations():
    document = create_app().openapi()
    for path, methods in document["paths"].items():
        for method, operation in methods.items():
            if method != "get" and operation["operationId"] not in WRITES_NOTHING | A_SESSION:
                yield document, path, operation


def required(document, schema):
    """The names that a body must have; those that every alternative must have."""
    if "$ref" in schema:
        return required(document, document["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]])
    return set(schema.get("required", ()))


def test_every_command_takes_an_id():
    for document, path, operation in operations():
        content = operation.get("requestBody", {}).get("content", {})
        named = required(document, content["application/json"]["schema"]) if "application/json" in content else set()
        in_path = path.endswith(
            (
                "/attachments/{attachment_id}",
                "/imports/{import_id}",
                "/imports/{import_id}/bring-in",
                "/meters/{file_id}",
                "/stock/{file_id}",
            )
        )
        assert "id" in named or in_path or operation["operationId"] in OF_EACH, operation["operationId"]


class Case:
    """Commands by name, each as (method, path, body) on things of its own."""

    def __init__(self, tam, ines):
        self.tam, self.ines = tam, ines

    def add_machine(self):
        return self.tam, "POST", "/api/machines", {"fleet_number": uuid4().hex[:8], "maker_model": "Fennick Causeway 12"}

    def describe_machine(self):
        return self.tam, "POST", f"/api/machines/{self.tam.machine()}/variant", {"attribute": "wheel", "value": "steel"}

    def form_machine(self):
        return self.tam, "POST", f"/api/machines/{self.tam.machine()}/form", {"form": {"body": "bus"}}

    def event_happened(self):
        written = self.tam.get(f"/api/specs/{BUS_SPEC}")["spec"]
        followup = {"id": "trip", "procedure": "retorque", "event": "before each trip"}
        own = written | {"id": str(uuid4()), "title": f"Wheel {uuid4().hex[:6]}", "followups": [followup, followup | {"id": "warm"}]}
        assert self.tam.http.post("/api/specs", json=own).status_code == 201
        machine = self.tam.machine()
        run = self.tam.start(machine, spec=own["id"])
        self.tam.go_on(run)
        self.tam.finish(run)
        return self.tam, "POST", f"/api/machines/{machine}/events", {"run": run, "followup": "trip"}

    def review_place(self):
        tool = str(demo_id("wrench", "W-13 spare half-inch"))
        notice = next(each for each in self.tam.get("/api/notices") if each["subject"] == tool)
        body = {"run": notice["places"][0]["run"], "text": "none turned"}
        return self.ines, "POST", f"/api/notices/{notice['id']}/reviewed", body

    def read_meter(self):
        return self.tam, "POST", f"/api/machines/{self.tam.machine()}/meters", {"kind": "km", "figure": 100}

    def add_tool(self):
        return self.tam, "POST", "/api/tools", {"tool": TOOL | {"id": str(uuid4()), "name": uuid4().hex[:8]}}

    def set_tool_aside(self):
        return self.tam, "POST", f"/api/tools/{self.tool()}/aside", {"mishap": "dropped"}

    def clear_tool(self):
        tool = self.tool()
        self.tam.command(f"/api/tools/{tool}/aside", {"mishap": "dropped"})
        return self.ines, "POST", f"/api/tools/{tool}/clear", {"text": "looked at"}

    def check_tool(self):
        points = [{"share": share, "shown": shown, "found": [shown]} for share, shown in ((20, 152), (60, 456), (100, 760))]
        return self.tam, "POST", f"/api/tools/{W11}/checks", {"points": points, "by": "Quayside"}

    def put_tool_away(self):
        return self.tam, "POST", f"/api/tools/{W11}/away", {}

    def say_of_piece(self):
        return self.tam, "POST", f"/api/tools/{demo_id('piece', 'CS-02 carrier shim')}/piece", {"act": "sized", "measured_mm": 0.101}

    def review_run(self):
        return self.tam, "POST", f"/api/tools/{W11}/reviews", {"text": "pulled again", "run": self.tam.start()}

    def choose(self):
        return self.ines, "PUT", "/api/shop/choices", {"field": "due_months", "value": "12"}

    def move_shop(self):
        return self.ines, "PUT", "/api/shop/zone", {"time_zone": "Europe/Lisbon"}

    def guest(self):
        return self.ines.command("/api/people", {"name": f"Guest {uuid4().hex[:6]}", "roles": ["mechanic"], "pin": "4711"}).json()["id"]

    def reset_pin(self):
        return self.ines, "POST", f"/api/people/{self.guest()}/pin", {"pin": "8305"}

    def unlock(self):
        return self.ines, "POST", f"/api/people/{self.guest()}/unlock", {}

    def set_roles(self):
        return self.ines, "POST", f"/api/people/{self.guest()}/roles", {"roles": ["auditor"]}

    def lose_tablet(self):
        known = str(uuid4())
        self.ines.http.post("/api/tablets", json={"id": known, "name": "x", "person": self.ines.id, "pin": PINS["Ines Okoro"]})
        self.ines.http.cookies.delete("tight_tablet")
        return self.ines, "POST", f"/api/tablets/{known}/lost", {}

    def leave(self):
        return self.ines, "POST", f"/api/people/{self.guest()}/leave", {}

    def hold(self):
        return self.ines, "POST", "/api/holds", {"machine": self.tam.machine(), "text": "an accident"}

    def lift_hold(self):
        _, _, _, body = self.hold()
        held = {"id": str(uuid4())} | body
        assert self.ines.http.post("/api/holds", json=held).status_code == 204
        return self.ines, "POST", f"/api/holds/{held['id']}/lift", {"text": "settled"}

    def erase_person(self):
        guest = self.guest()
        assert self.ines.command(f"/api/people/{guest}/leave").status_code == 204
        return self.ines, "POST", f"/api/people/{guest}/erase", {}

    def register_instrument(self):
        return self.ines, "POST", "/api/instruments", {"name": f"wrench {uuid4().hex[:6]}", "key": uuid4().hex}

    def retire_instrument(self):
        known = str(uuid4())
        self.ines.http.post("/api/instruments", json={"id": known, "name": f"wrench {uuid4().hex[:6]}", "key": uuid4().hex})
        return self.ines, "POST", f"/api/instruments/{known}/retire", {}

    def add_person(self):
        return self.ines, "POST", "/api/people", {"name": f"Guest {uuid4().hex[:6]}", "roles": ["mechanic"], "pin": "4711"}

    def enter_minimal_spec(self):
        return self.tam, "POST", "/api/specs/minimal", MINIMAL | {"model": uuid4().hex[:6]}

    def check_spec(self):
        return self.ines, "POST", f"/api/specs/{self.spec()}/revisions/1/check", {}

    def withdraw_spec(self):
        return self.ines, "POST", f"/api/specs/{self.spec()}/revisions/1/withdraw", {"reason": "wrong page"}

    def start_run(self):
        return self.tam, "POST", "/api/runs", self.tam.start_body(self.tam.machine())

    def vouch(self):
        run = self.tam.start()
        self.tam.record(run, "noted", text="seen", unproven=True)
        body = {"person": self.tam.id, "pin": PINS["Tam Reddick"], "seq": 2, "at_device": self.tam.clock.isoformat()}
        return self.tam, "POST", f"/api/runs/{run}/vouch", body

    def pair_wrench(self):
        return self.tam, "POST", f"/api/runs/{self.tam.start()}/wrenches", {}

    def record_entry(self):
        return self.tam, "POST", f"/api/runs/{self.tam.start()}/entries", self.tam.entry("noted", text="seen")

    def retool_run(self):
        run = self.tam.start()
        body = {
            "tooling": [{"wrench": str(demo_id("wrench", "W-07 long three-quarter"))}],
            "seq": 1,
            "at_device": self.tam.clock.isoformat(),
        }
        return self.tam, "POST", f"/api/runs/{run}/retool", body

    def finish_run(self):
        body = {"outcome": "abandoned", "text": "wrong machine", "seq": 1, "at_device": self.tam.clock.isoformat()}
        return self.tam, "POST", f"/api/runs/{self.tam.start()}/finish", body

    def sign_run(self):
        run = self.tam.start()
        assert self.tam.finish(run, "abandoned", "wrong machine").status_code == 201
        return self.tam, "POST", f"/api/runs/{run}/sign", {"seq": 2, "at_device": self.tam.clock.isoformat()}

    def tool(self):
        tool = TOOL | {"id": str(uuid4()), "name": uuid4().hex[:8]}
        self.tam.add_tool(tool)
        return tool["id"]

    def spec(self):
        return self.tam.command("/api/specs/minimal", MINIMAL | {"model": uuid4().hex[:6]}).json()["id"]


COVERED = [name for name in vars(Case) if not name.startswith("_") and name not in ("tool", "spec", "guest")]
TESTED_ELSEWHERE = {
    "enter_spec",
    "enter_spec_rows",
    "keep_attachment",
    "send_file",
    "bring_in_file",
    "set_up_shop",
    "change_pin",
    "take_in_run",
    "read_meters",
    "bring_in_stock",
    "keep_practice",
} | OF_EACH
"""In test_jobs.py, test_followups.py, test_finding.py, test_caring.py, test_spec_files.py, test_signing_in.py, test_people.py, test_stock.py and test_without_server.py."""


def test_every_command_is_sent_twice_somewhere():
    assert {operation["operationId"] for _, _, operation in operations()} == set(COVERED) | TESTED_ELSEWHERE


@pytest.mark.parametrize("name", COVERED)
def test_sent_again_it_is_the_same_once(tam, ines, name):
    who, method, path, body = getattr(Case(tam, ines), name)()
    body = {"id": str(uuid4())} | body
    first = who.http.request(method, path, json=body)
    assert first.status_code in (200, 201, 204), first.text
    again = who.http.request(method, path, json=body)
    assert again.status_code == first.status_code, again.text
    said = (first.json(), again.json()) if first.content else ({}, {})
    for answer in said:
        answer.get("accepted", {}).pop("repeated", None) if isinstance(answer, dict) else None
    assert said[0] == said[1]


def test_a_resent_command_has_one_effect(tam, ines):
    """What lists show: one check, one entry, one reading, one mishap."""
    body, machine = {"id": str(uuid4())}, tam.machine()
    for _ in range(2):
        assert tam.command(f"/api/machines/{machine}/meters", body | {"kind": "km", "figure": 100}).status_code == 204
    tool = Case(tam, ines).tool()
    points = [{"share": share, "shown": shown, "found": [shown]} for share, shown in ((20, 152), (60, 456), (100, 760))]
    before = len(tam.get(f"/api/tools/{W11}")["checks"])
    for _ in range(2):
        assert (
            tam.command(f"/api/tools/{W11}/checks", {"id": body["id"][:-4] + "0001", "points": points, "by": "Quayside"}).status_code == 204
        )
    assert len(tam.get(f"/api/tools/{W11}")["checks"]) == before + 1
    run = tam.start()
    note = tam.entry("noted", text="once")
    for _ in range(2):
        tam.post(run, note)
    assert [line["words"] for line in tam.get(f"/api/runs/{run}/entries")].count("noted (once)") == 1
    assert tool


def test_an_id_that_stands_for_something_else_is_refused(tam, ines):
    machine, taken_id = tam.machine(), str(uuid4())
    assert tam.command(f"/api/machines/{machine}/meters", {"id": taken_id, "kind": "km", "figure": 100}).status_code == 204
    taken = ines.command(f"/api/machines/{machine}/variant", {"id": taken_id, "attribute": "wheel", "value": "steel"})
    assert (taken.status_code, taken.json()["field"]) == (409, "id")
    assert str(BUS_SPEC) in tam.get("/api/find", asked="causeway rear wheel")["hits"][0]["spec"]
