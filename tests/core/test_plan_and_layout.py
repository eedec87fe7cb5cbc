"""The plan checks itself; the layout measures it."""

import unittest
from math import degrees

from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from hydrarch.core.components.sources import WellPump
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.upgrades import read_plan
from hydrarch.core.site.layout import layout, path_between, profile, turns_at
from hydrarch.demo import thistledown
from tests.core.plans import codes, make_plan, point, tank_to_tap


class Documents(unittest.TestCase):
    """What a plan refuses, and in which words."""

    def refuse(self, says: str, **plan: object) -> None:
        """The plan is refused with these words."""
        with self.assertRaises(ValidationError) as caught:
            read_plan({"format": "hydrarch/plan/1", "name": "x", **plan})
        self.assertIn(says, str(caught.exception))

    def test_a_run_to_nowhere(self) -> None:
        """A run to a point that is not drawn names run and point."""
        self.refuse(
            "run R1 goes to Z, which is not on the drawing",
            format="hydrarch/plan/3",
            points=[point("A", 0, 0, "tank")],
            runs=[{"id": "R1", "a": {"id": "R1a", "point": "A"}, "b": {"id": "R1b", "point": "Z"}}],
        )

    def test_a_run_onto_itself(self) -> None:
        """A run that ends where it starts is refused."""
        self.refuse("starts and ends at A", points=[point("A", 0, 0, "tank")], runs=[{"id": "R1", "a": "A", "b": "A"}])

    def test_negative_length_and_words_for_numbers(self) -> None:
        """A negative measured length, text where a number belongs, and infinities are refused."""
        ends = [point("A", 0, 0, "tank"), point("B", 9, 0, "tap")]
        run = {"id": "R1", "a": {"id": "R1a", "point": "A"}, "b": {"id": "R1b", "point": "B"}}
        self.refuse(
            "greater than or equal to 0.001",
            format="hydrarch/plan/3",
            points=ends,
            runs=[{**run, "measured_length": -3.0}],
        )
        self.refuse("valid number", points=[{**point("A", 0, 0, "tank"), "x": "ten"}])
        self.refuse("finite number", points=[{**point("A", 0, 0, "tank"), "x": float("inf")}])

    def test_doubles_and_strangers(self) -> None:
        """Two points of one id, an unknown series, size, practice or field are refused by name."""
        twin = point("A", 0, 0, "tank")
        self.refuse("two things of the drawing share the id A", format="hydrarch/plan/3", points=[twin, twin])
        run = {"id": "B", "a": {"id": "Ba", "point": "A"}, "b": {"id": "Bb", "point": "B"}}
        self.refuse("share the id B", format="hydrarch/plan/3", points=[twin, point("B", 9, 0, "tap")], runs=[run])
        self.refuse("a word with a meaning of its own", format="hydrarch/plan/3", points=[point("riser", 0, 0, "tank")])
        ends = [twin, point("B", 9, 0, "tap")]
        self.refuse("did you mean pvc40", points=ends, runs=[{"id": "R", "a": "A", "b": "B", "series": "pvc4"}])
        self.refuse(
            "no size of PVC schedule 40",
            points=ends,
            runs=[{"id": "R", "a": "A", "b": "B", "series": "pvc40", "size": "9"}],
        )
        self.refuse("no practice called tea", practices={"tea": "strong"})
        self.refuse("Extra inputs", colour="blue")

    def test_pump_curve_falls(self) -> None:
        """A curve with too few points, or one that rises, is refused."""
        with self.assertRaisesRegex(ValidationError, "three points or more"):
            WellPump.model_validate({"curve": [{"flow": 0, "head": 9.0}]})
        with self.assertRaisesRegex(ValidationError, "must fall"):
            WellPump.model_validate(
                {"curve": [{"flow": 0, "head": 9.0}, {"flow": 1e-3, "head": 9.5}, {"flow": 2e-3, "head": 1.0}]}
            )

    def test_round_trip(self) -> None:
        """A plan written as JSON reads back equal."""
        plan = thistledown()
        self.assertEqual(Plan.model_validate_json(plan.model_dump_json()), plan)


