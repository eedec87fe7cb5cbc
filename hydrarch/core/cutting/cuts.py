"""The length of every piece, stop to stop, and how the pieces come out of sticks and coils."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil, tan

from hydrarch.core.base.identity import EndId, PipeId, riser_end, riser_piece, upright_piece
from hydrarch.core.base.messages import tell
from hydrarch.core.base.problems import Problem, declare
from hydrarch.core.base.progress import Report, unheard
from hydrarch.core.catalogue.fittings import fitting, pipe_end, pipe_ends
from hydrarch.core.catalogue.pipes import Pipe, Series, series
from hydrarch.core.catalogue.prices import InLine
from hydrarch.core.components.basins import Standpipe
from hydrarch.core.cutting.dripparts import in_line, in_line_words
from hydrarch.core.cutting.nest import LONG, QUICK, nest_lengths
from hydrarch.core.joining.assembled import Assembly
from hydrarch.core.joining.assembly import length_name
from hydrarch.core.joining.short import cut_from, short_pieces
from hydrarch.core.plan.document import Plan, Run
from hydrarch.core.site.layout import Layout
from hydrarch.core.site.risers import riser_length, riser_pipe, riser_thread

declare("cut", "too-close", holds=True)

SLACK, _SLACK_FROM = 0.01, 10.0
"""Share of a coiled pipe that is laid slack in its trench, and from what length (m) on."""
_AS_WIDE = 0.97  # of the bore that is asked: pipe is sold by round names
_READ = 5e-4  # m that a tape does not tell
_STANDS_OUT = 0.42
"""Share of a socket's depth that is still empty when the pipe is dry: it stops half-way to two thirds in (common
practice)."""

__all__ = [
    "Arc",
    "CutEnd",
    "CutList",
    "Nest",
    "Piece",
    "Stick",
    "Used",
    "cut",
    "laid_slack",
    "nest_longer",
    "nest_pieces",
    "saw_marks",
    "stands_out",
]


@dataclass(frozen=True, slots=True)
class CutEnd:
    """One end of a piece: the point it comes to, what goes on it, and how far (m) it stays from the point's centre."""

    point: str
    name: str
    takes: str
    offset: float


@dataclass(frozen=True, slots=True)
class Piece:
    """One piece of pipe between two stops. `length` is in m; `runs` are those it goes through (bent, not cut).

    `centres` is the length between the points' centres, `saved` what soft bends shorten, `dry` how much longer the line
    stands while it is fitted dry, since a tapered socket takes the pipe only part of the way; `covered` what its two
    joints cover, 0 for what is usual of its pipe. `slack` is what its length has over the straight way, to be laid in
    it. `made` are the emitters in it, if any.
    """

    id: PipeId
    runs: tuple[str, ...]
    series: str
    size: str
    length: float
    centres: float
    saved: float
    a: CutEnd
    b: CutEnd
    threaded: bool
    dry: float = 0.0
    covered: float = 0.0
    slack: float = 0.0
    made: InLine | None = None


@dataclass(frozen=True, slots=True)
class Stick:
    """One stick or coil of `length` (m) and the pieces (id, length in m) cut from it; `rest` (m) is left over."""

    cuts: tuple[tuple[str, float], ...]
    rest: float
    length: float


@dataclass(frozen=True, slots=True)
class Used:
    """An offcut of `length` (m) that was there, what is cut from it, and what is left (m)."""

    length: float
    cuts: tuple[tuple[str, float], ...]
    rest: float


@dataclass(frozen=True, slots=True)
class Nest:
    """One series and size: the sticks or coils of `stock` (m) it takes, a shorter one where that is sold and does, and
    the least number that could do after the offcuts.

    `kept` is how many remainders are long enough to keep; `made` the emitters in it and `says` that in words, if it is
    such tubing.
    """

    series: str
    size: str
    stock: float
    coil: bool
    sticks: tuple[Stick, ...]
    offcuts: tuple[Used, ...]
    bound: int
    total: float
    kept: int
    made: InLine | None = None
    says: str = ""


