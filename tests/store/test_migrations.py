"""Every migration, with data from before it: read afterwards by the code of today."""

import json
import re
from datetime import UTC, date, datetime
from pathlib import Path
from uuid import UUID, uuid4

import pytest
from alembic import command
from alembic.script import ScriptDirectory
from sqlalchemy import create_engine, text

from tests.core.play import LONG, wheel_spec
from tight_ledger.core.base.models import canonical
from tight_ledger.core.base.people import Person
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.settings import ShopSettings
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.practice.progress import DrillResult
from tight_ledger.core.records.seals import FIRST, seal
from tight_ledger.core.search.matching import Level
from tight_ledger.services.checkpoints import make
from tight_ledger.services.context import Context
from tight_ledger.services.people import names_shown, seal_names
from tight_ledger.store import (
    devices,
    feeds,
    imports,
    machines,
    people,
    places,
    practice,
    runs,
    schema,
    search,
    shop,
    summaries,
    tablets,
    told,
    tools,
    turns,
)
from tight_ledger.store.database import Database
from tight_ledger.store.keeper import keeper
from tight_ledger.store.server import BACKUP, OWNER
from tight_ledger.store.verification import KnownOutside, verify

RUN, OTHER, SPEC = uuid4(), uuid4(), wheel_spec()


class Before:
    """A database of its own, as it was after an older migration."""

    def __init__(self, server):
        self.url = server.url(OWNER, BACKUP)
        self.all = create_engine(server.url(OWNER), isolation_level="AUTOCOMMIT")

    def __enter__(self):
        with self.all.connect() as connection:
            connection.execute(text(f"CREATE DATABASE {BACKUP}"))
        self.engine = create_engine(self.url, isolation_level="AUTOCOMMIT")
        return self

    def __exit__(self, *_):
        self.engine.dispose()
        with self.all.connect() as connection:
            connection.execute(text(f"DROP DATABASE {BACKUP}"))
        self.all.dispose()

    def at(self, revision: str):
        with self.engine.connect() as connection:
            command.upgrade(schema._config(connection), revision)

    def add_run(self):
        """A run of a machine."""
        machine, job = uuid4(), uuid4()
        self.add("machines", id=machine, fleet_number="SB-04", content="{}")
        self.add("jobs", id=job, machine_id=machine, opened_at=datetime(2026, 1, 1))
        of = {"job_id": job, "machine_id": machine, "joint": "wheel", "spec_id": SPEC.id, "spec_revision": 1, "procedure": "tighten"}
        self.add("runs", **of, id=RUN, position_key="rear/left/", started_at=datetime(2026, 1, 1))

    def add(self, table: str, **row):
        values = {name: value.hex if isinstance(value, UUID) else value for name, value in row.items()}
        with self.engine.connect() as connection:
            connection.execute(
                text(f"INSERT INTO {table} ({', '.join(f'`{name}`' for name in row)}) VALUES ({', '.join(f':{name}' for name in row)})"),
                values,
            )

    def entry(self, stream: UUID, seq: int, kind: str, body: dict, subject: str):
        row = {"id": uuid4(), "stream": stream, "seq": seq, "subject": subject, "kind": kind, "at_server": datetime(2026, 1, 1)}
        self.add("ledger", **row, body=json.dumps(body), seal=bytes(32))

    def spec(self):
        self.add("spec_revisions", spec_id=SPEC.id, revision=1, digest=SPEC.digest, content=canonical(SPEC).decode())
        self.note(SPEC.id, "entered", "spec", revision=1, digest=SPEC.digest)

    def note(self, stream: UUID, kind: str, subject: str, **said):
        """The first entry of a stream that is not a run's, whole."""
        common = {"id": str(uuid4()), "stream": str(stream), "subject": subject, "kind": kind, "seq": 1, "v": 1}
        self.entry(stream, 1, kind, common | {"at_server": "2026-01-01T00:00:00Z"} | said, subject)

    async def read(self, work):
        database = Database(self.url)
        try:
            return await database.run(work, transaction=True)
        finally:
            await database.close()


@pytest.fixture
def before(server):
    with Before(server) as found:
        yield found


async def found_again(before) -> list[UUID]:
    assert await before.read(search.rebuild) == 1
    with before.engine.connect() as connection:
        return [UUID(str(row.spec_id)) for row in connection.execute(text("SELECT spec_id FROM finding"))]


async def test_a_spec_from_before_there_was_an_index_is_found(before):
    before.at("0001")
    before.spec()
    schema.migrate(before.url)
    assert await found_again(before) == [SPEC.id]


