"""Loading the made-up workshop through the same use cases that people use."""

import json
from datetime import timedelta
from pathlib import Path
from typing import Any
from uuid import NAMESPACE_URL, UUID, uuid5

from tight_ledger.core.base.people import Person
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.tools.calibrations import SHARES, Point, points_of
from tight_ledger.core.tools.gauges import Gauge
from tight_ledger.core.tools.inventory import TOOL
from tight_ledger.core.tools.wrenches import Wrench
from tight_ledger.demo.history import Clock, month, story
from tight_ledger.formats.tables import read_csv
from tight_ledger.services import machines, tablets
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.machines import MeterRead
from tight_ledger.services.people import hash_pin, put_on_the_list
from tight_ledger.services.specs import revisions
from tight_ledger.services.tools import care, inventory
from tight_ledger.services.tools.care import Checked
from tight_ledger.store import shop as shop_store
from tight_ledger.store import specs as spec_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.shop import Shop

DEVICE = uuid5(NAMESPACE_URL, "tight-ledger/demo/device")


def demo_id(kind: str, name: str) -> UUID:
    """The same id for the same thing in every demo."""
    return uuid5(NAMESPACE_URL, f"tight-ledger/demo/{kind}/{name}")


def workshop() -> dict[str, Any]:
    """The workshop as it is written down."""
    return dict(json.loads((Path(__file__).parent / "saltmarsh.json").read_text(encoding="utf-8")))


def specs() -> list[Spec]:
    """The specs of the workshop, from the table that any shop could import."""
    found = list(read_csv(Path(__file__).parent / "specs.csv"))
    return [candidate.spec for candidate in found if candidate.spec is not None]


def demo_lead() -> Actor:
    """The first person of the demo, who is a lead, at the demo's own device."""
    row = workshop()["people"][0]
    return Actor(Person(id=demo_id("person", row["name"]), name=row["name"], roles=row["roles"]), DEVICE)


async def stock(context: Context, actor: Actor, data: dict[str, Any]) -> None:
    """The crib, each wrench with its last check: how many months ago, and how far off it was found at 20, 60 and 100 %."""
    for row in data["tools"]:
        tool = TOOL.validate_python({"id": demo_id(row["kind"], row["name"]), **row})
        months, off = data["checks"].get(tool.name, (0, ()))
        then = Context(context.database, now=Clock(context.now() - timedelta(days=30.4 * months)))
        await inventory.add_tool(then, tool, actor)
        if isinstance(tool, Wrench | Gauge) and off:
            points = [
                Point(
                    share=share, shown=shown, found=tuple(round(shown / (1 + (deviation + wobble) / 100), 3) for wobble in (-0.2, 0, 0.2))
                )
                for share, shown, deviation in zip(SHARES, points_of(tool), off, strict=True)
            ]
            checked = Checked(id=new_id(), points=tuple(points), by="Quayside Metrology", certificate=f"QM-{tool.serial[-4:]}-{months:g}")
            await care.calibrate(then, actor, tool.id, checked)


async def load(context: Context) -> bool:
    """Load the workshop once; whether it was loaded now."""
    if await context.database.run(shop_store.read) is not None:
        return False
    data = workshop()
    found = Shop(name=data["shop"], time_zone=data["time_zone"], policy=Policy())
    await context.database.run(lambda c: shop_store.set_up(c, found))
    staff: dict[str, Person] = {}
    mechanics: list[Actor] = []
    for row in data["people"]:
        person, pin_hash = Person(id=demo_id("person", row["name"]), name=row["name"], roles=row["roles"]), await hash_pin(row["pin"])
        await context.database.run(
            lambda c, p=person, h=pin_hash: put_on_the_list(c, p, h, context.now() - timedelta(days=1)),  # type: ignore[misc]
            transaction=True,
        )
        staff[person.roles[0]] = person
        if person.roles[0] == "mechanic":
            mechanics.append(Actor(person, DEVICE))
    await context.database.run(lambda c: tablets.keep(c, context, DEVICE, "workshop desk", staff["lead"]), transaction=True)
    actor, mechanic = Actor(staff["lead"], DEVICE), Actor(staff["mechanic"], DEVICE)
    for row in data["machines"]:
        content = {name: value for name, value in row.items() if name not in ("km", "hours")}
        machine = Machine(id=demo_id("machine", row["fleet_number"]), **content)
        await machines.file_machine(context, machine, actor)
        for kind in machine.meters:
            await machines.read_meter(context, actor, machine.id, MeterRead(id=new_id(), kind=kind, figure=row[kind]))
    await stock(context, actor, data)
    before = Context(context.database, now=Clock(context.now() - timedelta(days=90)))
    written = specs()
    filed = [spec_store.Filed.of(spec) for spec in written]
    await before.database.run(lambda c: revisions.file_specs(before, c, mechanic, filed, actor), transaction=True)
    front = next(spec for spec in written if spec.title == "Front wheel nuts")
    warned = (*front.cautions, "Nuts marked with a cross are recalled: do not fit them.")
    safer = front.model_copy(update={"revision": 2, "change": "safety", "cautions": warned})
    await revisions.enter_spec(before, mechanic, safer, checked_by=actor)
    unchecked = next(spec for spec in written if spec.title == "Coolant drain plug")
    page = unchecked.source.model_copy(update={"page": "B-3"})
    again = unchecked.model_copy(update={"id": demo_id("spec", "draft"), "title": "Coolant drain plug, pump side", "source": page})
    await revisions.enter_spec(before, mechanic, again)
    await month(context, actor, mechanics, demo_id)
    await story(context, actor, demo_id)
    return True
