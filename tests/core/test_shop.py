"""The shop drawing: bodies in their places, to the catalogue's dimensions, and where two of them meet."""

import unittest
from dataclasses import replace
from itertools import pairwise
from math import dist

import numpy as np

from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.cutting.shop import FittingBody, between, joint_places
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.plan.document import Plan
from hydrarch.demo import herb_bank, thistledown
from hydrarch.formats.tables import parts_text
from tests.core.plans import codes, draw, point


def line(*spots: tuple[str, float, float, str], size: str = "1") -> Plan:
    """A line of 1 in PVC through those points, a mains at its beginning, at one level on brackets."""
    points = [point(n, x, y, kind, depth=-1.0) for n, x, y, kind in spots]
    runs = [(a[0], b[0]) for a, b in pairwise(spots)]
    return draw(points, runs, runs_more=[{"series": "pvc40", "size": size, "situation": "on bracket"}] * len(runs))


def at(done: Derivation, place: str) -> list[FittingBody]:
    """The bodies at a point."""
    return [b for b in done.bodies if b.point == place]


class InPlace(unittest.TestCase):
    """Each fitting where it is."""

    def test_an_elbow_by_hand(self) -> None:
        """A 1 in elbow has two barrels square to each other, each as long as centre to stop and the socket over the
        pipe.
        """
        done = derive(line(("M", 0, 0, "mains"), ("B", 2, 0, "bend"), ("T", 2, 2, "cap")))
        (elbow,) = at(done, "B")
        part = fitting("pvc-elbow-90-1").ports[0]
        self.assertEqual((elbow.name, len(elbow.barrels)), ("PVC elbow 90° 1", 2))
        for barrel in elbow.barrels:
            self.assertAlmostEqual(dist(barrel.a, barrel.b), part.stop + part.end.engagement)
            self.assertGreater(2 * barrel.radius, part.end.diameter)
        one, two = ([b - a for a, b in zip(r.a, r.b, strict=True)] for r in elbow.barrels)
        self.assertAlmostEqual(sum(x * y for x, y in zip(one, two, strict=True)), 0.0)

    def test_a_stack_is_in_line(self) -> None:
        """What leads from pipe to a thread lies on the pipe's axis, part after part, the last at the thing itself."""
        done = derive(line(("M", 0, 0, "mains"), ("T", 2, 0, "cap")))
        stack = at(done, "M")
        self.assertTrue(stack)
        for body in stack:
            for barrel in body.barrels:
                self.assertEqual((round(barrel.a[1], 9), round(barrel.b[1], 9)), (0.0, 0.0))
                self.assertGreaterEqual(min(barrel.a[0], barrel.b[0]), -1e-9)

    def test_pipe_ends_in_its_bodies(self) -> None:
        """Every piece's two ends lie inside a body at the points it goes between: what is drawn is what is cut."""
        for plan in (thistledown(), herb_bank()):
            done = derive(plan)
            named = {b.part: b for b in done.bodies}
            inside = 0
            for joint in done.assembly.joints:
                part = joint.b.part
                if (
                    joint.role != "stack"
                    or joint.number != 1
                    or joint.a.pipe is None
                    or part not in named
                    or joint.point is None
                ):
                    continue
                taken = done.assembly.taken[joint.end]  # type: ignore[index]
                away = [max(dist(done.layout.places[joint.point], e) for e in (r.a, r.b)) for r in named[part].barrels]
                self.assertGreaterEqual(max(away), taken.offset - 1e-9, joint.id)
                inside += 1
            self.assertGreater(inside, 5)

    def test_joints_lie_in_the_bodies_that_hold_them(self) -> None:
        """In the demo every joint of a stack or of what stands at a point lies inside a body of that point, or at the
        thing itself.
        """
        for plan in (thistledown(), herb_bank()):
            done = derive(plan)
            places = joint_places(plan, done.layout, done.assembly)
            seen = 0
            for joint in done.assembly.joints:
                mine = [r for b in at(done, joint.point or "") for r in b.barrels]
                if joint.id not in places or not mine:
                    continue
                spot = np.array(places[joint.id])
                apart = min(between(spot, spot, np.array(r.a), np.array(r.b)) for r in mine)
                self.assertLess(apart, 0.03, joint.id)
                seen += 1
            self.assertGreater(seen, 20)

    def test_joints_between_sticks_lie_a_stick_apart(self) -> None:
        """20 ft (6.096 m) sticks from where the pipe begins: by hand, on two runs with a plain point between, whichever
        way each is drawn.
        """
        spots = [
            point("M", 0, 0, "mains", depth=-1.0),
            point("B", 10, 0, "bend", depth=-1.0),
            point("T", 20, 0, "cap", depth=-1.0),
        ]
        for runs in ([("M", "B"), ("B", "T")], [("B:b", "M"), ("T", "B:a")]):
            done = derive(
                draw(spots, runs, runs_more=[{"series": "pvc40", "size": "1", "situation": "on bracket"}] * 2)
            )
            begins = done.assembly.taken[done.assembly.lengths[0].start].offset
            found = {}
            for joint in done.assembly.joints:
                if joint.role == "length":
                    at_a, at_b = (
                        done.layout.places[p][0]
                        for p in (done.layout.lines[str(joint.run)].a, done.layout.lines[str(joint.run)].b)
                    )
                    found[joint.number] = at_a + (joint.share or 0.0) * (at_b - at_a)
            self.assertEqual(len(found), 3)
            for n, where in found.items():
                self.assertAlmostEqual(where, begins + n * 6.096, places=6)

    def test_valves_stand_through_their_point(self) -> None:
        """A valve's two barrels go both ways from its point, and its family is known, for the handle."""
        done = derive(line(("M", 0, 0, "mains"), ("V", 1, 0, "valve"), ("T", 2, 0, "cap")))
        (valve,) = at(done, "V")
        self.assertEqual((valve.family, len(valve.barrels)), ("valve", 2))
        self.assertEqual(sorted(round(r.b[0] - 1.0, 6) > 0 for r in valve.barrels), [False, True])