async def test_wrenches_become_tools_and_pulls_get_the_tool_that_they_were_made_with(before):
    """By the entry's own word, or else by the wrench that the run was started with."""
    before.at("0002")
    before.add("wrenches", id=LONG.id, name=LONG.name, content=canonical(LONG).decode())
    bodies = {
        "started": {"started": {"tooling": [{"wrench": {"id": str(LONG.id)}}]}},
        "pulled": {},
        "checked": {"tools": [str(OTHER)]},
        "noted": {},
    }
    for seq, (kind, body) in enumerate(bodies.items(), 1):
        before.entry(RUN, seq, kind, body, "run")
    schema.migrate(before.url)
    assert await before.read(tools.tools) == [LONG]
    with before.engine.connect() as connection:
        kept = {row.kind: row.tool and UUID(str(row.tool)) for row in connection.execute(text("SELECT kind, tool FROM ledger"))}
    assert kept == {"started": None, "pulled": LONG.id, "checked": OTHER, "noted": None}


async def test_an_index_that_held_one_figure_is_made_anew(before):
    before.at("0003")
    before.spec()
    numbers = dict.fromkeys(("ordinal", "standing", "who", "what", "fasteners", "notes", "source"), 0)
    before.add("finding", spec_id=SPEC.id, revision=1, **numbers, year_from=0, year_to=0, figure="585", trust="", applies="{}")
    schema.migrate(before.url)
    assert await found_again(before) == [SPEC.id]


async def test_what_servers_share_comes_to_a_shop_that_has_machines(before):
    before.at("0004")
    machine = Machine(id=uuid4(), fleet_number="SB-04", maker="Fennick", model="Causeway 12")
    before.add("machines", id=machine.id, fleet_number=machine.fleet_number, content=canonical(machine).decode())
    schema.migrate(before.url)
    assert await before.read(machines.read_all) == [machine]
    at = datetime(2026, 1, 1)
    assert await before.read(lambda connection: imports.add(connection, OTHER, "judging", "{}", at, 8))
    assert await before.read(lambda connection: imports.find(connection, OTHER)) == ("judging", "{}", at)


async def test_runs_are_numbered_by_their_start_and_the_open_ones_hold_their_places(before):
    before.at("0005")
    machine, job = uuid4(), uuid4()
    before.add("machines", id=machine, fleet_number="SB-04", content="{}")
    before.add("jobs", id=job, machine_id=machine, opened_at=datetime(2026, 1, 1))
    common = {"job_id": job, "machine_id": machine, "joint": "wheel", "spec_id": SPEC.id, "spec_revision": 1, "procedure": "tighten"}
    started = [uuid4() for _ in range(3)]
    for run, day, side in zip(started, (3, 1, 2), ("left", "left", "right"), strict=True):
        before.add("runs", **common, id=run, position_key=f"rear/{side}/", started_at=datetime(2026, 1, day))
    before.entry(started[2], 1, "finished", {}, "run")
    schema.migrate(before.url)
    newest = await before.read(lambda connection: runs.newest(connection, machine))
    assert [row.id for row in newest] == [started[0], started[2]]
    with before.engine.connect() as connection:
        held = [UUID(str(row.run_id)) for row in connection.execute(text("SELECT run_id FROM open_places"))]
    assert held == [started[0]]


async def test_a_code_from_before_there_were_instruments_still_stands(before):
    before.at("0006")
    before.add("pairings", code="123456", run_id=RUN, person_id=OTHER, device_id=OTHER, command=OTHER, until=datetime(2026, 1, 1))
    schema.migrate(before.url)
    assert await before.read(lambda connection: devices.code_of(connection, RUN, OTHER)) == "123456"


async def test_a_name_from_before_names_were_sealed_is_sealed_at_the_next_start(before):
    before.at("0007")
    before.add("people", id=OTHER, name="Ada", role="lead", pin_hash="x")
    schema.migrate(before.url)
    context = Context(Database(before.url))
    assert [await seal_names(context), await seal_names(context)] == [1, 0]
    assert await before.read(names_shown) == {OTHER: "Ada"}
    with before.engine.connect() as connection:
        connection.execute(text("UPDATE people SET name = 'Eve'"))
    assert await before.read(names_shown) == {OTHER: "Eve (not the name that was sealed)"}
    await context.database.close()


async def test_people_from_before_anybody_could_leave_are_here(before):
    before.at("0008")
    before.add("people", id=OTHER, name="Ada", role="lead", pin_hash="x")
    schema.migrate(before.url)
    assert [person.name for person in await before.read(people.here)] == ["Ada"]


