"""From a plan to flows: sources, devices, outlets, and what is told when a limit breaks."""

import itertools
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.building.together import all_scenarios
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.derivation.chain import derive
from hydrarch.core.hydraulics.flow import Flow, solve
from hydrarch.core.hydraulics.friction import head_loss_hazen_williams
from hydrarch.core.hydraulics.static import shut_off_head, static_pressure
from hydrarch.core.hydraulics.water import water
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import layout
from hydrarch.core.site.risers import riser_length, riser_pipe
from hydrarch.demo import thistledown
from tests.core.plans import make_plan, point, tank_to_tap

FIXED = {"series": "pvc40", "size": "1"}


def flow_of(plan: Plan) -> Flow:
    """The first scenario with every run 1 in schedule 40 and no minor losses."""
    return solve(plan, layout(plan), {r.id: pipe("pvc40", "1") for r in plan.runs}, {}, all_scenarios(plan)[0])


def in_line(kind: str, **more: object) -> Plan:
    """A tank, a device half-way, a tap."""
    spots = [
        point("A", 0, 0, "tank", water_level=25.0),
        point("D", 10, 0, kind, **more),
        point("B", 20, 0, "tap", flow=4e-4, needs=1e5, height=0.0),
    ]
    return make_plan(spots, [("A", "D"), ("D", "B")], runs_more=[FIXED, FIXED])


class Sources(unittest.TestCase):
    """Where water comes from."""

    def test_tank(self) -> None:
        """A tap below a tank sees the level difference less the friction of the formula, by hand."""
        plan = tank_to_tap(30.0, tap={"flow": 5e-4})
        weight = water(plan.conditions.water_temperature).weight
        loss = head_loss_hazen_williams(5e-4, 30.0, pipe("pvc40", "1").bore, 150)
        self.assertAlmostEqual(flow_of(plan).outlets["B"].pressure, (20 - loss) * weight, places=3)

    def test_mains_pressure_is_at_its_own_level(self) -> None:
        """A mains of 3 bar feeds a tap 10 m higher with 10 m of water less."""
        spots = [point("A", 0, 0, "mains", pressure=3e5), point("B", 0, 20, "tap", ground=10.0, flow=1e-9, height=0.0)]
        plan = make_plan(spots, [("A", "B")])
        weight = water(plan.conditions.water_temperature).weight
        self.assertAlmostEqual(flow_of(plan).outlets["B"].pressure, 3e5 - 10 * weight, delta=5)

    def test_well_pump_runs_on_its_curve(self) -> None:
        """The head at the pump is its water level plus what its curve gives at the flow drawn."""
        plan = thistledown()
        flow = derive(plan).sizes.flows["taps"]
        curve = {0.5e-3: 71.0}  # both taps draw 0.5 L/s, a point of the curve
        self.assertAlmostEqual(flow.points["W"].head, 182.0 + curve[0.5e-3], places=3)

    def test_pump_beyond_its_curve_is_told(self) -> None:
        """More demand than the last point of the curve is a problem at the pump."""
        spots = [
            point("W", 0, 0, "well_pump", water_level=0.0),
            point("B", 5, 0, "tap", flow=3e-3, height=0.0, needs=0.0),
        ]
        found = {p.code: p.where for p in flow_of(make_plan(spots, [("W", "B")])).problems}
        self.assertEqual(found.get("pump-off-curve"), "W")

    def test_highest_head_at_rest(self) -> None:
        """At rest the whole line sees the pump's shut-off head; pressure follows the level of the pipe."""
        plan = thistledown()
        lay = layout(plan)
        self.assertEqual(shut_off_head(plan, lay.systems.found[0]), 182.0 + 76.0)
        weight = water(plan.conditions.water_temperature).weight
        self.assertAlmostEqual(static_pressure(plan, lay)["W"], (258.0 - 207.6) * weight)

    def test_a_line_at_rest_settles(self) -> None:
        """A pump on wide pipe with nothing open: no flow to speak of, and the whole line at the shut-off head, however
        it is parted.
        """
        for parts in (1, 2, 5, 9):
            for size in ("1/2", "1", "4"):
                spots = [point("W", 0, 0, "well_pump", water_level=-30.0)]
                spots += [point(f"B{n}", 7.0 * n, 0, "bend") for n in range(1, parts)] + [
                    point("E", 7.0 * parts, 0, "cap")
                ]
                runs = [(a["id"], b["id"]) for a, b in itertools.pairwise(spots)]
                flow = flow_of(make_plan(spots, runs, runs_more=[{"series": "pvc40", "size": size}] * len(runs)))
                self.assertEqual(flow.problems, (), (parts, size))
                self.assertLess(max(abs(r.flow) for r in flow.runs.values()), 1e-8)
                for state in flow.points.values():
                    self.assertAlmostEqual(state.head, 45.0, places=5)

    def test_two_sources_share(self) -> None:
        """Two tanks of one level feed a tap between them equally."""
        spots = [
            point("A", 0, 0, "tank", water_level=20.0),
            point("C", 20, 0, "tank", water_level=20.0),
            point("J", 10, 0, "junction"),
            point("B", 10, 10, "tap", flow=6e-4, height=0.0),
        ]
        runs = flow_of(make_plan(spots, [("A", "J"), ("C", "J"), ("J", "B")])).runs
        self.assertAlmostEqual(runs["R1"].flow, 3e-4, places=9)
        self.assertAlmostEqual(runs["R1"].flow, runs["R2"].flow, places=9)