@dataclass(frozen=True, slots=True)
class Arc:
    """A corner that the pipe takes by itself: `turn` (rad) on `radius` (m), beginning `before` (m) this side of the
    corner.

    `length` (m) is along the arc; the trench opens by `widening` (m) inside the corner.
    """

    point: str
    name: str
    turn: float
    radius: float
    before: float
    length: float
    widening: float


@dataclass(frozen=True, slots=True)
class CutList:
    """Every piece, the sticks and coils they come from, and the arcs some are laid in."""

    pieces: tuple[Piece, ...]
    nests: tuple[Nest, ...]
    arcs: tuple[Arc, ...]
    problems: tuple[Problem, ...]


def saw_marks(cuts: Sequence[tuple[str, float]], kerf: float) -> tuple[tuple[str, float], ...]:
    """Where to mark a stick: each piece's id and the distance (m) from the stick's end to its mark, the blade beyond
    the mark.

    `kerf` is in m. The tape stays hooked at the one end, so that errors do not add up.
    """
    marks, at = [], 0.0
    for name, length in cuts:
        marks.append((name, at + length))
        at += length + kerf
    return tuple(marks)


def cut(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], assembly: Assembly) -> CutList:
    """Cut a plan. A piece that has no room between its fittings is a `Problem` at its run."""
    pieces = [
        *_run_pieces(plan, lay, pipes, assembly),
        *_risers(plan, assembly),
        *_uprights(plan, lay, pipes),
        *_short(plan, lay, pipes, assembly),
    ]
    problems = [p for piece in pieces for p in _room(piece, plan)]
    return CutList(tuple(pieces), tuple(_nests(plan, pieces, QUICK)), tuple(_arcs(plan, assembly)), tuple(problems))


def _arcs(plan: Plan, assembly: Assembly) -> Iterable[Arc]:
    """The soft bends sharp enough to be seen: T = R tan(θ/2) before and after the corner, Rθ along the arc."""
    names = plan.names
    for bend in assembly.bends:
        if bend.radius > 0:
            before = bend.radius * tan(bend.turn / 2)
            yield Arc(
                point=bend.point,
                name=names[bend.point],
                turn=bend.turn,
                radius=bend.radius,
                before=before,
                length=bend.radius * bend.turn,
                widening=bend.widening,
            )


def _run_pieces(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], assembly: Assembly) -> list[Piece]:
    """A piece for every length of pipe that is to be laid; what exists already is not cut."""
    pieces, inside = [], in_line(plan)
    for x in assembly.lengths:
        if any(plan.run_by_id[r].existing is not None for r in x.runs):
            continue
        item = pipes[x.runs[0]]
        one, two = (_cut_end(assembly, lay, plan.names, e) for e in (x.start, x.stop))
        length = x.centres - x.saved - one.offset - two.offset
        slack = laid_slack([plan.run_by_id[r] for r in x.runs], item, length)
        pieces.append(
            Piece(
                id=length_name(x),
                runs=x.runs,
                series=item.series,
                size=item.size,
                length=length + slack,
                centres=x.centres,
                saved=x.saved,
                a=one,
                b=two,
                threaded=False,
                dry=stands_out(item, bool(one.takes) + bool(two.takes)),
                slack=slack,
                made=next((inside[r] for r in x.runs if r in inside), None),
            )
        )
    return pieces


def laid_slack(runs: Sequence[Run], item: Pipe, length: float) -> float:
    """What a piece that comes off a coil into a trench has over (m): a hand in each ten metres, since it shrinks as it
    cools.

    A length that a crew measured is what it is, and what is shorter than ten metres gives by itself. 1 % is what
    polyethylene of 2e-4/K shrinks by in 50 K; common practice.
    """
    coiled = series(item.series).stick is None and all(
        r.situation == "buried" and r.measured_length is None for r in runs
    )
    return SLACK * length if coiled and length >= _SLACK_FROM else 0.0


