"""What happened in the made-up workshop before today: runs played through the same use cases, on a clock of their own."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from tight_ledger.core.machines.meters import Meter, MeterKind
from tight_ledger.core.machines.positions import Position, Side
from tight_ledger.core.planning.choosing import Taken
from tight_ledger.core.records.entries import Outcome, Report
from tight_ledger.core.runs.prompt import Prompt
from tight_ledger.core.runs.starting import Start
from tight_ledger.services import machines
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.machines import MeterRead
from tight_ledger.services.runs import recording, starting, views
from tight_ledger.services.runs.recording import Finish, Sign
from tight_ledger.services.tools import care
from tight_ledger.services.tools.care import Aside
from tight_ledger.store.ids import new_id

TurnsAgain = Callable[[Prompt], bool]
"""Whether a nut turns in a check."""


@dataclass
class Clock:
    """A clock that the story winds on."""

    at: datetime

    def __call__(self) -> datetime:
        return self.at

    def wait(self, seconds: float) -> datetime:
        self.at += timedelta(seconds=seconds)
        return self.at


@dataclass(frozen=True)
class Wheel:
    """A wheel that somebody tightened, some days ago."""

    spec: UUID
    machine: UUID
    wrench: UUID
    axle: str
    side: Side
    proof: str
    days_ago: float
    place: str = ""
    meter: tuple[MeterKind, float] | None = None
    procedure: str = "tighten"


async def tighten(context: Context, actor: Actor, wheel: Wheel, turns: TurnsAgain, most_pulls: int, outcome: Outcome | None) -> UUID:
    """Play a wheel's run: up to `most_pulls` entries, then the outcome if there is one. Returns the run."""
    clock = Clock(context.now() - timedelta(days=wheel.days_ago))
    past = Context(context.database, now=clock)
    run = new_id()
    meters = (Meter(kind=wheel.meter[0], figure=wheel.meter[1]),) if wheel.meter else ()
    await starting.start(
        past,
        actor,
        [Start(
            id=run, spec=wheel.spec, revision=1, procedure=wheel.procedure, machine=wheel.machine, tooling=(Taken(wrench=wheel.wrench),),
            position=Position(axle=wheel.axle, side=wheel.side, place=wheel.place), meters=meters, proof=wheel.proof,
            at_device=clock(),
        )],
    )  # fmt: skip
    now = await views.now(past, run)
    while now.prompt.ask not in ("finish", "stop") and now.seq <= most_pulls:
        prompt = now.prompt
        common = {"id": new_id(), "by": actor.person.id, "at_device": clock.wait(7), "claimed_seq": now.seq + 1}
        act = prompt.acts[1] if prompt.ask == "turned" and turns(prompt) else prompt.acts[0]
        of_pull = {} if act.unplanned else {"pull": prompt.pull, "fastener": prompt.fastener}
        tools = (wheel.wrench,) if act.setting is not None else None
        report = Report(kind=act.kind, how=act.how, moved=act.moved, setting=act.setting, tools=tools, **common, **of_pull)
        await recording.record(past, actor, run, report)
        now = await views.now(past, run)
    if outcome is not None:
        why = "" if outcome in ("good", "do not move") else "the lift is needed for the ferry's own truck"
        await recording.finish(past, actor, run, Finish(id=new_id(), outcome=outcome, text=why, seq=now.seq, at_device=clock.wait(30)))
        await recording.sign(past, actor, run, Sign(id=new_id(), seq=now.seq + 1, at_device=clock.wait(10)))
    return run


