"""The model of a plan: every part and pipe as a solid in its place, instanced, and how each joint goes home.

Places are in metres east, north and up from the drawing's own origin.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from itertools import pairwise
from math import dist

import numpy as np
from scipy.spatial import Delaunay, QhullError, cKDTree

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.identity import riser_end, riser_piece, upright_piece
from hydrarch.core.catalogue.fittings import End, end, fitting
from hydrarch.core.catalogue.guidance import choose_practice
from hydrarch.core.catalogue.pipes import Pipe, pipe, series
from hydrarch.core.components.basins import Basin
from hydrarch.core.components.marks import Mark
from hydrarch.core.cutting.shop import PlacedFitting, PlacedOpening, joint_places
from hydrarch.core.derivation.chain import Derivation
from hydrarch.core.joining.assembled import Joint, PipeLength, Side
from hydrarch.core.joining.assembly import length_name
from hydrarch.core.model.frames import UPWARD, Spot, frame_along, frame_of, placed_at, spot_of
from hydrarch.core.model.pipe_ways import bent, corners_of, run_ends
from hydrarch.core.model.profiles import Profile, bore_radius, opening_core, opening_shell, outer_radius
from hydrarch.core.model.solids import (
    Mesh,
    Vectors,
    arc_mesh,
    block_mesh,
    drum_mesh,
    frustum_mesh,
    joined_mesh,
    surface_mesh,
    tube_mesh,
)
from hydrarch.core.plan.basin_shapes import shape_of
from hydrarch.core.plan.document import Point
from hydrarch.core.site.risers import riser_length, riser_pipe

__all__ = ["LineModel", "ModelMove", "ModelNode", "build_model"]

_HANDLED = frozenset({"valve", "union valve", "valve with waste", "three-way valve"})
_STRAIGHT = 1e-4
_APART = 1.6  # joint depths that a part is drawn away before it goes home


@dataclass(frozen=True, eq=False)
class ModelNode:
    """One thing in its place. `name` is the part, piece, point or body it is; `mesh` names its shape, `matrix` (4, 4)
    puts it there.

    `order` is the number (from 0) of the first joint it is in, None where it is in none; `length` (m) a piece's own.
    """

    name: str
    kind: str
    says: str
    mesh: str
    matrix: Vectors
    material: str
    about: str
    joints: tuple[str, ...] = ()
    order: int | None = None
    length: float | None = None


@dataclass(frozen=True, slots=True)
class ModelMove:
    """How a joint is made: node `moves` goes home to node `stays` along `way` (unit vector, towards home) over `reach`
    (m) to `place` (m); `radius` (m) is that of the joint. `start` (s) is when its turn comes if all goes well.
    """

    joint: str
    says: str
    method: str
    why: str
    angle: bool
    moves: str
    stays: str
    place: Spot
    way: Spot
    depth: float
    radius: float
    reach: float
    start: float
    hand: int
    group: str
    turn: str


@dataclass(frozen=True, eq=False)
class LineModel:
    """All of it: shapes by name, nodes, and every joint's move in the order of work."""

    meshes: dict[str, Mesh]
    nodes: tuple[ModelNode, ...]
    moves: tuple[ModelMove, ...]


def build_model(derived: Derivation) -> LineModel:
    """The model of a derived plan; empty for an empty one."""
    return _Builder(derived).build()


