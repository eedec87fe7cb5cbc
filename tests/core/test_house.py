"""House pipework: what is expected to run together, the pipe that follows, hot water that scalds or keeps one waiting,
and every two fixtures at once.
"""

import unittest
from math import isnan, pi

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.building.together import Method, all_scenarios, expected_flows, together
from hydrarch.core.catalogue.demand import fixture_load, loads_together, units_together
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.components.base import kind_named, kinds
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.measures import read_measures, said, written
from hydrarch.core.editing.room_set import BETWEEN_SIDES, room_set
from hydrarch.core.hydraulics.flow import solve
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import layout
from hydrarch.core.sizing.expansion import grows_by, tank_needed
from hydrarch.core.sizing.two_open import two_open
from tests.core.plans import codes, draw, point

GPM = 3.785411784e-3 / 60
HEATS = {"least": 0.0, "largest": 1e-2, "loss": 0.0}
MIXED = {"side": "hot", "mixer": "thermostatic"}


def fixture(kind: str, side: str = "cold") -> Fixture:
    """One as it is set down."""
    found = kind_named(kind).model.model_validate({"kind": kind, "side": side})
    assert isinstance(found, Fixture)
    return found


def house(**more: object) -> Plan:
    """A mains with a cold branch to a basin, a shower and a closet, and a heater with a hot one to a basin and a
    shower.
    """
    points = [
        point("M", 0, 0, "mains", depth=0.0),
        point("J", 2, 0, "junction", depth=0.0),
        point("C1", 6, 0, "junction", depth=0.0),
        point("C2", 9, 0, "junction", depth=0.0),
        point("B", 12, 0, "wash_basin", depth=0.0),
        point("S", 6, 3, "shower", depth=0.0),
        point("W", 9, 3, "closet", depth=0.0),
        point("H", 2, -2, "heater", depth=0.0, **HEATS),
        point("HJ", 6, -2, "junction", depth=0.0),
        point("BH", 12, -2, "wash_basin", depth=0.0, **MIXED),
        point("SH", 6, -5, "shower", depth=0.0, **MIXED),
    ]
    runs = [("M", "J"), ("J", "C1"), ("C1", "S"), ("C1", "C2"), ("C2", "B"), ("C2", "W")]
    runs += [("J", "H"), ("H", "HJ"), ("HJ", "BH"), ("HJ", "SH")]
    lies = [{"situation": "in wall", "series": "ppr-s2.5"} for _ in runs]
    return draw(points, runs, runs_more=lies, about="house", **more)


class Methods(unittest.TestCase):
    """What fixtures count for, and what of them runs together."""

    def test_every_fixture_counts(self) -> None:
        """Each kind of fixture has a row of its own, and a hot one where it has a hot side."""
        for kind in kinds().values():
            if issubclass(kind.model, Fixture):
                load = fixture_load(kind.name)
                self.assertEqual("hot" in kind.model.sides, not isnan(load.hot), kind.name)
                self.assertGreaterEqual(load.both, load.cold)

    def test_the_code_s_table(self) -> None:
        """International Plumbing Code, table E103.3(3), flush tanks: rows as printed, between them within half a
        percent (from memory).
        """
        for units, gpm in (
            (1, 3.0),
            (2, 5.0),
            (10, 14.6),
            (20, 19.6),
            (16, 18.0),
            (25, 21.5),
            (50, 29.1),
            (100, 43.5),
            (250, 75.0),
            (500, 124.0),
            (1000, 208.0),
        ):
            self.assertAlmostEqual(units_together(units) / GPM, gpm, delta=0.005 * gpm)
        self.assertTrue(isnan(units_together(1001)))

    def test_the_curve_for_dwellings(self) -> None:
        """DIN 1988-300, table 3, dwellings (from memory): 1.0 L/s in all is 0.54 L/s together, 5.0 is 1.07; small ones
        run all.
        """
        for whole, expected in ((1e-3, 0.54e-3), (5e-3, 1.07e-3), (1e-4, 1e-4)):
            self.assertAlmostEqual(loads_together(whole), expected, delta=5e-6)
        self.assertTrue(isnan(loads_together(0.6)))

    def test_a_bathroom_by_hand(self) -> None:
        """Basin and shower hot and cold and a closet: 0.7 + 1.4 + 2.2 = 4.3 units, 8.0 + 0.3 · 1.4 = 8.42 gal/min."""
        room = [fixture(k, side) for k in ("wash_basin", "shower") for side in ("cold", "hot")] + [fixture("closet")]
        units, flow = together(room, "units")
        self.assertAlmostEqual(units, 4.3)
        self.assertAlmostEqual(flow / GPM, 8.42, 6)

    @given(st.lists(st.sampled_from([k.name for k in kinds().values() if issubclass(k.model, Fixture)]), max_size=40))
    @settings(max_examples=60, deadline=None)
    def test_within_bounds(self, chosen: list[str]) -> None:
        """Never less than the largest draws, never more than all, and never less for one more."""
        all_ = [fixture(k) for k in chosen]
        methods: tuple[Method, ...] = ("units", "loads", "all")
        for method in methods:
            flow = together(all_, method)[1]
            self.assertLessEqual(flow, sum(f.flow for f in all_) + 1e-15)
            self.assertGreaterEqual(flow, max((f.flow for f in all_), default=0.0))
            self.assertGreaterEqual(together([*all_, fixture("wash_basin")], method)[1] + 1e-15, flow)


