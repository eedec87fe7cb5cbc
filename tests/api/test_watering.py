"""Zones, a watering day, its exports and the controller's programme, by the API."""

import csv
import io
import re

from hydrarch.demo import BEDS_ID, MEADOW_ID
from tests.api.client import WithClient


class Watering(WithClient):
    """The demo's own watering."""

    def test_zones_beside_each_other(self) -> None:
        """By nearness, by the valves that are drawn, and as they are; nothing is saved by asking; too little water is
        refused by name.
        """
        plan = self.client.get(f"/api/jobs/{MEADOW_ID}").json()["plan"]
        found = self.client.post("/api/watering/zones", json={"plan": plan, "most": "60 L/min"}).json()
        self.assertEqual(
            [o["title"] for o in found["offers"]],
            [
                "By what each draws and who is near",
                "By the valves that are drawn",
                "As they are now",
            ],
        )
        near, valves, now = (o["grouping"] for o in found["offers"])
        self.assertEqual(near["least"], 2)
        self.assertLessEqual(max(g["flow"] for g in near["groups"]), 1e-3 + 1e-12)
        self.assertEqual([g["heads"] for g in valves["groups"]], [g["heads"] for g in now["groups"]])
        self.assertEqual(self.client.get(f"/api/jobs/{MEADOW_ID}").json()["plan"]["zones"], plan["zones"])
        refused = self.client.post("/api/watering/zones", json={"plan": plan, "most": "5 L/min"})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("Head 1 alone draws", refused.json()["detail"])
        by_source = self.client.post("/api/watering/zones", json={"plan": plan})
        self.assertEqual(by_source.status_code, 200, "the mains' own curve is known")

    def test_a_day_and_its_files(self) -> None:
        """The calendar has an event for each opening, at its interval, and the table the same openings; both of the
        beds' two zones.
        """
        day = self.client.get(f"/api/jobs/{BEDS_ID}/watering").json()
        self.assertEqual({r["zone"] for r in day["runs"]}, {"north", "south"})
        calendar = self.client.get(f"/api/jobs/{BEDS_ID}/export/watering").text
        self.assertEqual(calendar.count("BEGIN:VEVENT"), len(day["openings"]))
        self.assertRegex(calendar, rf"INTERVAL={day['need']['days']}[;\r]")
        self.assertTrue(all(len(line.encode()) <= 75 for line in calendar.split("\r\n")))
        starts = re.findall(r"DTSTART:\d{8}T(\d{6})\r", calendar)
        self.assertEqual(starts[0], "040000")
        table = list(csv.DictReader(io.StringIO(self.client.get(f"/api/jobs/{BEDS_ID}/export/schedule").text)))
        self.assertEqual(len(table), len(day["openings"]))
        self.assertEqual([r["begins"] for r in table], [o["at"] for o in day["openings"]])

    def test_the_controller(self) -> None:
        """An unproved line is not watered without a reason; with one the controller has its programme, and its zone is
        open when its time comes.
        """
        refused = self.client.post(f"/api/jobs/{BEDS_ID}/watering/controller", json={})
        self.assertEqual((refused.status_code, refused.json()["title"]), (409, "Not ready"))
        taken = self.client.post(f"/api/jobs/{BEDS_ID}/watering/controller", json={"override": "old tubing, in use"})
        self.assertIn("for tomorrow, the first at 4:00", taken.json()["says"])

    def test_what_is_asked_of_nothing(self) -> None:
        """A job in which nothing waters has no watering day, and says so; one with no loop has none to set beside a
        tree.
        """
        refused = self.client.get("/api/jobs/thistledown-yard/watering")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("nothing that waters", refused.json()["detail"])
        looped = self.client.get(f"/api/jobs/{BEDS_ID}/looped")
        self.assertEqual(looped.status_code, 422)
        self.assertIn("no loop", looped.json()["detail"])
        self.assertIn("The loop takes", self.client.get(f"/api/jobs/{MEADOW_ID}/looped").json()["says"][0])

    def test_beds_and_heads_by_the_api(self) -> None:
        """What cannot be laid is refused in the person's units, and nothing comes of it."""
        plan = self.client.get(f"/api/jobs/{BEDS_ID}").json()["plan"]
        for path, body in (
            ("bed", {"chosen": ["A", "B"], "row": "0.4 m", "spacing": "0.3 m"}),
            ("bed", {"chosen": list("ABCD"), "row": "wide", "spacing": "0.3 m"}),
            ("bed", {"chosen": list("ABCD"), "row": "0.001 m", "spacing": "0.3 m"}),
            ("nozzle", {"chosen": ["M"], "nozzle": "R-1"}),
            ("drip-head", {"chosen": ["M"]}),
            ("drip-head", {"chosen": ["gone"]}),
        ):
            answer = self.client.post(f"/api/groups/{path}", json={"plan": plan, **body})
            self.assertEqual(answer.status_code, 422, (path, body, answer.text[:200]))
            self.assertTrue(answer.json()["detail"])
