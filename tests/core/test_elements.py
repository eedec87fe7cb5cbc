"""Pumps, regulators, valves, suction, surge, drains and measured sources, against outside values and laws."""

import unittest
from math import inf, pi
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError, OutOfRange
from hydrarch.core.base.units import FOOT, GALLON, INCH
from hydrarch.core.catalogue.curves import running_curve
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.derivation.chain import Derived, derive
from hydrarch.core.editing.draft import Draft
from hydrarch.core.hydraulics.acting import throttled_coefficient
from hydrarch.core.hydraulics.flow import models
from hydrarch.core.hydraulics.gravity import manning_flow, part_full
from hydrarch.core.hydraulics.links import PipeLink, RegulatorLink
from hydrarch.core.hydraulics.network import Network
from hydrarch.core.hydraulics.pumps import (
    air_pressure,
    at_speed,
    head_at,
    in_parallel,
    in_series,
    npsh_available,
    power,
    three_point_curve,
    vapour_pressure,
)
from hydrarch.core.hydraulics.regulated import solve_network
from hydrarch.core.hydraulics.suction import least_submergence
from hydrarch.core.hydraulics.supply import Flowing, bucket, supply_curve
from hydrarch.core.hydraulics.surge import joukowsky, surge, wave_speed
from hydrarch.core.hydraulics.water import water
from hydrarch.core.plan.document import Plan
from tests.checks.values import values
from tests.core.plans import codes, draw, make_plan, point

CURVE = ((0.0, 60.0), (0.001, 50.0), (0.002, 20.0))
WET = water(293.15)


class Air(unittest.TestCase):
    """Humps."""

    def hump(self, top: float, kind: str = "junction") -> Plan:
        """A line over a bank whose crest is `top` m above both ends."""
        ends = [point("A", 0, 0, "mains", pressure=4e5), point("C", 20, 0, kind, ground=top), point("B", 40, 0, "tap")]
        return make_plan(ends, [("A", "C"), ("C", "B")])

    def test_a_hump_wants_a_vent(self) -> None:
        """The crest is reported; a low swell, a dip, and a crest with a vent or a tap are not (common practice)."""
        told = derive(self.hump(2.0)).problems()
        self.assertEqual([(p.where, p.severity) for p in told if p.code == "air-trap"], [("C", "note")])
        for plan in (self.hump(0.1), self.hump(-2.0), self.hump(2.0, "vent"), self.hump(2.0, "tap")):
            self.assertNotIn("air-trap", {p.code for p in derive(plan).problems()})

    def test_no_vent_where_the_water_is_sucked(self) -> None:
        """On a suction line and on a siphon's crown a vent lets air in: none is proposed, and one that stands there
        stops the job.
        """
        lift, siphon = [("A:out", "B"), ("B", "P"), ("P", "T")], [("A:out", "B"), ("B", "T")]
        for kind, expected in (("bend", ("air-trap", "note")), ("vent", ("vent-sucks", "stop"))):
            tap = {"height": 0.0, "flow": 1e-4, "needs": 1000.0}
            drawn = draw(
                [
                    point("A", 0, 0, "tank", water_level=-2.0, depth=3.0),
                    point("B", 3, 0, kind, ground=1.0),
                    point("P", 6, 0, "pump"),
                    point("T", 20, 0, "tap", height=0.0),
                ],
                lift,
            )
            over = draw(
                [
                    point("A", 0, 0, "tank", water_level=2.0),
                    point("B", 10, 0, kind, ground=3.0),
                    point("T", 40, 0, "tap", ground=-3.0, **tap),
                ],
                siphon,
            )
            for plan in (drawn, over):
                told = [p for p in derive(plan).problems() if p.code in ("air-trap", "vent-sucks")]
                self.assertEqual([(p.code, p.severity) for p in told], [expected])
                self.assertNotIn("Put a vent", told[0].mend)


