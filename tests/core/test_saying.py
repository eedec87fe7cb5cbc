"""A stage's answer in one line says the figures the stage shows, and nothing better than they are."""

import unittest

from hydrarch.core.derivation.chain import STAGES, derive
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.headlines import says
from hydrarch.demo import drying_yard, herb_bank, thistledown
from tests.core.plans import draw, point

MAINS = {"curve": [{"flow": 0.0, "head": 30.0}, {"flow": 2e-3, "head": 20.0}]}


class OneLine(unittest.TestCase):
    """What could be read out."""

    def test_nothing_drawn(self) -> None:
        """An empty plan says nothing in any stage."""
        self.assertEqual({says(stage, derive(Plan(name="empty"))) for stage in STAGES}, {""})

    def test_survey_counts(self) -> None:
        """Two runs of 3 m and 4 m to one tap."""
        plan = draw(
            [point("M", 0, 0, "mains"), point("B", 3, 0, "bend"), point("T", 3, 4, "tap")], [("M", "B"), ("B", "T")]
        )
        self.assertEqual(says("survey", derive(plan)), "2 runs, 7.00 m of pipe, 1 outlet.")

    def test_short_is_said_first(self) -> None:
        """A tap that asks 9 bar of the mains is named with what it wants; it is never among those with enough."""
        asks = {"flow": 2e-4, "needs": 9e5}
        plan = draw([point("M", 0, 0, "mains"), point("T", 30, 0, "tap", **asks)], [("M", "T")])
        line = says("size", derive(plan))
        self.assertRegex(line, r"^.* wants \d.* bar more in .*; 1 of 1 outlet too weak")
        self.assertNotIn("enough", line)

    def test_what_is_not_reached_is_said(self) -> None:
        """A second tap that no pipe leads to is not counted with those that have enough."""
        plan = draw([point("M", 0, 0, "mains"), point("T", 30, 0, "tap"), point("U", 9, 9, "tap")], [("M", "T")])
        self.assertEqual(says("size", derive(plan)), "No source reaches tap U.")
        shut = draw(
            [
                point("M", 0, 0, "mains"),
                point("J", 9, 0, "junction"),
                point("T", 30, 0, "tap"),
                point("U", 9, 9, "tap"),
            ],
            [("M", "J"), ("J", "T"), ("J", "U")],
            scenarios=[{"id": "one", "name": "One tap", "open": ["T"]}],
        )
        self.assertIn("1 outlet open in no scenario or out of the water's reach", says("size", derive(shut)))

    def test_the_worst_fact_is_said_first(self) -> None:
        """Where something stops a stage or one before it, its line tells that, and never that there is enough: a pump
        too far above its water, a crown where water boils, a suction head too small, tubing and pipe over what they
        stand.
        """
        tap, lift = point("T", 40, 0, "tap", height=0.0), [("A:out", "P"), ("P", "T")]
        low = point("T", 40, 0, "tap", height=0.0, flow=1e-4, needs=1000.0)
        pump = [point("P", 3, 0, "pump"), tap]
        cases = {
            "its water": draw([point("A", 0, 0, "tank", water_level=-9.0), *pump], lift),
            "it needs": draw([point("A", 0, 0, "tank", water_level=-7.5, depth=8.0), *pump], lift),
            "water boils at": draw(
                [point("A", 0, 0, "tank", water_level=2.0), point("B", 10, 0, "bend", ground=14.0), low],
                [("A:out", "B"), ("B", "T")],
            ),
            "pipe rated": draw(
                [point("M", 0, 0, "mains", pressure=5e5), point("E", 20, 0, "drip_row")],
                [("M", "E")],
                runs_more=[{"series": "drip-535", "size": "1/2"}],
            ),
            "is not made for water of": draw(
                [point("M", 0, 0, "mains", pressure=3e5), tap],
                [("M", "T")],
                runs_more=[{"series": "pe100-sdr11", "size": "32"}],
                conditions={"water_temperature": 318.15},
            ),
        }
        for words, plan in cases.items():
            d = derive(plan)
            for stage in ("size", "join", "cut", "make", "prove", "keep"):
                with self.subTest(words, stage=stage):
                    self.assertIn(words, says(stage, d))
                    self.assertNotRegex(says(stage, d), "enough|holds|complete")

    def test_the_figures_are_the_stages_own(self) -> None:
        """The demo's lines: as many joints, fittings, pieces as the lists have, the least margin of all scenarios."""
        for plan in (thistledown(), herb_bank(), drying_yard()):
            d = derive(plan)
            self.assertTrue(
                says("join", d).startswith(f"{len(d.assembly.joints)} joints with {len(d.assembly.parts)} fittings: ")
            )
            self.assertTrue(says("cut", d).startswith(f"{len(d.cuts.pieces)} pieces, "))
            margins = [o.margin for f in d.sizes.flows.values() for o in f.outlets.values()]
            if margins:
                self.assertIn(f"{min(margins) / 1e5:.2f} bar to spare", says("size", d))
            else:
                self.assertEqual(says("size", d), "6 runs of drain, each large enough for its flow.")


if __name__ == "__main__":
    unittest.main()
