"""Loading the made-up workshop through the same use cases that people use."""

import json
from datetime import timedelta
from pathlib import Path
from typing import Any
from uuid import NAMESPACE_URL, UUID, uuid5

from tight_ledger.core.layouts import bolt_circle
from tight_ledger.core.machines import Machine, Meter
from tight_ledger.core.people import Person
from tight_ledger.core.plans import Policy
from tight_ledger.core.quantities import parse_torque
from tight_ledger.core.specs import WHEEL_RETORQUE, WHEEL_TIGHTEN, Spec
from tight_ledger.core.steps import Do
from tight_ledger.core.tools.wrenches import Wrench
from tight_ledger.demo.history import Clock, story
from tight_ledger.store import files, people
from tight_ledger.store.files import Shop
from tight_ledger.store.ledger import moment
from tight_ledger.work import fleet, library
from tight_ledger.work.office import Actor, Office
from tight_ledger.work.signing_in import hash_pin

DEVICE = uuid5(NAMESPACE_URL, "tight-ledger/demo/device")


def demo_id(kind: str, name: str) -> UUID:
    """The same id for the same thing in every demo."""
    return uuid5(NAMESPACE_URL, f"tight-ledger/demo/{kind}/{name}")


def workshop() -> dict[str, Any]:
    """The workshop as it is written down."""
    return dict(json.loads((Path(__file__).parent / "saltmarsh.json").read_text(encoding="utf-8")))


def wheel_spec(row: dict[str, Any]) -> Spec:
    """A wheel's spec from its row."""
    stand = Do(id="stand", kind="do", say=f"The machine stands on a stand rated {row['stand_kg']} kg or more; wheels chocked.")
    matched = Do(id="matched", kind="do", say="The studs are matched to the holes they had; none is stretched or damaged.")
    proof = row["proof"]
    left = {"left": "left"} if row.get("left_hand") == "left" else {}
    after = {"km": row["km"]} if "km" in row else {"hours": row["hours"]}
    return Spec.model_validate(
        dict(
            id=demo_id("spec", f"{row['maker']} {row['model']} {row['title']}"),
            title=row["title"],
            joint="wheel",
            applies_to=[{name: row[name] for name in ("maker", "model", "variant", "tell") if name in row}],
            positions=dict(axles=row["axles"], sides=row["sides"], places=row["places"]),
            hand_by_side=left,
            seat=row["seat"],
            condition="clean and dry; no oil, no paint on the seat",
            cautions=[
                "Never work under a machine that only a jack holds.",
                "No impact driver: run down by hand, finish with the wrench.",
                "A stretched or cracked stud means all studs of this wheel are looked at.",
            ],
            proof=dict(ask="What do you see on this hub?", options=proof, answer=proof[row["answer"]]),
            layout=bolt_circle(
                count=row["count"], diameter_mm=row["diameter_mm"], kind="stud", thread=row["thread"],
                looked_at="from outside, facing the wheel", first=row["first"],
            ),
            finals={"stud": parse_torque(row["torque"])},
            procedures={"tighten": (stand, matched, *WHEEL_TIGHTEN), "retorque": WHEEL_RETORQUE},
            followups=[dict(id="short", procedure="retorque", days=14, again_if=["moved"], **after)],
            source=row["source"],
        )
    )  # fmt: skip


async def load(office: Office) -> bool:
    """Load the workshop once; whether it was loaded now."""
    if await office.database.run(files.shop) is not None:
        return False
    data = workshop()
    found = Shop(name=data["shop"], time_zone=data["time_zone"], policy=Policy())
    await office.database.run(lambda c: files.found_shop(c, found))
    staff: dict[str, Person] = {}
    for row in data["people"]:
        person, pin_hash = Person(id=demo_id("person", row["name"]), name=row["name"], role=row["role"]), await hash_pin(row["pin"])
        await office.database.run(lambda c, p=person, h=pin_hash: people.add(c, p, h))  # type: ignore[misc]
        staff[person.role] = person
    await office.database.run(lambda c: people.seen(c, DEVICE, "workshop desk", moment(office.now() - timedelta(days=1))))
    actor, mechanic = Actor(staff["lead"], DEVICE), Actor(staff["mechanic"], DEVICE)
    for row in data["machines"]:
        content = {name: value for name, value in row.items() if name not in ("km", "hours")}
        machine = Machine(id=demo_id("machine", row["fleet_number"]), **content)
        await fleet.file_machine(office, machine, actor)
        for kind in machine.meters:
            await fleet.read_meter(office, actor, machine.id, Meter(kind=kind, figure=row[kind]))
    for row in data["wrenches"]:
        await fleet.add_wrench(office, Wrench(id=demo_id("wrench", row["name"]), **row))
    before = Office(office.database, now=Clock(office.now() - timedelta(days=90)))
    for row in data["wheels"]:
        await library.enter_spec(before, mechanic, wheel_spec(row), checked_by=actor)
    front = wheel_spec(next(row for row in data["wheels"] if row["title"] == "Front wheel nuts"))
    warned = (*front.cautions, "Nuts marked with a cross are recalled: do not fit them.")
    safer = front.model_copy(update={"revision": 2, "change": "safety", "cautions": warned})
    await library.enter_spec(before, mechanic, safer, checked_by=actor)
    await story(office, actor, demo_id)
    return True
