"""The drill “what is wrong here”: a colleague's run is replayed with a mistake in it; it is named before the fold does."""

import random
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.parsing import parse_torque
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.shapes import bolt_circle
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.practice.drills import Course, DrillKey, DrillQuestion, LinesShown, Marks, Materials
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Plan, Tooling
from tight_ledger.core.records.verdicts import TEXTS, VerdictCode
from tight_ledger.core.runs.descriptions import entry_words
from tight_ledger.core.runs.prompt import prompt
from tight_ledger.core.runs.run import Run
from tight_ledger.core.specs.applicability import Applies
from tight_ledger.core.specs.spec import WHEEL_RETORQUE, WHEEL_TIGHTEN, Proof, Source, Spec
from tight_ledger.core.tools.wrenches import Wrench

GO_ON, WRONG = "go on", "wrong"
A_PULL_S = 6.0
BEGAN = datetime(2026, 3, 2, 8, tzinfo=UTC)
WRENCH = Wrench(id=UUID(int=1), name="a long wrench", drive="3/4 in", unit="N·m", lowest=40, highest=400, graduation=1)
MISTAKES: tuple[VerdictCode, ...] = ("out_of_order", "high", "low", "implausible", "twice", "wrong_tool")
"""What can be wrong, by the verdict that the fold gives."""
BEFORE = 6
"""So many lines are shown before the newest."""


def _plan(chance: random.Random) -> Plan:
    count = chance.choice((5, 6, 8))
    spec = Spec.model_validate(
        {
            "id": UUID(int=7),
            "title": "Wheel nuts",
            "joint": "wheel",
            "applies_to": [Applies(maker="a", model="b")],
            "proof": Proof(ask="How many?", options=("4", str(count)), answer=str(count)),
            "layout": bolt_circle(count=count, diameter_mm=160, kind="nut", thread="M14×1.5", noun="nut"),
            "finals": {"nut": parse_torque(f"{chance.choice((130, 150, 180))} N·m")},
            "procedures": {"tighten": WHEEL_TIGHTEN, "retorque": WHEEL_RETORQUE},
            "source": Source(document="an exercise"),
        }
    )
    return compile_plan(spec, "tighten", (Tooling(wrench=WRENCH),), Policy(final_check=False))


def _planned(plan: Plan) -> str:
    """`Planned: 1 · 3 · 5 · 2 · 4 at 54, 108, 180 N·m, click by click.`"""
    torques = [each for each in plan.passes if each.kind == "torque"]
    figures = [each.pulls[0].setting for each in torques]
    said = ", ".join(f"{setting.figure:g}" for setting in figures if setting is not None)
    return f"Planned: {' · '.join(pull.fastener or '' for pull in torques[0].pulls)}, at {said} N·m."


