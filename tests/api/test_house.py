"""A house through the API: its fixtures set down, what runs together, and every two at once."""

import unittest

from hydrarch.core.plan.document import Plan
from hydrarch.demo import RISERS_ID
from tests.api.client import WithClient
from tests.core.plans import draw, point


class House(WithClient):
    """The wash block's risers, and a room in an empty one."""

    def test_the_stage_tells_what_runs_together(self) -> None:
        """Size has the flow expected in each run with the method's name, and the wait at each hot side."""
        told = self.client.get(f"/api/jobs/{RISERS_ID}/stages/size").json()["house"]
        self.assertEqual(told["method"], "fixture units and Hunter's curve")
        street = max(told["expected"], key=lambda e: e["fixtures"])
        self.assertEqual(street["fixtures"], 12)
        self.assertLess(street["flow"], street["all_open"])
        self.assertEqual(len(told["waits"]), 5)

    def test_every_two(self) -> None:
        """Twelve sides make 66 pairs, each named by what is on the drawing; none is left out."""
        found = self.client.get(f"/api/jobs/{RISERS_ID}/two-open").json()
        self.assertEqual((len(found["pairs"]), found["left_out"]), (66, 0))
        plan = Plan.model_validate(self.client.get(f"/api/jobs/{RISERS_ID}").json()["plan"])
        self.assertLessEqual({x for p in found["pairs"] for x in (p["one"], p["two"])}, {o.id for o in plan.outlets})
        self.assertEqual(found["short"], sum(p["short"] for p in found["pairs"]))

    def test_a_room(self) -> None:
        """A kind that is no fixture, or a distance nobody can read, is refused in words; else it is set down."""
        plan = draw([point("A", 0, 0, "mark")], []).model_dump(mode="json")
        asked = {"plan": plan, "chosen": ["A"], "fixtures": ["wash_basin", "closet"], "by": "0.8 m east"}
        made = self.client.post("/api/groups/room", json=asked)
        self.assertEqual(len(made.json()["chosen"]), 3)
        for wrong in ({"fixtures": ["tap"]}, {"by": "a bit east"}, {"chosen": ["B"]}):
            answer = self.client.post("/api/groups/room", json=asked | wrong)
            self.assertEqual(answer.status_code, 422, wrong)
            self.assertTrue(answer.json()["detail"])


class Broken(WithClient):
    """The bench's question how something is mended."""

    def test_answered_and_refused(self) -> None:
        """A split is answered with its window, parts and waits; a pipe there is none of, and one that breaks a limit,
        are refused in words.
        """
        asked = {"broke": "split", "series": "pvc40", "size": "1", "long": 0.3, "pressure": 6e5}
        best = self.client.post("/api/bench/repair", json=asked).json()["ways"][0]
        self.assertEqual(best["names"], [["PVC slip coupling 1, no stop", 2]])
        self.assertGreater(best["window"], best["piece"])
        self.assertEqual([w["method"] for w in best["waits"]], ["solvent weld"])
        for wrong in ({"series": "pvc41"}, {"size": "7"}, {"pressure": 9e7}, {"long": -1.0}, {"broke": "melted"}):
            answer = self.client.post("/api/bench/repair", json=asked | wrong)
            self.assertIn(answer.status_code, (404, 422), wrong)
            self.assertTrue(answer.json()["detail"])


if __name__ == "__main__":
    unittest.main()
