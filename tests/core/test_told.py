"""What is told, and how often: problems once, numbers in people's units, equipment on the list, sizes with their true
reason.
"""

import unittest

from pydantic import ValidationError

from hydrarch.core.building.together import all_scenarios
from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.components.base import kind_named
from hydrarch.core.cutting.bill import joints_per_quart
from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.making.fusion import fused_joint
from hydrarch.core.plan.document import Plan
from hydrarch.demo import cedar_tub, herb_bank, show_tank, swimming_pond, thistledown
from hydrarch.formats.explained import explain
from tests.core.plans import draw, make_plan, point


class Once(unittest.TestCase):
    """A problem is reported once."""

    def test_three_scenarios_are_one_problem(self) -> None:
        """A tap that starves in three scenarios is one problem that counts the others."""
        spots = [point("K", 0, 0, "tank", water_level=3.0), point("T", 60, 0, "tap", height=0.0, needs=25e3, flow=1e-3)]
        scenarios = [{"id": f"s{n}", "name": f"day {n}", "open": ["T"]} for n in range(3)]
        fixed = [{"series": "pvc40", "size": "1/2"}]
        told = [
            p
            for p in derive(draw(spots, [("K", "T")], runs_more=fixed, scenarios=scenarios)).problems()
            if p.where == "T"
        ]
        self.assertEqual(len({p.code for p in told}), len(told))
        self.assertTrue(any("The same in 2 other scenarios." in p.says for p in told), [p.says for p in told])

    def test_what_is_so_in_a_scenario_names_it_as_data(self) -> None:
        """No problem tells its scenario in words alone, whatever the crew calls it: a scenario called as a tap is hides
        none of the tap's.
        """
        spots = [point("K", 0, 0, "tank", water_level=3.0), point("T", 60, 0, "tap", height=0.0, needs=25e3, flow=1e-3)]
        scenarios = [{"id": "one", "name": "Tap T", "open": ["T"]}, {"id": "two", "name": "day", "open": ["T"]}]
        fixed = [{"series": "pvc40", "size": "1/2"}]
        odd = draw(spots, [("K", "T")], runs_more=fixed, scenarios=scenarios)
        for plan in (odd, thistledown(), herb_bank(), cedar_tub(), show_tank(), swimming_pond()):
            names = {s.name: s.id for s in all_scenarios(plan)}
            for p in derive(plan).problems():
                told = next((i for n, i in names.items() if p.says.startswith(f"{n}: ")), "")
                self.assertTrue(not told or p.scenario, p.says)


class Folded(unittest.TestCase):
    """The cause is told first, and what goes away with it beneath."""

    def test_a_lift_that_cannot_be_is_one_cause(self) -> None:
        """A pump 12 m above its water: what starves beyond follows from the intake, and no cause is hidden under
        another.
        """
        spots = [
            point("K", 0, 0, "tank", water_level=-12.0),
            point("P", 5, 0, "pump"),
            point("A", 20, 0, "tap"),
            point("B", 30, 0, "tap"),
        ]
        told = derive(draw(spots, [("K", "P"), ("P", "A"), ("A", "B")])).problems()
        follows = {p.key: p.follows for p in told}
        self.assertEqual(follows["water-parts P"], "intake-dry K")
        self.assertEqual((follows["not-buried R2"], follows["not-buried R3"]), ("not-buried R1", "not-buried R1"))
        causes = [p.key for p in told if not p.follows]
        self.assertTrue(set(follows.values()) - {""} <= set(causes))
        self.assertEqual([bool(p.follows) for p in told], sorted(bool(p.follows) for p in told))

    def test_what_has_causes_of_its_own_is_not_folded(self) -> None:
        """A surge on one run does not follow from another run's speed, nor anything of one water from another water."""
        far = [point("L", 0, 90, "tank", water_level=-12.0), point("Q", 5, 90, "pump"), point("C", 20, 90, "tap")]
        near = [point("K", 0, 0, "tank", water_level=3.0), point("T", 60, 0, "tap", height=0.0, needs=25e3, flow=1e-3)]
        fixed = [{"series": "pvc40", "size": "1/2"}] * 3
        told = derive(draw([*near, *far], [("K", "T"), ("L", "Q"), ("Q", "C")], runs_more=fixed)).problems()
        starved = [p for p in told if p.where == "T" and p.code in ("no-pressure", "outlet-starved", "source-too-low")]
        self.assertTrue(starved)
        self.assertFalse([p for p in starved if p.follows.endswith((" L", " Q", " C"))])