class Pumps(unittest.TestCase):
    """Curves and what is done to them."""

    def test_affinity_laws(self) -> None:
        """At half speed a pump gives half the flow at a quarter of the head (affinity laws)."""
        self.assertEqual(at_speed(CURVE, 0.5), ((0.0, 15.0), (0.0005, 12.5), (0.001, 5.0)))
        with self.assertRaisesRegex(OutOfRange, "the speed of a pump is 2"):
            at_speed(CURVE, 2.0)

    def test_series_and_parallel(self) -> None:
        """Two alike: behind each other twice the head at a flow, side by side twice the flow at a head."""
        self.assertAlmostEqual(head_at(in_series([CURVE, CURVE]), 0.001), 100.0)
        self.assertAlmostEqual(head_at(in_parallel([CURVE, CURVE]), 0.002), 50.0)

    def test_unlike_pumps_side_by_side(self) -> None:
        """Above the weaker one's shut-off only the stronger gives water."""
        both = in_parallel([CURVE, at_speed(CURVE, 0.8)])
        self.assertEqual(both[0], (0.0, 60.0))
        self.assertAlmostEqual(head_at(both, head_at(CURVE, 0.0002) * 0 + 0.0002), head_at(CURVE, 0.0002), delta=1.5)

    def test_three_points(self) -> None:
        """H = A − B·Q^C goes through all three points; points that do not fall are refused."""
        curve = three_point_curve(60.0, (0.001, 50.0), (0.002, 20.0))
        self.assertAlmostEqual(head_at(curve, 0.001), 50.0, places=6)
        self.assertAlmostEqual(curve[-1][1], 20.0, places=9)
        with self.assertRaisesRegex(HydrarchError, "flows must grow and heads fall"):
            three_point_curve(60.0, (0.001, 61.0), (0.002, 20.0))

    def test_power(self) -> None:
        """1 L/s against 50 m at 50 % takes 0.98 kW: ρgQH/η."""
        self.assertAlmostEqual(power(1e-3, 50, 0.5) / 1e3, 0.979, places=3)

    def test_three_typed_points(self) -> None:
        """Three typed points stand for the usual form through them, at any speed; more points stand for themselves."""
        three = ((0.0, 60.0), (0.001, 50.0), (0.002, 20.0))
        curve = running_curve(three, 1.0)
        self.assertEqual((len(curve), curve[0][1]), (9, 60.0))
        self.assertAlmostEqual(curve[-1][1], 20.0)
        self.assertAlmostEqual(head_at(curve, 0.001), 50.0, delta=0.05)
        self.assertAlmostEqual(head_at(running_curve(three, 0.5), 0.0005), 12.5, delta=0.02)
        four = (*three, (0.0025, 5.0))
        self.assertEqual(running_curve(four, 1.0), four)

    def test_vapour_and_air(self) -> None:
        """Water of 20 °C boils at 2.339 kPa, of 100 °C at 101.4 (steam tables); air at 1,500 m is 84.6 kPa (standard
        atmosphere).
        """
        self.assertAlmostEqual(vapour_pressure(293.15) / 2339.3, 1, delta=0.002)
        self.assertAlmostEqual(vapour_pressure(373.15) / 101418, 1, delta=0.002)
        self.assertAlmostEqual(air_pressure(1500) / 84556, 1, delta=0.001)

    def test_suction_lift(self) -> None:
        """Lifting 5 m at sea level from 20 °C water leaves 10.33 − 0.24 − 5 m: a worked NPSH example as handbooks print
        it.
        """
        self.assertAlmostEqual(npsh_available(-5 * WET.weight, 293.15), 10.35 - 0.24 - 5.0, delta=0.02)