class Meeting(unittest.TestCase):
    """Bodies that want the same room."""

    def two(self, apart: float) -> Plan:
        """Two lines side by side with a valve in each."""
        spots, runs = [], []
        for n, y in enumerate((0.0, apart)):
            spots += [
                point(f"M{n}", 0, y, "mains", depth=-1.0),
                point(f"V{n}", 1, y, "valve", depth=-1.0),
                point(f"C{n}", 2, y, "cap", depth=-1.0),
            ]
            runs += [(f"M{n}", f"V{n}"), (f"V{n}", f"C{n}")]
        return draw(spots, runs, runs_more=[{"series": "pvc40", "size": "2", "situation": "on bracket"}] * 4)

    def test_side_by_side(self) -> None:
        """Two 2 in valves 60 mm apart meet, and by how much is reported; 100 mm apart they stand clear."""
        told = codes(self.two(0.060))["bodies-meet"]
        valve = fitting("pvc-ball-valve-2").ports[0].end.diameter * 1.22
        self.assertIn(f"{1e3 * (valve - 0.060):.0f} mm", told)
        self.assertNotIn("bodies-meet", codes(self.two(0.100)))

    def test_what_is_joined_does_not_meet(self) -> None:
        """The fittings of one line and the demo's jobs stand clear of each other."""
        for plan in (
            thistledown(),
            herb_bank(),
            line(("M", 0, 0, "mains"), ("B", 0.2, 0, "bend"), ("T", 0.2, 0.3, "cap")),
        ):
            self.assertNotIn("bodies-meet", codes(plan))


class AsAMessage(unittest.TestCase):
    """The list of parts as text."""

    def test_it_says_no_more_than_it_knows(self) -> None:
        """Of an empty drawing it does not say that all is in stock; with a problem that stops the work it says that
        parts may be missing.
        """
        empty = draw([], [])
        self.assertIn("no part follows from the drawing", parts_text(empty, derive(empty).bill))
        plan = draw([point("M", 0, 0, "mains"), point("T", 9, 0, "tap")], [("M", "T")])
        bill = derive(plan).bill
        stocked = [replace(r, have=r.count) for r in bill]
        self.assertIn("all of this list is in stock", parts_text(plan, stocked))
        self.assertIn("2 problems to fix first; parts may be missing", parts_text(plan, bill, 2))
        self.assertNotIn("Not settled", parts_text(plan, bill))


if __name__ == "__main__":
    unittest.main()
