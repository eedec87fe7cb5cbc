"""A change of a plan as it travels: what comes of it is what a whole plan would have, and what cannot be is refused as
that is.
"""

import json
import random
import unittest
from typing import Any

from hypothesis import given, settings

from hydrarch.core.base.errors import HydrarchError
from hydrarch.demo import DEMO_ID, thistledown
from hydrarch.formats.changes import Change, Listed, applied, change_of
from tests.api.client import WithClient
from tests.core.plans import RANDOMS


def changed(plan: dict[str, Any], chance: random.Random) -> dict[str, Any]:
    """A plan with a few things moved, taken out, put in and said otherwise."""
    other: dict[str, Any] = json.loads(json.dumps(plan))
    for _ in range(chance.randint(1, 4)):
        match chance.randrange(5):
            case 0:
                chance.choice(other["points"])["x"] += 1.5
            case 1:
                other["runs"].pop(chance.randrange(len(other["runs"])))
            case 2:
                other["points"].append({**other["points"][0], "id": f"N{chance.randrange(10**6)}"})
            case 3:
                other["prices"] = {**other["prices"], "pvc-tee-1": chance.random()}
            case 4:
                other["conditions"]["humidity"] = chance.random()
    return other


class Laws(unittest.TestCase):
    """What a change is."""

    @settings(max_examples=60, deadline=None)
    @given(RANDOMS)
    def test_there_and_back(self, chance: random.Random) -> None:
        """Applied, the change from one plan to another gives the other, both ways; of a plan to itself there is
        none.
        """
        plan = thistledown().model_dump(mode="json")
        other = changed(plan, chance)
        self.assertEqual(applied(plan, change_of(plan, other)), other)
        back = applied(other, change_of(other, plan))
        self.assertEqual(
            {k: sorted(map(str, v)) if isinstance(v, list) else v for k, v in back.items()},
            {k: sorted(map(str, v)) if isinstance(v, list) else v for k, v in plan.items()},
        )
        self.assertEqual(change_of(plan, plan), Change())

    def test_two_corners(self) -> None:
        """Two changes at different things come to the same whichever is first."""
        plan = thistledown().model_dump(mode="json")
        one, two = ({**plan["points"][n], "x": 7.0} for n in (0, 5))
        a, b = (Change(lists={"points": Listed(put=[p])}) for p in (one, two))
        self.assertEqual(applied(applied(plan, a), b), applied(applied(plan, b), a))

    def test_what_cannot_be(self) -> None:
        """A thing without its name, and a list sent whole."""
        plan = thistledown().model_dump(mode="json")
        with self.assertRaisesRegex(HydrarchError, "points that were sent"):
            applied(plan, Change(lists={"points": Listed(put=[{"x": 1.0}])}))
        with self.assertRaisesRegex(HydrarchError, "one by one"):
            applied(plan, Change(told={"points": []}))


class Saved(WithClient):
    """Over the API."""

    def change(self, revision: int, change: dict[str, Any], stage: str = "survey") -> Any:
        """Send one."""
        body = {"revision": revision, "change": change}
        return self.client.patch(f"/api/jobs/{DEMO_ID}/plan?stage={stage}", json=body)

    def test_what_comes_of_it(self) -> None:
        """It is kept as the next revision, the rest as it was; it is small beside the whole plan."""
        before = self.job("survey")
        moved = {**before["plan"]["points"][3], "x": before["plan"]["points"][3]["x"] + 0.25}
        change = {"lists": {"points": {"put": [moved], "gone": []}}, "told": {"name": "Moved"}}
        answer = self.change(before["revision"], change)
        self.assertEqual(answer.status_code, 200, answer.text[:400])
        self.assertEqual(answer.json()["revision"], before["revision"] + 1)
        after = self.job("survey")["plan"]
        want = {
            **before["plan"],
            "name": "Moved",
            "points": [moved if p["id"] == moved["id"] else p for p in before["plan"]["points"]],
        }
        self.assertEqual(after, want)
        self.assertLess(len(json.dumps(change)), len(json.dumps(before["plan"])) / 20)

    def test_on_what_others_have_saved_since(self) -> None:
        """Both sides are reported, as with a whole plan; sent twice it is no clash with oneself; on a revision there is
        none of, neither.
        """
        revision = self.job()["revision"]
        self.assertEqual(self.change(revision, {"told": {"name": "One"}}).status_code, 200)
        again = self.change(revision, {"told": {"name": "One"}})
        self.assertEqual((again.status_code, again.json()["revision"]), (200, revision + 1))
        for made_on in (revision, revision + 99):
            other = self.change(made_on, {"told": {"name": "Two"}})
            self.assertEqual((other.status_code, other.json()["type"]), (409, "/problems/clash"))
            self.assertEqual(other.json()["extra"]["theirs"]["name"], "One")

    def test_what_is_refused(self) -> None:
        """With where it is wrong, and nothing is kept."""
        before = self.job()
        for change, words in (
            ({"lists": {"points": {"put": [{"x": 1.0}]}}}, "does not say what it is called"),
            ({"lists": {"points": {"put": [{**before["plan"]["points"][0], "x": "far"}]}}}, "x"),
            ({"lists": {"points": {"gone": [before["plan"]["points"][0]["id"]]}}}, ""),
            ({"told": {"wishes": 3}}, "wishes"),
            ({"lists": {"wishes": {}}}, ""),
        ):
            with self.subTest(change=str(change)[:60]):
                answer = self.change(before["revision"], change)
                self.assertEqual(answer.status_code, 422, answer.text[:400])
                self.assertIn(words, answer.text)
        self.assertEqual(self.job()["plan"], before["plan"])
        gone = self.client.patch("/api/jobs/nowhere/plan", json={"revision": 1, "change": {}})
        self.assertEqual(gone.status_code, 404)


if __name__ == "__main__":
    unittest.main()