async def test_leads_from_before_there_were_keepers_are_keepers_and_tablets_are_introduced_again(before):
    before.at("0009")
    for person, name, role in ((OTHER, "Ada", "lead"), (RUN, "Bo", "mechanic")):
        before.add("people", id=person, name=name, role=role, pin_hash="x")
        before.add("pin_attempts", id=uuid4(), person_id=person, at=datetime(2026, 1, 1), good=False)
    before.add("devices", id=OTHER, name="hoist 2", first_seen=datetime(2026, 1, 1))
    schema.migrate(before.url)
    assert [(person.name, person.roles) for person in await before.read(people.here)] == [
        ("Ada", ("lead", "keeper")),
        ("Bo", ("mechanic",)),
    ]
    assert await before.read(tablets.everything) == []
    assert (await before.read(people.device_names))[OTHER] == "hoist 2"
    assert (await before.read(lambda connection: people.failures(connection, OTHER, None)))[0] == 1


async def test_runs_from_before_their_short_form_are_marked_to_be_put_into_it(before):
    before.at("0010")
    before.add_run()
    schema.migrate(before.url)
    assert [each.run for each in await before.read(summaries.out_of_date)] == [RUN]


async def test_a_feed_ends_with_whoever_made_it(before):
    before.at("0011")
    before.add("people", id=OTHER, name="Ada", roles="lead", pin_hash="x")
    schema.migrate(before.url)
    await before.read(lambda connection: feeds.keep(connection, RUN, bytes(32), OTHER, datetime(2026, 1, 1)))
    assert await before.read(lambda connection: feeds.key_of(connection, RUN)) == bytes(32)
    with before.engine.connect() as connection:
        connection.execute(text("UPDATE people SET left_at = '2026-01-02'"))
    assert await before.read(lambda connection: feeds.key_of(connection, RUN)) is None


async def test_a_shop_from_before_there_were_settings_has_the_usual_ones(before):
    before.at("0012")
    before.add("shop", id=1, name="Slipway 3", time_zone="Europe/Lisbon", policy=canonical(Policy(due_months=6)).decode())
    schema.migrate(before.url)
    found = await before.read(shop.require)
    assert (found.settings, found.policy.due_months) == (ShopSettings(), 6)


async def test_entries_from_before_there_were_marks_are_covered_by_the_first_checkpoint(before, tmp_path):
    before.at("0013")
    before.spec()
    with before.engine.begin() as connection:
        body = connection.execute(text("SELECT body FROM ledger")).scalar_one()
        written = {"seal": seal(FIRST, body.encode()), "id": json.loads(body)["id"]}
        connection.execute(text("UPDATE ledger SET seal = :seal, id = :id"), written)
    schema.migrate(before.url)
    kept = keeper(tmp_path)
    context = Context(Database(before.url, key=kept.key), keeper=kept)
    assert (await make(context)).checkpoint.size == 1
    known = KnownOutside(key=kept.key, public=kept.public, outside=tuple(kept.written()))
    assert verify(before.url, known).findings == []
    await context.database.close()


async def test_somebody_from_before_there_was_practice_has_none_behind_them(before):
    before.at("0014")
    somebody = uuid4()
    before.add("people", id=somebody, name="Tam", roles="mechanic", pin_hash="x")
    schema.migrate(before.url)
    result = DrillResult(drill="scale", seed=1, on=date(2026, 3, 2), passed=True)

    async def work(connection):
        found = [await practice.of_person(connection, somebody)]
        await practice.add(connection, uuid4(), somebody, datetime(2026, 3, 2, 8, tzinfo=UTC), result)
        return [*found, [each for _, each in await practice.of_person(connection, somebody)]]

    assert await before.read(work) == [[], [result]]


async def test_places_from_before_they_were_kept_in_short_are_made_again(before):
    before.at("0015")
    before.add_run()
    schema.migrate(before.url)
    assert await before.read(places.needing) == []
    assert [each.run for each in await before.read(summaries.out_of_date)] == [RUN]


async def test_a_pin_from_before_pins_were_kept_apart_still_opens(before):
    before.at("0016")
    before.add("people", id=OTHER, name="Ada", roles="lead", pin_hash="x")
    schema.migrate(before.url)
    assert await before.read(lambda connection: people.find(connection, OTHER)) == (Person(id=OTHER, name="Ada", roles=("lead",)), "x")


