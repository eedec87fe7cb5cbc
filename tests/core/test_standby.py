"""Sizes where no scenario sends water: a vessel's branch, a shut hydrant, rings, drains; and what a vessel's switch
leaves an outlet.
"""

import unittest
from itertools import pairwise
from typing import Any

import numpy as np

from hydrarch.core.base.graph import Edge, Graph
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.circulation.pits import battery_lasts
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.hydraulics.friction import velocity
from hydrarch.core.plan.document import Plan
from hydrarch.core.sizing.standby import standby_flows
from tests.core.plans import codes, draw, point


def house(cut_in: float = 250e3, cut_out: float = 400e3, **more: Any) -> Derivation:
    """A well with a vessel on a branch, and a tap."""
    spots = [
        point("W", 0, 0, "well_pump", depth=0.6),
        point("J", 5, 0, "junction", depth=0.6),
        point("V", 5, 3, "vessel", cut_in=cut_in, cut_out=cut_out),
        point("T", 25, 0, "tap", height=0.0, depth=0.6),
    ]
    return derive(draw(spots, [("W", "J"), ("J", "V"), ("J", "T")], **more))


class Switch(unittest.TestCase):
    """The vessel's switch governs what outlets get."""

    def test_pressure_is_that_at_cut_in(self) -> None:
        """Two switches give two pressures at the tap, each a little under where the pump starts, never above where it
        stops.
        """
        for cut_in, cut_out in ((250e3, 400e3), (100e3, 180e3)):
            (flow,) = house(cut_in, cut_out).sizes.flows.values()
            at_tap = flow.outlets["T"].pressure
            self.assertLess(at_tap, cut_in + 1e3)
            self.assertGreater(at_tap, 0.75 * cut_in)
            self.assertLess(at_tap, cut_out)

    def test_a_tap_the_switch_starves(self) -> None:
        """A tap that wants more than the switch leaves is starved, whatever the pump could do."""
        spots = [
            point("W", 0, 0, "well_pump"),
            point("J", 5, 0, "junction"),
            point("V", 5, 3, "vessel", cut_in=100e3, cut_out=180e3),
            point("T", 25, 0, "tap", height=0.0, needs=200e3),
        ]
        told = {p.code for p in derive(draw(spots, [("W", "J"), ("J", "V"), ("J", "T")])).problems()}
        self.assertTrue(told & {"outlet-starved", "source-too-low"})


class NoFlow(unittest.TestCase):
    """No flow never means the smallest made."""

    def test_a_vessels_branch_carries_the_pump(self) -> None:
        """The branch to a vessel carries what the pump gives at cut-in, within the velocity limit."""
        done = house()
        flow = standby_flows(done.plan, done.layout)["R2"]
        self.assertGreater(flow, 1e-3)
        choice = done.sizes.choices["R2"]
        self.assertLessEqual(
            velocity(flow, pipe(choice.series, choice.size).bore), done.plan.conditions.max_velocity + 1e-9
        )
        self.assertNotEqual(choice.limit, "no flow")

    def test_a_shut_hydrant_has_its_demand(self) -> None:
        """An outlet that no scenario opens is sized for what it draws."""
        spots = [
            point("K", 0, 0, "tank", water_level=40.0),
            point("J", 10, 0, "junction"),
            point("T", 20, 0, "tap", height=0.0, flow=1e-4),
            point("H", 10, 20, "tap", height=0.0, flow=2e-3),
        ]
        plan = draw(
            spots, [("K", "J"), ("J", "T"), ("J", "H")], scenarios=[{"id": "s", "name": "one tap", "open": ["T"]}]
        )
        done = derive(plan)
        self.assertAlmostEqual(standby_flows(plan, done.layout)["R3"], 2e-3)
        self.assertEqual(done.sizes.choices["R3"].size, done.sizes.choices["R1"].size)
        self.assertGreater(
            pipe("pvc40", done.sizes.choices["R3"].size).bore, pipe("pvc40", done.sizes.choices["R2"].size).bore
        )


class Rings(unittest.TestCase):
    """A ring main is one size."""

    def ring(self, sizes: dict[int, str] | None = None) -> Derivation:
        """A tank, and a ring of four runs with heads of very different flow at its corners."""
        spots = [
            point("K", 0, 0, "tank", water_level=40.0),
            point("A", 10, 0, "junction"),
            point("B", 40, 0, "sprinkler", height=0.0, flow=8e-4),
            point("C", 40, 30, "sprinkler", height=0.0, flow=5e-5),
            point("D", 10, 30, "sprinkler", height=0.0, flow=5e-5),
        ]
        more = [{"series": "pvc40", "size": s} if (s := (sizes or {}).get(n)) else {} for n in range(5)]
        return derive(draw(spots, [("K", "A"), ("A", "B"), ("B", "C"), ("C", "D"), ("D", "A")], runs_more=more))

    def test_one_size_all_round(self) -> None:
        """Its runs have one size, and the smallest that holds; a size the crew asked for stays."""
        done = self.ring()
        self.assertEqual(len({done.sizes.choices[f"R{n}"].size for n in (2, 3, 4, 5)}), 1)
        asked = self.ring({3: "2"})
        self.assertEqual(asked.sizes.choices["R4"].size, "2")
        self.assertEqual(len({asked.sizes.choices[f"R{n}"].size for n in (2, 3, 5)}), 1)

    def test_what_is_a_ring(self) -> None:
        """Bridges are on no ring; two rings that share a node are told together, two joined by a bridge apart."""
        edges = [Edge(n, n[0], n[2]) for n in ("a-b", "b-c", "c-a", "c-d", "d-e", "e-f", "f-d", "g-h")]
        self.assertEqual([set(r) for r in Graph(edges).rings()], [{"a-b", "b-c", "c-a"}, {"d-e", "e-f", "f-d"}])
        eight = [Edge(n, n[0], n[2]) for n in ("a-b", "b-c", "c-a", "c-d", "d-e", "e-c")]
        self.assertEqual([len(r) for r in Graph(eight).rings()], [6])
        double = [Edge("1", "a", "b"), Edge("2", "a", "b"), Edge("3", "b", "c")]
        self.assertEqual(list(Graph(double).rings()), [("1", "2")])