class Layouts(unittest.TestCase):
    """Lengths, turns, connections and profile."""

    def test_true_length_is_in_space(self) -> None:
        """A run over 30 m that climbs 4 m with the ground is √(30² + 4²) long."""
        ends = [point("A", 0, 0, "tank"), point("B", 30, 0, "tap", ground=4.0, height=0.0)]
        lay = layout(make_plan(ends, [("A", "B")]))
        self.assertAlmostEqual(lay.lines["R1"].length, (900 + 16) ** 0.5)
        self.assertAlmostEqual(lay.lines["R1"].rise, 4.0)

    def test_the_tape_is_right(self) -> None:
        """A measured length overrules the drawn one, which is kept beside it."""
        plan = tank_to_tap(30.0, runs_more=[{"measured_length": 31.5}])
        line = layout(plan).lines["R1"]
        self.assertEqual((line.length, line.drawn), (31.5, 30.0))

    def test_turns(self) -> None:
        """Straight on is 0°, a square corner 90°."""
        spots = [("A", 0, 0, "tank"), ("B", 10, 0, "bend"), ("C", 10, 10, "bend"), ("D", 10, 20, "cap")]
        plan = make_plan([point(*s) for s in spots], [("A", "B"), ("B", "C"), ("C", "D")])
        lay = layout(plan)
        self.assertAlmostEqual(degrees(turns_at(lay, "B")[0][2]), 90)
        self.assertAlmostEqual(degrees(turns_at(lay, "C")[0][2]), 0)

    def test_problems_name_the_place(self) -> None:
        """No source, an unfed outlet, a lone point, an open end and a device not in line are told apart."""
        cases = {
            "no-source": make_plan([point("B", 0, 0, "tap")], []),
            "outlet-without-source": make_plan([point("A", 0, 0, "tank"), point("B", 5, 0, "tap")], []),
            "lone-point": make_plan([point("A", 0, 0, "tank")], []),
            "open-end": make_plan([point("A", 0, 0, "tank"), point("B", 5, 0, "bend")], [("A", "B")]),
            "device-not-in-line": make_plan([point("A", 0, 0, "tank"), point("B", 5, 0, "valve")], [("A", "B")]),
            "run-without-length": make_plan([point("A", 0, 0, "tank"), point("B", 0, 0, "cap")], [("A", "B")]),
        }
        for code, plan in cases.items():
            self.assertIn(code, {p.code for p in layout(plan).problems})
        self.assertEqual(next(p for p in layout(cases["open-end"]).problems if p.code == "open-end").where, "B")

    def test_drinking_water_wants_a_backflow_preventer(self) -> None:
        """Sprinklers on a mains without one are warned of (common practice); with one on their own way they are not."""
        ends = [point("A", 0, 0, "mains"), point("P", 5, 0, "backflow"), point("B", 9, 0, "sprinkler")]
        self.assertIn("no-backflow", codes(make_plan([ends[0], ends[2]], [("A", "B")])))
        self.assertNotIn("no-backflow", codes(make_plan(ends, [("A", "P"), ("P", "B")])))
        spots = [*ends, point("J", 2, 0, "junction"), point("C", 2, 5, "sprinkler")]
        told = codes(make_plan(spots, [("A", "J"), ("J", "P"), ("P", "B"), ("J", "C")]))["no-backflow"]
        self.assertTrue("sprinkler C" in told and "sprinkler B" not in told, told)

    def test_profile_follows_the_shortest_way(self) -> None:
        """Distances add up along the runs between two points."""
        plan = thistledown()
        lay = layout(plan)
        way = path_between(lay, "W", "T2")
        section = profile(plan, lay, "W", "T2", {"W": 250.0})
        self.assertEqual(way, ("R1", "R2", "R3", "R5", "R6"))
        self.assertAlmostEqual(section[-1].distance, sum(lay.lines[r].length for r in way))
        self.assertEqual((section[0].grade, section[1].grade), (250.0, None))

    @given(st.floats(-50, 50), st.floats(-50, 50))
    def test_moving_a_plan_changes_no_length(self, dx: float, dy: float) -> None:
        """Lengths do not depend on where the crew put its datum."""
        plan = thistledown()
        moved = plan.model_copy(
            update={"points": tuple(p.model_copy(update={"x": p.x + dx, "y": p.y + dy}) for p in plan.points)}
        )
        for run, line in layout(plan).lines.items():
            self.assertAlmostEqual(layout(moved).lines[run].length, line.length, places=6)
