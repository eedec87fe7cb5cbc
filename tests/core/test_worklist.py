"""The order of work: what may still turn, which joints set an angle, whose hands hold which run, and how long cement
stays wet.
"""

import random
import unittest
from collections.abc import Iterator
from itertools import combinations

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import Unknown
from hydrarch.core.cutting.bill import cement_body
from hydrarch.core.derivation.chain import Derived, derive
from hydrarch.core.making.skin import joints_ahead, skin_time
from hydrarch.core.making.worklist import Glueup
from hydrarch.core.plan.document import Plan
from hydrarch.demo import herb_bank, thistledown
from tests.core.plans import RANDOMS, make_plan, point

SERIES = ("pvc40", "pvc80", "galv40", "pe-sidr7", "pvc-sdr21")


def grown(rng: random.Random, crew: str = "1") -> Plan:
    """A random small tree on a grid of 12 m with taps at its ends, each run of any series."""
    places = {(0, 0): "A"}
    points, more = [point("A", 0, 0, "tank", water_level=40.0)], list[dict[str, str]]()
    runs: list[tuple[str, str]] = []
    for n in range(1, rng.randrange(3, 9)):
        x, y = rng.choice([p for p in places if sum(places[p] in r for r in runs) < (1 if places[p] == "A" else 3)])
        spot = rng.choice([(x + 1, y), (x, y + 1), (x, y - 1)])
        if spot in places:
            continue
        places[spot] = f"P{n}"
        points.append(point(f"P{n}", 12 * spot[0], 12 * spot[1], "junction"))
        runs.append((places[x, y], f"P{n}"))
        more.append({"series": rng.choice(SERIES), "size": rng.choice(["3/4", "1"])})
    ends = [p for p in points[1:] if sum(p["id"] in r for r in runs) == 1]
    for p in ends:
        p["what"] = {"kind": "tap", "height": 1.0}
    return make_plan(points, runs, runs_more=more, conditions={"crew": crew})


def ring(middle: str) -> Plan:
    """A ring of threaded steel with a point on it of kind `middle`."""
    spots = [
        point("A", 0, 0, "tank", water_level=30.0),
        point("J", 3, 0, "junction"),
        point("B", 3, 3, "bend"),
        point("U", 5, 3, middle),
        point("C", 7, 3, "bend"),
        point("D", 7, 0, "bend"),
    ]
    runs = [("A", "J"), ("J", "B"), ("B", "U"), ("U", "C"), ("C", "D"), ("D", "J")]
    return make_plan(spots, runs, runs_more=[{"series": "galv40", "size": "1"}] * 6)


class Order(unittest.TestCase):
    """Joints and glue-ups."""

    def check(self, done: Derived) -> None:
        """Every joint once, group by group; threads first on the bench; glued angles after all else there."""
        joints = done.assembly.named
        order = [t.joint for t in done.work.tasks]
        self.assertEqual(sorted(order), sorted(joints))
        self.assertEqual(order, [j for g in done.work.groups for j in g.joints])
        angles = {t.joint for t in done.work.tasks if t.angle}
        for group in done.work.groups:
            self.assertEqual({j for j in group.joints if j in angles}, set(group.angles))
            if group.id.startswith("at "):
                rank = [0 if joints[j].method == "thread" else 2 if j in angles else 1 for j in group.joints]
                self.assertEqual(rank, sorted(rank), group.title)

    def test_the_demo(self) -> None:
        """Both demo jobs can be made in their order, and nothing threaded comes too late."""
        for plan in (thistledown(), herb_bank()):
            done = derive(plan)
            self.check(done)
            self.assertNotIn("cannot-turn", {p.code for p in done.problems()})
            heads = [j.id for j in done.assembly.joints if j.role == "head"]
            self.assertEqual(sorted(done.work.groups[-1].joints), sorted(heads))

    @settings(max_examples=25, deadline=None)
    @given(RANDOMS)
    def test_any_tree(self, rng: random.Random) -> None:
        """In a tree of any pipes every joint has its place, and what stands at a point is made before pipe is led to
        it.
        """
        done = derive(grown(rng))
        self.check(done)
        seen: set[str] = set()
        for group in done.work.groups:
            if group.id.startswith("at "):
                self.assertFalse(group.id[3:] in seen, group.title)
            else:
                seen |= {j.point for j in done.assembly.joints if j.id in group.joints and j.point and j.b.part}

    def test_angles(self) -> None:
        """Two elbows on one stick: the first end goes in free, the second sets the angle; a coil between them sets
        none.
        """
        for name in ("pvc40", "pe-sidr7"):
            spots = [
                point("A", 0, 0, "tank", water_level=9.0),
                point("B", 0.4, 0, "bend"),
                point("C", 0.4, 0.4, "bend"),
                point("D", 0.8, 0.4, "cap"),
            ]
            done = derive(
                make_plan(spots, [("A", "B"), ("B", "C"), ("C", "D")], runs_more=[{"series": name, "size": "1"}] * 3)
            )
            middle = next(g for g in done.work.groups if g.id == "run R2")
            self.assertEqual(middle.angles, middle.joints[-1:] if name == "pvc40" else ())

    def test_a_ring_of_threads_wants_a_union(self) -> None:
        """Threaded pipe cannot close a ring, for nothing is left to turn; with a union in it, it can (common
        practice).
        """
        told = [p for p in derive(ring("valve")).problems() if p.code == "cannot-turn"]
        self.assertEqual(len(told), 1)
        self.assertIn("union", told[0].mend)
        self.assertNotIn("cannot-turn", {p.code for p in derive(ring("union")).problems()})

    def test_a_saddle_is_drilled_first(self) -> None:
        """Heads on saddles: at each the saddle is set and drilled before its riser is threaded in, whatever else is
        threaded first.
        """
        points = [point("A", 0, 0, "tank", water_level=40.0)]
        points += [point(f"S{n}", 10.0 * n, 0, "sprinkler", depth=0.4, height=0.0) for n in range(1, 4)]
        points.append(point("E", 40, 0, "cap", depth=0.4))
        pairs = [("A", "S1"), ("S1", "S2"), ("S2", "S3"), ("S3", "E")]
        pipe = [{"series": "pvc40", "size": "2"}] * 4
        done = derive(make_plan(points, pairs, runs_more=pipe, practices={"branch": "saddle"}))
        joints, order = done.assembly.named, {t.joint: n for n, t in enumerate(done.work.tasks)}
        saddles = {joints[j].point: n for j, n in order.items() if joints[j].method == "saddle"}
        self.assertEqual(set(saddles), {"S1", "S2", "S3"})
        for joint, n in order.items():
            if joints[joint].method == "thread" and joints[joint].point in saddles:
                self.assertGreater(n, saddles[joints[joint].point])

    def test_no_iron_beside_the_pump(self) -> None:
        """What is fused to a pump's adapter is fused before that is screwed in: a master's order (common practice)."""
        curve = [{"flow": 0.0, "head": 34.0}, {"flow": 5e-4, "head": 29.0}, {"flow": 1e-3, "head": 17.0}]
        spots = [
            point("K", 0, 0, "tank", water_level=3.0),
            point("P", 4, 0, "pump", curve=curve, npsh=2.0),
            point("T", 8, 0, "tap", height=1.0, flow=2e-4),
        ]
        ppr = [{"series": "ppr-s2.5", "size": "32"}] * 2
        done = derive(make_plan(spots, [("K", "P"), ("P", "T")], runs_more=ppr, conditions={"market": "elsewhere"}))
        at = next(g for g in done.work.groups if g.id == "at P")
        methods = [done.assembly.named[j].method for j in at.joints]
        self.assertIn("socket fusion", methods)
        self.assertEqual(methods, sorted(methods, key=lambda m: m == "thread"))

    def test_a_glued_ring_is_told(self) -> None:
        """The last joint of a glued ring says that both ends are held."""
        says = [t.why for t in derive(thistledown()).work.tasks if "closes a ring" in t.why]
        self.assertEqual(len(says), 1)