class Exercise(unittest.TestCase):
    """A piece of work by itself."""

    def test_an_apprentices_square(self) -> None:
        """Four bends joined to a square want no source: nothing stops it, its joints have an order, and its drawing
        stages are done.
        """
        spots = [point(n, x, y, "bend", depth=-1.0) for n, x, y in (("A", 0, 0), ("B", 1, 0), ("C", 1, 1), ("D", 0, 1))]
        runs = [("A", "B"), ("B", "C"), ("C", "D"), ("D", "A")]
        plan = draw(spots, runs, runs_more=[{"series": "pvc40", "size": "1/2", "situation": "on bracket"}] * 4)
        done = derive(plan)
        self.assertEqual([p.code for p in done.problems() if p.severity != "note"], [])
        self.assertEqual(len(done.work.tasks), 8)
        stages = where_it_stands(plan, done, [], 0.0).stages
        self.assertEqual((stages["survey"], stages["size"], stages["join"], stages["make"]), (1.0, 1.0, 1.0, 0.0))
        spots.append(point("T", 3, 0, "tap"))
        self.assertIn("no-source", [p.code for p in derive(draw(spots, [*runs, ("B", "T")])).problems()])


class Refusals(unittest.TestCase):
    """A number out of bounds is reported in the units people use."""

    def test_no_pascals_no_kelvins(self) -> None:
        """Pressure, temperature and depth by metric and US units, never by SI alone."""
        body = {
            "name": "x",
            "points": [{"id": "A", "x": 0, "y": 0, "depth": 62000, "what": {"kind": "tap", "needs": -34473.786}}],
            "conditions": {"water_temperature": 400},
        }
        with self.assertRaises(ValidationError) as caught:
            Plan.model_validate(body)
        told = dict(explain(caught.exception))
        self.assertEqual(told["points[0].what.needs"], "must be 0.00 bar (0.0 psi) or more, not -0.34 bar (-5.0 psi)")
        self.assertEqual(told["conditions.water_temperature"], "must be 60 °C (140 °F) or less, not 127 °C (260 °F)")
        self.assertIn("62000.00 m", told["points[0].depth"])


class Vacuum(unittest.TestCase):
    """A pressure that water does not bear is no answer."""

    def test_a_suction_lift_that_cannot_be(self) -> None:
        """A pump 11 m above open water is told that the water parts, with the figure; 3 m above it is not."""
        for lift, parts in ((11.0, True), (3.0, False)):
            spots = [
                point("K", 0, 0, "tank", water_level=0.0, intake="foot valve"),
                point("P", 5, 0, "pump", ground=lift),
                point("T", 20, 0, "tap", ground=lift, height=0.0, needs=5e4, flow=2e-4),
            ]
            told = {p.code: p for p in derive(draw(spots, [("K", "P"), ("P", "T")])).problems()}
            self.assertEqual("water-parts" in told, parts, lift)
        # the last was fine; the first names what water bears
        spots[1]["ground"] = spots[2]["ground"] = 11.0
        (says,) = [p.says for p in derive(draw(spots, [("K", "P"), ("P", "T")])).problems() if p.code == "water-parts"]
        self.assertIn("too high", says)