@dataclass
class _Builder:
    derived: Derivation
    meshes: dict[str, Mesh] = field(default_factory=dict)
    nodes: list[ModelNode] = field(default_factory=list)

    def build(self) -> LineModel:
        d = self.derived
        self.order = {t.joint: n for n, t in enumerate(d.work.tasks)}
        self.pieces = {str(p.id): p for p in d.cuts.pieces}
        self.hubs = {p.part.point for p in d.placed if not p.stacked}
        self.of_node: dict[str, list[str]] = defaultdict(list)
        self.piece_of = {str(e): str(length_name(x)) for x in d.assembly.lengths for e in run_ends(d, x)}
        self.bells: dict[str, list[Joint]] = defaultdict(list)
        self.sticks: dict[str, tuple[str, str]] = {}
        for joint in d.assembly.joints:
            one, two = (self._node_name(joint, s) for s in (joint.a, joint.b))
            if one == two and joint.share is not None:
                self.bells[one].append(joint)
            for side in (joint.a, joint.b):
                self.of_node[self._node_name(joint, side)].append(joint.id)
        for placed in d.placed:
            self._fitting(placed)
        for x in d.assembly.lengths:
            self._pipe(x)
        self._along_runs()
        for p in d.plan.points:
            self._thing(p)
        self._ground()
        return LineModel(self.meshes, tuple(self.nodes), tuple(self._moves()))

    def _node_name(self, joint: Joint, side: Side) -> str:
        if side.part is not None:
            return str(side.part)
        if side.pipe is not None and side.of is not None:
            return self.piece_of.get(str(side.of), str(riser_piece(joint.point or "")))
        return joint.point or joint.run or ""

    def _add(
        self,
        name: str,
        kind: str,
        says: str,
        mesh: str,
        make: Callable[[], Mesh],
        matrix: Vectors,
        material: str,
        about: str,
        length: float | None = None,
    ) -> None:
        if mesh not in self.meshes:
            self.meshes[mesh] = make()
        joints = tuple(self.of_node.get(name, ()))
        order = min((self.order[j] for j in joints if j in self.order), default=None)
        self.nodes.append(ModelNode(name, kind, says, mesh, matrix, material, about, joints, order, length))

    def _fitting(self, placed: PlacedFitting) -> None:
        made = fitting(placed.part.fitting)
        stacked = placed.stacked
        cx, cy, cz = _middle(placed) if stacked else placed.centre
        frame = frame_of([o.way for o in placed.openings])
        (xx, xy, xz), (yx, yy, yz), (zx, zy, zz) = frame.T.tolist()
        arms = []
        for o in placed.openings:
            (sx, sy, sz), (wx, wy, wz) = o.stop, o.way
            stop = (sx - cx) * wx + (sy - cy) * wy + (sz - cz) * wz
            way = (
                round(xx * wx + xy * wy + xz * wz, 4) + 0.0,
                round(yx * wx + yy * wy + yz * wz, 4) + 0.0,
                round(zx * wx + zy * wy + zz * wz, 4) + 0.0,
            )
            arms.append((o.end.name, round(stop, 5), way))
        handle = 1.2 * max(o.end.diameter for o in placed.openings) + 0.04 if made.family in _HANDLED else 0.0
        key = f"{made.id} {'; '.join(f'{e} {s:g} {w[0]:g} {w[1]:g} {w[2]:g}' for e, s, w in arms)}"
        self._add(
            str(placed.part.id),
            "fitting",
            placed.part.name,
            key,
            lambda: _fitting_mesh(tuple(arms), round(handle, 4)),
            placed_at(frame, np.array((cx, cy, cz))),
            made.material,
            placed.part.point or "",
        )

    def _pipe(self, x: PipeLength) -> None:
        d = self.derived
        item = d.settled.pipes[x.runs[0]]
        name = str(length_name(x))
        piece = self.pieces.get(name)
        corners = corners_of(d, x)
        if piece is None and all(d.plan.run_by_id[r].existing is None for r in x.runs):
            return
        stretches = list(bent(corners, self._radii(x)))
        if len(stretches) == 1 and stretches[0][0] == "straight":
            stretches = self._sticks(name, x, *stretches[0][1])
        for n, (kind, made) in enumerate(stretches):
            self._stretch(_numbered(name, n), name, item, kind, made, x.runs[0], piece.length if piece else None)

    def _sticks(self, name: str, x: PipeLength, a: Vectors, b: Vectors) -> list[tuple[str, tuple[Vectors, ...]]]:
        """A straight length parted where one stick goes into the next, as bells do."""
        d = self.derived
        spots = []
        for joint in self.bells.get(name, ()):
            here, there = (np.asarray(d.layout.spots[e]) for e in d.layout.lines[joint.run or x.runs[0]].ends)
            at = here + (joint.share or 0.0) * (there - here)
            spots.append((float(np.dot(at - a, b - a) / np.dot(b - a, b - a)), joint.id))
        inside = sorted(s for s in spots if 1e-6 < s[0] < 1 - 1e-6)
        cuts = [0.0, *(s for s, _ in inside), 1.0]
        for n, (_, joint_id) in enumerate(inside):
            self.sticks[joint_id] = _numbered(name, n), _numbered(name, n + 1)
        return [("straight", (a + s * (b - a), a + t * (b - a))) for s, t in pairwise(cuts)]

    def _stretch(
        self, node: str, name: str, item: Pipe, kind: str, made: tuple[Vectors, ...], run: str, length: float | None
    ) -> None:
        says = f"{series(item.series).short} {item.size}"
        if node != name:
            self.of_node[node] = self.of_node[name]
        if kind == "straight":
            a, b = made
            far = float(np.linalg.norm(b - a))
            frame = frame_along((b - a) / far)
            frame[:, 2] *= far
            self._add(
                node,
                "pipe",
                says,
                f"pipe {item.series} {item.size}",
                lambda: tube_mesh(item.outside, item.bore),
                placed_at(frame, a),
                series(item.series).material,
                run,
                length,
            )
        else:
            start, way, aside, size = made
            radius, turn = float(size[0]), float(size[1])
            frame = np.column_stack([way, aside, np.cross(way, aside)])
            key = f"bend {item.series} {item.size} {radius:.4f} {turn:.4f}"
            self._add(
                node,
                "pipe",
                says,
                key,
                lambda: arc_mesh(item.outside, item.bore, radius, turn),
                placed_at(frame, start),
                series(item.series).material,
                run,
                length,
            )

    def _radii(self, x: PipeLength) -> dict[str, float]:
        runs = set(x.runs)
        run_of = self.derived.layout.run_of
        return {
            b.point: b.radius
            for b in self.derived.assembly.bends
            if b.radius > 0 and {run_of[e] for e in b.ends} <= runs
        }

    def _along_runs(self) -> None:
        """What joins the lengths of a run, in its place along it."""
        d = self.derived
        sides: dict[str, list[tuple[Joint, Side]]] = defaultdict(list)
        for joint in d.assembly.joints:
            if joint.share is not None and joint.run is not None:
                for side in (joint.a, joint.b):
                    if side.part is not None:
                        sides[str(side.part)].append((joint, side))
        for part in d.assembly.parts:
            mine = sides.get(str(part.id), [])
            if part.point is not None or not mine or mine[0][0].share is None or mine[0][0].run is None:
                continue
            line = d.layout.lines[mine[0][0].run]
            a, b = (np.asarray(d.layout.spots[e]) for e in line.ends)
            far = float(np.linalg.norm(b - a))
            if far < 1e-6:
                continue
            way = (b - a) / far
            at = a + float(mine[0][0].share) * (b - a)
            half = sum(p.stop for p in fitting(part.fitting).ports) / 2
            ends = [end(s.end) for _, s in mine]
            openings = (
                PlacedOpening(ends[0], spot_of(at - half * way), spot_of(-way)),
                PlacedOpening(ends[-1], spot_of(at + half * way), spot_of(way)),
            )
            self._fitting(PlacedFitting(part, openings[0].stop, openings, stacked=True))

    def _thing(self, p: Point) -> None:
        d = self.derived
        if isinstance(p.what, Basin):
            shape = shape_of(p)
            level = shape.rim - min(p.what.below_rim, shape.depth)
            if not shape.crosses:
                self._add(
                    p.id,
                    "water",
                    p.label,
                    f"water {p.id}",
                    lambda: frustum_mesh(shape.corners, shape.bottom, max(level, shape.bottom + 0.01), shape.share),
                    np.eye(4),
                    "water",
                    p.id,
                )
            return
        here = np.asarray(d.layout.places[p.id])
        if isinstance(p.what, Mark):
            self._add(
                p.id,
                "mark",
                p.label,
                "mark",
                lambda: drum_mesh(0.03, 1.0),
                placed_at(np.eye(3), np.array([p.x, p.y, p.ground])),
                "mark",
                p.id,
            )
            return
        upright = self.pieces.get(str(upright_piece(p.id)))
        if upright is not None:
            item = pipe(upright.series, upright.size)
            self._upright(str(upright.id), f"upright {item.size}", item, here, upright.length, p.id)
            return
        up = riser_length(p)
        if up > 0:
            self._riser(p, here, up)
        if p.kind.role in ("line", "end") or p.id in self.hubs:
            return
        spots = [np.asarray(d.layout.spots[e]) for r in d.layout.at[p.id] for e in [d.layout.lines[r].end_at(p.id)]]
        low, high = (np.min(spots, axis=0), np.max(spots, axis=0)) if spots else (here, here)
        if p.kind.role == "outlet":
            wide = 0.03
            matrix = placed_at(np.diag([wide, wide, wide * 1.6]), here + np.array([0.0, 0.0, up]))
        else:
            pad = _size_of(p, d)
            matrix = placed_at(np.diag(high - low + pad), (low + high) / 2)
        self._add(p.id, "thing", p.label, "block", block_mesh, matrix, "thing", p.id)

    def _riser(self, p: Point, here: Vectors, up: float) -> None:
        taken = self.derived.assembly.taken.get(riser_end(p.id))
        if taken is None or up <= taken.offset:
            return
        item = riser_pipe(self.derived.plan, p)
        foot = here + np.array([0.0, 0.0, taken.offset])
        self._upright(str(riser_piece(p.id)), f"riser {item.size}", item, foot, up - taken.offset, p.id)

    def _upright(self, name: str, says: str, item: Pipe, foot: Vectors, long: float, about: str) -> None:
        """A pipe that stands on its foot."""
        self._add(
            name,
            "pipe",
            says,
            f"pipe {item.series} {item.size}",
            lambda: tube_mesh(item.outside, item.bore),
            placed_at(np.diag([1.0, 1.0, long]), foot),
            series(item.series).material,
            about,
            long,
        )

    def _ground(self) -> None:
        plan = self.derived.plan
        if not any(r.situation == "buried" for r in plan.runs) or not plan.points:
            return
        places = np.array([(p.x, p.y, p.ground) for p in plan.points])
        low, high = places[:, :2].min(axis=0), places[:, :2].max(axis=0)
        rim = 0.1 * float(np.max(high - low)) + 1.0
        mean = float(places[:, 2].mean())
        edge = [(x, y, mean) for x in (low[0] - rim, high[0] + rim) for y in (low[1] - rim, high[1] + rim)]
        flat, first = np.unique(np.round(np.vstack([places, edge])[:, :2], 3), axis=0, return_index=True)
        whole = np.vstack([places, edge])[first]
        nearest = cKDTree(places[:, :2]).query(whole[:, :2])[1]
        whole[:, 2] = np.where(np.isin(first, range(len(places))), whole[:, 2], places[nearest, 2])
        try:
            triangles = Delaunay(flat).simplices
        except QhullError:
            return
        self._add(
            "ground",
            "ground",
            "Ground",
            "ground",
            lambda: surface_mesh(whole, np.asarray(triangles, dtype=np.int64)),
            np.eye(4),
            "ground",
            "",
        )

    def _moves(self) -> Iterator[ModelMove]:
        d = self.derived
        at = joint_places(d.plan, d.layout, d.assembly)
        there = {n.name: n for n in self.nodes}
        groups = {j: g for g in d.work.groups for j in g.joints}
        for task in d.work.tasks:
            joint = d.assembly.named[task.joint]
            a, b = self._node_name(joint, joint.a), self._node_name(joint, joint.b)
            if a == b and joint.id in self.sticks:
                a, b = self.sticks[joint.id]
            if a == b or a not in there or b not in there:
                continue
            way = self._way(joint)
            if way is None:
                continue
            place = at.get(joint.id) or self._share_place(joint)
            if place is None:
                continue
            moves, stays, home = a, b, (-way[0], -way[1], -way[2])
            mine = self.order[joint.id]
            if there[a].order != mine and there[b].order == mine:  # the pipe's side lies there already
                moves, stays, home = b, a, way
            yield ModelMove(
                joint=joint.id,
                says=f"{joint.place}{f', towards {joint.towards}' if joint.towards else ''}",
                method=joint.method,
                why=task.why,
                angle=task.angle,
                moves=moves,
                stays=stays,
                place=place,
                way=home,
                depth=joint.depth,
                radius=max(end(joint.a.end).diameter, end(joint.b.end).diameter) / 2,
                reach=_APART * joint.depth + 0.02,
                start=groups[joint.id].start,
                hand=groups[joint.id].hand,
                group=groups[joint.id].title,
                turn=_turn(d, joint),
            )

    def _way(self, joint: Joint) -> Spot | None:
        """The way from what stands at a joint's point outward along its pipe; along its run for one between points."""
        lay = self.derived.layout
        if joint.end is not None and joint.point is not None:
            if joint.end not in lay.run_of:
                return UPWARD
            line = lay.lines[lay.run_of[joint.end]]
            a, b = lay.places[joint.point], lay.places[line.other(joint.point)]
        elif joint.run is not None:
            line = lay.lines[joint.run]
            a, b = lay.spots[line.ends[0]], lay.spots[line.ends[1]]
        else:
            return None
        far = dist(a, b)
        return None if far < 1e-6 else ((b[0] - a[0]) / far, (b[1] - a[1]) / far, (b[2] - a[2]) / far)

    def _share_place(self, joint: Joint) -> Spot | None:
        if joint.run is None or joint.share is None:
            return None
        lay = self.derived.layout
        a, b = (np.asarray(lay.spots[e]) for e in lay.lines[joint.run].ends)
        return spot_of(a + joint.share * (b - a))


