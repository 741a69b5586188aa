"""A run in the hands of a test: entries by gesture, the state by replay."""

from datetime import UTC, datetime, timedelta
from uuid import UUID, uuid4

from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.parsing import parse_torque
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.joints.shapes import bolt_circle
from tight_ledger.core.planning.compiler import compile_plan
from tight_ledger.core.records.entries import Adjusted, Entry
from tight_ledger.core.records.plans import Plan, Tooling
from tight_ledger.core.runs.prompt import Prompt, prompt
from tight_ledger.core.runs.run import RunState, replay
from tight_ledger.core.specs.applicability import Applies
from tight_ledger.core.specs.spec import WHEEL_RETORQUE, WHEEL_TIGHTEN, Proof, Source, Spec
from tight_ledger.core.tools.wrenches import Wrench

LONG = Wrench(id=UUID(int=1), name="long", drive="1 in", unit="N·m", lowest=140, highest=760, graduation=5)
START = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
SHORT = (
    {"id": "s1", "kind": "torque", "share": 0.5},
    {"id": "s2", "kind": "torque", "share": 1},
)


def wheel_spec(count: int = 10, torque: str = "565–605 N·m", steps=WHEEL_TIGHTEN, **more) -> Spec:
    given = dict(
        id=UUID(int=7),
        title="Rear wheel nuts",
        joint="wheel",
        applies_to=[Applies(maker="Fennick", model="Causeway 12")],
        proof=Proof(ask="How many?", options=("8", str(count)), answer=str(count)),
        layout=bolt_circle(count=count, diameter_mm=335, kind="stud", thread="M22×1.5", noun="nut"),
        finals={"stud": parse_torque(torque)},
        procedures={"tighten": steps, "retorque": WHEEL_RETORQUE},
        source=Source(document="a book"),
    )
    return Spec.model_validate(given | more)


def plan_of(spec: Spec, wrench: Wrench = LONG, policy: Policy | None = None, procedure: str = "tighten") -> Plan:
    return compile_plan(spec, procedure, (Tooling(wrench=wrench),), policy or Policy(final_check=False))


def in_band(now: Prompt) -> float:
    """A reading in the band; more at the second try than at the first, as a play that follows its nut."""
    low, high = float(now.band.low), float(now.band.high)
    tried = (now.pull or "").rpartition("~")[2]
    return low + (high - low) * ({"1": 0.2}.get(tried, 0.8) if tried.isdigit() else 0.5)


class Run:
    def __init__(self, plan: Plan, policy: Policy | None = None):
        self.plan, self.policy, self.entries = plan, policy or Policy(), []
        self.person, self.tablet = uuid4(), uuid4()

    def add(self, kind: str, *, after_s: float = 6, **fields) -> Entry:
        before = self.entries[-1].at_device if self.entries else START
        seq = len(self.entries) + 1
        entry = Entry(
            **{
                "id": uuid4(), "kind": kind, "by": self.person, "recorded_by": self.person, "device": self.tablet,
                "at_device": before + timedelta(seconds=after_s), "at_server": before, "run": UUID(int=3), "seq": seq,
            }
            | {name: value for name, value in fields.items() if value is not None}
        )  # fmt: skip
        self.entries.append(entry)
        return entry

    def click(self, pull: str, **fields) -> Entry:
        """A click at the planned setting, which was said before."""
        return self.add("pulled", pull=pull, fastener=pull.partition(":")[2], how="click", **{"setting": self.setting(pull)} | fields)

    def setting(self, pull: str):
        return next((each.setting for passed in self.plan.passes for each in passed.pulls if each.id == pull), None)

    def read(self, pull: str, figure: float, unit="N·m") -> Entry:
        reading = Reading(figure=figure, unit=unit)
        return self.add("pulled", pull=pull, fastener=pull.partition(":")[2], how="typed", reading=reading)

    def check(self, pull: str, *, moved: bool = False) -> Entry:
        fastener = pull.partition(":")[2]
        return self.add("checked", pull=pull, fastener=fastener, how="click", moved=moved, setting=self.setting(pull))

    def undo(self, entry: Entry) -> Entry:
        return self.add("undone", undoes=entry.id, text="pressed by mistake")

    def do(self, now: Prompt, moved=lambda pull: False, **fields) -> Entry:
        """What the prompt asks for, done well."""
        common = {"pull": now.pull, "fastener": now.fastener}
        if now.ask == "set":
            return self.add("set", setting=now.acts[0].setting, tools=(self.tool_of(now.pull),))
        if now.wait is not None:
            common["after_s"] = max(6, now.wait.seconds - (self.entries[-1].at_device - now.wait.at_device).total_seconds())
        if now.ask == "angle":
            reading = Reading(figure=now.degrees_left + now.windup_deg, unit="°")
            return self.add("pulled", how="gauge", counts="swing", reading=reading, **common | fields)
        if now.ask == "measure":
            middle = 0 if now.band is None else in_band(now)
            unit = now.units[0] if now.band is None else now.band.unit
            return self.add("measured", how="typed", reading=Reading(figure=middle, unit=unit, where="gauge"), **common | fields)
        if now.ask == "start again":
            return self.add(now.acts[0].kind, fastener=now.fastener, text="to start again")
        act = now.acts[1] if now.ask == "turned" and moved(now.pull) else now.acts[0]
        if now.ask == "choose":
            act = next((each for each in now.acts if each.option == now.proposed), act)
        adjusted = Adjusted(to=12.0) if act.asks_amount else act.adjusted
        return self.add(act.kind, **{"how": act.how, "moved": act.moved, "option": act.option, "adjusted": adjusted} | common | fields)

    def tool_of(self, pull: str):
        return next(each.tool for passed in self.plan.passes for each in passed.pulls if each.id == pull)

    def go_on(self, until: str | None = None, moved=lambda pull: False) -> "Run":
        """Do what the prompt says until it asks for a pull, or to the end."""
        while (now := self.now).ask not in ("finish", "stop") and now.pull != until:
            self.do(now, moved)
        return self

    @property
    def now(self) -> Prompt:
        return prompt(self.plan, self.state, "right")

    @property
    def state(self) -> RunState:
        return replay(self.plan, self.entries, self.policy)

    @property
    def next(self) -> str | None:
        return self.state.next[0] if self.state.next else None

    @property
    def codes(self) -> list[str]:
        """Verdicts that keep the run from being good, and are unanswered."""
        return [v.code for v in self.state.unanswered()]

    @property
    def all_codes(self) -> list[str]:
        return [v.code for v in self.state.verdicts]