def stands_out(item: Pipe, ends: int) -> float:
    """How much longer (m) a piece stands dry in so many fittings: each tapered solvent socket takes half to two thirds
    of its depth.
    """
    offered = pipe_ends(item.series, item.size)
    return ends * _STANDS_OUT * offered[0].engagement if offered and offered[0].system == "solvent" else 0.0


def _cut_end(assembly: Assembly, lay: Layout, names: dict[str, str], end_id: EndId) -> CutEnd:
    taken, point = assembly.taken.get(end_id), lay.point_of[end_id]
    return CutEnd(point, names[point], taken.takes if taken else "", taken.offset if taken else 0.0)


def _risers(plan: Plan, assembly: Assembly) -> list[Piece]:
    found = []
    for p in plan.outlets:
        taken = assembly.taken.get(riser_end(p.id))
        if taken is None or p.existing is not None:
            continue
        item, up = riser_pipe(plan, p), riser_length(p)
        top = CutEnd(p.id, p.label, f"inlet of {p.label}", 0.0)
        foot = CutEnd(p.id, p.label, taken.takes, taken.offset)
        found.append(
            Piece(
                id=riser_piece(p.id),
                runs=(),
                series=item.series,
                size=item.size,
                length=up - taken.offset,
                centres=up,
                saved=0.0,
                a=foot,
                b=top,
                threaded=True,
                covered=2 * riser_thread(plan, p).engagement,
            )
        )
    return found


def _uprights(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe]) -> Iterable[Piece]:
    """The pipe each standpipe stands up as: of the line's own make, the smallest whose bore is as wide as is asked.

    It is pushed into its foot dry, so that it lifts out to be cleaned and to let the box run out (common practice).
    """
    for p in plan.points:
        what = p.what
        if not isinstance(what, Standpipe) or what.up <= 0 or p.existing is not None:
            continue
        runs = sorted((r for r in plan.runs if p.id in r.points and r.id in lay.lines), key=lambda r: r.id)
        if not runs:
            continue
        led = pipes[runs[0].id]
        family = series(led.series) if series(led.series).stick else series(plan.conditions.series)
        if family.stick is None:
            family = series(led.series)
        wide = [x for x in family.sizes if x.bore >= _AS_WIDE * what.bore]
        item = min(wide or family.sizes, key=lambda x: x.bore if wide else -x.bore)
        offered = pipe_ends(item.series, item.size)
        foot = CutEnd(p.id, p.label, "pushed in dry, to be lifted out", 0.0)
        top = CutEnd(p.id, p.label, "open: the water falls in here", 0.0)
        yield Piece(
            id=upright_piece(p.id),
            runs=(),
            series=item.series,
            size=item.size,
            length=what.up,
            centres=what.up,
            saved=0.0,
            a=foot,
            b=top,
            threaded=False,
            covered=offered[0].engagement if offered else 0.0,
        )


def _short(plan: Plan, lay: Layout, pipes: Mapping[str, Pipe], assembly: Assembly) -> Iterable[Piece]:
    """The pieces that join fitting to fitting, cut from the pipe like the others: as long as both joints are deep and a
    little between.
    """
    met: dict[str, list[str]] = defaultdict(list)
    for j in assembly.joints:
        for one, two in ((j.a, j.b), (j.b, j.a)):
            if one.part is not None:
                met[one.part].append(two.what)
    for part in short_pieces(assembly):
        item = cut_from(plan, lay, pipes, part)
        if item is not None:
            length = sum(p.stop for p in fitting(part.fitting).ports)
            where = part.point or ""
            a, b = (CutEnd(where, plan.names.get(where, ""), takes, 0.0) for takes in (*met[part.id], "", "")[:2])
            yield Piece(
                id=PipeId(part.id),
                runs=(),
                series=item.series,
                size=item.size,
                length=length,
                centres=length,
                saved=0.0,
                a=a,
                b=b,
                threaded=False,
                covered=length,
            )


