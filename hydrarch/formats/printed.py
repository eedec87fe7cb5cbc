"""The line as it was laid, as a PDF: its drawings to scale, its long sections, and where each hidden joint lies from
two marks.
"""

from __future__ import annotations

import io
from collections.abc import Iterable
from datetime import UTC, datetime
from html import escape

from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from hydrarch.core.base.units import show
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.as_laid import AsLaid
from hydrarch.formats.drawing import drawings
from hydrarch.formats.faces import FACE, FACE_BOLD, Dated, settable, unset, use_faces
from hydrarch.formats.longsection import long_sections
from hydrarch.formats.paper import Paper

__all__ = ["as_laid_pdf"]

_MARGIN = 14 * mm


class _Drawn(Flowable):  # type: ignore[misc]
    """A drawing in the run of a page."""

    def __init__(self, paper: Paper) -> None:
        super().__init__()
        self.paper, self.width, self.height = paper, paper.wide * mm, paper.tall * mm

    def draw(self) -> None:
        self.paper.onto(self.canv)


def as_laid_pdf(plan: Plan, derived: Derivation, laid: Iterable[AsLaid], now: float) -> bytes:
    """It on A4, or on letter where the job is in US units. `now` is s since 1970."""
    use_faces()
    laid = list(laid)
    told = ParagraphStyle("told", fontName=FACE, fontSize=8.5, leading=11.5, textColor="#16212a")
    head = ParagraphStyle(
        "head", parent=told, fontName=FACE_BOLD, fontSize=10.5, leading=14, spaceBefore=8, keepWithNext=1
    )
    title = ParagraphStyle("title", parent=head, fontSize=15, leading=20)
    when = datetime.fromtimestamp(now, UTC).strftime("%Y-%m-%d %H:%M UTC")
    story: list[Flowable] = [
        Paragraph(escape(settable(plan.name)), title),
        Paragraph(f"As laid, as it stands on {when}. Local codes and licensed practice come before this sheet.", told),
    ]
    lost = unset(" ".join((plan.name, *plan.names.values(), *(d.name for d in plan.details), *(j.by for j in laid))))
    if lost:
        story.append(
            Paragraph(f"{len(lost)} letters of its names cannot be set here and stand as ?: the job has them.", told)
        )
    for sheet in (*drawings(plan, derived), *long_sections(plan, derived)):
        story.append(KeepTogether([Paragraph(escape(settable(sheet.title)), head), _Drawn(sheet.paper)]))
    story += [Spacer(1, 4 * mm), Paragraph("Where each hidden joint lies", head), _table(plan, laid, told)]
    out = io.BytesIO()
    size = letter if plan.units == "us" else A4
    page = SimpleDocTemplate(
        out,
        pagesize=size,
        leftMargin=_MARGIN,
        rightMargin=_MARGIN,
        topMargin=_MARGIN,
        bottomMargin=_MARGIN,
        title=plan.name,
        author="",
        invariant=1,
    )

    def foot(canvas: Canvas, _: object) -> None:
        canvas._doc._timeStamp = Dated(now)
        canvas.setFont(FACE, 7)
        canvas.setFillColor("#4a545c")
        canvas.drawString(_MARGIN, 8 * mm, settable(f"{plan.name}, {when}"))
        canvas.drawRightString(size[0] - _MARGIN, 8 * mm, f"page {canvas.getPageNumber()}")

    page.build(story, onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


def _table(plan: Plan, laid: list[AsLaid], told: ParagraphStyle) -> Flowable:
    if not laid:
        return Paragraph("No joint that is out of sight was made yet.", told)
    small = ParagraphStyle("small", parent=told, fontSize=7.2, leading=9)

    def cell(text: str) -> Paragraph:
        return Paragraph(escape(settable(text)), small)

    rows = [[cell(h) for h in ("joint", "depth", "measured", "made by", "when", "state")]]
    for j in laid:
        tapes = (
            ", ".join(f"{show(t.distance, 'length', plan.units)} from {t.name}" for t in j.tapes)
            or "no two marks are drawn"
        )
        rows.append(
            [
                cell(f"{j.place}: {j.method}, {j.size}"),
                cell("; ".join(x for x in (str(show(j.depth, "depth", plan.units)), j.since) if x)),
                cell(tapes if j.sharp or not j.tapes else f"{tapes} (the tapes cross too flat)"),
                cell(j.by),
                cell(datetime.fromtimestamp(j.at, UTC).strftime("%Y-%m-%d")),
                cell(j.state),
            ]
        )
    made = Table(rows, colWidths=[w * mm for w in (58, 18, 50, 22, 18, 16)], repeatRows=1)
    made.setStyle(
        TableStyle(
            [
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LINEBELOW", (0, 0), (-1, -1), 0.4, "#d6d0c2"),
                ("TOPPADDING", (0, 0), (-1, -1), 1.5),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
                ("LEFTPADDING", (0, 0), (-1, -1), 0),
            ]
        )
    )
    return made
