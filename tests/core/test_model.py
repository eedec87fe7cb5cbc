"""The model in three dimensions: solids that are whole, as large as formulas say, and meet where they are joined."""

import io
import json
import random
import struct
import unittest
from functools import cache
from math import pi
from typing import Any

import numpy as np
import trimesh
from hypothesis import given, settings

from hydrarch.core.catalogue.fittings import end, fitting
from hydrarch.core.catalogue.pipes import pipe_called
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.model.profiles import bore_radius, opening_core, opening_shell, outer_radius
from hydrarch.core.model.scene import LineModel, ModelNode, build_model
from hydrarch.core.model.solids import Mesh, arc_mesh, drum_mesh, frustum_mesh, tube_mesh
from hydrarch.core.plan.document import Plan
from hydrarch.demo import JOBS, TANK_ID, TUB_ID, demo_job
from hydrarch.formats.gltf import model_glb
from tests.core.plans import RANDOMS, draw, point
from tests.core.test_any_plan import drawn


@cache
def of_job(name: str) -> tuple[Derivation, LineModel]:
    """A demo job with its model."""
    derived = derive(demo_job(name).plan, strict=True)
    return derived, build_model(derived)


def solid(model: LineModel, node: ModelNode) -> float:
    """The volume (m³) of a node in its place."""
    return model.meshes[node.mesh].volume * abs(float(np.linalg.det(node.matrix[:3, :3])))


def ends_of(node: ModelNode) -> tuple[Any, Any]:
    """Where a straight pipe begins and ends."""
    return node.matrix[:3, 3], node.matrix[:3, 3] + node.matrix[:3, 2]


def crossed(mesh: Mesh, start: Any, way: Any) -> int:
    """How many triangles a ray from `start` along `way` goes through (Möller and Trumbore 1997)."""
    a, b, c = (mesh.corners[mesh.triangles[:, i]] for i in range(3))
    one, two = b - a, c - a
    p = np.cross(way, two)
    det = np.einsum("ij,ij->i", one, p)
    fine = np.abs(det) > 1e-14
    inverse = np.where(fine, 1 / np.where(fine, det, 1), 0)
    t = start - a
    u = np.einsum("ij,ij->i", t, p) * inverse
    q = np.cross(t, one)
    v = np.einsum("j,ij->i", way, q) * inverse
    far = np.einsum("ij,ij->i", two, q) * inverse
    return int(np.sum(fine & (u >= 0) & (v >= 0) & (u + v <= 1) & (far > 1e-9)))


class Solids(unittest.TestCase):
    """Each shape by itself."""

    def test_a_tube_has_its_plastic(self) -> None:
        """A metre of pipe holds π (D² − d²) / 4 of plastic, bent or straight, within a thousandth."""
        by_hand = pi / 4 * (0.0334**2 - 0.0266**2)
        self.assertAlmostEqual(tube_mesh(0.0334, 0.0266).volume / by_hand, 1, places=3)
        bent = arc_mesh(0.0334, 0.0266, 0.4, 1.2)
        self.assertAlmostEqual(bent.volume / (by_hand * 0.4 * 1.2), 1, places=2)
        self.assertTrue(bent.closed)

    def test_an_arc_lies_where_it_is_led(self) -> None:
        """It begins at the origin along x, and ends a radius aside after a quarter turn."""
        bent = arc_mesh(0.02, 0.016, 0.5, pi / 2)
        self.assertAlmostEqual(float(bent.corners[:, 0].max()), 0.51, delta=0.002)
        self.assertAlmostEqual(float(bent.corners[:, 1].max()), 0.5, delta=0.002)
        self.assertAlmostEqual(float(bent.corners[:, 0].min()), 0.0, delta=0.002)

    def test_bodies_of_water(self) -> None:
        """A frustum holds what its formula says: h/3 (A + √(A a) + a)."""
        tank = frustum_mesh(((0, 0), (4, 0), (4, 2), (0, 2)), -1.0, 0.5, 0.25)
        self.assertAlmostEqual(tank.volume, 1.5 / 3 * (8 + 4 + 2), places=4)
        self.assertAlmostEqual(drum_mesh(0.5, 2.0).volume, pi * 0.25 * 2, places=3)

    def test_a_socket_takes_its_pipe(self) -> None:
        """What is taken out of a socket is as wide as its pipe down to the stop, and no wider than its body."""
        socket = end("solvent:socket:1")
        core, shell = opening_core(socket, 0.02, bore_radius(socket)), opening_shell(socket, 0.02)
        self.assertIn((0.02, socket.diameter / 2), core)
        self.assertEqual(max(s for s, _ in shell), 0.02 + socket.engagement)
        self.assertLess(socket.diameter / 2, outer_radius(socket))
        self.assertGreater(socket.diameter / 2, bore_radius(socket))

    def test_crests(self) -> None:
        """A male thread has as many crests as its length has pitches; a barb has teeth that do not stand out."""
        male = end("npt:male:1")
        assert male.threads_per_inch is not None
        crests = [r for _, r in opening_shell(male, male.engagement) if abs(r - male.diameter / 2) < 1e-9]
        self.assertAlmostEqual(len(crests) - 1, male.engagement / 0.0254 * male.threads_per_inch, delta=1)
        barb = end("barb:insert:1")
        self.assertLessEqual(max(r for _, r in opening_shell(barb, 0.05)), barb.diameter / 2 + 1e-9)