class Sumps(unittest.TestCase):
    """Two pumps in one pit, the second for when the first fails."""

    def test_a_standby_riser_has_its_own_duty(self) -> None:
        """The pump that stands by sends nothing while the first runs, and its riser and check are sized for what it
        lifts alone.
        """
        curve = [{"flow": 0.0, "head": 6.0}, {"flow": 5e-4, "head": 4.0}, {"flow": 1e-3, "head": 1.0}]
        spots = [
            point("A", 0, 0, "sump", depth=1.5, level=-1.2),
            point("B", 0, 2, "sump", depth=1.5, level=-0.9, turn="stands by", curve=curve),
            point("V", 3, 0, "check_valve", depth=0.5),
            point("U", 3, 2, "check_valve", depth=0.5),
            point("J", 3, 1, "junction", depth=0.5),
            point("O", 10, 1, "outfall", depth=0.3),
        ]
        runs = [("A", "V"), ("V", "J"), ("B", "U"), ("U", "J"), ("J", "O")]
        done = derive(draw(spots, runs))
        flows = next(iter(done.sizes.flows.values())).runs
        self.assertAlmostEqual(flows["R3"].flow, 0.0, places=9)
        self.assertGreater(flows["R1"].flow, 2e-3)
        lifts = 9.6e-4  # of the curve, 0.6 m up: between 0.5 L/s at 4 m and 1.0 L/s at 1 m it ends at 1.0 L/s
        for run in ("R3", "R4"):
            item = pipe(done.sizes.choices[run].series, done.sizes.choices[run].size)
            self.assertGreater(item.bore**2 * 3.1416 / 4 * done.plan.conditions.max_velocity, lifts)
            self.assertLess(item.outside, pipe(done.sizes.choices["R1"].series, done.sizes.choices["R1"].size).outside)


class Pits(unittest.TestCase):
    """What each pump of a pit does by itself."""

    CURVE = ({"flow": 0.0, "head": 6.0}, {"flow": 5e-4, "head": 4.0}, {"flow": 1e-3, "head": 1.0})

    def pit(
        self, second: dict[str, Any], checks: bool = True, union: bool = True, first: dict[str, Any] | None = None
    ) -> Plan:
        """Two pumps in one pit, each by a riser of its own to a line they share."""
        spots = [
            point("A", 0, 0, "sump", depth=1.5, level=-1.2, **(first or {})),
            point(
                "B",
                0,
                2,
                "sump",
                depth=1.5,
                **{"level": -0.9, "turn": "stands by", "curve": list(self.CURVE), **second},
            ),
            point("J", 3, 1, "junction", depth=0.5),
            point("O", 10, 1, "outfall", depth=0.3),
        ]
        runs = []
        for pump, y in (("A", 0), ("B", 2)):
            way = [pump, *([f"V{pump}"] if checks else []), *([f"U{pump}"] if union else []), "J"]
            spots += [point(f"V{pump}", 2, y, "check_valve", depth=0.5)] if checks else []
            spots += [point(f"U{pump}", 2.5, y, "union", depth=0.5)] if union else []
            runs += list(pairwise(way))
        return draw(spots, [*runs, ("J", "O")])

    def test_the_second_pump_alone(self) -> None:
        """It lifts what its own curve gives against the line, by hand between 1.0 m and 0.6 m, the lift with no losses;
        the first is not slowed by it.
        """
        done = derive(self.pit({}))
        first, second = done.rounds.pits
        self.assertGreater(second.gives, np.interp(-1.0, (-6.0, -4.0, -1.0), (0.0, 5e-4, 1e-3)) * 0.999)
        self.assertLess(second.gives, 1e-3 + (1.0 - 0.6) * 5e-4 / 3.0)  # the last of its curve, drawn on to 0.6 m
        self.assertAlmostEqual(first.gives, next(iter(done.sizes.flows.values())).runs["R1"].flow)
        self.assertEqual([p.code for p in done.problems() if p.code.startswith("pit") and p.code != "pit-power"], [])

    def test_more_comes_than_it_lifts(self) -> None:
        """Told with by how much; where less comes, how much of the time it runs."""
        done = derive(self.pit({"comes": 2e-3}, first={"comes": 2e-3}))
        first, second = done.rounds.pits
        self.assertEqual((first.holds, second.holds), (True, False))
        self.assertIn(f"it runs {2e-3 / first.gives:.0%} of the time", first.says)
        self.assertRegex(second.says, r"the pit fills by \d+\.\d L/min all the while")
        self.assertEqual([p.where for p in done.problems() if p.code == "pit-fills"], ["B"])

    def test_hours_on_the_battery(self) -> None:
        """Peukert's law by hand: at the 20-hour current 20 h, at four times that 20/4^1.2 h; half of that with the pump
        running half the time is the whole again.
        """
        self.assertAlmostEqual(battery_lasts(75 * 3600.0, 3.75), 20 * 3600.0)
        self.assertAlmostEqual(battery_lasts(75 * 3600.0, 15.0), 20 * 3600.0 / 4**1.2)
        second = derive(self.pit({"battery": 75 * 3600.0, "draws": 15.0, "comes": 2.5e-4})).rounds.pits[1]
        self.assertAlmostEqual(second.lasts or 0.0, 20 * 3600.0 / 4**1.2)
        whole = 20 / 4**1.2
        self.assertIn(
            f"for {whole:.1f} h without a pause, {whole * second.gives / 2.5e-4:.1f} h with that coming in", second.says
        )
        self.assertIsNone(derive(self.pit({"battery": 75 * 3600.0})).rounds.pits[1].lasts)

    def test_each_its_own_check_and_turn(self) -> None:
        """Without a check valve of its own, without a union, or with its switch no higher than the first's: each is
        told.
        """
        for plan, code in (
            (self.pit({}, checks=False), "pit-check"),
            (self.pit({}, union=False), "pit-apart"),
            (self.pit({"level": -1.2}), "pit-turn"),
        ):
            with self.subTest(code):
                self.assertEqual(
                    {p.code for p in derive(plan).problems() if p.code.startswith("pit") and p.code != "pit-power"},
                    {code},
                )