class Devices(unittest.TestCase):
    """What stands in the line."""

    def test_filter_and_backflow_lose_as_the_square(self) -> None:
        """A device that loses 0.2 bar at 0.8 L/s loses a quarter of it at 0.4."""
        plain = flow_of(in_line("junction")).outlets["B"].pressure
        for kind in ("filter", "backflow"):
            with_it = flow_of(in_line(kind, loss=2e4, at_flow=8e-4)).outlets["B"].pressure
            self.assertAlmostEqual(plain - with_it, 5e3, delta=1.0, msg=kind)

    def test_check_valve_lets_water_away_from_the_source(self) -> None:
        """In the right place it costs nothing here and bars nothing."""
        self.assertAlmostEqual(
            flow_of(in_line("check_valve")).outlets["B"].pressure,
            flow_of(in_line("junction")).outlets["B"].pressure,
            places=3,
        )

    def test_device_fittings(self) -> None:
        """A filter, a backflow preventer and a union become parts of their own family with a joint on each side."""
        for kind, words in {"filter": "Screen filter", "backflow": "Backflow preventer", "union": "union"}.items():
            done = derive(in_line(kind))
            self.assertTrue(any(words in p.name for p in done.assembly.parts if p.id == "D~hub~1"), kind)
            self.assertGreaterEqual(len([j for j in done.assembly.joints if j.point == "D"]), 2)

    def test_a_turn_at_a_device_is_told(self) -> None:
        """A valve on a corner is a problem: valves are straight."""
        spots = [point("A", 0, 0, "tank"), point("D", 10, 0, "valve"), point("B", 10, 9, "tap")]
        self.assertIn("turn-at-device", {p.code for p in derive(make_plan(spots, [("A", "D"), ("D", "B")])).problems()})


