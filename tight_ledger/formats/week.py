"""The week on paper, and as a table for any other program."""

import csv
from collections.abc import Sequence
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

HEAD = ("ended", "machine", "position", "joint", "procedure", "outcome", "people", "shift", "pulls", "reasons", "run")


def week_csv(week: Week) -> bytes:
    """What was done, a line a run; times are the shop's."""
    made = StringIO()
    table = csv.writer(made)
    table.writerow(HEAD)
    zone = ZoneInfo(week.time_zone)
    for line in week.done:
        cells = (
            [
                line.at.astimezone(zone).isoformat(timespec="minutes"), line.fleet_number, line.position, line.title, line.procedure,
                line.standing or "", "; ".join(line.people), line.shift, line.pulls, "; ".join(line.reasons), line.run,
            ]
        )  # fmt: skip
        table.writerow([harmless(str(cell)) for cell in cells])
    return made.getvalue().encode()


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
    for head, those in (("Overdue", week.missed), ("Due", week.due)):
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