class _Colleague:
    """Somebody who does what the prompt says, but for one mistake."""

    def __init__(self, plan: Plan, chance: random.Random) -> None:
        self.plan, self.chance, self.run = plan, chance, Run(plan, Policy())
        self.by = UUID(int=chance.getrandbits(128), version=4)
        self.at = BEGAN

    def add(self, kind: str, after_s: float = A_PULL_S, **fields: Any) -> Entry:
        self.at += timedelta(seconds=after_s)
        entry = Entry.model_validate(
            {
                "id": UUID(int=self.chance.getrandbits(128), version=4),
                "kind": kind,
                "by": self.by,
                "recorded_by": self.by,
                "device": UUID(int=2),
                "at_device": self.at,
                "at_server": self.at,
                "run": UUID(int=3),
                "seq": len(self.run.entries) + 1,
            }
            | {name: value for name, value in fields.items() if value is not None}
        )
        self.run.add([entry])
        return entry

    def go_on(self) -> bool:
        """Do what the prompt asks for; False at the end."""
        now = prompt(self.plan, self.run.state(), "right")
        if now.ask in ("finish", "stop") or not now.acts:
            return False
        act = now.acts[0]
        if now.ask == "set":
            self.add("set", setting=act.setting, tools=(WRENCH.id,))
        else:
            planned = self.plan.planned[now.pull or ""][1]
            self.add(act.kind, pull=now.pull, fastener=now.fastener, how=act.how, moved=act.moved, setting=planned.setting)
        return True

    def err(self, code: VerdictCode) -> None:
        """The mistake that the fold calls so."""
        now = prompt(self.plan, self.run.state(), "right")
        pass_, pull = self.plan.planned[now.pull or ""]
        band = pull.band
        common: dict[str, Any] = {"pull": now.pull, "fastener": now.fastener, "setting": pull.setting}
        if code == "out_of_order":
            later = [each for each in pass_.pulls if each.rank > pull.rank]
            other = self.chance.choice(later)
            self.add("pulled", pull=other.id, fastener=other.fastener, how="click", setting=other.setting)
        elif code == "implausible":
            self.add("pulled", after_s=0.3, how="click", **common)
        elif code == "twice":
            last = next(entry for entry in reversed(self.run.entries) if entry.kind == "pulled")
            self.add("pulled", pull=last.pull, fastener=last.fastener, how="click", setting=last.setting)
        elif code == "wrong_tool" and pull.setting is not None:
            off = pull.setting.model_copy(update={"figure": pull.setting.figure + 20, "torque_nm": pull.setting.torque_nm + 20})
            self.add("pulled", how="click", **(common | {"setting": off}))
        elif band is not None:
            torque = band.high * 1.15 if code == "high" else band.low * 0.85
            self.add("pulled", how="typed", reading=Reading(figure=round(torque), unit="N·m"), **(common | {"setting": None}))

    @property
    def mid_pass(self) -> bool:
        """Whether a pull was made in the pass that is on, and two are left: here a mistake can happen."""
        now = prompt(self.plan, self.run.state(), "right")
        if now.pull is None or now.ask != "click" or not self.run.entries or self.run.entries[-1].kind != "pulled":
            return False
        pass_, pull = self.plan.planned[now.pull]
        return pass_.kind == "torque" and sum(each.rank > pull.rank for each in pass_.pulls) >= 1

    def found(self) -> set[tuple[VerdictCode, UUID | None]]:
        """What the fold says so far."""
        return {(verdict.code, verdict.entry) for verdict in self.run.state().verdicts}


def what_is_wrong(chance: random.Random, _materials: Materials, marks: Marks) -> Course:
    """Look at a run line by line; say where it goes wrong, and what is wrong."""
    code = chance.choice(MISTAKES)
    plan = _plan(chance)
    colleague = _Colleague(plan, chance)
    places = chance.randint(2, 8)
    while places > 0 or not colleague.mid_pass:
        places -= colleague.mid_pass
        if not colleague.go_on():
            break
    before = colleague.found()
    first = len(colleague.run.entries)
    colleague.err(code)
    bad = colleague.run.entries[-1]
    named = {found for found, about in colleague.found() - before if about in (bad.id, None)} or {code}
    for _ in range(3):
        colleague.go_on()
    lines = [f"{entry.at_device:%H:%M:%S}  {entry_words(plan, entry)}" for entry in colleague.run.entries]
    planned = _planned(plan)
    for place, entry in enumerate(colleague.run.entries):
        if place < max(first - BEFORE, 1):
            continue
        answer = yield DrillQuestion(
            ask="A colleague's run, line by line. Is the newest line right?",
            picture=LinesShown(lines=tuple(lines[max(0, place - BEFORE) : place + 1]), above=planned),
            keys=(DrillKey(key=GO_ON, say="Right, go on"), DrillKey(key=WRONG, say="Here something is wrong")),
        )
        if answer.key != WRONG and entry.id == bad.id:
            marks.tell(f"You passed it: {lines[place]}. The fold says: {TEXTS[_any(named)].said}.", right=False)
            break
        if answer.key == WRONG and entry.id != bad.id:
            marks.tell("This line is as it should be.", right=False)
        elif answer.key == WRONG:
            marks.tell("There it is.", right=True)
            break
    offered = sorted({*named, *chance.sample(MISTAKES, 4)}, key=lambda each: TEXTS[each].said)
    answer = yield DrillQuestion(
        ask=f"What is wrong with it? {lines[first]}", keys=tuple(DrillKey(key=each, say=TEXTS[each].said) for each in offered)
    )
    text = TEXTS[_any(named)]
    marks.tell(f"The fold says: {text.said}. {text.remedy} Why: {text.story}.", right=answer.key in named)


def _any(codes: set[VerdictCode]) -> VerdictCode:
    return next(each for each in TEXTS if each in codes)