class Outlets(unittest.TestCase):
    """Where water leaves."""

    def test_riser_counts(self) -> None:
        """A tap a metre up a buried line has a riser of depth and height, and sees that much less pressure."""
        low = tank_to_tap(10.0, tap={"height": 0.0})
        high = tank_to_tap(10.0, tap={"height": 1.0})
        tap = high.by_id["B"]
        self.assertEqual(riser_length(tap), 1.0)
        self.assertEqual(riser_pipe(high, tap).size, "3/4")
        weight = water(low.conditions.water_temperature).weight
        drop = flow_of(low).outlets["B"].pressure - flow_of(high).outlets["B"].pressure
        self.assertGreater(drop, weight)  # a metre of height, and a little friction in the riser
        self.assertLess(drop, 1.1 * weight)

    def test_joints_that_closed_lose_as_their_coefficient(self) -> None:
        """K of 20 in a run loses 20·v²/2g more than without, at the flow that the tap draws either way."""
        before, plan = derive(tank_to_tap()).sizes.flows["all"].runs, tank_to_tap()
        body = plan.model_dump(mode="json")
        body["runs"][0]["closed"] = 20.0
        after = derive(Plan.model_validate(body)).sizes.flows["all"].runs
        for name, run in after.items():
            self.assertAlmostEqual(run.loss - before[name].loss, 20 * run.velocity**2 / (2 * 9.80665), places=6)

    def test_starved_and_dry_outlets_are_told_apart(self) -> None:
        """An outlet under its wish is starved; one the source cannot reach at all has no pressure."""
        starved = flow_of(tank_to_tap(30.0, tap={"needs": 250e3})).problems
        self.assertEqual([p.code for p in starved], ["outlet-starved"])
        spots = [point("A", 0, 0, "tank", water_level=2.0), point("B", 9, 0, "tap", ground=8.0, height=0.0)]
        self.assertEqual([p.code for p in flow_of(make_plan(spots, [("A", "B")])).problems], ["no-pressure"])

    def test_what_comes_where_the_source_cannot_feed(self) -> None:
        """A tap that wants more than the line brings gives what the pressure there drives through it, as the root of
        that pressure; no place has a pressure that cannot be, and the job stops.
        """
        plan = tank_to_tap(30.0, tap={"flow": 5e-3, "needs": 100e3}, runs_more=[{"series": "pvc40", "size": "1/2"}])
        flow = flow_of(plan)
        tap = flow.outlets["B"]
        self.assertGreater(tap.pressure, 0)
        self.assertAlmostEqual(tap.flow, 5e-3 * (tap.pressure / 100e3) ** 0.5, delta=1e-6)
        self.assertAlmostEqual(sum(r.flow for r in flow.runs.values()), tap.flow, delta=1e-8)
        self.assertGreaterEqual(min(s.pressure for s in flow.points.values()), 0)
        (told,) = [p for p in flow.problems if p.where == "B"]
        self.assertEqual((told.code, told.severity), ("outlet-starved", "stop"))
        self.assertIn("it should give 300.0 L/min", told.says)

    def test_closed_outlets_draw_nothing(self) -> None:
        """Only what a scenario opens flows."""
        flow = derive(thistledown()).sizes.flows["taps"]
        self.assertEqual(set(flow.outlets), {"T1", "T2"})
        self.assertAlmostEqual(flow.runs["R14"].flow, 0.0, places=8)

    @settings(max_examples=25, deadline=None)
    @given(st.floats(5, 60), st.floats(5, 80))
    def test_a_higher_tank_never_gives_less(self, level: float, length: float) -> None:
        """Raising the source raises every pressure and every sprinkler's flow."""
        found = []
        for lift in (0.0, 3.0):
            spots = [point("A", 0, 0, "tank", water_level=level + lift), point("B", length, 0, "sprinkler", height=0.0)]
            found.append(flow_of(make_plan(spots, [("A", "B")])).outlets["B"])
        self.assertGreater(found[1].pressure, found[0].pressure)
        self.assertGreater(found[1].flow, found[0].flow)

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.floats(1e-5, 3e-4), min_size=1, max_size=6))
    def test_the_source_gives_what_the_outlets_take(self, flows: list[float]) -> None:
        """Over a whole plan, water in is water out."""
        points, runs, before = [point("K", 0, 0, "tank", water_level=50.0)], [], "K"
        for n, q in enumerate(flows, 1):
            points += [
                point(f"J{n}", 9 * n, 0, "junction"),
                point(f"T{n}", 9 * n, 9, "tap", flow=q, height=0.0, needs=0.0),
            ]
            runs += [(before, f"J{n}"), (f"J{n}", f"T{n}")]
            before = f"J{n}"
        found = flow_of(make_plan(points, runs))
        self.assertAlmostEqual(found.runs["R1"].flow, sum(flows), places=9)
        self.assertLess(found.residual, 1e-6)


