"""What a tablet asks of the core, as JSON in and JSON out."""

import json
from collections.abc import Callable
from datetime import datetime
from typing import Any
from uuid import UUID

from pydantic import BaseModel, ValidationError

from tight_ledger.core.base.errors import Fault, MustAsk, NotOnFile
from tight_ledger.core.base.people import Person, rights_of
from tight_ledger.core.planning.choosing import Asked
from tight_ledger.core.records.entries import Report
from tight_ledger.core.records.upcasting import read_entry
from tight_ledger.core.runs.jobs import job_now
from tight_ledger.core.runs.line_protocol import FROM_WRENCH, Live
from tight_ledger.core.runs.local import LocalRun
from tight_ledger.core.runs.pack import Begun, Pack, begin
from tight_ledger.core.runs.panel_wrench import PanelAct, PanelWrench
from tight_ledger.core.runs.starting import Start
from tight_ledger.core.runs.wire import target_of

CoreQuestion = dict[str, Any]
CoreAnswer = dict[str, BaseModel | int | str | list[str] | None]


class TabletCore:
    """The runs that a tablet holds, and what it took along."""

    def __init__(self) -> None:
        self._runs: dict[str, LocalRun] = {}
        self._pack: Pack | None = None
        self._wrenches: dict[str, PanelWrench] = {}
        self._can: dict[str, Callable[[CoreQuestion], CoreAnswer]] = {
            "hear": self._hear, "report": self._report, "forget": self._forget, "take": self._take, "offer": self._offer,
            "start": self._start, "begin": self._begin, "paper": self._paper, "rights": self._rights, "wrench": self._wrench,
            "told": self._told_by_wrench, "job": self._job, "lab": self._lab,
        }  # fmt: skip

    def answer(self, asked: str) -> str:
        """Answer a question.

        `hear` (what the server has sealed), `report`, `forget` are each about a run; `take` is what is taken along; `offer` and
        `start` work from it; `begin` is a run that this tablet started before; `paper` is a run to be printed; `rights` are a
        person's; `wrench` is a key of the simulated wrench, which answers in messages of the line's protocol as JSON text, and
        `told` is a pull among them; `job` are several runs of one machine; `lab` is a page of the lab.

        Returns:
            The answer by name, of a run `{"now": …, "sealed": number of the newest sealed entry}`; or `{"fault": …}` as the API
            would answer it.
        """
        said: CoreQuestion = json.loads(asked)
        try:
            told = self._can[said["do"]](said)
        except MustAsk as fault:
            return _refused(409, fault, {"ask": fault.ask, "choices": fault.choices})
        except Fault as fault:
            return _refused(422, fault, {})
        except ValidationError as error:
            field = ".".join(str(part) for part in error.errors()[0]["loc"])
            refused = {"status": 422, "field": field, "fault": "This cannot be read.", "remedy": str(error.errors()[0]["msg"])}
            return json.dumps({"fault": refused})
        parts = (f"{json.dumps(name)}: {_json(value)}" for name, value in told.items())
        return f"{{{', '.join(parts)}}}"

    def _hear(self, said: CoreQuestion) -> CoreAnswer:
        entries = [read_entry(json.dumps(body)) for body in said["entries"]]
        known = self._runs.get(said["run"])
        if entries and entries[0].seq == 1 and (known is None or known.sealed_seq > 0):
            self._runs[said["run"]] = LocalRun(entries, said["hand"])
        self._run(said).hear(entries)
        return self._told(said)

    def _report(self, said: CoreQuestion) -> CoreAnswer:
        person, report = Person.model_validate(said["me"]), Report.model_validate(said["report"])
        run = self._run(said)
        done_at = datetime.fromisoformat(said["done_at"]) if said.get("done_at") is not None else None
        run.report(person, UUID(said["device"]), report, done_at)
        return self._told(said) | {"words": run.words}

    def _forget(self, said: CoreQuestion) -> CoreAnswer:
        self._run(said).forget(UUID(said["id"]))
        return self._told(said)

    def _take(self, said: CoreQuestion) -> CoreAnswer:
        self._pack = Pack.model_validate(said["pack"])
        return {"machines": len(self._pack.machines)}

    def _offer(self, said: CoreQuestion) -> CoreAnswer:
        return {"offered": self._taken.offered(UUID(said["spec"]), Asked.model_validate(said["asked"]))}

    def _start(self, said: CoreQuestion) -> CoreAnswer:
        request, person = Start.model_validate(said["start"]), Person.model_validate(said["me"])
        begun = begin(
            self._taken.with_open(each.place for each in self._runs.values() if each.is_open),
            request,
            person,
            UUID(said["entry"]),
            unproven=said["unproven"],
        )
        first = begun.first(UUID(said["device"]))
        return {"begun": begun, "plan": first.plan}

    def _begin(self, said: CoreQuestion) -> CoreAnswer:
        begun = Begun.model_validate(said["begun"])
        facts = begun.started.facts
        if said["run"] not in self._runs:
            self._runs[said["run"]] = LocalRun([], facts.hand if facts is not None else "right", [begun.first(UUID(said["device"]))])
        return self._told(said) | {"sheet": self._run(said).sheet}

    def _wrench(self, said: CoreQuestion) -> CoreAnswer:
        wrench = self._wrenches.setdefault(said["run"], PanelWrench())
        run = self._run(said)
        wrench.target = target_of(run.wanted)
        first, second = (UUID(each) for each in said["ids"])
        messages = wrench.act(PanelAct.model_validate(said["act"]), datetime.fromisoformat(said["at"]), (first, second))
        return {"said": json.dumps([run.shown(each) if isinstance(each, Live) else each.model_dump(mode="json") for each in messages])}

    def _told_by_wrench(self, said: CoreQuestion) -> CoreAnswer:
        person, told, run = Person.model_validate(said["me"]), FROM_WRENCH.validate_python(said["told"]), self._run(said)
        return {"report": run.told(person, UUID(said["device"]), told)} | self._told(said) | {"words": run.words}

    def _job(self, said: CoreQuestion) -> CoreAnswer:
        runs = [self._runs[run].in_job for run in said["runs"] if run in self._runs]
        return {"job": job_now(runs, UUID(said["device"]))}

    def _lab(self, said: CoreQuestion) -> CoreAnswer:
        from tight_ledger.core.lab.registry import lab_page  # read when somebody opens it: a tablet is ready for work sooner

        return {"page": lab_page(said["page"], said["values"])}

    def _paper(self, said: CoreQuestion) -> CoreAnswer:
        return {"paper": self._run(said).paper}

    def _rights(self, said: CoreQuestion) -> CoreAnswer:
        return {"rights": sorted(rights_of(Person.model_validate(said["me"]).roles))}

    def _told(self, said: CoreQuestion) -> CoreAnswer:
        run = self._run(said)
        return {"now": run.now, "sealed": run.sealed_seq}

    @property
    def _taken(self) -> Pack:
        if self._pack is None:
            raise NotOnFile("pack", "This tablet took nothing along.", "Go where the server answers.")
        return self._pack

    def _run(self, said: CoreQuestion) -> LocalRun:
        found = self._runs.get(said["run"])
        if found is None:
            raise NotOnFile("run", "This tablet does not hold the run.", "Open it while the server answers.")
        return found


def _json(value: BaseModel | int | str | list[str] | None) -> str:
    return value.model_dump_json() if isinstance(value, BaseModel) else json.dumps(value)


def _refused(status: int, fault: Fault, more: CoreQuestion) -> str:
    return json.dumps({"fault": {"status": status, "field": fault.field, "fault": fault.fault, "remedy": fault.remedy} | more})
