"""Any line, any well, any measured source within reason: laws that hold whatever is asked."""

import unittest
from dataclasses import replace
from itertools import pairwise
from math import isfinite, pi

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.pipes import series, series_list
from hydrarch.core.hydraulics.supply import EXPONENT, Flowing, bucket, supply_curve
from hydrarch.core.hydraulics.water import water
from hydrarch.core.sizing.one_line import LineQuestion, friction_table, line_sizes
from hydrarch.core.wells.droppipe import DropPipes, Duty, drop_pipes
from hydrarch.core.wells.hole import Hole

PRESSED = [s.id for s in series_list() if s.kind in ("pressure", "drip")]


def numbers(low: float, high: float) -> st.SearchStrategy[float]:
    """A number from `low` to `high`."""
    return st.floats(low, high, allow_nan=False)


lines = st.builds(
    LineQuestion,
    st.sampled_from(PRESSED),
    numbers(1e-6, 5e-3),
    numbers(1.0, 500.0),
    rise=numbers(-20.0, 20.0),
    friction=st.sampled_from(["hazen-williams", "darcy-weisbach"]),
    max_velocity=numbers(0.5, 3.0),
    fittings=st.lists(st.tuples(st.just("elbow"), st.integers(0, 20)), max_size=1).map(tuple),
)


class AnyLine(unittest.TestCase):
    """The bench's line."""

    @settings(max_examples=60)
    @given(lines)
    def test_numbers_and_pick(self, q: LineQuestion) -> None:
        """Every number is finite, the pick holds, nothing smaller does, and its neighbours are the next sizes made."""
        found = line_sizes(q)
        for row in found.rows:
            self.assertTrue(
                all(
                    isfinite(x)
                    for x in (row.velocity, row.reynolds, row.friction, row.fittings, row.pressure, row.surge.peak)
                )
            )
        holding = [r.size for r in found.rows if r.holds]
        self.assertEqual(found.pick, holding[0] if holding else None)
        if found.pick is not None:
            sizes = [r.size for r in found.rows]
            at = sizes.index(found.pick)
            self.assertEqual(found.below, sizes[at - 1] if at else None)
            self.assertEqual(found.above, sizes[at + 1] if at + 1 < len(sizes) else None)

    @settings(max_examples=60)
    @given(lines, numbers(1.01, 3.0))
    def test_more_of_anything_loses_more(self, q: LineQuestion, more: float) -> None:
        """More water or more length never loses less in any size; a larger size never more; velocity goes as
        the flow.
        """
        usual = line_sizes(q).rows
        for a, b in pairwise(usual):
            self.assertLessEqual(b.friction + b.fittings, (a.friction + a.fittings) * (1 + 1e-9))
        for larger in (replace(q, flow=q.flow * more), replace(q, length=q.length * more)):
            for a, b in zip(usual, line_sizes(larger).rows, strict=True):
                self.assertGreaterEqual(b.friction, a.friction * (1 - 1e-9))
        wide = line_sizes(replace(q, flow=q.flow * more)).rows
        for a, b in zip(usual, wide, strict=True):
            self.assertAlmostEqual(b.velocity, a.velocity * more, delta=1e-9 + 1e-9 * b.velocity)

    @settings(max_examples=40)
    @given(lines, numbers(-30.0, 30.0))
    def test_a_rise_is_weight_alone(self, q: LineQuestion, higher: float) -> None:
        """Lifting the far end asks ρ·g·h more at the foot, in every size alike, and changes no loss."""
        weight = water(q.temperature).weight
        for a, b in zip(line_sizes(q).rows, line_sizes(replace(q, rise=q.rise + higher)).rows, strict=True):
            self.assertAlmostEqual(b.pressure - a.pressure, higher * weight, delta=1e-6 * weight)
            self.assertEqual((a.friction, a.fittings), (b.friction, b.fittings))

    @settings(max_examples=30)
    @given(st.sampled_from(PRESSED), st.lists(numbers(1e-5, 1e-2), min_size=2, max_size=6, unique=True))
    def test_the_printed_table_is_the_same_sum(self, name: str, flows: list[float]) -> None:
        """A table's loss in 100 m is the line's own, and it is blank just where water would run too fast."""
        table = friction_table(name, tuple(sorted(flows)))
        for flow, losses, speeds in zip(table.flows, table.losses, table.velocities, strict=True):
            rows = line_sizes(LineQuestion(name, flow, 100.0)).rows
            for item, row, loss, speed in zip(series(name).sizes, rows, losses, speeds, strict=True):
                v = flow / (pi / 4 * item.bore**2)
                self.assertEqual(loss is None, v > 3.5 * (1 + 1e-12) or (speed is None))
                if loss is not None:
                    self.assertAlmostEqual(loss, row.friction, delta=1e-9 + 1e-9 * loss)


holes = st.builds(
    lambda depth, share, rest, casing, flow, drawn: Hole(
        depth, casing, rest * share * depth, share * depth, flow, drawn
    ),
    numbers(20.0, 300.0),
    numbers(0.5, 0.98),
    numbers(0.05, 0.7),
    numbers(0.1, 0.2),
    numbers(5e-4, 5e-3),
    numbers(0.1, 5.0),
)
duties = st.builds(
    Duty,
    numbers(1e-4, 2e-3),
    numbers(0.0, 5e5),
    horsepower=numbers(0.3, 5.0),
    shut_off=numbers(50.0, 400.0),
    aggressive=st.booleans(),
    iron=st.booleans(),
    sand=st.booleans(),
    hoist=st.booleans(),
    school=st.sampled_from(["pulling", "strength"]),
)


