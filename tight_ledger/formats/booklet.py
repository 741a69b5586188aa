"""Specs as a booklet to carry: A4, one after the other, notes with the spec they belong to, and when to throw it away."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from io import BytesIO
from itertools import groupby
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import BaseDocTemplate, Flowable, Frame, KeepTogether, PageBreak, PageTemplate, Paragraph, Spacer, Table, TableStyle

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.library.reading_aloud import AloudLine, StepFigure
from tight_ledger.core.library.sheet import CAUTION, Sheet, sheet
from tight_ledger.core.planning.stages import Stage
from tight_ledger.core.proof.checkpoints import SignedCheckpoint
from tight_ledger.core.specs.spec import Spec
from tight_ledger.formats.checkpoint_mark import checkpoint_mark
from tight_ledger.formats.pages import RULE, fastener_map, fonts, style
from tight_ledger.services.dates import day_words, moment_words
from tight_ledger.store.shop import Shop

GOOD_FOR_DAYS = 90
"""A printed spec is thrown away after this. Common practice, no source."""
_TOP = [("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0), ("TOPPADDING", (0, 0), (-1, -1), 1)]


class _Document(BaseDocTemplate):  # type: ignore[misc]
    """Pages with the same foot; remembers on which page each spec came to stand."""

    def __init__(self, buffer: BytesIO, foot: str, **more: Any) -> None:
        super().__init__(buffer, pagesize=A4, **more)
        self.foot, self.pages = foot, dict[str, int]()
        frame = Frame(18 * mm, 20 * mm, A4[0] - 36 * mm, A4[1] - 34 * mm, leftPadding=0, rightPadding=0)
        self.addPageTemplates(PageTemplate("page", [frame], onPage=self._draw_foot))

    def _draw_foot(self, canvas: Any, _: Any) -> None:
        canvas.setFont("B612", 7.5)
        canvas.drawString(18 * mm, 11 * mm, self.foot)
        canvas.drawRightString(A4[0] - 18 * mm, 11 * mm, str(canvas.getPageNumber()))

    def afterFlowable(self, flowable: Flowable) -> None:  # noqa: N802
        """Note where a spec begins."""
        named = getattr(flowable, "spec_key", None)
        if named is not None:
            self.pages.setdefault(named, self.page)


def booklet_pdf(specs: Sequence[Spec], shop: Shop, at: datetime, newest: SignedCheckpoint | None = None) -> bytes:
    """The booklet as the bytes of a PDF.

    Args:
        specs: in the order in which they are printed.
        shop: its name, its clock, its choices.
        at: when it is printed.
        newest: the last checkpoint, which is printed with it.

    Raises:
        Invalid: no specs.
    """
    if not specs:
        raise Invalid("specs", "No spec in force fits this choice.", "Choose a machine, a maker, a model or a system that has some.")
    fonts()
    printed, until = (day_words(shop, moment) for moment in (at, at + timedelta(days=GOOD_FOR_DAYS)))
    foot = f"{shop.name} · printed {printed} · throw away after {until} · the maker's current manual comes first"
    pages: dict[str, int] = {}
    for _ in range(2):  # once to learn the pages, once to print the index with them
        buffer = BytesIO()
        document = _Document(buffer, foot, title="Specs", author=shop.name)
        document.build([*_story(specs, shop, printed, until, pages), *_mark(shop, newest)])
        pages = document.pages
    return buffer.getvalue()


def _mark(shop: Shop, newest: SignedCheckpoint | None) -> list[Flowable]:
    if newest is None:
        return []
    point = newest.checkpoint
    said = f"of {moment_words(shop, point.time)}, over {point.size} lines of the log."
    return [KeepTogether([Spacer(1, 6 * mm), checkpoint_mark(point.code, newest.note, [said])])]


def _model(spec: Spec) -> tuple[str, str]:
    return spec.applies_to[0].maker, spec.applies_to[0].model


def _story(specs: Sequence[Spec], shop: Shop, printed: str, until: str, pages: dict[str, int]) -> list[Flowable]:
    story: list[Flowable] = [
        Paragraph(escape(shop.name), style(11, quiet=True)),
        Paragraph("Specs", style(26, bold=True)),
        Paragraph(f"Printed {printed}. <b>Throw away after {until}</b>: what is on file may have changed.", style(11)),
        Paragraph(escape(CAUTION), style(11)),
        Spacer(1, 6 * mm),
    ]
    for (maker, model), group in groupby(specs, key=_model):
        story.append(Paragraph(escape(f"{maker} {model}"), style(11, bold=True)))
        rows = [
            [
                Paragraph(escape(spec.title), style(9)),
                Paragraph(escape(_variant(spec)), style(9, quiet=True)),
                str(pages.get(_key(spec), "")),
            ]
            for spec in group
        ]
        story.append(Table(rows, colWidths=[84 * mm, 72 * mm, 12 * mm], style=TableStyle([*_TOP, ("FONT", (2, 0), (2, -1), "B612", 9)])))
        story.append(Spacer(1, 3 * mm))
    story.append(PageBreak())
    for spec in specs:
        story += _spec(spec, shop)
    return story


def _key(spec: Spec) -> str:
    return f"{spec.id}/{spec.revision}"


def _variant(spec: Spec) -> str:
    applies = spec.applies_to[0]
    years = f"{applies.year_from or ''}–{applies.year_to or ''}" if applies.year_from or applies.year_to else ""
    return " · ".join(part for part in (years, *applies.variant.values(), spec.positions.words) if part)


def _spec(spec: Spec, shop: Shop) -> list[Flowable]:
    said = sheet(spec, shop.policy, shop.settings.torque_unit)
    head = Paragraph(escape(f"{' '.join(_model(spec))} · {spec.title}"), style(13, bold=True))
    head.spec_key = _key(spec)
    figures = [
        [
            Paragraph(escape(f"{figure.count} × {figure.stages.named}, {figure.thread}"), style(9)),
            Paragraph(_stages(figure.stages.stages), style(10)),
            Paragraph(escape(", ".join(f"{u.figure} {u.unit}" for u in figure.units)), style(8, quiet=True)),
            Paragraph(escape(figure.about), style(8, quiet=True)),
        ]
        for figure in said.figures
    ]
    if said.measured:
        figures.append([Paragraph("the joint", style(9)), Paragraph(_stages(said.measured), style(10)), "", ""])
    if said.refused:
        figures.append([Paragraph("no figures", style(9)), Paragraph(escape(said.refused), style(9, flag=True)), "", ""])
    notes = [spec.condition and f"Condition: {spec.condition}.", spec.seat and f"Seat: {spec.seat}.", _told(spec)]
    notes += [*said.parts, *(f"Re-torque: {words}." for words in said.followups)]
    left: list[Flowable] = [
        Paragraph(
            escape(" · ".join(part for part in (_variant(spec), said.hand, f"revision {spec.revision}") if part)), style(8.5, quiet=True)
        ),
        Table(figures, colWidths=[34 * mm, 36 * mm, 22 * mm, 20 * mm], style=TableStyle(_TOP)),
        *(Paragraph(escape(note), style(9)) for note in notes if note),
        *(Paragraph(f"<b>{escape(caution)}</b>", style(9, flag=True)) for caution in spec.cautions),
        Paragraph(escape(f"Source: {said.source} ({spec.source.grade})."), style(8, quiet=True)),
    ]
    looked = f"looked at {spec.layout.looked_at}{f' · number 1 is {spec.layout.first}' if spec.layout.first else ''}"
    right = [
        fastener_map(spec.layout, size_mm=52),
        Paragraph(escape(looked), style(7, quiet=True)),
        Paragraph(escape(_order(spec)), style(8)),
    ]
    top = Table([[left, right]], colWidths=[118 * mm, 56 * mm], style=TableStyle([*_TOP, ("LINEABOVE", (0, 0), (-1, 0), 0.6, RULE)]))
    return [KeepTogether([Spacer(1, 2 * mm), head, top]), *_procedures(said), Spacer(1, 5 * mm)]


def _stages(stages: Sequence[Stage]) -> str:
    """One stage after the other; the spec's own figures stand out."""
    said = [f"<b>{escape(stage.words)}</b>" if stage.main else escape(stage.words) for stage in stages]
    return ", then ".join(said) or "no figure"