class BeyondItsCurve(unittest.TestCase):
    """A pump is not counted with a flow that its curve does not go to."""

    @staticmethod
    def booster(mains: float) -> Plan:
        """Mains, a booster with a vessel that starts it at 2.5 bar, and two taps of 9 L/min."""
        spots = [
            point("M", 0, 0, "mains", pressure=mains),
            point("P", 2, 0, "pump"),
            point("J", 4, 0, "junction"),
            point("V", 4, 2, "vessel", cut_in=250e3, cut_out=400e3),
            point("K", 8, 0, "junction"),
            point("A", 8, 2, "tap", flow=1.5e-4),
            point("B", 12, 0, "tap", flow=1.5e-4),
        ]
        runs = [("M", "P"), ("P", "J"), ("J", "V"), ("J", "K"), ("K", "A"), ("K", "B")]
        return draw(spots, runs, conditions={"series": "ppr-s3.2"}, runs_more=[{"situation": "in wall"}] * len(runs))

    def test_a_house_main_for_two_showers(self) -> None:
        """Where the mains alone bring it near its start, the last point of the curve sizes nothing: 25 mm for 18 L/min,
        and that the curve does not go so far is told; where it does, the line carries what the pump gives.
        """
        done = derive(self.booster(240e3))
        self.assertEqual([done.sizes.choices[r].size for r in ("R1", "R2")], ["25", "25"])
        self.assertIn("vessel-off-curve", codes(done.plan))
        within = derive(self.booster(100e3))
        self.assertNotIn("vessel-off-curve", codes(within.plan))
        self.assertGreater(float(within.sizes.choices["R1"].size), 25)


class Drains(unittest.TestCase):
    """A drain is never smaller than codes let lie there, and never shrinks downstream."""

    def test_a_trickle_in_a_buried_drain(self) -> None:
        """A trickle in a buried building drain takes 3 in; on brackets it may be 1-1/2."""
        for situation, least in (("buried", "3"), ("on bracket", "1-1/2")):
            spots = [point("G", 0, 0, "drain_inlet", depth=0.5, flow=1e-5), point("O", 20, 0, "outfall", depth=0.9)]
            done = derive(draw(spots, [("G:out", "O")], runs_more=[{"series": "dwv40", "situation": situation}]))
            self.assertEqual(done.sizes.choices["R1"].size, least, situation)

    def test_it_never_shrinks(self) -> None:
        """Below a run that a crew made large nothing is smaller."""
        spots = [
            point("G", 0, 0, "drain_inlet", depth=0.5, flow=1e-5),
            point("B", 10, 0, "bend", depth=0.7),
            point("O", 20, 0, "outfall", depth=0.9),
        ]
        runs_more = [{"series": "dwv40", "size": "4"}, {"series": "dwv40"}]
        done = derive(draw(spots, [("G:out", "B"), ("B", "O")], runs_more=runs_more))
        self.assertEqual(done.sizes.choices["R2"].size, "4")


if __name__ == "__main__":
    unittest.main()
