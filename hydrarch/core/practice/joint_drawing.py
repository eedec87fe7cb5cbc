"""A joint drawn from its true dimensions, sound or with faults in it: each fault moves what it moves in the hand.

Three pictures: `cut` along the axis (x from the pipe inward, 0 at the stop; y from the axis), `outside`, and `round`,
looking at the pipe's end. All in metres.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from math import cos, pi, sin
from typing import Literal

from hydrarch.core.practice.flaws import CHAMFER, CLAMP_BAND, JointShape

__all__ = ["Outline", "drawn_joint", "drawn_methods"]

Picture = Literal["cut", "outside", "round"]
Corners = tuple[tuple[float, float], ...]
_MOUTH = 0.53  # of the pipe's outside: how wide a socket is drawn from the end, so that what lies in it shows
_SPREAD = 0.1  # of a circle that a step of a drawn arc covers at the most, in rad


@dataclass(frozen=True, slots=True)
class Outline:
    """One closed outline: which `part` it is, in which picture, and its corners (m)."""

    part: str
    picture: Picture
    corners: Corners


Doses = Mapping[str, float]


def drawn_methods() -> tuple[str, ...]:
    """The methods of joining that can be drawn with faults."""
    return tuple(_DRAWN)


def drawn_joint(shape: JointShape, doses: Doses) -> tuple[Outline, ...]:
    """The outlines of a joint with faults of these doses, by fault (`flaws.csv`); none is a sound one.

    Raises `KeyError` for a method that is not in `drawn_methods()`.
    """
    return tuple(_DRAWN[shape.method](shape, lambda name: doses.get(name, 0.0)))


Dose = Callable[[str], float]


def _both(part: str, *corners: tuple[float, float]) -> Iterator[Outline]:
    """An outline above the axis, and its image below it."""
    yield Outline(part, "cut", corners)
    yield Outline(part, "cut", tuple((x, -y) for x, y in corners))


def _box(part: str, picture: Picture, left: float, right: float, low: float, high: float) -> Outline:
    return Outline(part, picture, ((left, low), (right, low), (right, high), (left, high)))


def _shown(shape: JointShape) -> float:
    """How far from the stop a pipe is drawn (m)."""
    return shape.depth + 1.1 * shape.outside


def _pipe(shape: JointShape, end: float, dose: Dose, part: str = "pipe", turned: bool = False) -> Iterator[Outline]:
    """A cut pipe whose end is at `end`, with its chamfer and its burr; `turned` where it comes from the right."""
    outer, inner, far = shape.outside / 2, shape.bore / 2, -_shown(shape)
    bevel, burr = max(CHAMFER - dose("no-chamfer"), 0.0), dose("burr")
    corners = (
        (far, outer),
        (end - bevel, outer),
        (end, outer - min(bevel, 0.8 * shape.wall)),
        (end, inner - burr),
        (end - burr, inner),
        (far, inner),
    )
    yield from _both(part, *(((-x, y) for x, y in corners) if turned else corners))


def _ring(part: str, inner: float, outer: float, start: float, turn: float) -> Outline:
    """A part of a ring about the axis, seen from the end, from the angle `start` on for `turn` (rad)."""
    steps = max(2, int(turn / _SPREAD) + 1)
    angles = [start + turn * n / steps for n in range(steps + 1)]
    there = [(outer * cos(a), outer * sin(a)) for a in angles]
    back = [(inner * cos(a), inner * sin(a)) for a in reversed(angles)]
    return Outline(part, "round", (*there, *back))


def _round(part: str, radius: float, wide: float = 1.0, high: float = 1.0) -> Outline:
    """A disc about the axis, seen from the end, pressed out of round by two factors."""
    steps = int(2 * pi / _SPREAD) + 1
    angles = [2 * pi * n / steps for n in range(steps)]
    return Outline(part, "round", tuple((wide * radius * cos(a), high * radius * sin(a)) for a in angles))


def _from_the_end(shape: JointShape, dose: Dose, between: Iterable[Outline] = ()) -> Iterator[Outline]:
    """The pipe in its socket looking along the axis: the pipe as round as it is, and what lies `between` both."""
    out = dose("oval")
    wide, high = 1 + out / 2, 1 - out / 2
    yield _round("fitting", _MOUTH * shape.outside + _socket_wall(shape))
    yield _round("bore", _MOUTH * shape.outside)
    yield from between
    yield _round("pipe", shape.outside / 2, wide, high)
    yield _round("bore", shape.bore / 2, wide, high)


def _socket_wall(shape: JointShape) -> float:
    return max(shape.wall, 0.11 * shape.outside)


def _socket(shape: JointShape) -> Iterator[Outline]:
    """A socket with its floor at 0, and a stub of the body behind it."""
    outer, inner = shape.outside / 2, shape.bore / 2
    thick, end = _socket_wall(shape), 0.8 * shape.outside
    yield from _both(
        "fitting",
        (-shape.depth, outer * 1.015),
        (0.0, outer * 1.0),
        (0.0, inner),
        (end, inner),
        (end, outer + 0.6 * thick),
        (0.25 * thick, outer + thick),
        (-shape.depth, outer + thick),
    )


def _lines(shape: JointShape, end: float, dose: Dose, male: bool = False) -> Iterator[Outline]:
    """The joint from outside: pipe, fitting, depth mark and the two index lines."""
    outer, thick, far = shape.outside / 2, _socket_wall(shape), -_shown(shape)
    line = 0.012 * shape.outside
    yield _box("pipe", "outside", far, -shape.depth, -outer, outer)
    yield _box("fitting", "outside", -shape.depth, 0.8 * shape.outside, -outer - thick, outer + thick)
    if not male:
        at = min(end - shape.depth, -shape.depth - line)
        yield _box("mark", "outside", at - line, at, -outer, outer)
    off = (outer + thick) * sin(dose("wrong-angle"))
    yield _box("index on pipe", "outside", far + 0.3 * shape.outside, -shape.depth, -line, line)
    yield _box("index on fitting", "outside", -shape.depth, 0.4 * shape.outside, off - line, off + line)


def _welded(shape: JointShape, dose: Dose) -> Iterator[Outline]:
    end = -dose("not-home") * shape.depth
    outer, inner = shape.outside / 2, shape.bore / 2
    yield from _socket(shape)
    yield from _pipe(shape, end, dose)
    bead = 0.06 * shape.outside
    yield from _both("cement", (-shape.depth - bead, outer), (-shape.depth, outer), (-shape.depth, outer + bead))
    if deep := dose("puddle") * shape.bore:
        wide = 0.35 * shape.outside
        arc = [(wide * cos(a), -inner + deep * sin(a)) for a in (pi * n / 8 for n in range(9))]
        yield Outline("cement", "cut", tuple((0.1 * shape.outside + x, y) for x, y in arc))
    yield from _lines(shape, end, dose)
    missing = 2 * pi * dose("dry-channel")
    cement = _ring("cement", 0.5 * shape.outside, _MOUTH * shape.outside, 0.8 + missing, 2 * pi - missing)
    yield from _from_the_end(shape, dose, (cement,))


def _fused(shape: JointShape, dose: Dose) -> Iterator[Outline]:
    end = -dose("not-home") * shape.depth
    outer, inner = shape.outside / 2, shape.bore / 2
    yield from _socket(shape)
    yield from _pipe(shape, end, lambda name: CHAMFER if name == "no-chamfer" else 0.0)
    lip = max(dose("big-lip"), 0.25) * shape.wall
    yield from _both(
        "lip", (-shape.depth - 1.6 * lip, outer), (-shape.depth, outer), (-shape.depth - 0.4 * lip, outer + lip)
    )
    closed = dose("closed-bore") * shape.bore / 2
    if closed:
        yield from _both("melt", (end - 1.5 * closed, inner), (end, inner), (end - 0.4 * closed, inner - closed))
    yield from _lines(shape, end, dose)
    yield from _from_the_end(shape, dose)


def _threaded(shape: JointShape, dose: Dose) -> Iterator[Outline]:
    outer, inner, far = shape.outside / 2, shape.bore / 2, -_shown(shape)
    tilt, thick = dose("crossed"), _socket_wall(shape)
    pitch = max(0.0018, shape.depth / 9)
    crests: list[tuple[float, float]] = []
    at = -shape.depth
    while at < -0.5 * pitch:
        crests += [(at, outer - 0.35 * pitch), (at + 0.5 * pitch, outer)]
        at += pitch
    male = ((far, outer), *crests, (0.0, outer - 0.35 * pitch), (0.0, inner), (far, inner))
    for part in _both("pipe", *male):
        # it turns about the mouth of the female thread
        turned = tuple(
            (
                -shape.depth + (x + shape.depth) * cos(tilt) - y * sin(tilt),
                (x + shape.depth) * sin(tilt) + y * cos(tilt),
            )
            for x, y in part.corners
        )
        yield Outline("pipe", "cut", turned)
    yield from _both(
        "fitting",
        (-shape.depth, outer),
        (0.0, outer * 0.97),
        (0.1 * shape.outside, inner),
        (0.8 * shape.outside, inner),
        (0.8 * shape.outside, outer + thick),
        (-shape.depth, outer + thick),
    )
    yield from _lines(shape, 0.0, dose, male=True)
    yield _round("pipe", outer)
    yield _round("bore", inner)
    way = 1.0 if dose("backward-tape") > 0.5 else -1.0  # clockwise facing the end: angles fall
    turns, step = 2.2, 0.03 * shape.outside
    angles = [n * _SPREAD for n in range(int(2 * pi * turns / _SPREAD) + 1)]
    there = [(outer * 1.02 + step * a / (2 * pi), way * a) for a in angles]
    inward, outward = [(r, a) for r, a in there], [(r + 0.6 * step, a) for r, a in reversed(there)]
    yield Outline("tape", "round", tuple((r * cos(a), r * sin(a)) for r, a in (*inward, *outward)))


def _barbed(shape: JointShape, dose: Dose) -> Iterator[Outline]:
    end = -dose("not-home") * shape.depth
    outer, inner, depth = shape.outside / 2, shape.bore / 2, shape.depth
    way = 0.78 * inner
    teeth: list[tuple[float, float]] = []
    for n in range(4):
        at = -depth + n * depth / 4
        teeth += [(at, inner - 0.12 * inner), (at + depth / 4, inner)]
    yield from _both(
        "fitting",
        (-depth, way),
        *teeth,
        (0.0, outer),
        (0.25 * shape.outside, outer),
        (0.25 * shape.outside, inner),
        (0.8 * shape.outside, inner),
        (0.8 * shape.outside, way),
    )
    far = -_shown(shape)
    yield from _both("pipe", (far, outer), (end, outer), (end, inner), (far, inner))
    band, thick = CLAMP_BAND * depth, 0.06 * shape.outside
    beyond = dose("clamp-off") * band
    right = beyond if beyond else -0.12 * depth
    places = [right - band] if dose("one-clamp") > 0.5 else [right - band, -0.8 * depth]
    for at in places:
        yield from _both("clamp", (at, outer), (at + band, outer), (at + band, outer + thick), (at, outer + thick))
    yield _box("pipe", "outside", far, end, -outer, outer)
    yield _box("fitting", "outside", end, 0.8 * shape.outside, -inner, inner)
    for at in places:
        yield _box("clamp", "outside", at, at + band, -outer - thick, outer + thick)


def _nut(shape: JointShape, side: float, dose: Dose, middle: float = 0.0) -> Iterator[Outline]:
    """Nut, grip ring and seal about a pipe that comes from the left (`side` 1) or the right (−1), by a stop at
    `middle`.
    """
    outer, thick, depth = shape.outside / 2, _socket_wall(shape), shape.depth
    ring, seal = (0.72, 0.5) if dose("ring-before-seal") <= 0.5 else (0.5, 0.72)

    def at(share: float) -> float:
        return middle - side * share * depth

    for part, place, high in (("ring", ring, 0.45), ("seal", seal, 0.55)):
        yield from _both(
            part,
            (at(place + 0.07), outer),
            (at(place - 0.07), outer),
            (at(place - 0.07), outer + high * thick),
            (at(place + 0.07), outer + high * thick),
        )
    yield from _both(
        "nut",
        (at(1.0), outer * 1.02),
        (at(0.82), outer + 0.6 * thick),
        (at(0.25), outer + 1.05 * thick),
        (at(0.25), outer + 1.9 * thick),
        (at(1.0), outer + 1.9 * thick),
    )


def _nutted(shape: JointShape, dose: Dose) -> Iterator[Outline]:
    end = -dose("not-home") * shape.depth
    outer, inner, thick = shape.outside / 2, shape.bore / 2, _socket_wall(shape)
    yield from _both(
        "fitting",
        (-0.42 * shape.depth, outer * 1.02),
        (0.0, outer * 1.02),
        (0.0, inner),
        (0.8 * shape.outside, inner),
        (0.8 * shape.outside, outer + thick),
        (-0.42 * shape.depth, outer + thick),
    )
    yield from _pipe(shape, end, dose)
    yield from _nut(shape, 1.0, dose)
    yield from _lines(shape, end, dose)
    yield from _from_the_end(shape, dose)


def _sleeve(shape: JointShape, dose: Dose) -> Iterator[Outline]:
    """A coupling slid over the gap between two pipes that lie fast."""
    outer, thick, gap = shape.outside / 2, _socket_wall(shape), 0.2 * shape.depth
    off = dose("off-mark") * shape.depth
    yield from _pipe(shape, -gap / 2, dose)
    yield from _pipe(shape, -gap / 2, dose, turned=True)
    reach = 0.42 * shape.depth
    yield from _both(
        "fitting",
        *(
            (x + off, y)
            for x, y in ((-reach, outer * 1.02), (reach, outer * 1.02), (reach, outer + thick), (-reach, outer + thick))
        ),
    )
    yield from _nut(shape, 1.0, dose, off)
    yield from _nut(shape, -1.0, dose, off)
    line, full = 0.012 * shape.outside, shape.depth
    yield _box("pipe", "outside", -_shown(shape), _shown(shape), -outer, outer)
    yield _box("fitting", "outside", off - full, off + full, -outer - 1.9 * thick, outer + 1.9 * thick)
    for at in (-full - line, full + line):
        yield _box("mark", "outside", at - line, at + line, -outer, outer)
    yield from _from_the_end(shape, dose)


def _belled(shape: JointShape, dose: Dose) -> Iterator[Outline]:
    end = -dose("not-home") * shape.depth
    outer, inner, thick = shape.outside / 2, shape.bore / 2, _socket_wall(shape)
    at, wide = -0.72 * shape.depth, 0.16 * shape.depth
    yield from _both(
        "fitting",
        (-shape.depth, outer * 1.03),
        (at, outer * 1.03),
        (at, outer + 0.8 * thick),
        (at + wide, outer + 0.8 * thick),
        (at + wide, outer * 1.03),
        (0.0, outer * 1.03),
        (0.15 * shape.outside, inner),
        (0.8 * shape.outside, inner),
        (0.8 * shape.outside, outer),
        (0.1 * shape.outside, outer + thick),
        (at + 1.4 * wide, outer + thick),
        (at + 1.2 * wide, outer + 1.8 * thick),
        (at - 0.2 * wide, outer + 1.8 * thick),
        (at - 0.4 * wide, outer + thick),
        (-shape.depth, outer + thick),
    )
    yield from _both(
        "seal", (at, outer), (at + wide, outer), (at + wide, outer + 0.8 * thick), (at, outer + 0.8 * thick)
    )
    yield from _pipe(shape, end, dose)
    yield from _lines(shape, end, dose)
    yield from _from_the_end(shape, dose)


def _banded(shape: JointShape, dose: Dose) -> Iterator[Outline]:
    outer, gap, thick = shape.outside / 2, dose("gap"), 0.05 * shape.outside
    yield from _pipe(shape, -gap / 2, lambda _: 0.0)
    yield from _pipe(shape, -gap / 2, lambda _: 0.0, turned=True)
    wide = 0.5 * shape.outside
    yield from _both("sleeve", (-wide, outer), (wide, outer), (wide, outer + thick), (-wide, outer + thick))
    yield from _both(
        "band",
        *((x, outer + thick + y) for x, y in ((-wide, 0.0), (wide, 0.0), (wide, 0.4 * thick), (-wide, 0.4 * thick))),
    )


def _bulkhead(shape: JointShape, dose: Dose) -> Iterator[Outline]:
    outer, inner, wall = shape.outside / 2, shape.bore / 2, 0.25 * shape.outside
    high, thick, flange = 1.6 * outer, 0.12 * shape.outside, 0.16 * shape.outside
    dry = dose("gasket-dry-side") > 0.5
    left = -flange - (0.0 if dry else thick)
    right = wall + (thick if dry else 0.0)
    yield from _both("wall", (0.0, outer), (wall, outer), (wall, 2.4 * outer), (0.0, 2.4 * outer))
    at = wall if dry else -thick
    yield from _both("gasket", (at, outer), (at + thick, outer), (at + thick, high), (at, high))
    yield from _both(
        "flange",
        (left, inner),
        (right + 2.4 * flange, inner),
        (right + 2.4 * flange, outer),
        (left + flange, outer),
        (left + flange, high),
        (left, high),
    )
    yield from _both("nut", (right, outer), (right + 1.2 * flange, outer), (right + 1.2 * flange, high), (right, high))
    yield _box("water", "cut", left - 1.2 * outer, left, -2.4 * outer, 2.4 * outer)


_DRAWN: dict[str, Callable[[JointShape, Dose], Iterable[Outline]]] = {
    "solvent weld": _welded,
    "socket fusion": _fused,
    "thread": _threaded,
    "barb and clamp": _barbed,
    "compression": _nutted,
    "gripping compression": _sleeve,
    "repair compression": _sleeve,
    "gasket bell": _belled,
    "shielded band": _banded,
    "bulkhead": _bulkhead,
}