class Expected(unittest.TestCase):
    """Scenarios by which a house is sized."""

    def test_what_flows_is_what_is_expected(self) -> None:
        """On the way to a scenario's fixture the solved network carries in each run what the method gives; over all of
        them no run goes without.
        """
        plan = house()
        lay = layout(plan)
        wanted = {e.run: e.flow for e in expected_flows(plan)}
        self.assertEqual(set(wanted), {r.id for r in plan.runs})
        most = dict.fromkeys(wanted, 0.0)
        for scenario in all_scenarios(plan):
            flow = solve(plan, lay, {r.id: pipe("ppr-s2.5", "25") for r in plan.runs}, {}, scenario)
            for run, f in flow.runs.items():
                self.assertLessEqual(abs(f.flow), wanted[run] * (1 + 1e-6), (scenario.id, run))
                most[run] = max(most[run], abs(f.flow))
        for run, flow_ in wanted.items():
            self.assertAlmostEqual(most[run], flow_, 9)

    def test_smaller_than_everything_at_once(self) -> None:
        """The pipe from the street carries what is expected, not all; the crew's standard may be that all runs."""
        by_units, by_loads = (house(practices={"design_flow": m}) for m in ("units", "loads"))
        whole = house(practices={"design_flow": "all"})
        self.assertEqual([s.name for s in all_scenarios(whole)], ["Everything open"])
        street = [next(e for e in expected_flows(p) if e.run == "R1") for p in (by_units, by_loads, whole)]
        self.assertAlmostEqual(street[0].flow / GPM, 8.42, 6)
        self.assertAlmostEqual(street[1].flow * 1e3, 1.48 * 0.7**0.19 - 0.94, 6)
        self.assertAlmostEqual(street[2].flow, 7e-4)
        self.assertEqual({e.all_open for e in street}, {street[2].flow})

    def test_what_else_is_drawn(self) -> None:
        """A tap that is no fixture runs all the while; the crew's scenario stays; what hangs on other water is opened
        too.
        """
        plan = house()
        body = plan.model_dump(mode="json")
        body["points"] += [
            point("T", 2, 9, "tap", depth=0.0, flow=3e-4, height=0.0),
            point("K", 50, 0, "tank"),
            point("O", 60, 0, "tap", height=0.0),
        ]
        body["runs"] += [
            {"id": "R90", "a": {"id": "R90a", "point": "J"}, "b": {"id": "R90b", "point": "T", "port": "in"}},
            {
                "id": "R91",
                "a": {"id": "R91a", "point": "K", "port": "out"},
                "b": {"id": "R91b", "point": "O", "port": "in"},
            },
        ]
        mixed = Plan.model_validate(body)
        found = all_scenarios(mixed)
        self.assertTrue(all("T" in s.open for s in found if s.id.startswith("expected")))
        self.assertEqual([s.open for s in found if s.id == "all"], [("O",)])
        said_ = Plan.model_validate(body | {"scenarios": [{"id": "S1", "name": "Party", "open": ["B", "S"]}]})
        self.assertEqual([s.name for s in all_scenarios(said_)][-1], "Party")
        self.assertEqual([s.id for s in all_scenarios(said_)].count("all"), 0)

    def test_no_water_no_expectation(self) -> None:
        """Fixtures that no source reaches are asked about as ever."""
        plan = draw([point("J", 0, 0, "junction"), point("B", 3, 0, "wash_basin")], [("J", "B")])
        self.assertEqual([s.id for s in all_scenarios(plan)], ["all"])
        self.assertEqual(expected_flows(plan), ())

    def test_alike_are_told_once(self) -> None:
        """Fixtures whose scenarios draw the same have one between them."""
        names = [s.id for s in all_scenarios(house())]
        self.assertEqual(names, ["expected-B", "expected-BH", "expected-SH"])