def asked(hole: Hole, duty: Duty) -> DropPipes:
    """The answer, leaving out wells that cannot give that much."""
    try:
        return drop_pipes(hole, duty)
    except HydrarchError:
        assume(False)
        raise


class AnyWell(unittest.TestCase):
    """The drop pipe."""

    @settings(max_examples=60)
    @given(holes, duties)
    def test_ranking_and_reasons(self, hole: Hole, duty: Duty) -> None:
        """The sound ones come first, cheapest first; each of the others has its reasons, each a sentence of its own."""
        found = asked(hole, duty)
        sound = [c for c in found.candidates if not c.rejected]
        self.assertEqual(list(found.candidates[: len(sound)]), sound)
        self.assertEqual([c.yearly for c in sound], sorted(c.yearly for c in sound))
        for c in found.candidates:
            self.assertEqual(len(set(c.rejected)), len(c.rejected))
            self.assertAlmostEqual(c.yearly, c.energy + c.price / c.life)
            self.assertEqual(c.pulls > c.holds, any("may carry" in r for r in c.rejected))
            self.assertEqual(c.bottom_shut > c.rating, any("at the pump it sees" in r for r in c.rejected))
        self.assertEqual(found.head is None, not sound)

    @settings(max_examples=40)
    @given(holes, duties)
    def test_strength_bars_nothing_that_pulling_allows(self, hole: Hole, duty: Duty) -> None:
        """The school that hangs polyethylene to its strength keeps all that the cautious school keeps."""
        kept = {
            school: {(c.series, c.size) for c in asked(hole, replace(duty, school=school)).candidates if not c.rejected}
            for school in ("pulling", "strength")
        }
        self.assertLessEqual(kept["pulling"], kept["strength"])

    @settings(max_examples=40)
    @given(holes, duties, numbers(1.05, 1.6))
    def test_deeper_hangs_more(self, hole: Hole, duty: Duty, deeper: float) -> None:
        """A deeper pump in a deeper hole hangs more, rubs more, and is barred by no fewer limits."""
        lower = replace(hole, pump=hole.pump * deeper, depth=hole.depth * deeper)
        shallow, deep = ({(c.series, c.size): c for c in asked(h, duty).candidates} for h in (hole, lower))
        self.assertEqual(set(shallow), set(deep))
        for key, c in shallow.items():
            d = deep[key]
            self.assertGreater(d.hanging, c.hanging)
            self.assertGreater(d.friction, c.friction)
            self.assertEqual(d.bottom_shut, c.bottom_shut)  # the water outside stands deeper too
            self.assertGreaterEqual(len(d.rejected), len(c.rejected))

    @settings(max_examples=40)
    @given(holes, duties)
    def test_check_valves_go_up_the_string(self, hole: Hole, duty: Duty) -> None:
        """The first stands at the pump, each next some 60 m higher, and none within the last stretch."""
        depths = [c.depth for c in asked(hole, duty).checks]
        self.assertEqual(depths[0], hole.pump)
        for low, high in pairwise(depths):
            self.assertAlmostEqual(low - high, 60.96, places=2)
        self.assertGreater(depths[-1], 0)


class AnySource(unittest.TestCase):
    """A source measured with a gauge and a bucket."""

    @settings(max_examples=60)
    @given(numbers(2e5, 8e5), numbers(1e8, 5e10), st.lists(numbers(0.2, 0.9), min_size=1, max_size=5, unique=True))
    def test_a_true_law_is_found_again(self, rest: float, k: float, shares: list[float]) -> None:
        """Readings made from p = rest − k·q^1.85 give that k back, agree with each other, and the curve ends where
        nothing is left.
        """
        most = (rest / k) ** (1 / EXPONENT)
        readings = [Flowing(most * s, rest - k * (most * s) ** EXPONENT) for s in shares]
        assume(all(rest - r.pressure > 2e4 for r in readings))
        found = supply_curve(rest, readings)
        self.assertAlmostEqual(found.k / k, 1.0, places=6)
        self.assertAlmostEqual(found.most / most, 1.0, places=6)
        self.assertNotIn("do not agree", found.says)
        self.assertAlmostEqual(found.points[-1][1], 0.0, delta=1e-6 * rest)
        doubts = [d for _, _, d in found.points]
        self.assertEqual(doubts, sorted(doubts))

    @settings(max_examples=40)
    @given(numbers(2e5, 8e5), numbers(0.3, 0.8), numbers(1e3, 1e4))
    def test_a_worse_gauge_leaves_more_doubt(self, rest: float, share: float, error: float) -> None:
        """Doubling the gauge's error doubles the doubt where the flow is known exactly; a second reading takes some
        away.
        """
        reading = Flowing(5e-4, rest * share)
        assume(rest * (1 - share) > 4 * error)
        one, two = supply_curve(rest, [reading], error), supply_curve(rest, [reading], 2 * error)
        self.assertAlmostEqual(two.doubt / one.doubt, 2.0, places=6)
        self.assertLess(supply_curve(rest, [reading, reading], error).doubt, one.doubt)

    @settings(max_examples=40)
    @given(numbers(1e-3, 0.2), numbers(3.0, 600.0))
    def test_a_bucket_is_as_good_as_the_watch(self, volume: float, seconds: float) -> None:
        """Volume over time, and its error shrinks as the filling takes longer."""
        flow, error = bucket(volume, seconds)
        self.assertAlmostEqual(flow * seconds, volume)
        self.assertAlmostEqual(error / flow, 0.3 / seconds)