class Lists(unittest.TestCase):
    """What must be bought is on the list."""

    def test_equipment_is_listed(self) -> None:
        """The pump, the heads and the taps stand on the list with where they are; what exists already does not."""
        rows = {r.item: r for r in derive(thistledown()).bill if r.group == "equipment"}
        self.assertEqual(
            {k: r.count for k, r in rows.items()},
            {
                "well_pump": 1,
                "sprinkler": 4,
                "tap": 2,
                "valve box": 2,
                "well cable": 1,
                "well rope": 1,
                "well ties": 1,
            },
        )
        self.assertIn("Tap 1", rows["tap"].detail)

    def test_a_valve_beside_a_filter_is_no_filter(self) -> None:
        """A filter or preventer with ends of its own is bought, whatever valves and unions stand beside it; one that is
        a part of the catalogue is bought as that.
        """
        own = {"in": "solvent:socket:2", "out": "solvent:socket:2"}
        for kind in ("filter", "backflow"):
            for service in ("both", "unions", "none"):
                for ports in (own, {}):
                    spots = [
                        point("K", 0, 0, "tank"),
                        {**point("F", 5, 0, kind), "ports": ports},
                        point("T", 12, 0, "tap"),
                    ]
                    done = derive(draw(spots, [("K", "F"), ("F", "T")], practices={"service": service}))
                    with self.subTest(kind=kind, service=service, own=bool(ports)):
                        self.assertEqual([r.count for r in done.bill if r.item == kind], [1] if ports else [])
                        placed = {fitting(p.fitting).family for p in done.assembly.parts if p.point == "F"}
                        self.assertEqual(bool(placed & set(kind_named(kind).families)), not ports)

    def test_all_that_stands_on_a_drawing_is_bought_once(self) -> None:
        """Of each kind in the demo's jobs: so many as stand there, by themselves or as parts of the catalogue, but for
        what exists already.
        """
        for make in (thistledown, herb_bank, swimming_pond, cedar_tub, show_tank):
            done = derive(make())
            bought = {r.item: r.count for r in done.bill if r.group == "equipment"}
            parts: dict[str, set[str]] = {}
            for part in done.assembly.parts:
                parts.setdefault(part.point or "", set()).add(fitting(part.fitting).family)
            for name in (
                "filter",
                "pump",
                "valve",
                "check_valve",
                "union",
                "heater",
                "blower",
                "jet",
                "skimmer",
                "backflow",
                "regulator",
            ):
                mine = [p for p in done.plan.points if p.what.kind == name and p.existing is None]
                as_parts = sum(bool(parts.get(p.id, set()) & set(p.kind.families)) for p in mine)
                with self.subTest(job=make.__name__, kind=name):
                    self.assertEqual(bought.get(name, 0) + as_parts, len(mine))

    def test_cement_beyond_the_table(self) -> None:
        """A socket larger than the table takes more cement, not the table's last figure."""
        self.assertLess(joints_per_quart("12"), joints_per_quart("8"))


class Reasons(unittest.TestCase):
    """A size says what chose it."""

    def test_no_size_is_strong_enough(self) -> None:
        """Where no size carries the pressure at rest it is not called the crew's choice."""
        spots = [point("M", 0, 0, "mains", pressure=4.5e6), point("T", 20, 0, "tap", height=0.0)]
        choice = derive(make_plan(spots, [("M", "T")], runs_more=[{"series": "pvc-sdr26"}])).sizes.choices["R1"]
        self.assertNotEqual(choice.says, "chosen by the crew")

    def test_heated_twice_too_long(self) -> None:
        """20 mm PPR heated 9 s where the table says 5 is not as it should be."""
        self.assertFalse(fused_joint("ppr-s2.5", "20", 0.0145, 9.0, 2e-4).good)
        self.assertTrue(fused_joint("ppr-s2.5", "20", 0.0145, 5.0, 2e-4).good)


if __name__ == "__main__":
    unittest.main()