class Elements(unittest.TestCase):
    """What may stand in a line."""

    def line(self, kind: str, tap: dict[str, Any] | None = None, level: float = 60.0, **what: Any) -> Derived:
        """A tank, a device, a tap."""
        spots = [
            point("A", 0, 0, "tank", water_level=level),
            point("D", 20, 0, kind, **what),
            point("B", 40, 0, "tap", **{"flow": 5e-4, "needs": 100e3, "height": 0.0, **(tap or {})}),
        ]
        return derive(make_plan(spots, [("A", "D"), ("D", "B")], runs_more=[{"series": "pvc40", "size": "1"}] * 2))

    def at(self, done: Derived, name: str) -> float:
        """Pressure at a point in the only scenario."""
        return done.sizes.flows["all"].points[name].pressure

    def test_regulator_holds(self) -> None:
        """Beyond a regulator stands its own pressure; with too little before it, it stands open and says so."""
        self.assertAlmostEqual(self.at(self.line("regulator", pressure=170e3), "D"), 170e3, delta=1.0)
        short = self.line("regulator", level=12.0, pressure=170e3)
        self.assertLess(self.at(short, "D"), 130e3)
        self.assertIn("regulator-starved", {p.code for p in short.problems()})

    def test_regulator_in_a_bare_network(self) -> None:
        """Mass goes through a regulator: what leaves it is what comes to it, and it lets nothing back."""
        pipes = (
            PipeLink(id="a", start="S", stop="u", length=50, bore=0.03),
            PipeLink(id="b", start="d", stop="E", length=50, bore=0.03),
        )
        net = Network({"S": 50.0}, {"E": 1e-3}, pipes, regulators=(RegulatorLink("r", "u", "d", 20.0),))
        found = solve_network(net, WET)
        self.assertAlmostEqual(found.flows["a"], 1e-3, places=8)
        self.assertAlmostEqual(found.flows["r"], 1e-3, places=8)
        self.assertAlmostEqual(found.heads["d"], 20.0, places=6)
        back = Network({"S": 5.0, "E": 50.0}, {}, pipes, regulators=(RegulatorLink("r", "u", "d", 20.0),))
        self.assertLessEqual(solve_network(back, WET).flows["r"], 1e-7)

    def test_booster_lifts(self) -> None:
        """A pump in the line adds its head at the flow; one behind the other twice, and a slower one less."""
        curve = [{"flow": 0.0, "head": 30.0}, {"flow": 0.0005, "head": 25.0}, {"flow": 0.001, "head": 12.0}]
        plain = self.at(self.line("union"), "B")
        one = self.at(self.line("pump", curve=curve), "B")
        two = self.at(self.line("pump", curve=curve, behind=2), "B")
        slow = self.at(self.line("pump", curve=curve, speed=0.9), "B")
        self.assertAlmostEqual((one - plain) / WET.weight, 25.0, delta=0.3)
        self.assertAlmostEqual((two - plain) / WET.weight, 50.0, delta=0.4)
        self.assertLess(slow, one)

    def test_suction_is_watched(self) -> None:
        """A pump above its water must be primed; too high, it lacks suction head."""
        done = self.line("pump", level=-3.0)
        self.assertIn("priming", {p.code for p in done.problems()})
        self.assertNotIn("cavitation", {p.code for p in done.problems()})
        self.assertIn("cavitation", {p.code for p in self.line("pump", level=-8.0).problems()})

    def test_foot_valve(self) -> None:
        """A foot valve stands at the intake, its loss counts, it lets nothing back, and the priming note says what it
        does.
        """
        plans = {}
        for intake in ("foot valve", "outlet"):
            points = [
                point("A", 0, 0, "tank", water_level=-3.0, intake=intake, depth=3.5),
                point("P", 5, 0, "pump"),
                point("B", 40, 0, "tap", flow=5e-4, needs=50e3, height=0.0),
            ]
            plans[intake] = make_plan(
                points, [("A", "P"), ("P", "B")], runs_more=[{"series": "pvc40", "size": "1"}] * 2
            )
        kept, plain = derive(plans["foot valve"]), derive(plans["outlet"])
        self.assertEqual([p.fitting for p in kept.assembly.parts if p.id == "A~hub~1"], ["brass-foot-valve-1"])
        says = {p.code: p.says for p in kept.problems()}
        self.assertIn("The foot valve keeps", says["priming"])
        self.assertNotIn("intake-dry", says)
        self.assertGreater(kept.assembly.minor["R1"], plain.assembly.minor["R1"] + 5)
        self.assertTrue(models(plans["foot valve"], kept.layout)[0].links[0].one_way)
        self.assertFalse(models(plans["outlet"], plain.layout)[0].links[0].one_way)

    def test_intake_depth(self) -> None:
        """6 in drawing 500 US gal/min lies 25.5 in deep or more: S = D + 0.574 Q/D^1.5 in inches (ANSI/HI 9.8, from
        memory).
        """
        speed = 500 * GALLON / 60 / (pi * (6 * INCH) ** 2 / 4)
        self.assertAlmostEqual(least_submergence(6 * INCH, speed) / INCH, 6 + 0.574 * 500 / 6**1.5, delta=0.1)
        low = {"needs": 0.0, "ground": -8.0}
        self.assertIn("intake-shallow", {p.code for p in self.line("union", low, level=0.05).problems()})
        self.assertIn("intake-dry", {p.code for p in self.line("union", low, level=-0.05).problems()})
        self.assertFalse({"intake-shallow", "intake-dry"} & {p.code for p in self.line("union", level=20.0).problems()})

    def test_throttling(self) -> None:
        """A valve half shut takes pressure, shut it passes nothing worth the name (gate valve table, from memory)."""
        open_, half, shut = (self.at(self.line("valve", opening=x), "B") for x in (1.0, 0.5, 0.0))
        self.assertGreater(open_, half)
        self.assertLess(shut, 1.0)
        self.assertAlmostEqual(throttled_coefficient(0.5), 5.6)
        ks = [throttled_coefficient(x / 20) for x in range(21)]
        self.assertEqual(ks, sorted(ks, reverse=True))

    def test_filter_dirt(self) -> None:
        """A filter due for cleaning takes its larger loss at its flow; less than clean is refused."""
        clean, dirty = (self.at(self.line("filter", at_flow=5e-4, dirt=d), "B") for d in (0.0, 1.0))
        self.assertAlmostEqual(clean - dirty, 30e3, delta=50)
        with self.assertRaisesRegex(ValueError, "a dirty filter loses more"):
            self.line("filter", loss=50e3, dirty_loss=20e3)

    def test_three_way_valve_shuts_a_branch(self) -> None:
        """The run named is shut and the other keeps its water."""
        spots = [
            point("A", 0, 0, "tank", water_level=40.0),
            point("V", 10, 0, "three_way", shut="R3"),
            point("B", 20, 0, "tap", height=0.0),
            point("C", 10, 9, "tap", height=0.0),
        ]
        done = derive(
            make_plan(spots, [("A", "V"), ("V", "B"), ("V", "C")], runs_more=[{"series": "pvc40", "size": "1"}] * 3)
        )
        self.assertGreater(self.at(done, "B"), 300e3)
        self.assertIn(("no-pressure", "C"), {(p.code, p.where) for p in done.problems()})
        self.assertEqual([p.fitting for p in done.assembly.parts if p.id == "V~hub~1"], ["three-way-valve-1"])

    def test_a_scenario_sets_the_valve_its_own_way(self) -> None:
        """The valve is drawn shut to the left; a scenario that shuts the right has its water on the left, both ways are
        sized by what they carry, and nothing is told of an outlet that is shut off in the other. With the valve gone
        the scenario says nothing of it.
        """
        spots = [
            point("A", 0, 0, "tank", water_level=40.0),
            point("V", 20, 0, "three_way", shut="left"),
            point("B", 40, 10, "tap", height=0.0, flow=1e-3),
            point("C", 40, -10, "tap", height=0.0, flow=1e-3),
        ]
        ways = [
            {"id": "s1", "name": "Left", "open": ["B"], "turned": [{"point": "V", "shut": "right"}]},
            {"id": "s2", "name": "Right", "open": ["C"]},
        ]
        plan = draw(spots, [("A", "V:in"), ("V:left", "B"), ("V:right", "C")], scenarios=ways)
        done = derive(plan)
        self.assertNotIn("no-pressure", codes(plan))
        flows = done.sizes.flows
        self.assertAlmostEqual(flows["s1"].runs["R2"].flow, 1e-3, delta=1e-5)
        self.assertAlmostEqual(flows["s2"].runs["R3"].flow, 1e-3, delta=1e-5)
        self.assertLess(abs(flows["s1"].runs["R3"].flow), 1e-6)
        self.assertEqual(done.settled.pipes["R2"].size, done.settled.pipes["R3"].size)
        other = plan.model_copy(
            update={"scenarios": (plan.scenarios[0].model_copy(update={"turned": ()}), plan.scenarios[1])}
        )
        self.assertIn("no-pressure", codes(other))
        draft = Draft(plan)
        draft.remove(["V"])
        gone = draft.plan()
        self.assertEqual([[t.point for t in s.turned] for s in gone.scenarios], [[""], []])
        self.assertEqual(gone.as_in(gone.scenarios[0]), gone)

    def test_mains_that_falls(self) -> None:
        """Measured flowing, a mains is a curve through both readings."""
        spots = [
            point("A", 0, 0, "mains", pressure=400e3, flowing=5e-4, flowing_pressure=300e3),
            point("B", 1, 0, "tap", flow=5e-4, needs=1e3, height=0.0),
        ]
        done = derive(make_plan(spots, [("A", "B")], runs_more=[{"series": "pvc40", "size": "2"}]))
        self.assertAlmostEqual(self.at(done, "A") / 1e3, 300, delta=1.5)
        with self.assertRaisesRegex(ValueError, "must be below the one at rest"):
            make_plan([point("A", 0, 0, "mains", pressure=300e3, flowing=1e-4, flowing_pressure=350e3)], [])

    def test_drip_with_plain_emitters(self) -> None:
        """With exponent 0.5 a zone draws its flow at the pressure it needs, and more at more; compensating ones
        do not.
        """
        flows = []
        for exponent in (0.0, 0.5):
            spots = [
                point("A", 0, 0, "tank", water_level=30.0),
                point("B", 10, 0, "drip", flow=1e-4, needs=100e3, exponent=exponent, height=0.0),
            ]
            done = derive(make_plan(spots, [("A", "B")], runs_more=[{"series": "pvc40", "size": "1"}]))
            flows.append(done.sizes.flows["all"].outlets["B"].flow)
        self.assertAlmostEqual(flows[0], 1e-4)
        self.assertGreater(flows[1], 1.5e-4)

    def test_published_two_loops(self) -> None:
        """The two-loop network of Alperovits and Shamir (1977): pressure heads as printed by Savic and Walters (1997),
        from memory.
        """
        inches = {"1": 18, "2": 10, "3": 16, "4": 4, "5": 16, "6": 10, "7": 10, "8": 1}
        ends = {"1": "12", "2": "23", "3": "24", "4": "45", "5": "46", "6": "67", "7": "35", "8": "57"}
        pipes = tuple(
            PipeLink(id=n, start=e[0], stop=e[1], length=1000.0, bore=inches[n] * INCH, hazen_williams_c=130.0)
            for n, e in ends.items()
        )
        demands = {n: q / 3600 for n, q in zip("234567", (100, 100, 120, 270, 330, 200), strict=True)}
        found = solve_network(Network({"1": 210.0}, demands, pipes), WET)
        ground = dict(zip("234567", (150, 160, 155, 150, 165, 160), strict=True))
        printed = dict(zip("234567", (53.25, 30.46, 43.45, 33.81, 30.44, 30.55), strict=True))
        for node, head in printed.items():
            self.assertAlmostEqual(found.heads[node] - ground[node], head, delta=0.08, msg=node)

    @settings(max_examples=25, deadline=None)
    @given(st.floats(0.2, 1.0), st.floats(1.05, 3.0))
    def test_more_demand_never_raises_a_pressure_in_a_tree(self, base: float, more: float) -> None:
        """Scaling every demand up lowers or keeps every head of a tree."""
        pipes = tuple(
            PipeLink(id=f"p{n}", start=f"n{(n - 1) // 2}", stop=f"n{n}", length=30, bore=0.03) for n in range(1, 8)
        )
        heads = [
            solve_network(Network({"n0": 40.0}, {f"n{n}": base * 1e-4 * n * k for n in range(1, 8)}, pipes), WET).heads
            for k in (1.0, more)
        ]
        for node in heads[0]:
            self.assertLessEqual(heads[1][node], heads[0][node] + 1e-9)

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.booleans(), min_size=6, max_size=6))
    def test_a_pipe_drawn_the_other_way_changes_only_a_sign(self, turned: list[bool]) -> None:
        """Heads stay, flows change sign where the pipe was turned; what enters a node leaves it."""
        ends = [("S", "a"), ("a", "b"), ("b", "c"), ("c", "d"), ("d", "a"), ("b", "d")]
        demands = {"b": 3e-4, "c": 5e-4, "d": 2e-4}

        def solved(flip: list[bool]) -> Any:
            pipes = tuple(
                PipeLink(str(i), *(e[::-1] if f else e), 40, 0.025)
                for i, (e, f) in enumerate(zip(ends, flip, strict=True))
            )
            return solve_network(Network({"S": 30.0}, demands, pipes), WET)

        plain, other = solved([False] * 6), solved(turned)
        for i, flip in enumerate(turned):
            self.assertAlmostEqual(other.flows[str(i)], -plain.flows[str(i)] if flip else plain.flows[str(i)], places=9)
        for node in "abcd":
            out = sum(plain.flows[str(i)] * ((a == node) - (b == node)) for i, (a, b) in enumerate(ends))
            self.assertAlmostEqual(out, -demands.get(node, 0.0), places=9)
        self.assertLess(plain.residual, 1e-6)


