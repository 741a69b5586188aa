"""What happened goes into the ledger; what is odd is asked first; the run's view is what the fold says."""

from datetime import datetime
from uuid import UUID

from pydantic import Field

from tight_ledger.core.base import Invalid, Model, MustAsk, Stale
from tight_ledger.core.entries import PHYSICAL, TIGHTENING, Entry, Outcome, Report
from tight_ledger.core.folding import ANSWERS
from tight_ledger.core.outcomes import judge_finish
from tight_ledger.core.people import require_lead
from tight_ledger.core.plans import Pass, Pull
from tight_ledger.core.slips import slips
from tight_ledger.store import ledger, people
from tight_ledger.work.office import Actor, Office, Remembered
from tight_ledger.work.signing_in import require_person

REPORTABLE = PHYSICAL | {"undone", "handed_over", "deviated"}


class Accepted(Model):
    """Where an entry stands in the ledger."""

    id: UUID
    seq: int
    seal: str
    repeated: bool
    in_conflict: bool


class Finish(Model):
    """How a run is to end."""

    id: UUID
    outcome: Outcome
    text: str = Field(default="", max_length=2_000)
    seq: int = Field(ge=1)
    at_device: datetime


class Sign(Model):
    """A signature under a finished run."""

    id: UUID
    seq: int = Field(ge=1)
    at_device: datetime


def _planned(run: Remembered, pull_id: str | None) -> tuple[Pass | None, Pull | None]:
    return next(((one, pull) for one in run.started.plan.passes for pull in one.pulls if pull.id == pull_id), (None, None))


def _check(run: Remembered, actor: Actor, report: Report) -> None:
    """Refuse what makes no sense.

    Raises:
        Invalid: a kind that is not reported so, a pull that the plan has not, a field that is missing.
        NotAllowed: a deviation by somebody who is not a lead.
    """
    if report.kind not in REPORTABLE:
        raise Invalid("kind", f"“{report.kind}” is not reported here.", f"Report {', '.join(sorted(REPORTABLE))}.")
    one, pull = _planned(run, report.pull)
    if report.kind in ANSWERS and pull is None and not (report.kind == "loosened" and report.pull is None):
        raise Invalid("pull", f"The plan has no pull “{report.pull}”.", "Name one of the run's pulls.")
    if one is not None and report.kind in ANSWERS and one.kind not in ANSWERS[report.kind]:
        raise Invalid("kind", f"“{report.kind}” does not answer {report.pull}.", f"It is a {one.kind}.")
    if one is not None and pull is not None and report.reading is not None:
        _require_quantity(one, pull, report)
    labels = (p.fastener for one in run.started.plan.passes for p in one.pulls)
    if report.fastener is not None and report.fastener not in labels:
        raise Invalid("fastener", f"This joint has no fastener {report.fastener}.", "Name one on the map.")
    if report.kind == "measured" and report.reading is None:
        raise Invalid("reading", "A measurement without a figure is none.", "Type what the gauge shows.")
    if report.kind == "checked" and report.moved is None:
        raise Invalid("moved", "A check says whether the nut turned.", "Send true or false.")
    if report.kind in ("undone", "deviated") and not (report.text or "").strip():
        raise Invalid("text", "A reason is missing.", "Say in a few words why.")
    if report.kind == "deviated":
        require_lead(actor.person.role, "kind", "decide a deviation")
    if report.kind == "undone" and report.undoes not in run.state.undoable:
        raise Invalid(
            "undoes", "This entry cannot be taken back: something later hangs on it, or it is gone already.", "Write a note for the lead."
        )


def _require_quantity(one: Pass, pull: Pull, report: Report) -> None:
    """Refuse a reading of something else than the pull is about.

    Raises:
        Invalid: degrees for a torque, a torque for an end play.
    """
    assert report.reading is not None
    band = pull.rungs[0].band if pull.rungs else pull.band
    of_kind = {"angle": "angle", "align": "angle", "torque": "torque", "check": "torque"}.get(one.kind)
    wanted = of_kind or (band.quantity if band is not None else None)
    if wanted is None or report.reading.quantity == ("torque" if wanted == "drag" else wanted):
        return
    shown = {"angle": "degrees", "torque": "a torque", "drag": "a torque", "length": "a length"}[wanted]
    raise Invalid("reading", f"{report.reading.figure:g} {report.reading.unit} answers nothing here.", f"This one is read as {shown}.")


def _ask(run: Remembered, actor: Actor, report: Report) -> None:
    """Ask before recording what is unlikely.

    Raises:
        MustAsk: a pull faster than one can be made, or a reading that looks like a slip of units.
    """
    affirmed = report.affirmed or ()
    if report.kind in TIGHTENING and report.reading is None and "pace" not in affirmed:
        before = next((e for e in reversed(run.entries) if e.kind in TIGHTENING and e.device == actor.device), None)
        gap = (report.at_device - before.at_device).total_seconds() if before is not None else 60.0
        if 0 <= gap < run.started.policy.fastest_pull_s:
            raise MustAsk(
                "pace",
                "at_device",
                f"That came {gap:.1f} s after the last one, faster than a pull can be made.",
                "Was it a pull of its own?",
            )
    _, pull = _planned(run, report.pull)
    if report.reading is None or pull is None or pull.band is None or "unit" in affirmed or report.how == "wire":
        return
    if report.kind == "pulled" and pull.band.quantity != "torque":
        return
    read = report.reading.stored if report.kind == "measured" else pull.at_fastener(report.reading.torque_nm)
    if found := slips(read, pull.band):
        shown = f"{report.reading.figure:g} {report.reading.unit}"
        raise MustAsk("unit", "reading", f"{shown} is far off; it would fit with {' or '.join(found)}.", "Which unit does it show?")