class DemoModels(unittest.TestCase):
    """Every demo job."""

    def test_every_solid_is_whole(self) -> None:
        """Each mesh is closed, its outside out; only the ground is a surface."""
        for name in JOBS:
            for key, mesh in of_job(name)[1].meshes.items():
                if key == "ground":
                    continue
                with self.subTest(job=name, mesh=key):
                    self.assertTrue(mesh.closed)
                    self.assertGreater(mesh.volume, 0)

    def test_pipe_is_as_much_plastic_as_is_cut(self) -> None:
        """The pipe of each job by mesh agrees with wall times drawn length within 1 %, and no piece is left out."""
        for name in JOBS:
            derived, model = of_job(name)
            drawn = {n.name.split(" ")[0]: 0.0 for n in model.nodes if n.kind == "pipe"}
            for n in model.nodes:
                if n.kind != "pipe" or not n.mesh.startswith("pipe "):
                    continue
                item = pipe_called(n.mesh.removeprefix("pipe "))
                a, b = ends_of(n)
                by_hand = pi / 4 * (item.outside**2 - item.bore**2) * float(np.linalg.norm(b - a))
                self.assertAlmostEqual(solid(model, n) / by_hand, 1, delta=0.01)
            short = {str(p.id) for p in derived.cuts.pieces if p.runs and p.length > 0.005}
            self.assertLessEqual(short, set(drawn), name)

    def test_ends_meet(self) -> None:
        """Every pipe ends within 0.1 mm of the stop of the part it is joined to."""
        met = 0
        for name in JOBS:
            derived, model = of_job(name)
            ends: dict[str, list[Any]] = {}
            for n in model.nodes:
                if n.kind == "pipe" and n.mesh.startswith("pipe "):
                    ends.setdefault(n.name.split(" ")[0], []).extend(ends_of(n))
            stops = {str(f.part.id): [np.asarray(o.stop) for o in f.openings] for f in derived.placed}
            by_tape = {r.id for r in derived.plan.runs if r.measured_length is not None}  # drawn not to scale
            there = {n.name: n for n in model.nodes}
            for move in model.moves:
                pair = [move.moves, move.stays]
                piece = next((p for p in pair if p in ends), None)
                part = next((stops[p] for p in pair if p in stops), None)
                if piece is None or part is None or there[piece].about in by_tape:
                    continue
                near = min(float(np.linalg.norm(e - s)) for e in ends[piece] for s in part)
                with self.subTest(job=name, joint=move.joint):
                    self.assertLess(near, 1e-4)
                met += 1
        self.assertGreater(met, 150)

    def test_bores_connect(self) -> None:
        """From the centre of a fitting that water goes through, each opening is reached with nothing in the way."""
        looked = 0
        for name in (TUB_ID, TANK_ID, JOBS[1]):
            derived, model = of_job(name)
            there = {n.name: n for n in model.nodes}
            for placed in derived.placed:
                if len(placed.openings) < 2 or placed.stacked:
                    continue
                node = there[str(placed.part.id)]
                back = np.linalg.inv(node.matrix[:3, :3])
                for opening in placed.openings:
                    way = back @ np.asarray(opening.way)
                    with self.subTest(job=name, part=placed.part.name):
                        self.assertEqual(crossed(model.meshes[node.mesh], np.full(3, 1e-5), way), 0)
                    looked += 1
        self.assertGreater(looked, 100)

    def test_a_cap_is_shut(self) -> None:
        """A fitting with one opening has an end: a ray from its mouth inward meets it."""
        plan = draw([point("A", 0, 0, "cap"), point("B", 2, 0, "cap")], [("A", "B")])
        model = build_model(derive(plan, strict=True))
        caps = [n for n in model.nodes if n.kind == "fitting"]
        self.assertTrue(caps)
        for n in caps:
            mesh = model.meshes[n.mesh]
            self.assertGreater(crossed(mesh, np.array([0.5, 1e-5, 1e-5]), np.array([-1.0, 0.0, 0.0])), 0)

    def test_alike_parts_share_a_shape(self) -> None:
        """The tub's 125 solids are drawn in at most 60 calls, and its file is below 1 MB."""
        _, model = of_job(TUB_ID)
        self.assertGreater(len(model.nodes), 100)
        self.assertLess(len({(n.mesh, n.material) for n in model.nodes}), 60)
        self.assertLess(len(model_glb(model)), 1_000_000)

    def test_each_is_named_once(self) -> None:
        """Node names are ids of parts, pieces and things, none of them twice."""
        for name in JOBS:
            names = [n.name for n in of_job(name)[1].nodes]
            self.assertEqual(len(names), len(set(names)))

    def test_how_each_joint_goes_home(self) -> None:
        """Moves come in the order of work, along a unit vector, between two different nodes."""
        for name in JOBS:
            derived, model = of_job(name)
            order = [t.joint for t in derived.work.tasks]
            places = [order.index(m.joint) for m in model.moves]
            self.assertEqual(places, sorted(places))
            self.assertGreater(len(places), 0.7 * len(order), name)
            for m in model.moves:
                self.assertAlmostEqual(float(np.linalg.norm(m.way)), 1, places=6)
                self.assertNotEqual(m.moves, m.stays)

    def test_how_each_joint_is_turned(self) -> None:
        """Threads go clockwise, fused pipe straight in; cemented pipe as the crew is used to; each in a hand's time."""
        told: dict[str, set[str]] = {}
        for name in JOBS:
            derived, model = of_job(name)
            for m in model.moves:
                told.setdefault(m.method, set()).add(m.turn)
                self.assertTrue(1 <= m.hand <= int(derived.plan.conditions.crew) and m.start >= 0)
        self.assertEqual(told["thread"], {"turn it clockwise"})
        self.assertEqual(told["socket fusion"], {"straight in, no turn"})
        self.assertEqual(told["solvent weld"], {"a quarter turn as it lands"})
        plan = draw([point("A", 0, 0, "cap"), point("B", 2, 0, "cap")], [("A", "B")], practices={"twist": "all"})
        moves = build_model(derive(plan, strict=True)).moves
        self.assertEqual({m.turn for m in moves if m.method == "solvent weld"}, {"keep turning all the way home"})

    def test_away_is_away(self) -> None:
        """Drawn apart, a pipe's end leaves its socket: it moves against its way home, out of the fitting."""
        derived, model = of_job(TUB_ID)
        there = {n.name: n for n in model.nodes}
        stops = {str(f.part.id): f for f in derived.placed}
        tried = 0
        for m in model.moves:
            piece, placed = there[m.moves], stops.get(m.stays)
            if piece.kind != "pipe" or placed is None or not piece.mesh.startswith("pipe "):
                continue
            middle = (ends_of(piece)[0] + ends_of(piece)[1]) / 2
            hub = np.mean([o.stop for o in placed.openings], axis=0)
            self.assertLess(float(np.dot(m.way, middle - hub)), 0, m.joint)
            tried += 1
        self.assertGreater(tried, 20)