def test_entries_from_before_they_were_compressed_are_the_same_bytes(before):
    before.at("0017")
    before.entry(RUN, 1, "noted", {"text": "10 N·m – as written, " * 40}, "run")
    bodies = "SELECT body FROM ledger"
    with before.engine.connect() as connection:
        written = connection.execute(text(bodies)).scalar_one()
    schema.migrate(before.url)
    with before.engine.connect() as connection:
        assert connection.execute(text(bodies)).scalar_one() == written
        assert "COMPRESSED" in connection.execute(text("SHOW CREATE TABLE ledger")).all()[0][1]


async def test_what_streams_told_before_it_was_kept_in_short_is_derived(before):
    before.at("0018")
    tool, machine = uuid4(), uuid4()
    before.note(tool, "quarantined", "tool", text="dropped")
    before.note(machine, "meter_read", "machine", meter={"kind": "km", "figure": 40115.0})
    before.note(SPEC.id, "checked", "spec", revision=1)
    schema.migrate(before.url)
    assert {each.stream for each in await before.read(told.out_of_date)} == {tool, machine}
    assert [meter.figure for meter in await before.read(lambda connection: told.meters(connection, machine))] == [40115.0]
    read = await before.read(lambda connection: told.read(connection, "tool", [tool]))
    assert [notice.kind for notice in read[tool].notices] == ["wrench in doubt"]


async def test_before_turns_were_taken_nobody_has_one(before):
    before.at("0019")
    schema.migrate(before.url)
    for _ in range(2):
        await before.read(lambda connection: turns.take(connection, turns.KEEPERS))
    with before.engine.connect() as connection:
        assert connection.execute(text("SELECT name, number FROM turns")).all() == [("keepers", 2)]


async def test_a_spec_from_before_notes_were_indexed_by_machine_is_found_by_its_note(before):
    before.at("0020")
    numbers = dict.fromkeys(("ordinal", "standing", "what", "fasteners", "source"), 0) | {"who": 1, "notes": 7}
    before.add("finding", spec_id=SPEC.id, revision=1, **numbers, year_from=0, year_to=9999, figures="[]", trust="", applies="{}")
    schema.migrate(before.url)
    for text_id, found in ((7, [str(SPEC.id)]), (8, [])):
        [sql] = search.statements(Level(score=1, who=(1,), texts=("sealant",)), frozenset(), 30, {text_id})
        assert [row.spec_id for row in await before.read(lambda connection, sql=sql: search.read(connection, sql))] == found


async def test_what_was_put_right_at_a_meter_before_it_was_kept_is_derived_again(before):
    before.at("0021")
    machine, km = uuid4(), {"kind": "km", "figure": 900.0}
    before.note(machine, "meter_read", "machine", meter=km)
    body = {"id": str(uuid4()), "stream": str(machine), "subject": "machine", "kind": "meter_read", "seq": 2, "v": 1}
    exchanged = {"kind": "km", "figure": 5.0, "basis": "new_meter"}
    before.entry(machine, 2, "meter_read", body | {"at_server": "2026-01-02T00:00:00Z", "meter": exchanged}, "machine")
    before.add("told_now", stream=machine, subject="machine", content=json.dumps({"meters": {"km": exchanged}}))
    schema.migrate(before.url)
    read = await before.read(lambda connection: told.read(connection, "machine", [machine]))
    assert [(jump.kind, jump.by) for jump in read[machine].jumps] == [("km", -895.0)]


async def test_who_is_signed_in_goes_on_without_a_key_and_leaves_as_before(before):
    before.at("0022")
    person, device, token = uuid4(), uuid4(), b"s" * 32
    before.add("people", id=person, name="Tam", roles="mechanic", must_change=False)
    before.add("devices", id=device, name="hoist 2", first_seen=datetime(2026, 1, 1))
    before.add("sessions", token_hash=token, person_id=person, device_id=device, expires_at=datetime(2026, 1, 2))
    schema.migrate(before.url)
    now = datetime(2026, 1, 1, 12)
    read = await before.read(lambda connection: people.session(connection, token, now))
    assert read == (Person(id=person, name="Tam", roles=["mechanic"]), device, False, None)
    await before.read(lambda connection: people.close_session(connection, token, now))
    assert await before.read(lambda connection: people.session(connection, token, now)) is None


def test_every_migration_has_its_data_from_before(before):
    with before.engine.connect() as connection:
        scripts = list(ScriptDirectory.from_config(schema._config(connection)).walk_revisions())
    tried = set(re.findall(r'before\.at\("(\d+)"\)', Path(__file__).read_text()))
    assert {script.down_revision for script in scripts} - {None} == tried
