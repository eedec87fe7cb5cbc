"""What is enough as it is drawn, and is not in a state it comes to by itself: a filter clogged, the power gone."""

import unittest
from typing import Any

from hydrarch.core.base.problems import Problem
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from hydrarch.demo import cedar_tub
from tests.core.plans import draw, point


def told(plan: Plan) -> dict[str, Problem]:
    """What is told of a plan, by code."""
    return {p.code: p for p in derive(plan).problems()}


class Clogged(unittest.TestCase):
    """A filter that is due for cleaning."""

    def line(self, pressure: float, **filter_: Any) -> Plan:
        """Mains, a filter that loses 0.2 bar clean and 0.5 bar dirty at 1 L/s, and a tap that wants 1 bar there."""
        spots = [
            point("M", 0, 0, "mains", pressure=pressure),
            point("F", 5, 0, "filter", **{"loss": 20e3, "dirty_loss": 50e3, "at_flow": 1e-3, **filter_}),
            point("T", 10, 0, "tap", flow=1e-3, needs=100e3, height=0.0),
        ]
        return draw(spots, [("M", "F"), ("F", "T")], runs_more=[{"series": "pvc40", "size": "2"}] * 2)

    def test_enough_clean_and_not_due(self) -> None:
        """Where 1.3 bar at the meter leave 1.1 bar at the tap clean and 0.8 bar due: it is reported with both figures'
        outlet; where 2 bar come it is not, nor where the filter is calculated due already: then the tap itself is.
        """
        found = told(self.line(130e3))
        self.assertNotIn("outlet-starved", found)
        self.assertEqual((found["filter-due"].where, found["filter-due"].severity), ("F", "warn"))
        self.assertRegex(found["filter-due"].says, r"tap T gets 7\d% of the pressure it needs")
        self.assertNotIn("filter-due", told(self.line(200e3)))
        due = told(self.line(130e3, dirt=1.0))
        self.assertNotIn("filter-due", due)
        self.assertIn("outlet-starved", due)

    def test_a_heater_that_runs_hot(self) -> None:
        """A tub's heater that gets its least flow with a clean filter, and less with one due, is reported."""
        whole = cedar_tub().model_dump(mode="json")
        for p in whole["points"]:
            if p["what"]["kind"] == "filter":
                p["what"] |= {"dirty_loss": 600e3}
        flows = derive(Plan.model_validate(whole)).sizes.flows
        heater = next(p for p in whole["points"] if p["what"]["kind"] == "heater")
        run = next(r["id"] for r in whole["runs"] if heater["id"] in (r["a"]["point"], r["b"]["point"]))
        through = max(abs(f.runs[run].flow) for f in flows.values() if run in f.runs)
        heater["what"] |= {"least": 0.9 * through}
        plan = Plan.model_validate(whole)
        found = [p for p in derive(plan).problems() if p.code == "filter-due"]
        self.assertTrue(found)
        self.assertTrue(any("Heater gets" in p.says for p in found), [p.says for p in found])


class PowerGone(unittest.TestCase):
    """A pit when the power fails."""

    def pit(self, **second: Any) -> Plan:
        """A pit's pump and, where something is said of it, a second one above it."""
        spots = [
            point("S", 0, 0, "sump", depth=1.0, comes=5e-4),
            point("V", 1, 0, "check_valve"),
            point("O", 9, 0, "outfall"),
        ]
        runs = [("S", "V"), ("V", "O")]
        if second:
            spots[1:2] = [
                point("J", 2, 0, "junction"),
                point("V", 1, 0, "check_valve"),
                point("W", 1, 1, "check_valve"),
            ]
            spots.append(point("S2", 0, 1, "sump", depth=1.0, turn="stands by", **second))
            runs = [("S", "V"), ("V", "J"), ("S2", "W"), ("W", "J"), ("J", "O")]
        return draw(spots, runs, runs_more=[{"series": "pvc40", "size": "1-1/2"}] * len(runs))

    def test_nothing_lifts(self) -> None:
        """One pump, or two on the mains, and the pit fills; a second on a battery is told by its hours instead."""
        for plan in (self.pit(), self.pit(battery=0.0)):
            self.assertIn("by 30.0 L/min at the most", told(plan)["pit-power"].says)
        self.assertNotIn("pit-power", told(self.pit(battery=270e3, draws=8.0)))


if __name__ == "__main__":
    unittest.main()