async def record(office: Office, actor: Actor, run_id: UUID, report: Report) -> Accepted:
    """Append what a device reports. What physically happened is never refused for coming late.

    Raises:
        Invalid, NotAllowed, MustAsk: see the checks above.
        Stale: a decision (not a pull) made on an old view.
    """
    run = office.remembered.get(run_id) or await office.run(run_id)
    if any(entry.id == report.id for entry in run.entries):
        return await _again(office, report.id)
    if report.kind not in PHYSICAL and report.claimed_seq is not None and report.claimed_seq != run.seq + 1:
        run = await office.run(run_id)
        if report.claimed_seq != run.seq + 1:
            raise Stale("claimed_seq", "Something was recorded meanwhile.", "Look again, then decide.")
    _check(run, actor, report)
    _ask(run, actor, report)
    if report.by != actor.person.id:
        require_person(await office.database.run(people.everybody), report.by)
    now = office.now()
    skew_ms = round((now - report.at_device).total_seconds() * 1000)
    given = {name: getattr(report, name) for name in report.model_fields_set}
    if report.kind in TIGHTENING and report.tools is None and (pull := _planned(run, report.pull)[1]) is not None and pull.tool is not None:
        given["tools"] = (pull.tool,)

    def entry(seq: int) -> Entry:
        return Entry(**given, run=run_id, seq=seq, recorded_by=actor.person.id, device=actor.device, at_server=now, skew_ms=skew_ms)

    return await append(office, run, report.id, entry)


async def append(office: Office, run: Remembered, entry_id: UUID, build: ledger.Build) -> Accepted:
    """Write an entry into a run's stream, and let everybody know."""
    stored = await office.appender.append("run", run.row.id, entry_id, build)
    entry = stored.entry if isinstance(stored.entry, Entry) else Entry.model_validate_json(stored.body)
    if entry.seq == run.seq + 1:
        run.add([entry])
    elif entry.seq > run.seq:
        await office.run(run.row.id)
    office.line.changed(run.row.id)
    return _accepted(stored, entry)


def _accepted(stored: ledger.Stored, entry: Entry) -> Accepted:
    return Accepted(id=entry.id, seq=entry.seq, seal=stored.seal.hex(), repeated=stored.entry is None, in_conflict=entry.in_conflict)


async def _again(office: Office, entry_id: UUID) -> Accepted:
    """An entry that was sent before: where it stands."""
    stored = await office.database.run(lambda connection: ledger.by_id(connection, entry_id))
    assert stored is not None
    return _accepted(stored, Entry.model_validate_json(stored.body))


async def finish(office: Office, actor: Actor, run_id: UUID, request: Finish) -> Accepted:
    """End a run, with its reasons.

    Raises:
        Stale: something was recorded meanwhile, or it has ended already.
        Invalid, NotAllowed: it may not end so.
    """
    run = await office.run(run_id)
    if any(entry.id == request.id for entry in run.entries):
        return await _again(office, request.id)
    if request.seq != run.seq:
        raise Stale("seq", "Something was recorded meanwhile.", "Look again, then end it.")
    why = judge_finish(run.started.plan, run.state, request.outcome, actor.person.role, request.text)
    now = office.now()

    def entry(seq: int) -> Entry:
        return Entry(
            id=request.id, kind="finished", by=actor.person.id, recorded_by=actor.person.id, device=actor.device,
            at_device=request.at_device, at_server=now, claimed_seq=request.seq + 1, run=run_id, seq=seq,
            outcome=request.outcome, reasons=why, text=request.text or None,
        )  # fmt: skip

    return await append(office, run, request.id, entry)


async def sign(office: Office, actor: Actor, run_id: UUID, request: Sign) -> Accepted:
    """Sign a finished run.

    Raises:
        Stale: something was recorded meanwhile.
        Invalid: it is not finished, or this person has signed.
    """
    run = await office.run(run_id)
    if any(entry.id == request.id for entry in run.entries):
        return await _again(office, request.id)
    if request.seq != run.seq:
        raise Stale("seq", "Something was recorded meanwhile.", "Look again, then sign.")
    if run.state.outcome is None:
        raise Invalid("run", "This run is not finished.", "Finish it, then sign.")
    if actor.person.id in run.state.signed_by:
        raise Invalid("by", f"{actor.person.name} has signed already.", "Somebody else may sign too.")
    now = office.now()

    def entry(seq: int) -> Entry:
        return Entry(
            id=request.id, kind="signed", by=actor.person.id, recorded_by=actor.person.id, device=actor.device,
            at_device=request.at_device, at_server=now, claimed_seq=request.seq + 1, run=run_id, seq=seq,
        )  # fmt: skip

    return await append(office, run, request.id, entry)
