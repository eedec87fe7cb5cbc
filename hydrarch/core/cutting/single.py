"""One piece of pipe cut by itself: from how it was measured and what goes on its ends to its length and its marks.

A crew measures between centres, between the faces of two fittings, or between two stops. A piece that leads a line
aside runs slantwise between two elbows: its centres are the whole offset over the sine of the elbows' angle apart.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, degrees, hypot, radians, sin, tan
from typing import Literal

from hydrarch.core.base.errors import HydrarchError, OutOfRange
from hydrarch.core.base.units import System, check_range, show
from hydrarch.core.catalogue.fittings import End, Fitting, fitting, fittings, joint_depth, mating_method, pipe_ends
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.cutting.cuts import stands_out

__all__ = ["CutAnswer", "CutQuestion", "EndMark", "EndOn", "Measure", "Taker", "cut_one", "takers"]

Measure = Literal["centres", "faces", "stops"]
_TIGHT = radians(10)
"""The least angle of an offset's elbows; below it the pipe is sprung, not turned; from memory."""
_AS_DRAWN = radians(2.5)  # what two sockets give; from memory


@dataclass(frozen=True, slots=True)
class EndOn:
    """What goes on one end: a fitting by id and the number of its port, none for an end left open.

    `stop` (m) is the crew's own measure of that port's centre to its stop, where it has one.
    """

    fitting: str | None = None
    port: int = 0
    stop: float | None = None


@dataclass(frozen=True, slots=True)
class CutQuestion:
    """A piece of one size of a series, `distance` (m) as `measured`; or an offset of `rise` and `roll` (m) turned by
    `angle` (rad).

    With an offset the distance is worked out. `rise` is square to the line one way, `roll` the other way.
    """

    series: str
    size: str
    distance: float = 0.0
    measured: Measure = "centres"
    a: EndOn = EndOn()
    b: EndOn = EndOn()
    rise: float = 0.0
    roll: float = 0.0
    angle: float = radians(45)
    units: System = "metric"

    def __post_init__(self) -> None:
        """Refuse what no tape reads."""
        pipe(self.series, self.size)
        for name, value, low, high in (
            ("distance", self.distance, 0, 1e4),
            ("rise", self.rise, -100, 100),
            ("roll", self.roll, -100, 100),
        ):
            check_range(name, value, low, high, "length")
        if self.offset > 0 and not _TIGHT <= self.angle <= radians(90):
            raise OutOfRange("angle of the elbows", degrees(self.angle), degrees(_TIGHT), 90, "°")

    @property
    def offset(self) -> float:
        """How far (m) the line is led aside in all."""
        return hypot(self.rise, self.roll)


@dataclass(frozen=True, slots=True)
class EndMark:
    """One end of the cut piece: what goes on it, its centre to stop and how deep the pipe goes (m), and by which
    method.
    """

    name: str
    stop: float
    depth: float
    method: str


@dataclass(frozen=True, slots=True)
class CutAnswer:
    """The length to cut (m), and how it came about.

    `centres` (m) lies between the fittings' centres; of an offset `advance` (m) is how far along the line it takes and
    `turned` (rad) how far the elbows are rolled from upright. `dry` (m) is how much longer the piece stands while
    nothing is cemented; `fits` is whether it is as long as its two joints are deep.
    """

    length: float
    centres: float
    advance: float | None
    turned: float | None
    a: EndMark
    b: EndMark
    dry: float
    fits: bool
    says: str
    sum: tuple[tuple[str, float], ...]


@dataclass(frozen=True, slots=True)
class Taker:
    """A port that takes a pipe: the fitting, the number of the port, its centre to stop and how deep the pipe
    goes (m).
    """

    fitting: str
    name: str
    family: str
    port: int
    stop: float
    depth: float
    method: str
    angle: float


