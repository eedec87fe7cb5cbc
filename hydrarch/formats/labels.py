"""Labels with codes for all things of a job, on label paper as shops sell it, section by section."""

from __future__ import annotations

import io
from collections.abc import Iterable
from dataclasses import dataclass

import segno
from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.units import inch, mm
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

from hydrarch.core.base.units import show
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.plan.document import Plan, Point
from hydrarch.formats.faces import FACE, FACE_BOLD, Dated, settable, use_faces

__all__ = ["LabelPaper", "label_paper", "label_sheets", "labelled"]

_QUIET = 2
"""Modules left white about a code; ISO/IEC 18004 asks for four, and the label's own white is the rest."""
_SIDE = 27 * mm
"""A code is made no larger: a phone reads it from a forearm's length, and the rest is for words."""
_SMALLEST = 4.0
"""pt of the smallest letters that are set."""


@dataclass(frozen=True, slots=True)
class LabelPaper:
    """A sheet of labels: its page and one label in pt (wide, high), how many stand side by side and one above another,
    the first one's left and top edges and the step from one to the next, in pt.
    """

    page: tuple[float, float]
    label: tuple[float, float]
    across: int
    down: int
    first: tuple[float, float]
    step: tuple[float, float]

    @property
    def on_a_page(self) -> int:
        """How many labels a page has."""
        return self.across * self.down


_A4 = LabelPaper(A4, (63.5 * mm, 38.1 * mm), 3, 7, (7.25 * mm, 15.15 * mm), (66.04 * mm, 38.1 * mm))
"""21 on A4, 63.5 mm by 38.1 mm: usual label paper, its edges from memory."""
_LETTER = LabelPaper(letter, (2.625 * inch, 1 * inch), 3, 10, (0.1875 * inch, 0.5 * inch), (2.75 * inch, 1 * inch))
"""30 on letter, 2-5/8 in by 1 in: usual label paper, its edges from memory."""


def label_paper(plan: Plan) -> LabelPaper:
    """The label paper of a job: of letter size where it is in US units."""
    return _LETTER if plan.units == "us" else _A4


def labelled(plan: Plan, sections: Iterable[Section]) -> tuple[tuple[str, Point], ...]:
    """What is worth a label, section by section, each with its section's letter ("" for what is in none): all that is
    not a mere place of the line, nor a mark.
    """
    found: dict[str, tuple[str, Point]] = {}
    for section in sections:
        for run in section.runs:
            for name in plan.run_by_id[run].points:
                point = plan.by_id[name]
                if point.kind.role not in ("line", "mark"):
                    found.setdefault(name, (section.letter, point))
    rest = [p for p in plan.points if p.kind.role not in ("line", "mark") and p.id not in found]
    return (*found.values(), *(("", p) for p in rest))


def label_sheets(plan: Plan, sections: Iterable[Section], address: str, now: float, used: int = 0) -> bytes:
    """The labels as PDF, after so many that are `used` up of the first sheet. `address` is where the job's page is, to
    which each code adds its thing; `now` is s since 1970.
    """
    use_faces()
    paper, out = label_paper(plan), io.BytesIO()
    canvas = Canvas(out, pagesize=paper.page, invariant=1)
    canvas._doc._timeStamp = Dated(now)
    canvas.setTitle(f"{plan.name}: labels")
    n = used % paper.on_a_page
    for which, point in labelled(plan, sections):
        if n == paper.on_a_page:
            canvas.showPage()
            n = 0
        x = paper.first[0] + n % paper.across * paper.step[0]
        y = paper.page[1] - paper.first[1] - n // paper.across * paper.step[1]
        _put(canvas, plan, point, which, f"{address}?at={point.id}", paper, (x, y))
        n += 1
    canvas.save()
    return out.getvalue()


def _put(
    canvas: Canvas, plan: Plan, point: Point, which: str, address: str, paper: LabelPaper, at: tuple[float, float]
) -> None:
    """One label, its upper left corner at a place (pt)."""
    wide, high = paper.label
    margin = 1.5 * mm
    side = min(high - 2 * margin, _SIDE)
    matrix = segno.make(address, error="m", micro=False).matrix
    module = side / (len(matrix) + 2 * _QUIET)
    left, top = at[0] + margin + _QUIET * module, at[1] - margin - _QUIET * module
    canvas.setFillColor("#000000")
    for row, cells in enumerate(matrix):
        for column, dark in enumerate(cells):
            if dark:
                canvas.rect(left + column * module, top - (row + 1) * module, module, module, stroke=0, fill=1)
    lies = f"pipe {show(point.depth, 'depth', plan.units)} deep" if point.depth > 0 else "pipe above ground"
    room = wide - side - 3 * margin
    bold, thin = (11.0, 8.0) if high > 30 * mm else (9.5, 6.5)
    small = (plan.name, f"section {which}, {lies}" if which else lies)
    lines = _set(settable(point.label), FACE_BOLD, bold, room, 3)
    lines += [line for words in small for line in _set(settable(words), FACE, thin, room, 2)]
    y = at[1] - margin
    for size, face, text in lines:
        y -= 1.22 * size
        if y < at[1] - high + margin / 2:
            break
        canvas.setFont(face, size)
        canvas.drawString(at[0] + side + 2 * margin, y, text)


def _set(words: str, face: str, size: float, room: float, most: int) -> list[tuple[float, str, str]]:
    """Words in so many lines at the most, smaller where they need it: no word is dropped."""
    while size > _SMALLEST and len(simpleSplit(words, face, size, room)) > most:
        size -= 0.5
    return [(size, face, line) for line in simpleSplit(words, face, size, room)]
