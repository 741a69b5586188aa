"""What happened in the made-up workshop before today: runs played through the same use cases, on a clock of their own."""

from collections.abc import Callable
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


async def tighten(context: Context, actor: Actor, wheel: Wheel, turns: TurnsAgain, most_pulls: int, outcome: Outcome | None) -> None:
    """Play a wheel's run: up to `most_pulls` entries, then the outcome if there is one."""
    clock = Clock(context.now() - timedelta(days=wheel.days_ago))
    past = Context(context.database, now=clock)
    run = new_id()
    meters = (Meter(kind=wheel.meter[0], figure=wheel.meter[1]),) if wheel.meter else ()
    await starting.start(
        past,
        actor,
        [Start(
            id=run, spec=wheel.spec, revision=1, procedure="tighten", machine=wheel.machine, tooling=(Taken(wrench=wheel.wrench),),
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
        await recording.finish(past, actor, run, Finish(id=new_id(), outcome=outcome, seq=now.seq, at_device=clock.wait(30)))
        await recording.sign(past, actor, run, Sign(id=new_id(), seq=now.seq + 1, at_device=clock.wait(10)))


async def story(context: Context, actor: Actor, demo_id: Callable[[str, str], UUID]) -> None:
    """A van whose re-torque is due, a dropped wrench and its wheel, a loader half done, a reach stacker that must not move."""

    def wheel(fleet_number: str, spec: str, wrench: str, **more: object) -> Wheel:
        ids = {"machine": demo_id("machine", fleet_number), "spec": demo_id("spec", spec), "wrench": demo_id("wrench", wrench)}
        return Wheel(**ids, **more)  # type: ignore[arg-type]

    van = wheel(
        "SV-11", "Aldermoor Lapwing Wheel nuts, alloy wheel", "W-02 half-inch", axle="front", side="left", proof="5 studs, cone seat",
        days_ago=6, meter=("km", 61877.0),
    )  # fmt: skip
    await tighten(context, actor, van, lambda _: False, 10_000, "good")
    await machines.read_meter(context, actor, van.machine, MeterRead(id=new_id(), kind="km", figure=61_968))
    tug = wheel(
        "TG-02", "Marrowby Pintle 40 Wheel nuts", "W-13 spare half-inch", axle="rear", side="right", proof="4 studs, cone seat", days_ago=2
    )
    await tighten(context, actor, tug, lambda _: False, 10_000, "good")
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
    await tighten(context, actor, loader, lambda _: False, 18, None)