def takers(series_name: str, size: str) -> tuple[Taker, ...]:
    """Every port of the catalogue that takes a pipe, by family and name; like ports of one fitting once.

    Raises `Unknown`.
    """
    found = []
    for part in fittings().values():
        seen = set()
        for n, port in enumerate(part.ports):
            mine = _mate(series_name, size, port.end)
            if mine is not None and (port.end.name, port.stop) not in seen and part.material != "pipe":
                seen.add((port.end.name, port.stop))
                method = mating_method(mine, port.end) or ""
                found.append(
                    Taker(
                        fitting=part.id,
                        name=part.name,
                        family=part.family,
                        port=n,
                        stop=port.stop,
                        depth=joint_depth(mine, port.end),
                        method=method,
                        angle=part.angle,
                    )
                )
    return tuple(sorted(found, key=lambda t: (t.family, t.name, t.port)))


def _mate(series_name: str, size: str, other: End) -> End | None:
    return next((e for e in pipe_ends(series_name, size) if mating_method(e, other) is not None), None)


def cut_one(q: CutQuestion) -> CutAnswer:
    """The length to cut a piece to.

    Raises `Unknown` for a fitting, `HydrarchError` where it takes no such pipe or leaves it no room.

    >>> round(cut_one(CutQuestion("pvc40", "1", rise=1.0, angle=radians(45))).centres, 4)
    1.4142
    """
    a, b = _mark(q, q.a), _mark(q, q.b)
    _turns_alike(q)
    advance = turned = None
    if q.offset > 0:
        centres = q.offset / sin(q.angle)
        advance, turned = q.offset / tan(q.angle), atan2(q.roll, q.rise)
        terms = [("between centres", centres), (f"taken up by {a.name}", -a.stop), (f"taken up by {b.name}", -b.stop)]
    elif q.measured == "centres":
        centres = q.distance
        terms = [("between centres", centres), (f"taken up by {a.name}", -a.stop), (f"taken up by {b.name}", -b.stop)]
    elif q.measured == "faces":
        terms = [("between the faces", q.distance), (f"inside {a.name}", a.depth), (f"inside {b.name}", b.depth)]
        centres = sum(x for _, x in terms) + a.stop + b.stop
    else:
        terms = [("between the stops", q.distance)]
        centres = q.distance + a.stop + b.stop
    length, covered = sum(x for _, x in terms), a.depth + b.depth
    if length <= 0:
        raise HydrarchError(
            f"the two fittings overlap by {show(-length, 'cut', q.units)}: move them apart, or turn more gently"
        )
    says = "check the measure once more, then cut square"
    if length < covered:
        tight, need = (show(x, "cut", q.units) for x in (length, covered))
        says = f"only {tight} of pipe for joints that cover {need}: move the two apart, or join them with less"
    dry = stands_out(pipe(q.series, q.size), sum(m.method == "solvent weld" for m in (a, b)))
    return CutAnswer(
        length=length,
        centres=centres,
        advance=advance,
        turned=turned,
        a=a,
        b=b,
        dry=dry,
        fits=length >= covered,
        says=says,
        sum=tuple((w, x) for w, x in terms if abs(x) > 1e-9),
    )


def _turns_alike(q: CutQuestion) -> None:
    """Refuse elbows that do not turn as the offset does."""
    for on in (q.a, q.b):
        if q.offset > 0 and on.fitting is not None:
            part = fitting(on.fitting)
            if "elbow" in part.family and abs(part.angle - q.angle) > _AS_DRAWN:
                raise HydrarchError(
                    f"{part.name} turns by {degrees(part.angle):.3g}° and the offset by {degrees(q.angle):.3g}°: "
                    "take elbows of that angle, or let the offset turn as they do"
                )


def _mark(q: CutQuestion, on: EndOn) -> EndMark:
    if on.fitting is None:
        return EndMark("the open end", 0.0, 0.0, "")
    part: Fitting = fitting(on.fitting)
    if not 0 <= on.port < len(part.ports):
        raise OutOfRange(f"port of {part.name}", on.port, 0, len(part.ports) - 1)
    port = part.ports[on.port]
    mine = _mate(q.series, q.size, port.end)
    if mine is None:
        raise HydrarchError(f"{part.name} takes no {series(q.series).short} {q.size} pipe there: choose one that does")
    stop = port.stop if on.stop is None else on.stop
    if not 0 <= stop <= 2:
        raise OutOfRange(f"centre to stop of {part.name}", stop * 1e3, 0, 2000, "mm")
    return EndMark(part.name, stop, joint_depth(mine, port.end), mating_method(mine, port.end) or "")
