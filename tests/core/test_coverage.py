"""Where the water of heads lands: coefficients against published definitions, water that neither comes nor goes, and
words for the crew.
"""

import re
import unittest
from itertools import pairwise
from math import pi
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.components.outlets import Sprinkler
from hydrarch.core.coverage.evenness import application_rate, christiansen, distribution, scheduling
from hydrarch.core.coverage.landing import Coverage, Head, Painted, coverages, overlaps, painted
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.fill_area import Pattern, filled
from hydrarch.core.hydraulics.flow import Flow, OutletFlow
from hydrarch.core.plan.document import Plan
from tests.core.plans import draw, point, tree

CAUGHT = np.array([10.2, 9.6, 11.1, 8.7, 9.9, 10.8, 7.9, 10.4, 9.2, 12.2, 8.4, 9.6])
GPM, FOOT, INCH = 3.785411784e-3 / 60, 0.3048, 0.0254


def flows(plan: Plan, flow: float, pressure: float) -> dict[str, Flow]:
    """One scenario in which every head gives the same at the same pressure."""
    out = {p.id: OutletFlow(p.id, flow, pressure, 0.0, 0.0, short=False) for p in plan.outlets}
    solved = derive(tree(1)).sizes.flows["all"]
    return {"all": Flow(**{f: getattr(solved, f) for f in Flow.__slots__} | {"outlets": out})}


def heads(
    *spots: tuple[float, float], more: dict[int, dict[str, Any]] | None = None, marks: tuple[dict[str, Any], ...] = ()
) -> Plan:
    """Sprinklers of 10 m throw at 2 bar at those places."""
    points = [
        point(f"S{n}", x, y, "sprinkler", at_pressure=2e5, radius=10.0, name=f"Head {n}", **((more or {}).get(n, {})))
        for n, (x, y) in enumerate(spots, 1)
    ]
    return draw([*points, *marks], [])


def ground(plan: Plan, flow: float = 2e-4, pressure: float = 2e5) -> Painted:
    """The ground they water, painted."""
    found = painted(plan, flows(plan, flow, pressure)["all"])
    assert found is not None
    return found


def covered(plan: Plan, flow: float = 2e-4, pressure: float = 2e5) -> Coverage:
    """What they water."""
    return coverages(plan, flows(plan, flow, pressure))["all"]


SQUARE = ((0.0, 0.0), (10.0, 0.0), (0.0, 10.0), (10.0, 10.0))


class Measures(unittest.TestCase):
    """Of what was caught in cans."""

    def test_published_coefficients(self) -> None:
        """Twelve cans: Christiansen (1942) gives 90.508 %, the low quarter over the mean (ASABE) 84.746 %."""
        self.assertAlmostEqual(christiansen(CAUGHT) * 100, 90.50847458, places=6)
        self.assertAlmostEqual(distribution(CAUGHT) * 100, 84.74576271, places=6)

    def test_rate_of_a_square_pattern(self) -> None:
        """2 gpm at 15 by 15 ft is 96.25 · 2 / 225 = 0.8556 in/h (common practice)."""
        self.assertAlmostEqual(application_rate(2 * GPM, 15 * FOOT, 15 * FOOT) / INCH * 3600, 0.85555556, places=4)

    def test_even_water_is_even(self) -> None:
        """Where all is the same, every coefficient is 1; where a corner has half, it is run twice as long."""
        grid = np.ones((40, 40))
        inside = np.ones((40, 40), dtype=bool)
        self.assertEqual((christiansen(grid), distribution(grid)), (1.0, 1.0))
        self.assertAlmostEqual(scheduling(grid, inside), 1.0)
        grid[:10, :10] = 0.5
        self.assertAlmostEqual(scheduling(grid, inside), grid.mean() / 0.5)
        grid[:10, :10] = 0.0
        self.assertEqual(scheduling(grid, inside), float("inf"))