async def month(context: Context, lead: Actor, mechanics: Sequence[Actor], demo_id: Callable[[str, str], UUID]) -> None:
    """A month of ordinary work, with what goes wrong in one: a wheel that must not move and a lead who lifts it, work that was
    broken off, a re-torque in which a nut turned.
    """
    tug = ("TG-02", "Marrowby Pintle 40 Wheel nuts", "W-02 half-inch", "4 studs, cone seat")
    van = ("SV-11", "Aldermoor Lapwing Wheel nuts, alloy wheel", "W-02 half-inch", "5 studs, cone seat")
    tractor = ("TT-07", "Stourholm Curlew 4 Front wheel nuts", "W-05 three-quarter", "6 studs, no letter")

    def at(machine: tuple[str, str, str, str], axle: str, side: Side, days_ago: float, **more: object) -> Wheel:
        fleet_number, spec, wrench, proof = machine
        ids = {"machine": demo_id("machine", fleet_number), "spec": demo_id("spec", spec), "wrench": demo_id("wrench", wrench)}
        return Wheel(**ids, axle=axle, side=side, proof=proof, days_ago=days_ago, **more)  # type: ignore[arg-type]

    tam, wren = mechanics
    await tighten(context, tam, at(tug, "front", "left", 27.2), _never, 10_000, "good")
    await tighten(context, wren, at(tug, "front", "right", 27.1), _never, 10_000, "good")
    await tighten(context, tam, at(van, "rear", "left", 20.3), _never, 10_000, "good")
    await tighten(context, tam, at(van, "rear", "right", 20.2), _never, 12, "abandoned")
    red = await tighten(context, wren, at(tug, "rear", "left", 13.4), lambda prompt: prompt.fastener == "3", 10_000, "do not move")
    await tighten(context, wren, at(tug, "rear", "left", 13.3), _never, 10_000, "good")
    looked = Context(context.database, now=Clock(context.now() - timedelta(days=13.2)))
    seq = (await views.now(looked, red)).seq
    why = "a stud was stretched: replaced, tightened again, none turned"
    await recording.finish(looked, lead, red, Finish(id=new_id(), outcome="released", text=why, seq=seq, at_device=looked.now()))
    await tighten(context, tam, at(tractor, "front", "left", 4.3, meter=("km", 40115.0)), _never, 10_000, "good")
    await tighten(context, wren, at(tractor, "front", "right", 4.2, meter=("km", 40115.0)), _never, 10_000, "good")
    turned_once = iter([True])
    again = at(tractor, "front", "left", 1.3, meter=("km", 40140.0), procedure="retorque")
    await tighten(context, tam, again, lambda prompt: prompt.fastener == "5" and next(turned_once, False), 10_000, "good")


def _never(_prompt: Prompt) -> bool:
    return False


async def story(context: Context, actor: Actor, demo_id: Callable[[str, str], UUID]) -> None:
    """A van whose re-torque is due, a dropped wrench and its wheel, a loader half done, a reach stacker that must not move."""

    def wheel(fleet_number: str, spec: str, wrench: str, **more: object) -> Wheel:
        ids = {"machine": demo_id("machine", fleet_number), "spec": demo_id("spec", spec), "wrench": demo_id("wrench", wrench)}
        return Wheel(**ids, **more)  # type: ignore[arg-type]

    van = wheel(
        "SV-11", "Aldermoor Lapwing Wheel nuts, alloy wheel", "W-02 half-inch", axle="front", side="left", proof="5 studs, cone seat",
        days_ago=6, meter=("km", 61877.0),
    )  # fmt: skip
    await tighten(context, actor, van, _never, 10_000, "good")
    await machines.read_meter(context, actor, van.machine, MeterRead(id=new_id(), kind="km", figure=61_968))
    tug = wheel(
        "TG-02", "Marrowby Pintle 40 Wheel nuts", "W-13 spare half-inch", axle="rear", side="right", proof="4 studs, cone seat", days_ago=2
    )
    await tighten(context, actor, tug, _never, 10_000, "good")
    await care.set_aside(context, actor, tug.wrench, Aside(id=new_id(), mishap="dropped", text="off the bench, on concrete"))
    stacker = wheel(
        "RS-02", "Stourholm Heron 45 Drive wheel nuts", "W-11 one-inch", axle="front", side="right", place="outer",
        proof="20 studs, wedge ring", days_ago=0.8, meter=("hours", 11240.0),
    )  # fmt: skip
    await tighten(context, actor, stacker, lambda prompt: prompt.fastener in ("7", "12"), 10_000, "do not move")
    loader = wheel(
        "WL-03", "Tarn & Oake Drover 8 Wheel nuts", "W-05 three-quarter", axle="rear", side="left", proof="8 studs, M20",
        days_ago=0.05, meter=("hours", 8804.0),
    )  # fmt: skip
    await tighten(context, actor, loader, _never, 18, None)
