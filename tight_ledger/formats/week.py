"""The week on paper, and as a table for any other program."""

import csv
from collections.abc import Iterator, Sequence
from datetime import datetime
from io import StringIO
from xml.sax.saxutils import escape
from zoneinfo import ZoneInfo

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, Spacer, Table, TableStyle

from tight_ledger.core.base.cells import harmless
from tight_ledger.formats.pages import RULE, fonts, style
from tight_ledger.formats.tags import built
from tight_ledger.services.dates import day_words
from tight_ledger.services.week import Week

Rows = list[list[object]]


def week_csv(week: Week) -> bytes:
    """The week, a table for each thing that somebody looks for in it; times are the shop's.

    What was done comes first. Each further table follows an empty line: its name, its columns, its rows.
    """
    made = StringIO()
    writer = csv.writer(made)
    for name, columns, rows in _tables(week):
        if name:
            writer.writerows(([], [name]))
        writer.writerow(columns)
        writer.writerows([harmless(str(cell)) for cell in row] for row in rows)
    return made.getvalue().encode()


def _tables(week: Week) -> Iterator[tuple[str, tuple[str, ...], Rows]]:
    zone = ZoneInfo(week.time_zone)

    def at(moment: datetime) -> str:
        return moment.astimezone(zone).isoformat(timespec="minutes")

    done: Rows = [
        [
            at(line.at), line.fleet_number, line.position, line.title, line.procedure, line.standing or "", "; ".join(line.people),
            line.shift, line.pulls, "; ".join(line.reasons), line.run,
        ]
        for line in week.done
    ]  # fmt: skip
    yield "", ("ended", "machine", "position", "joint", "procedure", "outcome", "people", "shift", "pulls", "reasons", "run"), done
    places: Rows = [
        [
            at(place.at),
            place.fleet_number,
            place.position,
            place.title,
            place.standing or "not finished",
            "; ".join(place.reasons),
            place.run,
        ]
        for place in week.open
    ]
    yield "open", ("since", "machine", "position", "joint", "standing", "reasons", "run"), places
    for name, followups in (("missed", week.following("overdue")), ("due", week.following("due", "soon"))):
        rows: Rows = [
            [e.fleet_number, e.position, e.title, e.due.procedure, e.due.words, e.due.by_date or "", "; ".join(e.wrenches), e.root]
            for e in followups
        ]
        yield name, ("machine", "position", "joint", "procedure", "due", "by", "wrenches", "after run"), rows
    yield "in doubt", ("wrench", "why", "id"), [[t.name, t.care.words if t.care is not None else "", t.id] for t in week.in_doubt]


def week_pdf(week: Week) -> bytes:
    """The week, a list for each thing that somebody looks for in it."""
    fonts()
    zone = ZoneInfo(week.time_zone)
    head = Paragraph(escape(f"{week.shop}: week of {day_words(week, week.monday)}"), style(18, bold=True))
    told: list[Flowable] = [head, Spacer(0, 4 * mm)]
    done = [
        (
            f"{each.at.astimezone(zone):%a %H:%M}", f"{each.fleet_number} {each.position}", each.title, each.standing or "",
            ", ".join(each.people),
        )
        for each in week.done
    ]  # fmt: skip
    told += _list("Done", done, (22, 40, 60, 25, 33))
    told += _list("Open", [(p.fleet_number, p.position, p.title, p.standing or "not finished") for p in week.open], (30, 40, 70, 40))
    for head, those in (("Overdue", week.following("overdue")), ("Due", week.following("due", "soon"))):
        told += _list(head, [(e.fleet_number, e.position, e.title, e.due.words) for e in those], (25, 35, 60, 60))
    told += _list("Wrenches in doubt", [(t.name, t.care.words if t.care is not None else "") for t in week.in_doubt], (60, 120))
    told += _list("Notices", [(f"{n.kind}: {n.about}", f"{n.left} of {len(n.places)} places left") for n in week.notices], (120, 60))
    told += _list("Specs that wait", [(s.title, s.maker_model, f"revision {s.revision}") for s in week.to_check], (70, 70, 40))
    return built(told, "Week", A4, 15 * mm)


def _list(head: str, rows: Sequence[tuple[str, ...]], widths: tuple[int, ...]) -> list[Flowable]:
    """A list under its heading; the heading also says when it is empty."""
    said: list[Flowable] = [Paragraph(escape(f"{head}: {len(rows)}"), style(12, bold=True))]
    if rows:
        cells = [[Paragraph(escape(cell), style(8)) for cell in row] for row in rows]
        table = Table(cells, colWidths=[width * mm for width in widths], repeatRows=0)
        table.setStyle(TableStyle([("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE), ("VALIGN", (0, 0), (-1, -1), "TOP")]))
        said.append(table)
    return [*said, Spacer(0, 4 * mm)]