class Hands(unittest.TestCase):
    """Whose is what."""

    def overlaps(self, groups: tuple[Glueup, ...]) -> Iterator[tuple[Glueup, Glueup]]:
        """Pairs of glue-ups that go on at once."""
        for a, b in combinations(groups, 2):
            if a.start < b.start + b.lasts - 1e-9 and b.start < a.start + a.lasts - 1e-9:
                yield a, b

    @settings(max_examples=25, deadline=None)
    @given(RANDOMS, st.sampled_from("1234"))
    def test_no_two_people_on_one_run(self, rng: random.Random, crew: str) -> None:
        """What goes on at once is in different hands and on different runs; there are no more hands than people."""
        groups = derive(grown(rng, crew)).work.groups
        self.assertTrue(all(1 <= g.hand <= int(crew) for g in groups))
        for a, b in self.overlaps(groups):
            self.assertNotEqual(a.hand, b.hand)
            self.assertFalse(set(a.runs) & set(b.runs))

    def test_two_are_quicker(self) -> None:
        """Two people end the demo's joints sooner than one, and the heads wait for both."""
        ends = []
        for crew in ("1", "2"):
            plan = thistledown()
            groups = derive(
                plan.model_copy(update={"conditions": plan.conditions.model_copy(update={"crew": crew})})
            ).work.groups
            ends.append(groups[-1].start)
            self.assertGreaterEqual(groups[-1].start, max(g.start + g.lasts for g in groups[:-1]) - 1e-9)
        self.assertLess(ends[1], ends[0])


class Skin(unittest.TestCase):
    """How long cement stays wet."""

    def test_heat_shortens_it(self) -> None:
        """Warmer is quicker, heavy stays longer than medium, and beyond the table nothing is guessed (from memory)."""
        for body in ("medium", "heavy"):
            times = [skin_time(body, 273.15 + t) for t in range(-10, 50, 5)]
            self.assertEqual(times, sorted(times, reverse=True))
        self.assertGreater(skin_time("heavy", 293.15), skin_time("medium", 293.15))
        self.assertEqual(skin_time("medium", 293.15), 60.0)
        with self.assertRaises(Unknown):
            skin_time("thin", 293.15)

    def test_joints_ahead(self) -> None:
        """A small joint is held 30 s (common practice), so at 20 °C three fit into a minute of wet cement; in the heat
        one; large ones singly.
        """
        self.assertEqual(joints_ahead("1", "medium", 293.15), 3)
        self.assertEqual(joints_ahead("1", "medium", 313.15), 1)
        self.assertEqual(joints_ahead("4", "heavy", 293.15), 1)

    def test_body(self) -> None:
        """Medium up to 2 in, heavy above and for flexible pipe (common practice)."""
        self.assertEqual([cement_body([s], False) for s in ("1/2", "2", "3")], ["medium", "medium", "heavy"])
        self.assertEqual(cement_body(["1"], True), "heavy")
