"""Generates years of a fleet's work: any number of sealed runs. Each is a copy of a run that was played through the use cases.

A copy has new ids, and its machine, job, person, wrench, spec and day; its seals and marks are calculated again.
"""

import os
import random
import re
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import lru_cache
from multiprocessing import get_context
from typing import Any
from uuid import UUID

from sqlalchemy import URL, Connection, Table, create_engine, insert, select, text

from tight_ledger.core.base.people import Person
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.proof.keys import SigningKey
from tight_ledger.core.records.seals import FIRST, seal
from tight_ledger.core.specs.spec import Spec
from tight_ledger.core.tools.inventory import tool_id
from tight_ledger.demo.history import Clock, Wheel, tighten
from tight_ledger.demo.load import demo_id, demo_lead, load, specs
from tight_ledger.services import machines
from tight_ledger.services.actors import Actor
from tight_ledger.services.context import Context
from tight_ledger.services.people import put_on_the_list
from tight_ledger.services.specs import revisions
from tight_ledger.services.summaries import catch_up
from tight_ledger.services.tools import inventory
from tight_ledger.store import specs as spec_store
from tight_ledger.store import tools as tool_store
from tight_ledger.store.ids import new_id
from tight_ledger.store.tables import jobs, ledger, places_now, run_now, run_terms, runs

PAIRS_A_MACHINE, PAIRS_A_SPEC, PAIRS_A_PERSON, PAIRS_A_WRENCH = 30, 250, 400, 500
"""How often a wheel of a machine was tightened and tightened again; and among how much work a spec, a person and a wrench are shared."""
YEARS, WAITING = 10, 4
"""Over how long the work is spread; and for how many wheels the re-torque is still to come."""
ROWS_AT_ONCE, MACHINES_AT_ONCE = 4_000, 10
_DIFFERS = re.compile(
    r"([0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}|\d{4}-\d\d-\d\d|\"rear\"|\"left\"|rear left|rear/left)"
)
SIDES = (("rear", "left"), ("rear", "right"), ("front", "left"), ("front", "right"))
"""Where the work of a machine is, in turn; the first is where the copied runs are."""


@dataclass(frozen=True, slots=True)
class PlayedRun:
    """A run as it stands in the tables."""

    day: date
    run: dict[str, Any]
    job: dict[str, Any]
    rows: tuple[dict[str, Any], ...]
    now: dict[str, Any]
    place: dict[str, Any]
    """How its place stands, if it is the newest there."""
    terms: tuple[dict[str, Any], ...]


@dataclass(frozen=True, slots=True)
class Fleet:
    """What is copied, and among whom the work is spread."""

    played: tuple[PlayedRun, PlayedRun]
    """A wheel that was tightened, and its re-torque."""
    machines: tuple[UUID, ...]
    """Those that get copies; the runs that are copied are of another."""
    people: tuple[UUID, ...]
    wrenches: tuple[UUID, ...]
    specs: tuple[UUID, ...]
    """Each spec is for another model. Machine number n is of the model of spec number n modulo the number of specs."""
    today: date