class Hot(unittest.TestCase):
    """Hot water where it is wanted, and how warm."""

    def test_the_wait(self) -> None:
        """What stands in the pipe from the heater's outlet, divided by what the fixture draws; late beyond 30 s."""
        d = derive(house())
        waits = {w.point: w for w in d.house.waits}
        self.assertEqual(set(waits), {"BH", "SH"})
        way = [("R8", 4.0), ("R9", 6.0)]
        stands = sum(length * pi / 4 * d.settled.pipes[r].bore ** 2 for r, length in way)
        self.assertAlmostEqual(waits["BH"].volume, stands, 9)
        self.assertAlmostEqual(waits["BH"].seconds, stands / 1e-4, 5)
        self.assertEqual(waits["BH"].late, stands / 1e-4 > 30)
        self.assertEqual("hot-wait" in {p.code for p in d.problems()}, waits["BH"].late)

    def test_skin(self) -> None:
        """60 °C at a basin or a shower scalds unless its mixer holds the temperature, or one at the heater does."""
        plain, unseen = ({"side": "hot", "mixer": m} for m in ("plain", "not looked at"))
        for said_, code in ((plain, "scald"), (unseen, "scald"), (MIXED, None)):
            body = house().model_dump(mode="json")
            for p in body["points"]:
                if p["id"] in ("BH", "SH"):
                    p["what"] |= said_
            problems = {p.code: p for p in derive(Plan.model_validate(body)).problems()}
            self.assertEqual(code in problems if code else "scald" not in problems, True, said_)
            if code:
                self.assertTrue(problems[code].danger)
                for p in body["points"]:
                    if p["id"] == "H":
                        p["what"] |= {"mixes": 318.15}
                self.assertNotIn("scald", codes(Plan.model_validate(body)))

    def test_sides(self) -> None:
        """A hot side on cold pipe is reported, and a cold one on hot pipe."""
        body = house().model_dump(mode="json")
        for p in body["points"]:
            if p["id"] in ("B", "BH"):
                p["what"] |= {"side": {"B": "hot", "BH": "cold"}[p["id"]]}
        told = {p.code: p.where for p in derive(Plan.model_validate(body)).problems()}
        self.assertEqual((told["side-not-hot"], told["side-not-cold"]), ("B", "BH"))


class Growth(unittest.TestCase):
    """The tank that takes up what a heater's water grows by."""

    def test_by_hand(self) -> None:
        """50 gal from 40 to 140 °F, 60 psi at rest, relief at 150 psi: 0.0171 · 50 = 0.85 gal; 0.85 / (1 − 74.7 /
        149.7) = 1.70 gal, where a tank of 2 gal is sold for such a heater (common practice). Densities 1000.0 and 983.2
        kg/m³ are a steam table's.
        """
        gallon, psi = 3.785411784e-3, 6894.757
        growth = grows_by(50 * gallon, 277.594, 333.15)
        self.assertAlmostEqual(growth / gallon, 0.0171 * 50, 2)
        self.assertAlmostEqual(tank_needed(growth, 60 * psi, 135 * psi, 14.7 * psi) / gallon, 1.70, 1)
        self.assertEqual(tank_needed(growth, 60 * psi, 60 * psi), float("inf"))

    def tank(self, heater: dict[str, object] | None = None, opens: float = 700e3, **tank: object) -> dict[str, str]:
        """What is told of a heater behind a check valve with a relief valve and a tank beside it, at 3.5 bar."""
        points = [
            point("M", 0, 0, "mains", depth=0.0),
            point("C", 2, 0, "check_valve", depth=0.0),
            point("J", 4, 0, "junction", depth=0.0),
            point("K", 6, 0, "junction", depth=0.0),
            point("H", 8, 0, "heater", depth=0.0, **HEATS, **(heater or {})),
            point("S", 12, 0, "kitchen_sink", depth=0.0, side="hot"),
            point("X", 4, 3, "expansion_tank", depth=0.0, **tank),
            point("R", 6, 3, "relief", depth=0.0, opens=opens, senses="pressure and temperature"),
        ]
        runs = [("M", "C"), ("C", "J"), ("J", "K"), ("K", "H"), ("H", "S"), ("J", "X"), ("K", "R")]
        return codes(draw(points, runs, runs_more=[{"situation": "in wall", "series": "ppr-s2.5"} for _ in runs]))

    def test_told(self) -> None:
        """A tank on the cold pipe beside the heater counts; its size needs what the heater stores; its air is looked
        at.
        """
        told = self.tank()
        self.assertNotIn("no-expansion", told)
        self.assertIn("expansion-unsized", told)
        self.assertIn("precharge-unset", told)
        self.assertNotIn("expansion-small", self.tank({"stores": 0.15}, volume=0.012, precharge=350e3))
        self.assertNotIn("precharge-off", self.tank({"stores": 0.15}, volume=0.012, precharge=360e3))
        self.assertIn("precharge-off", self.tank({"stores": 0.15}, volume=0.012, precharge=250e3))
        self.assertIn("expansion-small", self.tank({"stores": 0.15}, volume=0.004, precharge=350e3))
        self.assertIn("expansion-small", self.tank({"stores": 0.15}, opens=380e3, volume=0.5, precharge=350e3))


