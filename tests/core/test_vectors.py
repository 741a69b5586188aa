"""Plan and entries to next, status and verdicts: written down once, for any other player of plans to be held to."""

import json
from pathlib import Path

import pytest

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Plan
from tight_ledger.core.records.upcasting import lifted, read_entry
from tight_ledger.core.runs.run import replay

FILES = sorted((Path(__file__).parents[1] / "vectors").glob("*.json"))


def said(state):
    """What a player has to agree on."""
    return {
        "next": list(state.next),
        "status": {pull.id: pull.status if pull.outcome is None else f"{pull.status}: {pull.outcome}" for pull in state.pulls},
        "verdicts": [f"{verdict.code} {verdict.pull or verdict.fastener or ''}".strip() for verdict in state.verdicts],
        "complete": state.complete,
        "clean": state.clean,
    }


def played(vector):
    """Plan and entries as they were written down, lifted to today's shape."""
    version = vector["entries"][0]["v"]
    plan = lifted({"v": version, "started": {"plan": vector["plan"]}})["started"]["plan"]
    return Plan.model_validate(plan), [Entry.model_validate(lifted(entry)) for entry in vector["entries"]]


@pytest.mark.parametrize("file", FILES, ids=[file.stem for file in FILES])
def test_the_fold_agrees_with_what_was_written_down(file):
    vector = json.loads(file.read_text(encoding="utf-8"))
    plan, entries = played(vector)
    for step in vector["steps"]:
        assert said(replay(plan, entries[: step["entries"]], Policy(final_check=False))) == step["said"]


def test_a_record_of_version_1_is_lifted_and_of_an_unknown_version_refused():
    old = json.loads((FILES[0].parent / "wheel-v1.json").read_text(encoding="utf-8"))
    assert "nouns" not in old["plan"]
    assert played(old)[0].nouns == {}
    entry = played(old)[1][0]
    assert (old["entries"][0]["v"], entry.v) == (1, 2)
    assert read_entry(json.dumps(old["entries"][0])) == entry
    with pytest.raises(Invalid, match="version 99"):
        read_entry(json.dumps(old["entries"][0] | {"v": 99}))


def test_there_are_some():
    assert {"wheel", "angle", "ladder", "hub", "sealant"} <= {file.stem for file in FILES}
