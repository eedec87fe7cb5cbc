"""Circulation through the API: what can happen, what comes of it, and joints left dry on purpose."""

import unittest
import uuid

from hydrarch.demo import TANK_ID, show_tank
from tests.api.client import WithClient


class Happens(WithClient):
    """What comes of a mishap, asked of a job."""

    def setUp(self) -> None:
        """A job with the show tank."""
        super().setUp()
        self.tank = self.client.post("/api/jobs", json={"name": "Tank", "units": "metric"}).json()["id"]
        plan = show_tank().model_dump(mode="json")
        self.client.put(f"/api/jobs/{self.tank}/plan", json={"revision": 1, "plan": plan})

    def test_what_can_happen(self) -> None:
        """Only what can, each with the things it can happen to; a job with no such water has nothing but nothing."""
        found = {m["mishap"]: dict(m["things"]) for m in self.client.get(f"/api/jobs/{self.tank}/mishaps").json()}
        self.assertEqual(
            set(found), {"nothing", "pump stops", "power fails", "valve shut", "drain blocked", "return off", "frost"}
        )
        self.assertEqual(found["pump stops"], {"PU": "Return pump"})
        self.assertEqual(found["return off"], {"R1": "Return"})
        empty = self.client.post("/api/jobs", json={"name": "Empty", "units": "us"}).json()["id"]
        self.assertEqual([m["mishap"] for m in self.client.get(f"/api/jobs/{empty}/mishaps").json()], ["nothing"])

    def test_it_is_followed(self) -> None:
        """Levels and flows over time, each as long as the times, and an answer in a line; nothing is saved."""
        answer = self.client.post(f"/api/jobs/{self.tank}/happens", json={"mishap": "power fails", "hours": 9.0}).json()
        self.assertEqual(set(answer["levels"]), {"T", "S"})
        self.assertEqual(len(answer["times"]), len(answer["levels"]["T"]))
        self.assertLess(abs(answer["lost"]), 1e-6)
        self.assertIn("In 9 h", answer["says"])
        self.assertEqual(self.client.get(f"/api/jobs/{self.tank}").json()["revision"], 2)

    def test_what_cannot_be_is_refused(self) -> None:
        """At a thing it cannot happen to, for no time, by a word nobody knows: each with its reason."""
        for asked, status, says in (
            ({"mishap": "pump stops", "where": "R1"}, 422, "cannot happen to Return"),
            ({"mishap": "filter clogs"}, 422, "nothing on the drawing"),
            ({"mishap": "nothing", "hours": 0.0}, 422, "hours"),
            ({"mishap": "sunshine"}, 422, "mishap"),
        ):
            with self.subTest(asked=asked):
                answer = self.client.post(f"/api/jobs/{self.tank}/happens", json=asked)
                self.assertEqual(answer.status_code, status)
                self.assertIn(says, answer.text)

    def test_left_dry_on_purpose(self) -> None:
        """Without a reason it is refused; with one it is kept, handed over first, on the sheet, and carried with the
        job; made, it is gone.
        """
        joint = self.client.get(f"/api/jobs/{self.tank}/stages/make").json()["joints"][3]["id"]

        def say(kind: str, at: float, **more: str) -> dict[str, object]:
            event = {"id": str(uuid.uuid4()), "kind": kind, "at": at, "by": "Rowan", "joints": [joint], **more}
            answer: dict[str, object] = self.client.post(f"/api/jobs/{self.tank}/events", json=[event]).json()
            return answer

        now = 1.7e9
        self.assertFalse(say("left_dry", now)["events"][0]["kept"])  # type: ignore[index]
        self.assertTrue(say("left_dry", now, note="it comes out for cleaning")["events"][0]["kept"])  # type: ignore[index]
        ready = self.client.get(f"/api/jobs/{self.tank}/standing?stage=keep").json()["readiness"]
        self.assertEqual((ready["hand_over"]["left"], ready["hand_over"]["first"][0]), (1, joint))
        self.assertIn("1 left dry on purpose, it comes out for cleaning (Rowan)", ready["hand_over"]["says"])
        self.assertIn(
            "LEFT DRY on purpose: it comes out for cleaning",
            self.client.get(f"/api/jobs/{self.tank}/export/sheet").text,
        )
        carried = self.client.post(
            "/api/import", json=self.client.get(f"/api/jobs/{self.tank}/export/job").json()
        ).json()["id"]
        again = self.client.get(f"/api/jobs/{carried}/standing?stage=keep").json()["readiness"]
        self.assertEqual(again["hand_over"]["left"], 1)
        say("made", now + 60)
        ready = self.client.get(f"/api/jobs/{self.tank}/standing?stage=keep").json()["readiness"]
        self.assertEqual((ready["hand_over"]["left"], ready["joints"][joint]["purpose"]), (0, ""))

    def test_a_danger_is_on_the_sheet(self) -> None:
        """One suction alone where people bathe stands at the head of what is printed, too."""
        plan = show_tank().model_dump(mode="json")
        for point in plan["points"]:
            if point["id"] in ("T", "S"):
                point["what"]["use"] = "plunge tub"
        self.client.put(f"/api/jobs/{self.tank}/plan", json={"revision": 2, "plan": plan})
        self.assertIn("Danger: do not build it like this", self.client.get(f"/api/jobs/{self.tank}/export/sheet").text)

    def test_the_demo_has_them(self) -> None:
        """The camp's tank is a demo job by that name."""
        self.assertTrue(TANK_ID.startswith("thistledown-"))


if __name__ == "__main__":
    unittest.main()
