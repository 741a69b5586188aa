"""A run as a tablet holds it: what the server has sealed, and behind it what is not sent yet. The rules are the server's own."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from tight_ledger.core.base.errors import Invalid, Stale
from tight_ledger.core.base.people import Person
from tight_ledger.core.kinds.readings import Instant
from tight_ledger.core.records.entries import PHYSICAL, Entry, Report, Started
from tight_ledger.core.runs.accepting import accept
from tight_ledger.core.runs.descriptions import entry_words
from tight_ledger.core.runs.jobs import InJob
from tight_ledger.core.runs.line_protocol import FromWrench, GaugeRead, Live, Told
from tight_ledger.core.runs.paper import PaperRun, paper_of
from tight_ledger.core.runs.run import Run, RunState
from tight_ledger.core.runs.view import Now, RunSheet, now_of, sheet_of
from tight_ledger.core.runs.wire import SentPull, SentReading, WantedPull, live_shown, report_of, report_of_reading, wanted_pull
from tight_ledger.core.specs.spec import Hand


class LocalRun:
    """A run on a tablet.

    Args:
        sealed: its entries so far, by seq, from the first; none of a run that this tablet began and the server does not know.
        hand: of its threads.
        waiting: those that the server does not know yet.
    """

    def __init__(self, sealed: Sequence[Entry], hand: Hand, waiting: Sequence[Entry] = ()) -> None:
        self._sealed, self._waiting, self._hand = list(sealed), list(waiting), hand
        self._state: RunState
        self._again()

    @property
    def sealed_seq(self) -> int:
        """The number of the newest entry that the server has sealed; 0 if it knows nothing of the run."""
        return self._sealed[-1].seq if self._sealed else 0

    @property
    def now(self) -> Now:
        """The run as it stands, with what is not sent yet."""
        return now_of(self._started, self._state, self._run.entries, self._hand)

    @property
    def sheet(self) -> RunSheet | None:
        """What does not change in it; None for a run from before its facts were sealed."""
        facts = self._started.facts
        return sheet_of(facts, self._started, self._run.entries[0], job=None) if facts is not None else None

    @property
    def place(self) -> tuple[UUID, str, str]:
        """Its machine, position key and joint; the joint is empty for a run from before its facts were sealed."""
        started = self._started
        return started.machine, started.position.key, started.facts.joint if started.facts is not None else ""

    @property
    def is_open(self) -> bool:
        """Whether it has not ended."""
        return self._state.outcome is None

    @property
    def in_job(self) -> InJob:
        """As one of several of a job."""
        return InJob(self._run.entries[0].run, self._started, self._state, self._run.entries, self._hand)

    @property
    def paper(self) -> PaperRun:
        """As it stands, to be printed."""
        return paper_of(self._started, self._state)

    @property
    def words(self) -> str:
        """The newest entry, in words, with where it was: `SB-05 rear right: nut 8, stage 2 of 3: clicked at 350 N·m`."""
        started, last = self._started, self._run.entries[-1]
        said = entry_words(started.plan, last, clicked_at=self._state.clicked_at.get(last.id))
        if started.facts is None:
            return said
        return f"{f'{started.facts.machine.fleet_number} {started.position.words}'.strip()}: {said}"

    @property
    def wanted(self) -> WantedPull | None:
        """What it asks of a wrench on the line now."""
        return wanted_pull(self._started, self._state)

    def shown(self, live: Live) -> dict[str, str | float]:
        """What its screen shows of a wrench while it is held."""
        return live_shown(self._started, self._state, live.torque_nm, live.angle_deg)

    def told(self, me: Person, device: UUID, told: FromWrench) -> Report:
        """Record what the simulated wrench or gauge of this tablet's page told; practice, like all that it tells.

        Raises:
            Invalid: see `core.runs.accepting`; or it is no pull and no reading.
        """
        if isinstance(told, GaugeRead):
            report = report_of_reading(self.wanted, SentReading(told.id, told.at, told.figure, told.unit), me.id)
        elif isinstance(told, Told):
            sent = SentPull(told.id, told.at, told.torque_nm, told.angle_deg, told.curve)
            report = report_of(self._started, self.wanted, sent, me.id, None)
        else:
            raise Invalid("told", f"“{told.type}” is nothing to record.", "Send a pull or a reading.")
        self.report(me, device, report)
        return report

    def report(self, me: Person, device: UUID, report: Report, done_at: datetime | None = None) -> Now:
        """Judge what happened, and keep it behind what the server has sealed. The same id twice is once.

        Args:
            done_at: when it was done by the server's clock; None if the tablet does not know that clock.

        Raises:
            Invalid, NotAllowed, MustAsk: see `core.runs.accepting`.
            Stale: a decision on an old view.
        """
        if self._run.knows(report.id):
            return self.now
        if report.kind not in PHYSICAL and report.claimed_seq not in (None, self._seq + 1):
            raise Stale("seq", "Something was recorded meanwhile.", "Look again, then decide.")
        at = Instant(device, report.at_device, done_at or report.at_device)
        fields = accept(self._started, self._state, self._run.entries, me.roles, report, at)
        added: dict[str, object] = {"run": self._run.entries[0].run, "recorded_by": me.id, "device": device, "at_server": at.done_at}
        added |= {"trial": True} if report.how == "wire" else {}
        entry = Entry.model_validate(fields | added | {"seq": self._seq + 1})
        self._waiting.append(entry)
        self._run.add([entry])
        self._state = self._run.state()
        return self.now

    def hear(self, sealed: Sequence[Entry]) -> Now:
        """Take in what the server has sealed since, this tablet's own and others'; what is not among it still waits."""
        fresh = [entry for entry in sealed if entry.seq > self.sealed_seq]
        if fresh:
            self._sealed += fresh
            known = {entry.id for entry in fresh}
            self._waiting = [entry for entry in self._waiting if entry.id not in known and entry.kind != "started"]
            self._again()
        return self.now

    def forget(self, entry_id: UUID) -> Now:
        """It did not happen, or the server refused it. The start of a run is not forgotten so."""
        self._waiting = [entry for entry in self._waiting if entry.id != entry_id or entry.kind == "started"]
        self._again()
        return self.now

    @property
    def _seq(self) -> int:
        return self.sealed_seq + len(self._waiting)

    @property
    def _started(self) -> Started:
        return next(entry.started for entry in reversed(self._run.entries) if entry.started is not None)

    def _again(self) -> None:
        """Fold from the start; what waits gets the numbers that are next."""
        self._waiting = [entry.model_copy(update={"seq": self.sealed_seq + place}) for place, entry in enumerate(self._waiting, 1)]
        every = [*self._sealed, *self._waiting]
        self._run = Run(next(entry.started for entry in every if entry.started is not None).plan)
        self._run.add(every)
        self._state = self._run.state()
