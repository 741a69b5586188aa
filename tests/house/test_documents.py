"""The documents say what the code says."""

import re
from pathlib import Path

from tight_ledger.core.records.verdicts import TEXTS

ROOT = Path(__file__).parents[2]


def test_the_table_of_rules_is_the_verdicts_of_the_code() -> None:
    rows = re.findall(r"^\| ([a-z ]+) \| (.*?) \| (.*?) \| (.*?) \|$", (ROOT / "docs/rules.md").read_text(), re.MULTILINE)
    told = {name.replace(" ", "_"): tuple(texts) for name, *texts in rows if name not in ("verdict", "fasteners")}
    assert told == {code: tuple(text) for code, text in TEXTS.items()}