class Landing(unittest.TestCase):
    """Heads on a plan."""

    def test_no_water_is_lost_or_made(self) -> None:
        """What is painted, summed over its cells, is what the heads give, whole circles and arcs alike."""
        for arc in (2 * pi, pi, pi / 2):
            plan = heads(*SQUARE, more={n: {"arc": arc, "begins": 0.3 * n} for n in range(1, 5)})
            found = ground(plan)
            self.assertAlmostEqual(sum(map(sum, found.rates)) * found.cell**2 / 8e-4, 1.0, delta=0.02)

    def test_head_to_head(self) -> None:
        """Throws of 10 m at 10 m: 100 %; at 14 m: (20 - 14) / 14; heads that face away from each other do not overlap
        at all.
        """
        found = covered(heads(*SQUARE))
        self.assertEqual({round(p.share, 6) for p in found.overlaps}, {1.0})
        self.assertEqual(len(found.overlaps), 4, "the sides, not the diagonals")
        self.assertIn("They overlap: 100% between Head 1 and Head 2; 100% is head to head.", found.says)
        wide = covered(heads((0, 0), (14, 0)))
        self.assertAlmostEqual(wide.overlaps[0].share, 6 / 14)
        self.assertEqual([p.code for p in wide.problems], ["heads-apart"])
        away = heads((0, 0), (14, 0), more={1: {"arc": pi, "begins": pi / 2}, 2: {"arc": pi, "begins": -pi / 2}})
        self.assertAlmostEqual(covered(away).overlaps[0].share, -1.0)

    def test_closer_than_they_need(self) -> None:
        """Throws of 10 m at 4 m: each throws two and a half times as far as the next stands, and that is said, not a
        share over three hundred.
        """
        found = covered(heads((0, 0), (4, 0), (8, 0)))
        self.assertIn(
            "They stand closer than they need: each throws 2.5 times as far as the next stands", found.says[0]
        )

    def test_two_lawns_are_two(self) -> None:
        """Two squares a hundred metres apart water as evenly as one: the ground between them is nobody's, and no dry
        spot is told of it.
        """
        one = covered(heads(*SQUARE))
        two = covered(heads(*SQUARE, *((x + 100, y) for x, y in SQUARE)))
        self.assertEqual([p.code for p in two.problems], [])
        assert one.distribution is not None
        assert two.distribution is not None
        self.assertAlmostEqual(one.distribution, two.distribution, delta=0.05)

    def test_painted_from_the_pressure_that_is_there(self) -> None:
        """At a quarter of its pressure a head throws half as far, and the same square leaves a dry spot in its
        middle.
        """
        good, weak = covered(heads(*SQUARE)), covered(heads(*SQUARE), flow=1e-4, pressure=0.5e5)
        self.assertEqual({h.throw for h in good.heads}, {10.0})
        self.assertEqual({h.throw for h in weak.heads}, {5.0})
        assert good.distribution is not None
        assert weak.distribution is not None
        self.assertGreater(good.distribution, 0.8)
        self.assertLess(weak.distribution, 0.5)
        self.assertIn("dry-spot", [p.code for p in weak.problems])
        self.assertNotIn("dry-spot", [p.code for p in good.problems])
        self.assertIn("stays dry, however long", " ".join(weak.says))

    def test_more_pressure_throws_no_farther(self) -> None:
        """Heads made for 2 bar at 7.6 throw what was typed and no more, and are told to mist; at 2.9 bar they
        do not.
        """
        plan = heads(*SQUARE)
        for pressure, mists in ((2.9e5, False), (7.6e5, True)):
            found = covered(plan, pressure=pressure)
            self.assertEqual({h.throw for h in found.heads}, {10.0})
            self.assertEqual({p.code for p in found.problems} == {"misting"}, mists)

    def test_what_evenness_takes_for_granted_is_said(self) -> None:
        """Still air and where the throws come from, and the same ground in a wind that shortens every throw: worse
        where they stand far apart.
        """
        for apart in (12, 15):
            found = covered(heads((0, 0), (apart, 0), (apart, apart), (0, apart)))
            words = " ".join(found.says)
            self.assertIn("in still air", words)
            self.assertIn("throws as typed", words)
            calm, windy = (int(n) for n in re.findall(r"distribution uniformity (\d+)%", words))
            self.assertLess(windy, calm)

    def test_quarter_heads_on_the_flow_of_whole_ones_do_not_match(self) -> None:
        """A quarter circle on the same nozzle puts down four times as much."""
        plan = heads(*SQUARE, more={1: {"arc": pi / 2, "begins": 0.0}})
        told = next(p for p in covered(plan).problems if p.code == "unmatched")
        self.assertIn("4.0 times as fast", told.says)
        self.assertTrue(any(s.startswith("They match") for s in covered(heads(*SQUARE)).says))

    def test_water_on_a_drive_is_told(self) -> None:
        """A drive along the edge of a half circle's straight side has none of it; turned round it has nearly all that
        falls within it.
        """
        drive = {
            **point("X", -20, -3, "mark", name="Gate drive"),
            "what": {"kind": "mark", "what": "drive", "east": 40.0, "width": 4.0},
        }
        clear = covered(heads((0, 0), more={1: {"arc": pi, "begins": 0.0}}, marks=(drive,)))
        self.assertEqual([p.code for p in clear.problems], [])
        turned = covered(heads((0, 0), more={1: {"arc": pi, "begins": pi}}, marks=(drive,)))
        self.assertEqual([p.code for p in turned.problems], ["overspray"])
        self.assertIn("lands on Gate drive", turned.says[-1])

    def test_one_head_and_heads_in_a_line_have_no_ground_between(self) -> None:
        """Then no coefficient is told, and nothing breaks; a plan without heads has no coverage, nor one whose heads
        get no water.
        """
        for plan in (heads((0, 0)), heads((0, 0), (8, 0), (16, 0)), heads((0, 0), (0, 0))):
            found = covered(plan)
            self.assertEqual((found.distribution, found.mean), (None, None))
        self.assertEqual(coverages(heads((0, 0)), flows(heads((0, 0)), 0.0, 0.0)), {})
        self.assertEqual(derive(draw([], [])).watered, {})

    def test_in_the_chain(self) -> None:
        """From the solved pressures of a plan; its problems are told in Size."""
        done = derive(tree(4), strict=True)
        (found,) = done.watered.values()
        self.assertEqual(len(found.heads), 4)
        for a, b in pairwise(found.heads):
            self.assertGreaterEqual(a.throw, b.throw, "less pressure further on, a shorter throw")
        self.assertTrue(
            {"heads-apart", "dry-spot", "overspray", "unmatched", "misting"} >= {p.code for p in found.problems}
        )

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(
            st.tuples(st.floats(-50, 50), st.floats(-50, 50), st.floats(0.1, 2 * pi), st.floats(-6, 6)),
            min_size=1,
            max_size=8,
        ),
        st.floats(0.2, 3.0),
    )
    def test_whatever_stands_where(self, spots: list[tuple[float, float, float, float]], share: float) -> None:
        """No heads, however they stand, break it; shares are at most what both throws make of the distance,
        coefficients at most 1.
        """
        plan = heads(
            *[(x, y) for x, y, *_ in spots],
            more={n: {"arc": a, "begins": b} for n, (*_, a, b) in enumerate(spots, 1)}
            if all(a >= pi / 36 for *_, a, _ in spots)
            else None,
        )
        found = covered(plan, pressure=2e5 * share)
        for part in (found.distribution, found.christiansen):
            self.assertLessEqual(part or 0.0, 1.0 + 1e-9)
        self.assertEqual(found.overlaps, overlaps(found.heads))
        self.assertTrue(all(isinstance(h, Head) for h in found.heads))