def _told(spec: Spec) -> str:
    return " ".join(f"{name}: {how}." for name, how in spec.applies_to[0].tell.items())


def _order(spec: Spec) -> str:
    ranks = spec.layout.orders["main"]
    return f"Order {' · '.join(rank if isinstance(rank, str) else '+'.join(rank) for rank in ranks)}" if len(ranks) > 1 else ""


def _procedures(said: Sheet) -> list[Flowable]:
    found: list[Flowable] = []
    for procedure in said.procedures:
        if len(said.procedures) > 1:
            found.append(Paragraph(escape(procedure.name), style(9, bold=True)))
        rows = [[Paragraph(_indented(line), style(9)), Paragraph(escape(_shown(line)), style(9, bold=True))] for line in procedure.lines]
        found.append(Table(rows, colWidths=[112 * mm, 62 * mm], style=TableStyle([*_TOP, ("BOTTOMPADDING", (0, 0), (-1, -1), 0)])))
    return found


def _indented(line: AloudLine) -> str:
    return "&nbsp;" * 4 * line.depth + escape(line.words)


def _shown(line: AloudLine) -> str:
    return ", ".join(f"{figure.of} {_band(figure)}".strip() for figure in line.figures)


def _band(figure: StepFigure) -> str:
    return " / ".join([figure.figure, *(shown.limits for shown in figure.units[1:2])])
