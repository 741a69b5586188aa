"""Plan and entries to next, status and verdicts: written down once, for any other player of plans to be held to."""

import json
from pathlib import Path

import pytest

from tight_ledger.core.base.policy import Policy
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.plans import Plan
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


@pytest.mark.parametrize("file", FILES, ids=[file.stem for file in FILES])
def test_the_fold_agrees_with_what_was_written_down(file):
    vector = json.loads(file.read_text(encoding="utf-8"))
    plan, entries = Plan.model_validate(vector["plan"]), [Entry.model_validate(entry) for entry in vector["entries"]]
    for step in vector["steps"]:
        assert said(replay(plan, entries[: step["entries"]], Policy(final_check=False))) == step["said"]


def test_there_are_some():
    assert {"wheel", "angle", "ladder", "hub", "sealant"} <= {file.stem for file in FILES}
