"""The core in the browser answers as the core on the server, to the byte."""

import json
from datetime import timedelta
from pathlib import Path
from uuid import UUID

import pytest
from hypothesis import Phase, given, seed, settings
from hypothesis import strategies as st

from tests.core.play import LONG, START, Run, plan_of
from tests.core.test_any_procedure import procedures, some_entries
from tests.core.test_vectors import FILES, played
from tests.shop import ROOT
from tight_ledger.core.base.models import canonical
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.base.source import source_digest
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.positions import Position
from tight_ledger.core.planning.choosing import CribNow, Taken
from tight_ledger.core.records.entries import Entry, Started
from tight_ledger.core.records.plans import Tooling
from tight_ledger.core.runs.on_tablet import TabletCore
from tight_ledger.core.runs.pack import Pack
from tight_ledger.core.runs.prompt import prompt
from tight_ledger.core.runs.run import replay
from tight_ledger.core.runs.starting import MachineBefore, SpecBefore, Start
from tight_ledger.store.pages import COMPRESSED

RANDOM_RUNS = 200
ME = {"id": str(UUID(int=5)), "name": "Tam", "roles": ["mechanic"]}
BEGIN = """
address => new Promise((resolve, reject) => {
  const worker = new Worker(address, { type: "module" });
  const waiting = new Map();
  let number = 0;
  window.answers = asked => Promise.all(asked.map(each => new Promise(done => {
    waiting.set(++number, done);
    worker.postMessage({ number, asked: each });
  })));
  worker.onmessage = ({ data }) => {
    if (data.failed) reject(data.failed);
    else if (data.ready) resolve(data.ready);
    else waiting.get(data.number)(data.answer);
  };
})
"""


@pytest.fixture(scope="module")
def worker(chromium, shop):
    """Asks the core in the browser."""
    page = chromium.new_page()
    page.goto(f"{shop.url}/api/health")
    [script] = (ROOT / "web" / "dist" / "assets").glob("worker-*.js")
    running = page.evaluate(BEGIN, f"{shop.url}/assets/{script.name}")
    packed = json.loads((ROOT / "web" / "dist" / "core" / "core.json").read_text())
    assert running == {"digest": packed["digest"], "core": source_digest()}
    yield lambda asked: page.evaluate("asked => answers(asked)", asked)
    page.close()


def test_what_a_tablet_fetches_stays_small():
    """Compressed, as it is served."""
    core = ROOT / "web" / "dist" / "core"
    files = [core / name for name in json.loads((core / "core.json").read_text())["files"]]
    served = [beside if (beside := Path(f"{file}{COMPRESSED}")).exists() else file for file in files]
    assert sum(file.stat().st_size for file in served) < 10_000_000


def stream(plan, entries) -> list[dict]:
    """As the server sends it: the start, and what followed."""
    started = Started(
        plan=plan, spec_revision=1, tooling=(Tooling(wrench=LONG),), policy=Policy(final_check=False), machine=UUID(int=4),
        position=Position(axle="rear", side="left"), proof="10", engine="1",
    )  # fmt: skip
    first = Entry(
        id=UUID(int=9), kind="started", by=UUID(int=5), recorded_by=UUID(int=5), device=UUID(int=6), run=UUID(int=3), seq=1,
        at_device=START - timedelta(minutes=1), at_server=START, started=started,
    )  # fmt: skip
    shifted = [entry.model_copy(update={"seq": entry.seq + 1}) for entry in entries]
    return [json.loads(canonical(entry)) for entry in (first, *shifted)]


def questions(plan, entries, run: str) -> list[str]:
    """The whole run, and what is done next, twice with one id."""
    hear = {"do": "hear", "run": run, "hand": "right", "entries": stream(plan, entries)}
    now = prompt(plan, replay(plan, entries, Policy(final_check=False)), "right")
    act = now.acts[0] if now.acts else None
    if act is None:
        return [json.dumps(hear)]
    report = {
        "id": str(UUID(int=10)), "kind": act.kind, "by": ME["id"], "at_device": "2026-03-02T11:00:00Z", "pull": now.pull,
        "fastener": now.fastener, "how": act.how, "moved": act.moved, "option": act.option, "text": "again",
        "setting": json.loads(act.setting.model_dump_json()) if act.setting else None, "tools": [str(LONG.id)],
    }  # fmt: skip
    pressed = {"do": "report", "run": run, "me": ME, "device": str(UUID(int=6)), "report": report}
    return [json.dumps(asked) for asked in (hear, pressed, pressed, {"do": "forget", "run": run, "id": report["id"]})]


def compiled(spec) -> list[str]:
    """What is taken along for a spec, and a run that is started from it."""
    machine = MachineBefore(machine=Machine(id=UUID(int=4), fleet_number="T-1", maker="Fennick", model="Causeway 12"))
    pack = Pack(
        policy=Policy(final_check=False), crib=CribNow(tools=(LONG,), care={}), certificates={}, machines=(machine,),
        specs=(SpecBefore(spec=spec, status="current", checked=True),),
    )  # fmt: skip
    start = Start(
        id=UUID(int=3), spec=spec.id, revision=spec.revision, procedure="tighten", machine=machine.machine.id, position=Position(),
        tooling=(Taken(wrench=LONG.id),), proof=spec.proof.answer, at_device=START,
    )  # fmt: skip
    asked = {"do": "start", "start": json.loads(start.model_dump_json()), "entry": str(UUID(int=9)), "unproven": False}
    taken = {"do": "take", "pack": json.loads(pack.model_dump_json())}
    return [json.dumps(taken), json.dumps(asked | {"me": ME, "device": str(UUID(int=6))})]


@pytest.mark.parametrize("file", FILES, ids=[file.stem for file in FILES])
def test_every_vector_is_answered_the_same(worker, file):
    plan, entries = played(json.loads(file.read_text(encoding="utf-8")))
    core = TabletCore()
    for cut in range(0, len(entries) + 1, max(1, len(entries) // 4)):
        asked = questions(plan, entries[:cut], f"{file.stem} {cut}")
        assert worker(asked) == [core.answer(each) for each in asked]


def test_random_runs_are_answered_the_same(worker):
    core, answered, plans = TabletCore(), [], []

    @seed(14)
    @settings(max_examples=RANDOM_RUNS, deadline=None, database=None, phases=[Phase.generate])
    @given(procedures(), st.randoms(use_true_random=False))
    def play(spec, dice):
        plan = plan_of(spec)
        run = Run(plan, Policy(final_check=False))
        some_entries(run, dice, 25)
        asked = questions(plan, run.entries, f"random {len(answered)}")
        asked += compiled(spec)
        told = [core.answer(each) for each in asked]
        assert worker(asked) == told
        answered.append(sum("fault" not in each for each in told))
        plans.append(json.loads(told[-1]).get("plan"))

    play()
    assert len(answered) == RANDOM_RUNS
    assert sum(answered) > 2 * RANDOM_RUNS
    assert len({plan for plan in plans if plan is not None}) > RANDOM_RUNS / 2