@remembered(1 << 11)
def _fitting_mesh(fitted: tuple[tuple[str, float, Spot], ...], handle: float) -> Mesh:
    """The mesh of a body by its arms: the name of each one's end, its stop from the centre (m), and its way."""
    arms = [(end(name), stop, way) for name, stop, way in fitted]
    bores = [bore_radius(e) for e, _, _ in arms]
    alone = len(arms) == 1
    made = []
    for (opening, stop, way), own in zip(arms, bores, strict=True):
        core = opening_core(opening, stop, own)
        if alone:  # a cap or plug: what it takes is open, its end is not
            core = _blind(opening, stop, own, core)
        made.append((way, opening_shell(opening, stop), core))
    in_line = len(arms) == 2 and abs(sum(x * y for x, y in zip(arms[0][2], arms[1][2], strict=True)) + 1) < _STRAIGHT
    straight = alone or in_line
    hub = 0.0 if straight else min(outer_radius(e) for e, _, _ in arms)
    return joined_mesh(made, hub, 0.0 if straight else min(bores), handle)


def _blind(opening: End, stop: float, bore: float, core: Profile) -> Profile:
    """The core of a body with one opening: no bore through its end."""
    if opening.enters:
        return ((0.25 * stop, 0.0), *core[1:3], (0.25 * stop, bore)) if stop > 0 else ()
    return ((stop, 0.0), *(p for p in core[1:] if p[0] >= stop - 1e-9 and p[1] > bore + 1e-9))


