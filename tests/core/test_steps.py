"""What a crew is told at one joint: of pipe where there is pipe, of fittings where there are only fittings, and what
else belongs there.
"""

import unittest

from hydrarch.core.base.units import show
from hydrarch.core.catalogue.fittings import end
from hydrarch.core.components.basins import InWall
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.making.steps import StepText, procedure
from hydrarch.core.plan.document import Plan
from hydrarch.demo import show_tank, swimming_pond
from tests.core.plans import draw, point

MAINS = point("M", 0, 0, "mains", pressure=400e3)
TAP = point("T", 30, 0, "tap")


class Steps(unittest.TestCase):
    """Steps by what the joint is of. All common practice."""

    def told(self, plan: Plan, done: Derivation, joint: str) -> dict[str, StepText]:
        """The steps of a joint by their titles."""
        return {s.title: s for s in procedure(plan, done.assembly.named[joint], 5e5).steps}

    def line(self) -> tuple[Plan, Derivation]:
        """Polyethylene to a valve and a filter, then PVC to a tap."""
        pvc = {"series": "pvc40", "size": "1"}
        plan = draw(
            [MAINS, point("V", 5, 0, "valve"), point("F", 8, 0, "filter"), TAP],
            [("M", "V"), ("V", "F"), ("F", "T")],
            runs_more=[{"series": "pe100-sdr11", "size": "25"}, pvc, pvc],
        )
        return plan, derive(plan)

    def test_fitting_into_fitting(self) -> None:
        """Where no pipe is, nothing is cut and no pipe is spoken of; where pipe is, it is cut and dressed."""
        plan, done = self.line()
        inner = [j for j in done.assembly.joints if j.method == "solvent weld" and not j.a.pipe and not j.b.pipe]
        self.assertTrue(inner)
        for joint in inner:
            steps = self.told(plan, done, joint.id)
            self.assertNotIn("Square and dress the end", steps)
            said = " ".join(s.do for s in steps.values())
            self.assertNotIn("pipe", said)
            self.assertIn("nothing is cut", said)
        self.assertIn("Square and dress the end", self.told(plan, done, "R3b~1"))

    def test_liner_arrow_and_handle_stand_at_their_joints(self) -> None:
        """A liner at the nut on soft pipe, the arrow at a filter, the handle at a valve; none of them anywhere else."""
        plan, done = self.line()
        self.assertIn("Liner, nut, ring, seal", self.told(plan, done, "R1a~1"))
        for joint in done.assembly.joints:
            steps = self.told(plan, done, joint.id)
            names = " ".join((joint.a.what, joint.b.what)).lower()
            self.assertEqual("Which way round" in steps, "filter" in names, names)
            self.assertEqual("Handle" in steps, "valve" in names, names)

    def test_a_coupling_without_a_stop_is_slid(self) -> None:
        """The pipe of a slip coupling is marked and the coupling slid on before anything is cemented; old pipe is held
        with a second wrench.
        """
        met = {"series": "pvc40", "size": "1", "existing": {"known": "seen"}}
        steel = {"series": "galv40", "size": "1", "existing": {"known": "seen"}}
        plan = draw(
            [MAINS, point("J", 10, 0, "junction"), point("K", 10, 8, "cap"), TAP],
            [("M", "J"), ("J", "T"), ("J", "K")],
            runs_more=[met, met, {"series": "pvc40", "size": "1"}],
        )
        steps = self.told(plan, derive(plan), "R2a~1")
        titles = list(steps)
        self.assertLess(titles.index("Mark both pipes"), titles.index("Cement at once"))
        self.assertIn("Slide it back to both marks", steps)
        self.assertFalse([t for t in titles if t.startswith(("Push home", "Turn all"))])
        old = draw([MAINS, point("V", 10, 0, "valve"), TAP], [("M", "V"), ("V", "T")], runs_more=[steel, steel])
        self.assertIn("Back-up wrench", self.told(old, derive(old), "R1b~1"))

    def test_a_bulkhead_tells_its_hole(self) -> None:
        """Where a wall is drilled, the hole and the thickest wall are reported in the person's units, and that the
        fitting's own figure wins.
        """
        plan = show_tank()
        done = derive(plan)
        walls = [j for j in done.assembly.joints if j.method == "bulkhead"]
        self.assertTrue(walls)
        for joint in walls:
            say = self.told(plan, done, joint.id)["Hole and faces"].do
            hole = end(next(s.end for s in (joint.a, joint.b) if s.end.startswith("bulkhead:wall"))).diameter
            self.assertIn(f"Hole of about {show(hole, 'takeoff', plan.units)},", say)
            self.assertIn("its own figure wins", say)

    def test_through_a_liner_in_order(self) -> None:
        """In the pond's liner: gaskets, screws, and the knife last, before the pipe's own steps; once at each thing,
        and nowhere in a rigid tank.
        """
        plan = swimming_pond()
        done = derive(plan)
        lined: dict[str | None, list[str]] = {}
        for joint in done.assembly.joints:
            titles = list(self.told(plan, done, joint.id))
            if "Cut the liner last" in titles:
                lined.setdefault(joint.point, []).append(joint.id)
                order = [
                    titles.index(t)
                    for t in ("Frame and gasket before the liner", "Face and screws in order", "Cut the liner last")
                ]
                self.assertEqual(order, [0, 1, 2])
        walled = {p.id for p in plan.points if isinstance(p.what, InWall) and done.layout.at[p.id]}
        self.assertEqual(set(lined), walled)
        self.assertTrue(all(len(joints) == 1 for joints in lined.values()))
        rigid = show_tank()
        made = derive(rigid)
        self.assertFalse([j for j in made.assembly.joints if "Cut the liner last" in self.told(rigid, made, j.id)])


class Weather(unittest.TestCase):
    """Clocks say whose weather they run on."""

    def test_weather_that_nobody_said_is_told(self) -> None:
        """Assumed or from the simulated feed it is told with its figures; said by the crew it is not, nor where nothing
        cures by it.
        """

        def told(series: str, size: str, weather: str) -> list[str]:
            spots = [point("M", 0, 0, "mains"), point("B", 9, 0, "bend"), point("T", 9, 9, "tap")]
            more = [{"series": series, "size": size}] * 2
            plan = draw(spots, [("M", "B"), ("B", "T")], runs_more=more, conditions={"weather": weather})
            return [p.says for p in derive(plan).problems() if p.code == "weather-assumed"]

        self.assertIn("18 °C and 50 % humidity. Nobody has entered the weather", told("pvc40", "1", "assumed")[0])
        self.assertIn("from the simulated feed", told("pvc40", "1", "feed")[0])
        self.assertEqual(told("pvc40", "1", "said"), [])
        self.assertEqual(told("galv40", "1", "assumed"), [])


if __name__ == "__main__":
    unittest.main()