class AnyPlan(unittest.TestCase):
    """Plans by chance."""

    @settings(max_examples=8)
    @given(RANDOMS)
    def test_whole_and_shared(self, rng: random.Random) -> None:
        """Nothing breaks, every solid is closed, and moving the whole drawing makes no new shape."""
        plan = drawn(rng)
        if plan is None:
            return
        model = build_model(derive(plan))
        for key, mesh in model.meshes.items():
            self.assertTrue(key == "ground" or (mesh.closed and mesh.volume > 0), key)
        moved = plan.model_copy(
            update={"points": tuple(p.model_copy(update={"x": p.x + 8.0, "y": p.y - 16.0}) for p in plan.points)}
        )
        other = build_model(derive(moved))
        fittings = {k for k in model.meshes if " " in k and k.split(" ")[0] in {"pipe", "bend"}}
        self.assertLessEqual(fittings, set(other.meshes))
        self.assertEqual([n.name for n in model.nodes], [n.name for n in other.nodes])

    def test_nothing_drawn(self) -> None:
        """An empty plan has an empty model, and a file that can be read."""
        model = build_model(derive(Plan(name="Nothing")))
        self.assertEqual((model.nodes, model.moves), ((), ()))
        self.assertEqual(model_glb(model)[:4], b"glTF")