async def fleet(context: Context, entries: int) -> Fleet:
    """Put machines, people, wrenches and specs on file, as many as so much work has; and play the runs that are copied."""
    await load(context)
    spec = next(each for each in specs() if each.id == demo_id("spec", "Fennick Causeway 12 Rear wheel nuts"))
    lead = demo_lead()
    wrench = await context.database.run(lambda connection: tool_store.tool(connection, demo_id("wrench", "W-11 one-inch")))
    first = Machine(id=new_id(), fleet_number="FL-first", maker="Fennick", model="Causeway 12")
    await machines.file_machine(context, first, lead)
    played = await _play(context, lead, first.id, tool_id(wrench), spec.id)
    pairs = -(-entries // sum(len(run.rows) for run in played))
    copies = [_of_a_model_of_its_own(spec, number) for number in range(1, _of(pairs, PAIRS_A_SPEC))]
    kinds = (spec, *copies)
    vehicles = [
        first.model_copy(update={"id": new_id(), "fleet_number": f"FL-{n:05}", "model": kinds[n % len(kinds)].applies_to[0].model})
        for n in range(_of(pairs, PAIRS_A_MACHINE))
    ]
    for vehicle in vehicles:
        await machines.file_machine(context, vehicle, lead)
    filed = [spec_store.Filed.of(each) for each in copies]
    await context.database.run(lambda c: revisions.file_specs(context, c, lead, filed, lead), transaction=True)
    tools = [wrench.model_copy(update={"id": new_id(), "name": f"{wrench.name} {n}"}) for n in range(1, _of(pairs, PAIRS_A_WRENCH))]
    for tool in tools:
        await inventory.add_tool(context, tool, lead)
    staff = [Person(id=new_id(), name=f"Fitter {n}", roles=("mechanic",)) for n in range(1, _of(pairs, PAIRS_A_PERSON))]
    for person in staff:
        await context.database.run(lambda c, p=person: put_on_the_list(c, p, "", context.now()), transaction=True)  # type: ignore[misc]
    return Fleet(
        played, tuple(each.id for each in vehicles), (lead.person.id, *(each.id for each in staff)),
        (tool_id(wrench), *(tool_id(each) for each in tools)), (spec.id, *(each.id for each in copies)), context.now().date(),
    )  # fmt: skip


def _of_a_model_of_its_own(spec: Spec, number: int) -> Spec:
    applies = tuple(each.model_copy(update={"model": f"{each.model} {number}"}) for each in spec.applies_to)
    return spec.model_copy(update={"id": new_id(), "title": f"{spec.title} {number}", "applies_to": applies})


def _of(pairs: int, each: int) -> int:
    return max(-(-pairs // each), 1)


async def _play(context: Context, lead: Actor, machine: UUID, wrench: UUID, spec: UUID) -> tuple[PlayedRun, PlayedRun]:
    """A wheel and its re-torque, both at a time of day at which no midnight is near."""
    noon = context.now().replace(hour=12, minute=0)
    past = Context(context.database, now=Clock(noon))
    made = []
    for procedure, days in (("tighten", 8.0), ("retorque", 7.0)):
        wheel = Wheel(
            spec=spec, machine=machine, wrench=wrench, axle="rear", side="left", proof="10 studs, M22", days_ago=days, procedure=procedure
        )
        made.append(await tighten(past, lead, wheel, lambda _prompt: False, 10_000, "good"))
    await catch_up(context)
    first, second = [await context.database.run(lambda c, r=run: c.run_sync(_read, r)) for run in made]  # type: ignore[misc]
    return first, second


def _read(connection: Connection, run: UUID) -> PlayedRun:
    row = connection.execute(select(runs).where(runs.c.id == run)).all()[0]._asdict()
    job = connection.execute(select(jobs).where(jobs.c.id == row["job_id"])).all()[0]._asdict()
    lines = [each._asdict() for each in connection.execute(select(ledger).where(ledger.c.stream == run).order_by(ledger.c.seq))]
    now = connection.execute(select(run_now).where(run_now.c.run_id == run)).all()[0]._asdict()
    place = connection.execute(select(places_now).where(places_now.c.run_id == run)).first()
    terms = [each._asdict() for each in connection.execute(select(run_terms).where(run_terms.c.run_id == run))]
    del row["number"]
    return PlayedRun(row["started_at"].date(), row, job, tuple(lines), now, place._asdict() if place is not None else {}, tuple(terms))


@dataclass(slots=True)
class _Copy:
    """One wheel and its re-torque under other ids, on other days."""

    known: dict[str, str]
    """What stands instead: of ids, and of words that name the place."""
    side: tuple[str, str]
    days: int

    def value(self, given: object, day: date) -> object:
        """A cell of a row with the ids, the place and the day of the copy."""
        if isinstance(given, UUID):
            return UUID(self.known.get(str(given), str(given)))
        if isinstance(given, datetime):
            return given + timedelta(days=self.days)
        if not isinstance(given, str):
            return given
        known = self.known | {day.isoformat(): (day + timedelta(days=self.days)).isoformat()}
        return "".join([known.get(piece, piece) for piece in _pieces(given)])

    def row(self, row: Mapping[str, object], day: date) -> dict[str, object]:
        """A row, likewise."""
        return {name: self.value(given, day) for name, given in row.items()}


@lru_cache(10_000)
def _pieces(words: str) -> list[str]:
    """Text, cut where it differs from copy to copy."""
    return _DIFFERS.split(words)


def _copies(made: Fleet, machine: int) -> Iterator[tuple[_Copy, int]]:
    """What a machine had done, in the order of time: the copy, and how many of the played runs belong to it."""
    dice = random.Random(machine)
    spread = sorted(dice.randrange(20, YEARS * 365) for _ in range(PAIRS_A_MACHINE))
    ids = [str(run.run["id"]) for run in made.played] + [str(row["id"]) for run in made.played for row in run.rows]
    ids += [str(run.job["id"]) for run in made.played]
    first = made.played[0].run
    for place, ago in enumerate(reversed(spread)):
        waits = place == PAIRS_A_MACHINE - 1 and machine < WAITING
        known = {old: str(new_id()) for old in dict.fromkeys(ids)}
        for among in (made.people, made.wrenches):
            known[str(among[0])] = str(dice.choice(among))
        known[str(first["spec_id"])] = str(made.specs[machine % len(made.specs)])
        known[str(first["machine_id"])] = str(made.machines[machine])
        axle, side = SIDES[place % len(SIDES)]
        known |= {'"rear"': f'"{axle}"', '"left"': f'"{side}"', "rear left": f"{axle} {side}", "rear/left": f"{axle}/{side}"}
        yield _Copy(known, SIDES[place % len(SIDES)], 0 if waits else -ago), 1 if waits else 2


def _sealed(copy: _Copy, played: PlayedRun, key: SigningKey | None) -> Iterator[dict[str, object]]:
    before = FIRST
    for row in played.rows:
        made = copy.row(row, played.day)
        body = str(made["body"])
        before = seal(before, body.encode())
        mark = key.mark(UUID(str(made["stream"])), int(str(made["seq"])), before) if key is not None else None
        yield made | {"seal": before, "mark": mark}


def _write(work: tuple[URL, Fleet, Sequence[int], SigningKey | None]) -> int:
    """Write what some machines had done. Returns the number of entries."""
    url, made, numbers, key = work
    engine, entries = create_engine(url), 0
    held: dict[Table, list[dict[str, object]]] = {jobs: [], runs: [], ledger: [], run_now: [], run_terms: [], places_now: []}
    with engine.connect() as connection:
        connection.execute(text("SET unique_checks = 0, foreign_key_checks = 0"))
        for machine in numbers:
            places: dict[tuple[str, str], dict[str, object]] = {}
            for copy, how_many in _copies(made, machine):
                place = copy.row(made.played[1].place, made.played[1].day)
                if how_many == 1:  # the re-torque is still to come
                    place |= dict.fromkeys(("run_id", "root_id"), copy.value(made.played[0].run["id"], made.played[0].day))
                places[copy.side] = place
                for played in made.played[:how_many]:
                    held[jobs].append(copy.row(played.job, played.day))
                    held[runs].append(copy.row(played.run, played.day))
                    held[run_now].append(copy.row(played.now, played.day))
                    held[run_terms] += [copy.row(term, played.day) for term in played.terms]
                    held[ledger] += _sealed(copy, played, key)
            held[places_now] += places.values()
            if len(held[ledger]) >= ROWS_AT_ONCE:
                entries += _flush(connection, held)
        entries += _flush(connection, held)
    engine.dispose()
    return entries


def _flush(connection: Connection, held: dict[Table, list[dict[str, object]]]) -> int:
    many = len(held[ledger])
    for table, rows in held.items():
        if rows:  # a job is there once for all its runs
            connection.execute(insert(table), list({row["id"]: row for row in rows}.values()) if table is jobs else rows)
        held[table] = []
    connection.commit()
    return many


def fill(url: URL, made: Fleet, key: SigningKey | None) -> int:
    """Write the years of every machine, on all cores. Returns the number of entries."""
    places = range(len(made.machines))
    work = [(url, made, places[start : start + MACHINES_AT_ONCE], key) for start in range(0, len(places), MACHINES_AT_ONCE)]
    with ProcessPoolExecutor(os.cpu_count(), mp_context=get_context("spawn")) as pool:
        return sum(pool.map(_write, work))
