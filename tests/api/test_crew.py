"""The crew by name, who is where, and a job that goes from one hand to another."""

import time
import unittest

from hydrarch.demo import DEMO_ID
from hydrarch.store.crew import COLOURS
from tests.api.client import WithClient, event


class Crew(WithClient):
    """Who is of it."""

    def test_letters_and_colours(self) -> None:
        """Each name has a letter of its own and, while there are enough, a colour of its own; a name written otherwise
        is the same person.
        """
        for name in ("Ash", "Alder", "Rowan", "aspen", "ROWAN", " Ash", "Sorrel", "Juniper", "Larch", "Bryony"):
            answer = self.client.post("/api/crew", json={"name": name})
            self.assertEqual(answer.status_code, 200, answer.text)
        found = self.client.get("/api/crew").json()["members"]
        self.assertEqual(
            [m["name"] for m in found], ["Ash", "Alder", "Rowan", "aspen", "Sorrel", "Juniper", "Larch", "Bryony"]
        )
        self.assertEqual([m["letter"] for m in found], ["A", "L", "R", "S", "O", "J", "C", "B"])
        self.assertEqual(sorted(m["colour"] for m in found), list(range(COLOURS)))
        self.refused(self.client.post("/api/crew", json={"name": "  "}), 422, "invalid", "name")

    def test_who_is_where(self) -> None:
        """Two pages at one job are told of each other; one that is closed, or says nothing for long, is not there any
        more.
        """
        for page, name, at in (("p1", "Ash", ""), ("p2", "Rowan", "J1")):
            answer = self.client.put(
                f"/api/jobs/{DEMO_ID}/here", json={"name": name, "stage": "make", "at": at}, headers={"X-Page": page}
            )
            self.assertEqual(answer.status_code, 204)
        here = self.client.get(f"/api/jobs/{DEMO_ID}/here").json()
        self.assertEqual(
            {(h["name"], h["stage"], h["at"]) for h in here}, {("Ash", "make", ""), ("Rowan", "make", "J1")}
        )
        self.client.put(
            f"/api/jobs/{DEMO_ID}/here", json={"name": "Ash", "stage": "make", "gone": True}, headers={"X-Page": "p1"}
        )
        self.assertEqual([h["name"] for h in self.client.get(f"/api/jobs/{DEMO_ID}/here").json()], ["Rowan"])
        self.client.app.app.state.service.whereabouts.clock = lambda: time.time() + 100  # type: ignore[attr-defined]
        self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}/here").json(), [])
        self.refused(
            self.client.put(f"/api/jobs/{DEMO_ID}/here", json={"name": "Ash", "stage": "make"}),
            422,
            "unnamed",
            "names itself",
        )
        self.refused(self.client.get("/api/jobs/nowhere/here"), 404, "not-there", "nowhere")


class HandOver(WithClient):
    """An act with a name on either side, kept in the record."""

    def say(self, **told: object) -> dict[str, object]:
        """Say one event; its answer."""
        answer = self.client.post(f"/api/jobs/{DEMO_ID}/events", json=[told]).json()
        (one,) = answer["events"]
        return {**one, "handed": answer["standing"]["readiness"]["handed"]}

    def test_handed_and_taken(self) -> None:
        """What stood unfinished is told by the core as it was then, not by who hands over; it is taken once, by
        name.
        """
        self.assertIsNone(self.client.get(f"/api/jobs/{DEMO_ID}/standing").json()["readiness"]["handed"])
        given = event("handed_over", note="glue the five dry ones, then fill")
        handed = self.say(**given)["handed"]
        assert isinstance(handed, dict)
        self.assertEqual(
            (handed["by"], handed["next"], handed["taken_by"]), ("Ash", "glue the five dry ones, then fill", "")
        )
        self.assertIn("5 dry-fitted only", handed["told"])
        self.assertTrue(any("not made yet" in t for t in handed["told"]))
        for who in ("Rowan", "Sorrel"):
            taken = self.say(**{**event("taken_over", of=given["id"]), "by": who})["handed"]
            assert isinstance(taken, dict)
            self.assertEqual(taken["taken_by"], "Rowan")
        back = self.client.post("/api/import", json=self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()).json()[
            "id"
        ]
        self.assertEqual(self.client.get(f"/api/jobs/{back}/standing").json()["readiness"]["handed"], taken)

    def test_what_is_no_hand_over(self) -> None:
        """Without what comes next, or of one that was never handed over, it is refused; what a page says it is told is
        not taken.
        """
        for told, says in (
            (event("handed_over"), "what comes next"),
            (event("taken_over"), "which hand-over"),
            (event("taken_over", of="0" * 32), "not in the record"),
            (event("handed_over", note="x", told=["all is proved"]), "told"),
        ):
            answer = self.say(**told)
            self.assertFalse(answer["kept"])
            self.assertIn(says, str(answer["problem"]))


if __name__ == "__main__":
    unittest.main()