class Together(unittest.TestCase):
    """Every two fixtures at once."""

    def test_pairs_are_as_solved(self) -> None:
        """Each pair has what a solve with those two open has, and loses what it has less than alone."""
        d = derive(house())
        found = two_open(d.plan, d.layout, d.settled.pipes, d.assembly.minor)
        self.assertEqual((len(found.pairs), found.left_out), (10, 0))
        self.assertTrue(all(min(x.drops) >= 0 for x in found.pairs))
        worst = found.pairs[0]
        plan = Plan.model_validate(
            d.plan.model_dump(mode="json") | {"scenarios": [{"id": "S1", "name": "S", "open": [worst.one, worst.two]}]}
        )
        flow = solve(plan, d.layout, d.settled.pipes, d.assembly.minor, plan.scenarios[0])
        self.assertEqual(worst.margins, (flow.outlets[worst.one].margin, flow.outlets[worst.two].margin))

    def test_a_weak_source_is_told(self) -> None:
        """At 0.9 bar no two have the bar they want."""
        body = house().model_dump(mode="json")
        body["points"][0]["what"] |= {"pressure": 90e3}
        d = derive(Plan.model_validate(body))
        found = two_open(d.plan, d.layout, d.settled.pipes, d.assembly.minor)
        self.assertEqual(found.short, len(found.pairs))


class SetDown(unittest.TestCase):
    """A room's fixtures at one press, and by words."""

    def test_a_bathroom(self) -> None:
        """Hot beside cold, 150 mm apart (common practice), at the height the table says, names that are free."""
        plan = draw([point("A", 1, 2, "mark", ground=3.0)], [])
        made = room_set(plan, "A", ["wash_basin", "shower", "closet"], (0.8, 0.0, 0.0), hot=True)
        new = [made.plan.by_id[p] for p in made.chosen]
        names = ["Wash basin 1 cold", "Wash basin 1 hot", "Shower 1 cold", "Shower 1 hot", "Closet 1"]
        self.assertEqual([p.name for p in new], names)
        self.assertEqual([(p.x, p.y) for p in new[:2]], [(1.8, 2.0), (round(1.8 - BETWEEN_SIDES, 4), 2.0)])
        self.assertEqual(new[2].level, 3.0 + fixture_load("shower").plate)
        again = room_set(made.plan, "A", ["wash_basin"], (0.0, 0.8, 0.0), hot=False)
        self.assertEqual(again.plan.by_id[again.chosen[0]].name, "Wash basin 2")

    def test_what_cannot_be(self) -> None:
        """No place to begin, no such fixture, and no room between them are reported in words."""
        plan = draw([point("A", 0, 0, "mark")], [])
        for start, what, by, told in (
            ("B", ["shower"], (1.0, 0.0, 0.0), "not on the drawing"),
            ("A", ["tap"], (1.0, 0.0, 0.0), "no fixture"),
            ("A", ["shower"], (0.1, 0.0, 0.0), "how far apart"),
        ):
            with self.assertRaisesRegex(HydrarchError, told):
                room_set(plan, start, what, by, hot=True)

    def test_said(self) -> None:
        """The hot side of a fixture is said as such, reads back the same, and a closet has none."""
        steps = read_measures("1 e, hot shower called Upstairs, 1 e, cold toilet, 1 e, the hot side of the kitchen tap")
        self.assertEqual(read_measures(written(steps)), steps)
        self.assertIn("hot shower called Upstairs", said(steps))
        self.assertIn("hot kitchen sink", said(steps))
        with self.assertRaisesRegex(HydrarchError, "no hot side"):
            read_measures("1 e, hot toilet")


if __name__ == "__main__":
    unittest.main()
