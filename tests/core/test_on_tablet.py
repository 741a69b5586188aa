"""What a tablet says of a run that it holds, or began itself, without the server."""

import json
from uuid import UUID, uuid4

import pytest

from tests.core.play import LONG, START, wheel_spec
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.planning.choosing import Asked, CribNow, Taken
from tight_ledger.core.records.entries import Flag
from tight_ledger.core.runs.on_tablet import TabletCore
from tight_ledger.core.runs.pack import Begun, Pack
from tight_ledger.core.runs.starting import MachineBefore, SpecBefore, Start

ME, DEVICE = {"id": str(UUID(int=5)), "name": "Tam", "roles": ["mechanic"]}, str(UUID(int=6))
MACHINE = Machine(id=UUID(int=4), fleet_number="T-1", maker="Fennick", model="Causeway 12")


class OnTablet:
    """A tablet that took one machine along, with its wheel."""

    def __init__(self):
        self.core, self.spec = TabletCore(), wheel_spec()
        pack = Pack(
            policy=Policy(), crib=CribNow(tools=(LONG,), care={}), certificates={}, machines=(MachineBefore(machine=MACHINE),),
            specs=(SpecBefore(spec=self.spec, status="current", checked=True),),
        )  # fmt: skip
        self.ask("take", pack=json.loads(pack.model_dump_json()))

    def ask(self, what: str, **asked):
        return json.loads(self.core.answer(json.dumps({"do": what} | asked)))

    def start(self, **changes):
        given = {
            "id": uuid4(), "spec": self.spec.id, "revision": 1, "procedure": "tighten", "machine": MACHINE.id, "position": Position(),
            "tooling": (Taken(wrench=LONG.id),), "proof": "10", "at_device": START,
        }  # fmt: skip
        request = json.loads(Start.model_validate(given | changes).model_dump_json())
        return self.ask("start", start=request, entry=str(uuid4()), me=ME, device=DEVICE, unproven=False)

    def begin(self):
        begun = self.start()["begun"]
        return begun["start"]["id"], begun, self.ask("begin", run=begun["start"]["id"], begun=begun, device=DEVICE)

    def does(self, run: str, now, **fields):
        act, prompt = now["prompt"]["acts"][0], now["prompt"]
        report = {"id": str(uuid4()), "kind": act["kind"], "by": ME["id"], "at_device": "2026-03-02T11:00:00Z", "how": act["how"]}
        report |= {"pull": prompt["pull"], "fastener": prompt["fastener"], "claimed_seq": now["seq"] + 1} if not act["unplanned"] else {}
        report |= {"setting": act["setting"], "tools": [str(LONG.id)]} if act["kind"] == "set" else {}
        return self.ask("report", run=run, me=ME, device=DEVICE, report=report | fields)


@pytest.fixture
def tablet():
    return OnTablet()


def test_a_run_that_the_tablet_began_is_held_like_any_other(tablet):
    run, begun, told = tablet.begin()
    assert (told["sealed"], told["now"]["seq"]) == (0, 1)
    assert told["sheet"]["machine"]["fleet_number"] == "T-1"
    told = tablet.does(run, told["now"])
    assert (told["now"]["seq"], told["sealed"]) == (2, 0)
    assert tablet.ask("forget", run=run, id=begun["id"])["now"]["seq"] == 2  # its start stays
    paper = tablet.ask("paper", run=run)["paper"]
    stages = [each for each in paper["passes"] if each["words"].startswith("stage")]
    assert [len(each["boxes"]) for each in stages] == [10, 10, 10]
    assert [stages[2]["figure"][:3], "565–605" in stages[2]["figure"]] == ["585", True]
    assert {box["figure"] for box in stages[2]["boxes"]} == {""}  # said once


def test_when_the_server_has_sealed_it_what_waits_stands_behind(tablet):
    run, begun, told = tablet.begin()
    tablet.does(run, told["now"])
    sealed = json.loads(Begun.model_validate(begun).first(UUID(DEVICE)).model_dump_json(exclude_none=True))
    flag = Flag(code="contested", words="another run was open here meanwhile", run=UUID(int=8))
    sealed |= {"id": str(uuid4()), "flags": [json.loads(flag.model_dump_json(exclude_none=True))]}  # the server's own start
    told = tablet.ask("hear", run=run, entries=[sealed], hand="right")
    assert (told["sealed"], told["now"]["seq"]) == (1, 2)
    assert [line["words"] for line in told["now"]["to_settle"]] == ["another run was open here meanwhile"]


@pytest.mark.parametrize(
    ("changes", "fault"),
    [
        ({"proof": "8"}, "this spec is for “10”"),
        ({"machine": UUID(int=99)}, "did not take this machine along"),
        ({"revision": 2}, "did not take this spec along"),
        ({"tooling": (Taken(wrench=UUID(int=99)),)}, "No wrench in the crib has this id"),
    ],
)
def test_what_the_server_would_refuse_the_tablet_refuses(tablet, changes, fault):
    assert fault in tablet.start(**changes)["fault"]["fault"]


def test_no_second_run_is_begun_where_one_is_open(tablet):
    tablet.begin()
    assert "is not finished" in tablet.start()["fault"]["fault"]


def test_it_offers_from_the_crib_and_knows_who_may_what(tablet):
    offered = tablet.ask("offer", spec=str(tablet.spec.id), asked=json.loads(Asked().model_dump_json()))["offered"]
    assert [choice["wrench"]["name"] for choice in offered["choices"] if not choice["refused"]] == ["long"]
    assert tablet.ask("rights", me=ME)["rights"] == ["work"]
    assert TabletCore().answer(json.dumps({"do": "offer", "spec": str(uuid4()), "asked": {}})).startswith('{"fault"')
