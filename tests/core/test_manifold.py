"""One pump for several ways beside a small pump for each, the operating point over the seasons, and what a sweep loses
against an elbow.
"""

import unittest
from math import pi

from hydrarch.core.base.units import STANDARD_GRAVITY
from hydrarch.core.catalogue.fittings import fittings, fully_turbulent_friction_factor
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.circulation.manifold import SMALL_EFFICIENCY
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.hydraulics.acting import throttled_coefficient
from hydrarch.core.joining.assembly import node_views
from hydrarch.core.sizing.operating import operating
from tests.core.plans import draw, point
from tests.core.waters import Things, thing


def parted(opening: float = 0.4, **conditions: object) -> Derivation:
    """A sump whose pump feeds two returns of a tank over a tee, a valve in each way, one of them turned down."""
    spots: Things = [
        thing("T", "basin", 0, 0, 0, use="show tank", long=1.2, wide=0.6, depth=0.6, rim=1.5, below_rim=0.05),
        thing("S", "basin", 0, 0, 0, use="sump", long=0.9, wide=0.45, depth=0.45, rim=0.5, below_rim=0.2),
        thing("O", "standpipe", -0.5, 0.1, 0.9, up=0.53, bore=0.04),
        thing("D", "returns", -0.4, 0.1, 0.4),
        thing("B", "bulkhead", 0.4, 0, 0.12),
        thing(
            "P",
            "pump",
            0.9,
            0,
            0.12,
            curve=[{"flow": 0.0, "head": 3.6}, {"flow": 4e-4, "head": 2.6}, {"flow": 9e-4, "head": 0.6}],
        ),
        thing("J", "junction", 1.4, 0, 0.12),
        thing("V", "valve", 1.4, 0.4, 0.12, opening=opening),
        thing("W", "valve", 1.8, 0, 0.12),
        thing("R", "returns", 0.55, 0.2, 1.3, hole=0.02),
        thing("Q", "returns", 0.55, -0.2, 1.3, hole=0.02),
    ]
    ways = [("O", "D"), ("B", "P"), ("P", "J"), ("J", "V"), ("V", "R"), ("J", "W"), ("W", "Q")]
    return derive(draw(spots, ways, conditions={"series": "pvc40", "water_temperature": 293.15, **conditions}))


class OnePumpOrSeveral(unittest.TestCase):
    """By hand from the flows of the network."""

    def test_by_hand(self) -> None:
        """ρgQH over the efficiency for one; for each small one its own flow, less the head its valve burns: K·v²/2g."""
        done = parted()
        (found,) = done.rounds.manifolds
        flow = next(iter(done.sizes.flows.values()))
        q, lift = flow.lifts["P"]
        work = 998.0 * STANDARD_GRAVITY * q * lift
        self.assertAlmostEqual(found.work, work, delta=1e-6)
        self.assertAlmostEqual(found.takes, work / done.plan.conditions.pump_efficiency, delta=1e-6)
        ways = {w.end: w for w in found.ways}
        self.assertAlmostEqual(ways["R"].flow + ways["Q"].flow, q, delta=1e-9)
        self.assertLess(ways["R"].flow, ways["Q"].flow, "the one that is turned down gets less")
        run = next(r for r in done.plan.runs if set(r.points) == {"V", "R"})
        bore = done.settled.pipes[run.id].bore
        burnt = throttled_coefficient(0.4) * (ways["R"].flow / (pi * bore**2 / 4)) ** 2 / (2 * STANDARD_GRAVITY)
        self.assertAlmostEqual(ways["R"].burnt, burnt, delta=1e-6)
        by_hand = (
            998.0 * STANDARD_GRAVITY / SMALL_EFFICIENCY * (ways["R"].flow * (lift - burnt) + ways["Q"].flow * lift)
        )
        self.assertAlmostEqual(found.small, by_hand, delta=1e-6)
        self.assertIn("40% open", found.says)
        self.assertIn("end as heat in the water", found.says)

    def test_none_where_there_is_one_way(self) -> None:
        """One return is no manifold, nor are ways without a valve."""
        self.assertEqual(
            derive(draw([point("M", 0, 0, "mains"), point("T", 9, 0, "tap")], [("M", "T")])).rounds.manifolds, ()
        )


class Seasons(unittest.TestCase):
    """The pump against its system in cold water and in warm."""

    def test_cold_water_is_thicker(self) -> None:
        """At 4 °C it moves less than at 25 °C; a line that water only passes has no seasons."""
        done = parted(1.0, friction="darcy-weisbach")
        found = operating(done.plan, done.layout, done.sizes, done.assembly.minor, "P")
        cold = next(s for s in found.systems if s.scenario.endswith("water at 4 °C"))
        warm = next(s for s in found.systems if s.scenario.endswith("water at 25 °C"))
        self.assertLess(cold.flow, warm.flow)
        self.assertGreater(cold.head, warm.head)


class Sweeps(unittest.TestCase):
    """What may stand at a turn, with what each loses."""

    def test_a_sweep_against_an_elbow(self) -> None:
        """Half of it: 16 diameters against 30 (Crane TP-410, from memory), by hand at the speed in the pipe."""
        points = [point("M", 0, 0, "mains"), point("B", 20, 0, "bend"), point("T", 20, 20, "tap", flow=5e-4)]
        done = derive(draw(points, [("M", "B"), ("B", "T")], runs_more=[{"series": "pvc40", "size": "1"}] * 2))
        views = node_views(done.plan, done.layout, done.settled.pipes, "B", None, done.sizes.fastest())
        loses = {v.fittings[0]: v.loses for v in views if len(v.fittings) == 1}
        bore = pipe("pvc40", "1").bore
        velocity_head = (5e-4 / (pi * bore**2 / 4)) ** 2 / (2 * STANDARD_GRAVITY)
        for name, diameters in (("pvc-elbow-90-1", 30), ("pvc-sweep-90-1", 16)):
            self.assertEqual(fittings()[name].loss.run, diameters)
            want = diameters * fully_turbulent_friction_factor(bore) * velocity_head
            self.assertAlmostEqual(loses[name] or 0.0, want, delta=1e-6)
        self.assertIsNone(node_views(done.plan, done.layout, done.settled.pipes, "B")[0].loses, "no flow is known")


if __name__ == "__main__":
    unittest.main()