class SurgeAndDrains(unittest.TestCase):
    """Water hammer and part-full drains."""

    def test_joukowsky(self) -> None:
        """1 m/s stopped behind a wave of 1,000 m/s rises 10 bar: ρaΔv (Joukowsky 1898)."""
        self.assertAlmostEqual(joukowsky(1000, 1.0, 1000.0), 1e6)

    def test_wave_speeds(self) -> None:
        """Steel near 1,300 to 1,400 m/s, PVC 300 to 650, polyethylene 200 to 450 (handbook ranges, from memory)."""
        for name, size, low, high in (
            ("galv40", "2", 1250, 1420),
            ("pvc40", "2", 300, 650),
            ("pe100-sdr17", "50", 200, 450),
        ):
            self.assertTrue(low < wave_speed(pipe(name, size)) < high, name)

    def test_closing_time(self) -> None:
        """What stands it closes at once; what does not is told how slowly, never quicker than the wave comes back."""
        self.assertEqual(surge(pipe("pvc40", "1"), 100, 1.0, 3e5).closing, 0.0)
        hard = surge(pipe("pvc-sdr26", "1-1/2"), 400, 2.5, 6e5)
        self.assertFalse(hard.holds)
        self.assertGreaterEqual(hard.closing, hard.return_time)
        self.assertEqual(surge(pipe("pvc-sdr26", "1-1/2"), 400, 1.0, 2e6).closing, inf)

    def test_slow_closing(self) -> None:
        """Slower than the wave comes back the rise is 2ρLv/t; quicker it makes no difference; at the advised time it
        just holds.
        """
        hard = surge(pipe("pvc-sdr26", "1-1/2"), 400, 2.5, 6e5)
        slow = surge(pipe("pvc-sdr26", "1-1/2"), 400, 2.5, 6e5, closes=20.0)
        self.assertAlmostEqual(slow.rise, 2 * water(293.15).density * 400 * 2.5 / 20.0, places=3)
        quick = surge(pipe("pvc-sdr26", "1-1/2"), 400, 2.5, 6e5, closes=hard.return_time / 2)
        self.assertEqual(quick.rise, hard.rise)
        just = surge(pipe("pvc-sdr26", "1-1/2"), 400, 2.5, 6e5, closes=hard.closing * 1.0001)
        self.assertTrue(just.holds)

    def test_manning(self) -> None:
        """Full flow and velocity agree with fluids.open_flow.V_Manning."""
        for v in values("trench_buried", "manning_"):
            flow, speed = manning_flow(v.inputs["ID_in"] * INCH, v.inputs["slope"], v.inputs["n"])
            got = flow / 3.785411784e-3 * 60 if v.id.startswith("manning_Q") else speed / FOOT
            self.assertLessEqual(abs(got - v.expected), v.tolerance * 1.05, v.id)

    def test_part_full(self) -> None:
        """Share of the full flow at a depth agrees with the geometry of the circle; most is carried at 0.938."""
        full = manning_flow(0.1, 0.01, 0.01)[0]
        for v in values("trench_buried", "partial_"):
            self.assertLessEqual(
                abs(manning_flow(0.1, 0.01, 0.01, v.inputs["y_over_D"])[0] / full - v.expected), v.tolerance, v.id
            )

    def test_a_drain_in_use(self) -> None:
        """The depth found carries just the flow; a flat drain and one too small say so."""
        item = pipe("sewer-sdr35", "4")
        runs = part_full(item, 1e-3, 0.01)
        self.assertAlmostEqual(manning_flow(item.bore, 0.01, 0.010, runs.depth)[0], 1e-3, places=8)
        self.assertTrue(runs.cleans)
        self.assertFalse(part_full(item, 1e-3, 0.001).cleans)
        self.assertFalse(part_full(item, 0.05, 0.01).fits)
        with self.assertRaisesRegex(HydrarchError, "does not fall"):
            part_full(item, 1e-3, 0.0)


