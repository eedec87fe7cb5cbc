"""Every pressure pipe of the catalogue in a plan: whatever it is, the chain goes through and says what it
cannot join.
"""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.catalogue.pipes import series_list
from hydrarch.core.components.base import kinds
from hydrarch.core.derivation.chain import Derived, derive
from hydrarch.core.making.steps import procedure
from tests.core.plans import draw, make_plan, point

PIPES = [(f.id, p.size) for f in series_list() if f.kind == "pressure" for p in f.sizes]


def line(one: tuple[str, str], two: tuple[str, str]) -> Derived:
    """A tank, a corner, a branch with a valve and a tap, and a cap, in two pipes."""
    spots = [
        point("A", 0, 0, "tank", water_level=25.0),
        point("B", 12, 0, "bend"),
        point("J", 12, 12, "junction"),
        point("V", 20, 12, "valve"),
        point("T", 28, 12, "tap", height=0.8),
        point("C", 12, 24, "cap"),
    ]
    runs = [("A", "B"), ("B", "J"), ("J", "V"), ("V", "T"), ("J", "C")]
    pipes = [{"series": s, "size": z} for s, z in (one, one, two, two, one)]
    return derive(make_plan(spots, runs, runs_more=pipes))


class EveryPipe(unittest.TestCase):
    """No pipe stops the chain."""

    @settings(max_examples=60)
    @given(st.sampled_from(PIPES), st.sampled_from(PIPES))
    def test_the_chain_goes_through(self, one: tuple[str, str], two: tuple[str, str]) -> None:
        """Any two pipes together: what cannot be joined is told at its point, all else has parts, lengths, steps and an
        order.
        """
        done = line(one, two)
        told = {p.where for p in done.problems() if p.code in ("no-way", "no-elbow")}
        joined = {j.point for j in done.assembly.joints if j.point}
        for place in "ABJVTC":
            self.assertTrue(place in told or place in joined or place in {b.point for b in done.assembly.bends}, place)
        self.assertEqual(len(done.work.tasks), len(done.assembly.joints))
        self.assertTrue(all(k >= 0 for k in done.assembly.minor.values()))
        plan = make_plan([point("A", 0, 0, "tank")], [])
        for joint in done.assembly.joints:
            steps = procedure(plan, joint, 6e5).steps
            self.assertTrue(steps, joint.method)
            self.assertFalse([s for s in steps if "{" in s.do + s.looks], joint.method)

    def test_every_size_by_itself(self) -> None:
        """Each pipe alone."""
        for which in PIPES:
            with self.subTest(pipe=which):
                done = line(which, which)
                self.assertGreater(len(done.cuts.pieces), 2)


class EveryKind(unittest.TestCase):
    """Nothing that may stand on a drawing stops the chain, where it belongs or not."""

    def test_every_kind_everywhere(self) -> None:
        """Each kind of point alone, at an end, in a line and where three runs meet, in four pipes: it is joined or told
        why not.
        """
        for kind in kinds():
            for name in ("pvc40", "pe-sidr7", "galv40", "ppr-s5"):
                drain = kind in ("drain_inlet", "outfall")
                pipe = (
                    {"series": "sewer-sdr35", "size": "4"}
                    if drain
                    else {"series": name, "size": "32" if name == "ppr-s5" else "1"}
                )
                spots = [
                    point("A", 0, 0, "outfall" if drain else "tank", ground=4.0),
                    point("X", 9, 0, kind),
                    point("B", 18, 0, "bend" if drain else "tap"),
                    point("C", 9, 9, "bend" if drain else "cap"),
                ]
                for count in range(4):
                    with self.subTest(kind=kind, pipe=name, runs=count):
                        runs = [("A", "X"), ("X", "B"), ("X", "C")][:count]
                        done = derive(draw(spots, runs, runs_more=[pipe] * count), strict=True)
                        self.assertEqual(len(done.work.tasks), len(done.assembly.joints))
                        self.assertTrue(all(p.says and p.mend for p in done.problems()))


class Dividing(unittest.TestCase):
    """What parts a line for its tests."""

    def test_unions_and_valves_part_a_line(self) -> None:
        """A valve is shut, a union opened and plugged; caps end a section by themselves (common practice)."""
        spots = [
            point("A", 0, 0, "tank"),
            point("V", 9, 0, "valve", name="Yard valve"),
            point("U", 18, 0, "union", name="Mid union"),
            point("C", 27, 0, "cap"),
        ]
        done = derive(make_plan(spots, [("A", "V"), ("V", "U"), ("U", "C")]))
        told = [
            ("shut Yard valve", "plug the open end at tank A"),
            ("shut Yard valve", "open Mid union and plug it"),
            ("open Mid union and plug it",),
        ]
        self.assertEqual([s.isolate for s in done.sections], told)
        self.assertEqual([s.runs for s in done.sections], [("R1",), ("R2",), ("R3",)])