class Corners(unittest.TestCase):
    """Places that need a person."""

    def codes(self, *spots: tuple[str, float, float, str], runs: list[tuple[str, str]]) -> set[str]:
        """The problems of a plan of 1 in schedule 40."""
        plan = make_plan(
            [point(*s) for s in spots], runs, runs_more=[FIXED] * len(runs), conditions={"weather": "said"}
        )
        return {p.code for p in derive(plan).problems()} - {"not-buried"}

    def test_a_tee_that_is_no_tee(self) -> None:
        """Three runs at 120° to each other make no tee."""
        spots = (("A", 0, 0, "tank"), ("J", 10, 0, "junction"), ("B", 15, 8.66, "cap"), ("C", 15, -8.66, "cap"))
        self.assertIn("tee-angle", self.codes(*spots, runs=[("A", "J"), ("J", "B"), ("J", "C")]))

    def test_a_square_cross_is_made(self) -> None:
        """Four runs at right angles take a cross and nothing is wrong."""
        spots = (
            ("A", 0, 0, "tank"),
            ("J", 10, 0, "junction"),
            ("B", 20, 0, "cap"),
            ("C", 10, 9, "cap"),
            ("D", 10, -9, "cap"),
        )
        self.assertEqual(self.codes(*spots, runs=[("A", "J"), ("J", "B"), ("J", "C"), ("J", "D")]), set())

    def test_five_runs_and_an_outlet_on_a_junction(self) -> None:
        """Five runs at one point, and a head where three meet, are told to be parted."""
        ring = [
            ("A", 0, 0, "tank"),
            ("B", 20, 0, "cap"),
            ("C", 10, 9, "cap"),
            ("D", 10, -9, "cap"),
            ("E", 17, 7, "cap"),
        ]
        five = [(x, "J") for x in "ABCDE"]
        self.assertIn("too-many-runs", self.codes(*ring, ("J", 10, 0, "junction"), runs=five))
        self.assertIn("outlet-on-junction", self.codes(*ring[:3], ("J", 10, 0, "sprinkler"), runs=five[:3]))

    def test_a_head_on_a_corner(self) -> None:
        """A sprinkler on a square corner takes a side-outlet elbow."""
        spots = [point("A", 0, 0, "tank", water_level=40.0), point("S", 10, 0, "sprinkler"), point("C", 10, 9, "cap")]
        done = derive(make_plan(spots, [("A", "S"), ("S", "C")], runs_more=[FIXED] * 2))
        self.assertIn("side-outlet elbow", next(p.name for p in done.assembly.parts if p.id == "S~hub~1"))

    def test_a_corner_where_none_is_made(self) -> None:
        """Coiled pipe bends into a tee and nothing foreign is bought; fused pipe, which has no such elbow, is told to
        turn beside its tee.
        """
        spots = [point("M", 0, 0, "tank"), point("S", 10, 0, "sprinkler"), point("T", 10, 9, "sprinkler")]
        runs = [("M", "S"), ("S", "T")]
        for series, straight in (("pe100-sdr11", False), ("ppr-s2.5", True)):
            with self.subTest(series):
                done = derive(make_plan(spots, runs, conditions={"series": series, "market": "elsewhere"}))
                names = [p.name for p in done.assembly.parts]
                self.assertFalse([n for n in names if "PVC" in n or "niversal" in n], names)
                self.assertEqual("turn-at-device" in {p.code for p in done.problems()}, straight)

    def test_an_empty_plan(self) -> None:
        """Nothing drawn is nothing wrong."""
        done = derive(Plan(name="nothing"))
        self.assertEqual((done.problems(), done.bill, done.work.tasks, done.sections), ((), (), (), ()))