class WrittenAsGltf(unittest.TestCase):
    """The file."""

    def test_as_the_standard_has_it(self) -> None:
        """Header, length and chunks of glTF 2.0 (Khronos specification, section 4); nodes named with what they are."""
        derived, model = of_job(TUB_ID)
        states: dict[str, str] = {j.id: "made" for j in derived.assembly.joints}
        written = model_glb(model, states)
        magic, version, length = struct.unpack("<4sII", written[:12])
        self.assertEqual((magic, version, length), (b"glTF", 2, len(written)))
        size, kind = struct.unpack("<I4s", written[12:20])
        self.assertEqual(kind, b"JSON")
        tree = json.loads(written[20 : 20 + size])
        named = {n["name"]: n for n in tree["nodes"]}
        self.assertLessEqual({n.name for n in model.nodes}, set(named))
        self.assertLess(len(tree["meshes"]), len(model.nodes) / 2)
        piece = next(n for n in model.nodes if n.kind == "pipe" and n.length)
        self.assertAlmostEqual(named[piece.name]["extras"]["cut"], piece.length or 0)
        self.assertEqual(set(named[piece.name]["extras"]["states"].values()), {"made"})
        self.assertEqual(tree["asset"]["generator"], "Hydrarch")
        self.assertNotIn(b"http", written)

    def test_read_by_another_library(self) -> None:
        """Read back, it is as large as the model, upright by y."""
        _, model = of_job(TUB_ID)
        scene: Any = trimesh.load(io.BytesIO(model_glb(model)), file_type="glb")
        places = np.array([n.matrix[:3, 3] for n in model.nodes if n.kind in ("pipe", "fitting")])
        self.assertAlmostEqual(float(np.ptp(scene.bounds[:, 1])), float(np.ptp(places[:, 2])), delta=1.0)
        self.assertEqual(len(scene.graph.nodes_geometry), len(model.nodes))

    def test_every_fitting_of_the_demo_is_of_the_catalogue(self) -> None:
        """What a fitting is made of, and what it is called, are the catalogue's own."""
        derived, model = of_job(TUB_ID)
        parts = {str(p.id): p for p in derived.assembly.parts}
        for n in model.nodes:
            if n.kind == "fitting":
                self.assertEqual((n.says, n.material), (parts[n.name].name, fitting(parts[n.name].fitting).material))
