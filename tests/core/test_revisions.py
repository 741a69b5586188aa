"""How revisions stand, whatever the order of what was said about them."""

from uuid import UUID, uuid4

from hypothesis import given
from hypothesis import strategies as st

from tests.clock import START
from tests.core.play import wheel_spec
from tight_ledger.core.base.parsing import parse_torque
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.library.revisions import compare, in_force, statuses
from tight_ledger.core.records.notes import Note

acts = st.lists(st.tuples(st.sampled_from(["checked", "withdrawn"]), st.integers(1, 4)), max_size=12)


def notes(said):
    return [
        Note(id=uuid4(), stream=UUID(int=1), subject="spec", kind=kind, seq=seq, revision=revision, at_server=START)
        for seq, (kind, revision) in enumerate(said, start=1)
    ]


@given(acts)
def test_at_most_one_is_current_and_it_is_the_one_in_force(said):
    found = statuses(notes([("entered", number) for number in range(1, 5)] + said))
    current = [number for number, status in found.items() if status == "current"]
    assert len(current) <= 1
    drafts = [number for number, status in found.items() if status == "draft"]
    assert in_force(found) == (current[0] if current else max(drafts, default=None))
    withdrawn = {revision for kind, revision in said if kind == "withdrawn"}
    assert withdrawn == {number for number, status in found.items() if status == "withdrawn"}


def test_an_older_draft_checked_late_does_not_come_back():
    found = statuses(notes([("entered", 1), ("entered", 2), ("checked", 2), ("checked", 1)]))
    assert found == {1: "superseded", 2: "current"}


def test_a_comparison_names_the_lines_that_changed():
    old = wheel_spec()
    new = old.model_copy(update={"finals": {"stud": parse_torque("600–640 N·m")}, "seat": "flat"})
    changed = {line.where: (line.old, line.new) for line in compare(old, new, Policy()) if line.changed}
    head, tail = "stud: M22×1.5, 30\u00a0%: 158–193\u00a0N·m, 60\u00a0%: 316–386\u00a0N·m,", "check, at most 3 times"
    assert changed["seat"] == ("", "flat")
    assert changed["figure"] == (
        f"{head} 565–605 N·m, {tail}",
        "stud: M22×1.5, 30\u00a0%: 168–204\u00a0N·m, 60\u00a0%: 335–409\u00a0N·m, 600–640 N·m, " + tail,
    )
    assert changed["tighten, step 3"][1] == "all to 30\u00a0% (wheel off the ground) · 168–204\u00a0N·m"
    assert all(not line.changed for line in compare(old, old, Policy()))
