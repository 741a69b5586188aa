"""Writes the vectors again: `python -m tests.vectors.make`. Read the difference before it is kept.

`wheel-v1.json` is not written again: it holds a plan and entries from before settings were said and nouns were kept.
"""

import json
from pathlib import Path

from tests.core.play import Run, plan_of, wheel_spec
from tests.core.test_every_way import SNUG, TestFoundFigures, TestLooseAndBlocks, TestTimes, angle, at, joint, swing
from tests.core.test_vectors import said
from tight_ledger.core.base.models import canonical
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.runs.run import replay

POLICY = Policy(final_check=False)
HERE = Path(__file__).parent


def write(name, run):
    """A run with what is said of it at its start, its quarters and its end."""
    many = len(run.entries)
    vector = {
        "plan": json.loads(canonical(run.plan)),
        "entries": [json.loads(canonical(entry)) for entry in run.entries],
        "steps": [
            {"entries": cut, "said": said(replay(run.plan, run.entries[:cut], POLICY))}
            for cut in sorted({many * quarter // 4 for quarter in range(5)})
        ],
    }
    text = json.dumps(vector, ensure_ascii=False, separators=(",", ":"))
    (HERE / f"{name}.json").write_text(text + "\n", encoding="utf-8")


def wheel():
    """A nut pulled out of order, one that turned in the check."""
    settle = {
        "id": "settle",
        "kind": "repeat",
        "times": 2,
        "until": {"step": "c", "one_of": ["still"]},
        "steps": [{"id": "c", "kind": "check"}],
    }
    stages = [{"id": "s1", "kind": "torque", "share": 0.5}, {"id": "s2", "kind": "torque", "share": 1}, settle]
    run = Run(plan_of(wheel_spec(4, steps=stages)), POLICY).go_on(until="s2:3")
    run.click("s2:2")
    run.go_on(until="c~1:2")
    run.check("c~1:2", moved=True)
    return run.go_on()


def turned():
    """Two swings, too far, loosened, and up again through its stages."""
    run = at(joint(SNUG, angle(115, 125), count=3), "turn:1")
    swing(run, "turn:1", 78)
    swing(run, "turn:1", 66)
    run.add("loosened", fastener="1", text="too far")
    return run.go_on()


def hub():
    """Seated, released, pulled, turned, measured; then a stud replaced."""
    run = Run(plan_of(joint(*TestLooseAndBlocks.SEATED, count=3)), POLICY).go_on()
    run.add("replaced", fastener="3", text="new")
    return run.go_on()


def sealant():
    """Too late the first time, in time the second."""
    again = [{"id": "open", "kind": "loosen", "reverse": True}, {"id": "wipe", "kind": "do"}]
    steps = [TestTimes.BEAD, SNUG | {"timing": {"after": "bead", "at_most_s": 30}}]
    until = {"step": "snug", "one_of": ["in_time"]}
    run = Run(plan_of(joint({"id": "try", "kind": "repeat", "times": 2, "until": until, "again": again, "steps": steps}, count=3)), POLICY)
    run.add("confirmed", pull="bead~1")
    run.click("snug~1:1", after_s=100)
    return run.go_on()


if __name__ == "__main__":
    write("wheel", wheel())
    write("angle", turned())
    write("ladder", TestFoundFigures().climb(0.08, 0.15).go_on())
    write("hub", hub())
    write("sealant", sealant())
