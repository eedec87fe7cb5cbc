"""A sheet of paper in mm that is drawn on once, and set as SVG or onto a page of a PDF: strokes, rounds and words that
keep off one another.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from html import escape
from math import hypot
from textwrap import wrap

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from hydrarch.core.base.units import FOOT, System
from hydrarch.formats.faces import FACE, FACE_BOLD, settable

__all__ = ["WIDE", "Paper", "Spot"]

WIDE = 178.0
"""mm that a drawing is wide: what A4 and letter have between their margins."""
_FONT = 2.9  # mm
_CELL = 5.0  # mm: what is taken is looked for near by
_ROUND = tuple(n * 10.0**e for e in range(-2, 4) for n in (1, 2, 5))
Spot = tuple[float, float]
Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class _Stroke:
    spots: tuple[Spot, ...]
    width: float
    colour: str
    dash: str = ""


@dataclass(frozen=True, slots=True)
class _Round:
    at: Spot
    radius: float


@dataclass(frozen=True, slots=True)
class _Word:
    at: Spot
    text: str
    bold: bool = False
    colour: str = "#16212a"
    middle: bool = True


class _Taken:
    """Boxes that are taken, found by where they are: a large drawing has tens of thousands."""

    def __init__(self) -> None:
        self._cells: dict[tuple[int, int], list[Box]] = defaultdict(list)

    def add(self, box: Box) -> None:
        for cell in _cells(box):
            self._cells[cell].append(box)

    def free(self, box: Box) -> bool:
        return not any(_meet(box, other) for cell in _cells(box) for other in self._cells.get(cell, ()))


def _cells(box: Box) -> Iterator[tuple[int, int]]:
    x0, y0, x1, y1 = (int(v // _CELL) for v in box)
    return ((x, y) for x in range(x0, x1 + 1) for y in range(y0, y1 + 1))


class Paper:
    """A sheet under way, so many mm `wide` and `tall`: labels keep off one another and off the edge, and are left out
    where there is no room.
    """

    def __init__(self, wide: float, tall: float) -> None:
        self.wide, self.tall = wide, tall
        self._parts: list[_Stroke | _Round] = []
        self._words: list[_Word] = []
        self._taken = _Taken()

    def line(self, a: Spot, b: Spot, width: float, colour: str, dash: str = "") -> None:
        """A straight stroke, that labels keep off."""
        steps = max(1, round(hypot(b[0] - a[0], b[1] - a[1]) / 1.5))
        spots = ((a[0] + (b[0] - a[0]) * n / steps, a[1] + (b[1] - a[1]) * n / steps) for n in range(steps + 1))
        for x, y in spots:
            if 0 <= x <= self.wide and 0 <= y <= self.tall:
                self._taken.add((x - 0.7, y - 0.7, x + 0.7, y + 0.7))
        self.stroke((a, b), width, colour, dash)

    def stroke(self, spots: tuple[Spot, ...], width: float, colour: str = "#16212a", dash: str = "") -> None:
        """A stroke that nothing keeps off."""
        self._parts.append(_Stroke(spots, width, colour, dash))

    def point(self, at: Spot, plain: bool, mark: bool) -> None:
        """A thing, larger where it is more than a bend; a mark as a cross."""
        x, y = at
        if mark:
            self.stroke(((x - 1, y - 1), (x + 1, y + 1)), 0.4, "#8a8577")
            self.stroke(((x - 1, y + 1), (x + 1, y - 1)), 0.4, "#8a8577")
        else:
            self._parts.append(_Round(at, 0.8 if plain else 1.5))
        self._taken.add((x - 1.5, y - 1.5, x + 1.5, y + 1.5))

    def word(self, at: Spot, text: str, bold: bool = False, middle: bool = True, colour: str = "#16212a") -> None:
        """Words that stand where they are put."""
        self._words.append(_Word(at, text, bold, colour, middle))

    def foot(self, text: str) -> None:
        """Words in a strip of their own below all that is drawn, in as many rows as they take."""
        for row in wrap(text, int(self.wide / (_FONT * 0.57))):
            self.tall += _FONT * 1.5
            self.word((1.0, self.tall - _FONT * 0.5), row, middle=False, colour="#4a545c")

    def label(self, at: Spot, text: str, bold: bool) -> bool:
        """Words at a thing, where there is room for them; whether there was."""
        if not text:
            return True
        wide, high = len(text) * _FONT * (0.62 if bold else 0.57), _FONT * 1.2
        aside, rows = wide / 2 + 2.4, (1, -2.6, 5, -7, 9, -12, 14)
        places = [
            (0, -2.6),
            (0, 5),
            *((side, y) for y in rows for side in (aside, -aside)),
            (0, -7),
            (0, 9),
            (0, -12),
            (0, 14),
        ]
        for dx, dy in places:
            x, y = at[0] + dx, at[1] + dy
            box = (x - wide / 2, y - high, x + wide / 2, y + 0.6)
            outside = box[0] < 0 or box[1] < 0 or box[2] > self.wide or box[3] > self.tall
            if outside or not self._taken.free(box):
                continue
            self._taken.add(box)
            if abs(dy - 1) > 5:  # it stands away from what it names
                near = min(max(at[0], box[0]), box[2]), box[1] if dy > 0 else box[3]
                self.stroke((at, near), 0.2, "#8a8577")
            self.word((x, y), text, bold, colour="#16212a" if bold else "#4a545c")
            return True
        return False

    def north(self) -> None:
        """Which way north is: up."""
        x, y = self.wide - 6, 12.0
        self.stroke(((x, y), (x, y - 8)), 0.5)
        self.stroke(((x - 1.6, y - 5.4), (x, y - 8), (x + 1.6, y - 5.4)), 0.5)
        self.word((x, y + 3.4), "N", bold=True)

    def bar(self, scale: float, system: System, y: float | None = None) -> None:
        """A bar of a round length, so that a copy that was not printed to scale can still be measured."""
        foot = FOOT if system == "us" else 1.0
        most = 40.0 * scale / 1e3 / foot  # in the person's unit
        step = max((s for s in _ROUND if s <= most), default=_ROUND[0])
        long = step * foot / scale * 1e3
        x, y = 5.0, self.tall - 4.0 if y is None else y
        self.stroke(((x, y - 1.4), (x, y), (x + long, y), (x + long, y - 1.4)), 0.4)
        self.word((x + long + 1.2, y), f"{step:g} {'ft' if system == 'us' else 'm'}", middle=False)

    def svg(self, title: str) -> str:
        """It as SVG, as wide and tall as it is printed."""
        parts, words = "".join(map(_part_svg, self._parts)), "".join(map(_word_svg, self._words))
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" role="img" aria-label="{escape(title)}" '
            f'width="{self.wide}mm" height="{self.tall:.1f}mm" '
            f'viewBox="0 0 {self.wide} {self.tall:.1f}" fill="none" stroke-linecap="round">{parts}'
            f'<g font-size="{_FONT}" fill="#16212a" stroke="none" font-family="inherit">{words}</g></svg>'
        )

    def onto(self, page: Canvas) -> None:
        """Set it onto a page of a PDF, its lower left corner where the page's own zero is."""
        page.setLineCap(1)
        for part in self._parts:
            if isinstance(part, _Round):
                page.setLineWidth(0.5 * mm)
                page.setDash()
                page.setStrokeColor("#16212a")
                page.setFillColor("#ffffff")
                page.circle(part.at[0] * mm, (self.tall - part.at[1]) * mm, part.radius * mm, fill=1)
                continue
            page.setLineWidth(part.width * mm)
            page.setStrokeColor(part.colour)
            page.setDash([float(d) * mm for d in part.dash.split()])
            way = page.beginPath()
            for n, (x, y) in enumerate(part.spots):
                (way.lineTo if n else way.moveTo)(x * mm, (self.tall - y) * mm)
            page.drawPath(way)
        page.setDash()
        for w in self._words:
            page.setFont(FACE_BOLD if w.bold else FACE, _FONT * 0.86 * mm)  # this face runs wider than the page's
            page.setFillColor(w.colour)
            (page.drawCentredString if w.middle else page.drawString)(
                w.at[0] * mm, (self.tall - w.at[1]) * mm, settable(w.text)
            )


def _part_svg(part: _Stroke | _Round) -> str:
    if isinstance(part, _Round):
        x, y = part.at
        return f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{part.radius}" fill="#fff" stroke="#16212a" stroke-width="0.5"/>'
    way = "L".join(f"{x:.2f} {y:.2f}" for x, y in part.spots)
    broken = f' stroke-dasharray="{part.dash}"' if part.dash else ""
    return f'<path d="M{way}" stroke="{part.colour}" stroke-width="{part.width}"{broken}/>'


def _word_svg(w: _Word) -> str:
    weight = ' font-weight="700"' if w.bold else ""
    colour = f' fill="{w.colour}"' if w.colour != "#16212a" else ""
    anchor = ' text-anchor="middle"' if w.middle else ""
    return f'<text x="{w.at[0]:.2f}" y="{w.at[1]:.2f}"{anchor}{weight}{colour}>{escape(w.text)}</text>'


def _meet(a: Box, b: Box) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]