def _turn(d: Derivation, joint: Joint) -> str:
    """How the moving part is turned as it goes home, in words; "" where it is not."""
    if joint.method in ("thread", "washer thread"):
        return "turn it clockwise"
    if "fusion" in joint.method:
        return "straight in, no turn"
    if joint.method != "solvent weld":
        return ""
    quarter = choose_practice(d.plan.practices_at(joint.point), "twist") == "quarter"
    return "a quarter turn as it lands" if quarter else "keep turning all the way home"


def _numbered(name: str, n: int) -> str:
    """The name of a length's stretches: its own for the first, with a number for those that follow."""
    return name if n == 0 else f"{name} {n + 1}"


def _middle(placed: PlacedFitting) -> Spot:
    many = len(placed.openings)
    x, y, z = (sum(o.stop[i] for o in placed.openings) / many for i in range(3))
    return x, y, z


def _size_of(p: Point, d: Derivation) -> Vectors:
    """How much wider (m) than its ports a thing is drawn: twice its pipe, at least a hand; a source as a pump."""
    runs = [d.settled.pipes[r].outside for r in d.layout.at[p.id] if r in d.settled.pipes]
    wide = 2.0 * max(runs, default=0.03)
    if p.kind.role == "source":
        return np.array([0.16, 0.16, 0.24])
    return np.full(3, max(wide, 0.06))