class Filling(unittest.TestCase):
    """An area between corners."""

    def area(self, *corners: tuple[float, float]) -> Plan:
        """Marks at the corners of an area."""
        return draw([point(f"X{n}", x, y, "mark") for n, (x, y) in enumerate(corners, 1)], [])

    def test_a_square_of_twenty_metres(self) -> None:
        """Every 10 m: nine heads, quarters in the corners, halves along the sides, one whole in the middle; it reaches
        head to head.
        """
        plan = self.area((0, 0), (20, 0), (20, 20), (0, 20))
        done = filled(plan, ["X1", "X2", "X3", "X4"], 10.0)
        made = [p for p in done.plan.points if isinstance(p.what, Sprinkler)]
        arcs = sorted(round(p.what.arc * 180 / pi) for p in made if isinstance(p.what, Sprinkler))
        self.assertEqual(arcs, [90] * 4 + [180] * 4 + [360])
        self.assertEqual({p.what.radius for p in made if isinstance(p.what, Sprinkler)}, {10.0})
        found = covered(done.plan, pressure=2.1e5)
        self.assertEqual({round(o.share, 3) for o in found.overlaps}, {1.0})
        assert found.distribution is not None
        mesh = ground(done.plan)
        inside = sum(map(sum, mesh.rates)) * mesh.cell**2
        self.assertAlmostEqual(inside / (9 * 2e-4), 1.0, delta=0.02)
        self.assertIn("9 heads, square, 10.00 m apart, 8 of them over a part of the circle.", done.says)

    def test_triangular_rows_stand_between(self) -> None:
        """Rows are √3/2 of the spacing apart and every other one is shifted by half of it."""
        done = filled(self.area((0, 0), (30, 0), (30, 26), (0, 26)), ["X1", "X2", "X3", "X4"], 10.0, "triangular")
        rows = sorted({round(p.y, 2) for p in done.plan.points if p.what.kind == "sprinkler"})
        self.assertEqual(rows, [0.0, 8.66, 17.32, 25.98])
        second = sorted(round(p.x, 3) for p in done.plan.points if p.what.kind == "sprinkler" and round(p.y, 2) == 8.66)
        self.assertEqual(second, [5.0, 15.0, 25.0])

    def test_what_cannot_be_filled(self) -> None:
        """Two corners, corners in a line, a spacing that is none, too many heads."""
        for corners, spacing, says in (
            (((0, 0), (9, 0)), 3.0, "three points"),
            (((0, 0), (9, 0), (18, 0)), 3.0, "in a line"),
            (((0, 0), (9, 0), (9, 9)), 0.0, "another spacing"),
            (((0, 0), (900, 0), (900, 900)), 1.0, "heads"),
            (((0, 0), (50000, 0), (50000, 50000)), 0.2, "heads"),
        ):
            plan = self.area(*corners)
            with self.subTest(says=says), self.assertRaisesRegex(HydrarchError, says):
                filled(plan, [p.id for p in plan.points], spacing)

    @settings(max_examples=30, deadline=None)
    @given(
        st.lists(st.tuples(st.floats(0, 60), st.floats(0, 60)), min_size=3, max_size=7, unique=True),
        st.floats(4, 20),
        st.sampled_from(["square", "triangular"]),
    )
    def test_heads_keep_to_the_area(self, corners: list[tuple[float, float]], spacing: float, pattern: Pattern) -> None:
        """None stands outside what its corners span, none on another, and the plan opens again."""
        plan = self.area(*corners)
        try:
            done = filled(plan, [p.id for p in plan.points], spacing, pattern)
        except HydrarchError:
            return
        made = [p for p in done.plan.points if p.what.kind == "sprinkler"]
        xs, ys = [x for x, _ in corners], [y for _, y in corners]
        for p in made:
            self.assertTrue(min(xs) - 0.01 <= p.x <= max(xs) + 0.01 and min(ys) - 0.01 <= p.y <= max(ys) + 0.01)
        self.assertEqual(len({(p.x, p.y) for p in made}), len(made))
        self.assertEqual(Plan.model_validate_json(done.plan.model_dump_json()), done.plan)


if __name__ == "__main__":
    unittest.main()