def _room(piece: Piece, plan: Plan) -> list[Problem]:
    least = piece.covered or 2 * pipe_end(piece.series, piece.size).engagement
    if piece.length >= least:
        return []
    where = piece.runs[0] if piece.runs else piece.a.point
    return [
        tell(
            "too-close/overlap" if piece.length <= 0 else "too-close",
            where,
            plan.units,
            a=piece.a.name if piece.runs else "the line",
            b=piece.b.name,
            deep=-piece.length,
            long=piece.length,
            least=least,
        )
    ]


def _nests(plan: Plan, pieces: list[Piece], patterns: int, report: Report = unheard) -> list[Nest]:
    by_pipe: dict[tuple[str, str, InLine | None], list[Piece]] = defaultdict(list)
    for piece in pieces:
        if not piece.threaded and piece.length > 0:
            by_pipe[piece.series, piece.size, piece.made].append(piece)
    there: dict[str, list[float]] = defaultdict(list)
    for s in plan.stock:
        if s.length is not None:
            there[s.item] += [s.length] * s.count
    c = plan.conditions
    found = []
    for (name, size, made), mine in sorted(by_pipe.items(), key=lambda x: (*x[0][:2], x[0][2].tag if x[0][2] else "")):
        report(f"{series(name).short} {size}: {len(mine)} piece{'s' if len(mine) > 1 else ''}")
        of = f"{name} {size}{made.tag if made else ''}"
        nest = nest_pieces(name, size, mine, c.kerf, there[of], c.keep, patterns)
        found.append(nest if made is None else replace(nest, made=made, says=in_line_words(made, plan.units)))
    return found


def nest_pieces(
    series_name: str,
    size: str,
    pieces: list[Piece],
    kerf: float,
    offcuts: Sequence[float] = (),
    keep: float = 0.0,
    patterns: int = QUICK,
) -> Nest:
    """Nest pieces of one pipe: whole sticks first for what is longer than one, then offcuts, then the fewest new
    sticks.

    Raises `ValueError` for a pipe sold by neither stick nor coil.
    """
    family = series(series_name)
    stock = family.stick or family.coil
    if stock is None:
        raise ValueError(f"{family.name} is sold by neither stick nor coil")
    saw = kerf if family.stick else 0.0
    whole: list[tuple[str, float]] = []
    parts: list[tuple[str, float]] = []
    for piece in pieces:
        full = max(ceil((piece.length - _READ) / stock) - 1, 0)  # nobody cuts off less than can be read off a tape
        whole += [(piece.id, stock)] * full
        parts.append((piece.id, min(piece.length - full * stock, stock)))
    found = nest_lengths(parts, stock, saw, offcuts, keep, patterns)
    sticks = [Stick((x,), 0.0, stock) for x in whole]
    sticks += [_shortest(family, stock, cuts, rest) for cuts, rest in found.sticks]
    used = tuple(Used(length, cuts, rest) for length, cuts, rest in found.offcuts)
    total = sum(p.length for p in pieces)
    kept = sum(1 for s in sticks if s.rest > keep) + sum(1 for u in used if u.rest > keep)
    return Nest(
        series=series_name,
        size=size,
        stock=stock,
        coil=family.coil is not None,
        sticks=tuple(sticks),
        offcuts=used,
        bound=len(whole) + found.bound,
        total=total,
        kept=kept,
    )


def _shortest(family: Series, stock: float, cuts: tuple[tuple[str, float], ...], rest: float) -> Stick:
    """The shortest that is sold and holds these pieces, with what is left of it."""
    used = stock - rest
    length = min((long for long in (*family.shorter, stock) if long >= used - _READ), default=stock)
    return Stick(cuts, max(length - used, 0.0), length)


def nest_longer(plan: Plan, cuts: CutList, report: Report = unheard) -> tuple[Nest, ...]:
    """The nests of a cut list again, with more patterns tried for a better nesting and proof; `report` is told how far
    it is.
    """
    return tuple(_nests(plan, list(cuts.pieces), LONG, report))
