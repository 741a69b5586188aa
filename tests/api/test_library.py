"""Revisions: checked by a second person, superseded, withdrawn; who was tightened to the old one."""

from uuid import uuid4

import pytest

MINIMAL = {"title": "Wheel nuts", "torque": "430 lbf·ft", "thread": "M20×1.5", "count": 8, "document": "book"}


class Library:
    """A spec of a model of its own, entered by Tam."""

    def __init__(self, tam):
        self.tam, self.model = tam, uuid4().hex[:6]
        body = MINIMAL | {"maker": "Tarn", "model": self.model}
        self.id = tam.command("/api/specs/minimal", body).json()["id"]

    def sheet(self, **query):
        return self.tam.get(f"/api/specs/{self.id}", **query)

    def act(self, who, revision, what, **body):
        return who.command(f"/api/specs/{self.id}/revisions/{revision}/{what}", body)

    def revise(self, **fields):
        spec = self.sheet(revision=1)["spec"] | {"revision": 2, "change": "figure"} | fields
        return self.tam.http.post("/api/specs", json=spec)

    def history(self):
        return self.tam.get(f"/api/specs/{self.id}/history")

    def statuses(self):
        return [(r["revision"], r["status"]) for r in self.history()["revisions"]]

    def start(self, revision=1):
        machine = self.tam.machine(f"Tarn {self.model}")
        return self.tam.start_body(machine, spec=self.id, revision=revision, proof="8")


@pytest.fixture
def library(tam):
    return Library(tam)


def test_a_second_person_checks(library, tam, ines):
    assert library.statuses() == [(1, "draft")]
    assert library.id in [waiting["spec"] for waiting in tam.get("/api/dashboard")["to_check"]]
    own = library.act(tam, 1, "check")
    assert (own.status_code, own.json()["fault"]) == (403, "Who entered a spec does not check it.")
    assert library.act(ines, 1, "check").status_code == 204
    assert library.statuses() == [(1, "current")]
    assert library.history()["revisions"][0]["checked_by"] == "Ines Okoro"
    assert library.id not in [waiting["spec"] for waiting in tam.get("/api/dashboard")["to_check"]]
    assert "is no draft" in library.act(ines, 1, "check").json()["fault"]


def test_an_unchecked_spec_may_be_worked_to_and_the_card_says_so(library, tam):
    run = tam.http.post("/api/runs", json=library.start()).json()["id"]
    assert tam.get(f"/api/runs/{run}/card")["sheet"]["checked"] is False
    waiting = next(each for each in tam.get("/api/dashboard")["to_check"] if each["spec"] == library.id)
    assert waiting["used"] == 1


def test_a_draft_replaces_nothing_until_it_is_checked(library, tam, ines):
    library.act(ines, 1, "check")
    finals = library.sheet()["spec"]["finals"]
    tighter = {"stud": finals["stud"] | {"low": 600.0, "high": 650.0, "target": 625.0, "written": "600–650 N·m"}}
    assert library.revise(finals=tighter).status_code == 201
    assert library.statuses() == [(2, "draft"), (1, "current")]
    assert library.sheet()["spec"]["revision"] == 1
    run = tam.http.post("/api/runs", json=library.start()).json()["id"]
    tam.go_on(run)
    tam.finish(run)
    library.act(ines, 2, "check")
    assert library.statuses() == [(2, "current"), (1, "superseded")]
    assert "600–650 N·m" in [stage["words"] for stage in library.sheet()["sheet"]["figures"][0]["stages"]["stages"]]
    assert [(a["run"], a["revision"]) for a in library.history()["affected"]] == [(run, 1)]
    refused = tam.http.post("/api/runs", json=library.start(revision=1))
    assert "is superseded" in refused.json()["fault"]
    assert tam.get(f"/api/runs/{run}/sheet")["spec_revision"] == 1  # a run keeps what it was started from
    changed = {d["where"]: (d["old"], d["new"]) for d in tam.get(f"/api/specs/{library.id}/compare", old=1, new=2) if d["changed"]}
    assert ("430 lbf·ft" in changed["figure"][0], "600–650 N·m" in changed["figure"][1]) == (True, True)
    assert set(changed) == {"figure", *(f"tighten, step {n}" for n in (3, 5, 6, 8)), "retorque, step 2"}


def test_a_change_of_wording_lists_nobody(library, tam, ines):
    library.act(ines, 1, "check")
    run = tam.http.post("/api/runs", json=library.start()).json()["id"]
    tam.finish(run, "abandoned", "only trying")
    library.revise(change="wording", cautions=["Hot after a run."])
    library.act(ines, 2, "check")
    assert library.statuses() == [(2, "current"), (1, "superseded")]
    assert library.history()["affected"] == []


def test_withdrawn_is_offered_no_more(library, tam, ines):
    library.act(ines, 1, "check")
    assert library.act(tam, 1, "withdraw", reason="wrong column").status_code == 403
    assert library.act(ines, 1, "withdraw", reason="").status_code == 422
    assert library.act(ines, 1, "withdraw", reason="wrong column").status_code == 204
    assert tam.get("/api/find", asked=f"tarn {library.model}")["hits"] == []
    assert "is withdrawn" in tam.http.post("/api/runs", json=library.start()).json()["fault"]
    assert library.history()["revisions"][0]["reason"] == "wrong column"
    assert library.sheet()["status"] == "withdrawn"


@pytest.mark.parametrize(
    ("change", "said"),
    [({"revision": 3}, "does not follow 1"), ({"change": "first"}, "says what it changes"), ({"revision": 1}, "does not follow 1")],
)
def test_a_revision_follows_and_says_what_it_changes(library, change, said):
    assert said in library.revise(**change).json()["fault"]
    assert library.statuses() == [(1, "draft")]