class Sources(unittest.TestCase):
    """A source measured."""

    def test_bucket(self) -> None:
        """10 L in 20 s is half a litre a second, known to the hand on the watch."""
        flow, doubt = bucket(0.010, 20.0)
        self.assertAlmostEqual(flow, 5e-4)
        self.assertAlmostEqual(doubt / flow, 0.3 / 20, places=6)
        with self.assertRaisesRegex(OutOfRange, "time to fill"):
            bucket(0.01, 1.0)

    def test_curve_goes_through_its_reading(self) -> None:
        """One reading fixes the curve; a second that agrees narrows the doubt; one that does not is reported."""
        one = supply_curve(400e3, [Flowing(5e-4, 300e3)])
        self.assertAlmostEqual(one.rest - one.k * 5e-4**1.85, 300e3, delta=1)
        at_8 = 400e3 - one.k * 8e-4**1.85
        two = supply_curve(400e3, [Flowing(5e-4, 300e3), Flowing(8e-4, at_8)])
        self.assertLess(two.doubt, one.doubt)
        self.assertEqual(two.says, "the readings agree")
        self.assertIn("do not agree", supply_curve(400e3, [Flowing(5e-4, 300e3), Flowing(8e-4, 350e3)]).says)

    def test_what_cannot_be_read(self) -> None:
        """No flowing reading, or one the gauge cannot tell from rest, is refused with what to do."""
        with self.assertRaisesRegex(HydrarchError, "let the water run"):
            supply_curve(400e3, [])
        with self.assertRaisesRegex(HydrarchError, "let more water run"):
            supply_curve(400e3, [Flowing(1e-5, 399e3)])
