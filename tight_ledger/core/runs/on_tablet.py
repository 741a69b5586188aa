"""What a tablet asks of the core, as JSON in and JSON out."""

import json
from collections.abc import Callable
from typing import Any
from uuid import UUID

from pydantic import ValidationError

from tight_ledger.core.base.errors import Fault, MustAsk, NotOnFile
from tight_ledger.core.base.people import Person
from tight_ledger.core.records.entries import Report
from tight_ledger.core.records.upcasting import read_entry
from tight_ledger.core.runs.local import LocalRun
from tight_ledger.core.runs.view import Now

CoreQuestion = dict[str, Any]


class TabletCore:
    """The runs that a tablet holds."""

    def __init__(self) -> None:
        self._runs: dict[str, LocalRun] = {}
        self._can: dict[str, Callable[[CoreQuestion], Now]] = {"hear": self._hear, "report": self._report, "forget": self._forget}

    def answer(self, asked: str) -> str:
        """Answer a question: `hear` (what the server has sealed), `report`, `forget`; each about a run.

        Returns:
            `{"now": …, "sealed": number of the newest sealed entry}`, or `{"fault": …}` as the API would answer it.
        """
        said: CoreQuestion = json.loads(asked)
        try:
            now = self._can[said["do"]](said)
        except MustAsk as fault:
            return _refused(409, fault, {"ask": fault.ask, "choices": fault.choices})
        except Fault as fault:
            return _refused(422, fault, {})
        except ValidationError as error:
            field = ".".join(str(part) for part in error.errors()[0]["loc"])
            told = {"status": 422, "field": field, "fault": "This cannot be read.", "remedy": str(error.errors()[0]["msg"])}
            return json.dumps({"fault": told})
        return f'{{"now": {now.model_dump_json()}, "sealed": {self._runs[said["run"]].sealed_seq}}}'

    def _hear(self, said: CoreQuestion) -> Now:
        entries = [read_entry(json.dumps(body)) for body in said["entries"]]
        if said["run"] not in self._runs or (entries and entries[0].seq == 1):
            self._runs[said["run"]] = LocalRun(entries, said["hand"])
        return self._runs[said["run"]].hear(entries)

    def _report(self, said: CoreQuestion) -> Now:
        person, report = Person.model_validate(said["me"]), Report.model_validate(said["report"])
        return self._run(said).report(person, UUID(said["device"]), report)

    def _forget(self, said: CoreQuestion) -> Now:
        return self._run(said).forget(UUID(said["id"]))

    def _run(self, said: CoreQuestion) -> LocalRun:
        found = self._runs.get(said["run"])
        if found is None:
            raise NotOnFile("run", "This tablet does not hold the run.", "Open it while the server answers.")
        return found


def _refused(status: int, fault: Fault, more: CoreQuestion) -> str:
    return json.dumps({"fault": {"status": status, "field": fault.field, "fault": fault.fault, "remedy": fault.remedy} | more})
