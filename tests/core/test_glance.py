"""A job at a glance: where the work waits goes by the drawing until something is made, then by the joints."""

import unittest

from hydrarch.core.commissioning.glance import Glance, Wait, glance
from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.log import Log
from hydrarch.demo import DEMO_ID, POND_ID, demo_events, swimming_pond, thistledown
from tests.core.plans import draw, point

NOW = 1e9


def seen(plan: Plan, log: Log | None = None) -> Glance:
    """A plan at a glance."""
    derived = derive(plan)
    return glance(plan, derived.problems(), where_it_stands(plan, derived, log or Log(), NOW))


class AtAGlance(unittest.TestCase):
    """What the list tells."""

    def test_nothing_drawn(self) -> None:
        """An empty job waits in Survey, and says so."""
        self.assertEqual(seen(Plan(name="empty")), Glance((), "survey", (Wait("no pipe drawn yet"),)))

    def test_drawn_and_nothing_made(self) -> None:
        """A sound drawing waits to be cut, with its joints counted; one whose tap no water reaches waits in Survey."""
        sound = draw([point("M", 0, 0, "mains", depth=0.6), point("T", 20, 5, "tap", depth=0.6)], [("M", "T")])
        found = seen(sound)
        self.assertEqual((found.stage, found.lines), ("cut", ((0.0, 0.0, -0.6, 20.0, 5.0, -0.6),)))
        self.assertIn(Wait(f"{len(derive(sound).assembly.joints)} joints, none made yet"), found.waits)
        cut_off = draw([*sound.model_dump(mode="json")["points"], point("U", 9, 9, "tap", depth=0.6)], [("M", "T")])
        self.assertEqual(seen(cut_off).stage, "survey")
        self.assertRegex(seen(cut_off).waits[0].says, r"^\d+ problems?, [1-9]\d* to fix before the drawing is done$")

    def test_the_demo_waits_at_its_dry_joints(self) -> None:
        """Five dry joints wait in Make, and nothing is called done."""
        plan = thistledown()
        found = seen(plan, Log(demo_events(DEMO_ID, NOW)))
        self.assertEqual(found.stage, "make")
        self.assertIn(Wait("5 dry-fitted only", pressing=True), found.waits)
        self.assertEqual(found.waits[0].says, "1 problem")  # the heads hang on a well that is drunk from

    def test_a_leak_comes_first(self) -> None:
        """Before what is dry, and what is not pressing behind both."""
        plan = swimming_pond()
        found = seen(plan, Log(demo_events(POND_ID, NOW)))
        told = [w for w in found.waits if "problem" not in w.says]
        self.assertEqual(told[0], Wait("1 seen leaking and not mended", pressing=True))
        self.assertEqual(sorted((w.pressing for w in told), reverse=True), [w.pressing for w in told])
        self.assertEqual(found.stage, "make")


if __name__ == "__main__":
    unittest.main()
