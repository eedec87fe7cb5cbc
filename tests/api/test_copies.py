"""The copies of the last days at the API: what is in them, and a job brought back beside what is there now."""

import csv
import io
import json
import uuid

from hydrarch.core.plan.crew_parts import Book, use_book
from hydrarch.demo import DEMO_ID
from hydrarch.store.folder import COPIES, daily_copy
from tests.api.client import WithClient, event
from tests.api.test_book import POLY
from tests.api.test_hostile import png
from tests.core.plans import draw, point

DAY = "2026-11-29"


class Copies(WithClient):
    """A copy of a day, and what was done since."""

    def copied(self) -> None:
        """Copy the store as of that day."""
        self.assertIsNotNone(daily_copy(self.store, self.store.path.parent, DAY))

    def test_a_job_comes_back_beside_the_one_there_is(self) -> None:
        """What was drawn, said and photographed by then; what was done since stays where it is."""
        whole = self.job("survey")
        joints = [j["id"] for j in self.stage("make")["joints"]][:1]
        said = event("dry_fitted", joints=joints)
        self.client.post(f"/api/jobs/{DEMO_ID}/events", json=[said])
        photo: dict[str, str | float] = {
            "id": str(uuid.uuid4()),
            "about": "R1",
            "by": "Ash",
            "at": 1.7e9,
            "note": "before",
        }
        self.client.post(f"/api/jobs/{DEMO_ID}/photos", params=photo, content=png(8, 8))
        before = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()
        self.copied()
        plan = {**whole["plan"], "points": [], "runs": [], "scenarios": [], "zones": [], "ways": [], "nodes": []}
        plan |= {"name": "Emptied"}
        saved = self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": whole["revision"], "plan": plan})
        self.assertEqual(saved.status_code, 200, saved.text)
        (there,) = [c for c in self.client.get("/api/copies").json() if c["day"] == DAY]
        (mine,) = [j for j in there["jobs"] if j["id"] == DEMO_ID]
        self.assertEqual((mine["name"], mine["records"]), (whole["plan"]["name"], len(before["events"])))
        back = self.client.post(f"/api/copies/{DAY}/{DEMO_ID}/back")
        self.assertEqual(back.status_code, 201, back.text)
        self.assertNotEqual(back.json()["id"], DEMO_ID)
        again = self.client.get(f"/api/jobs/{back.json()['id']}/export/job").json()
        self.assertEqual(again["plan"].pop("name"), f"{before['plan'].pop('name')} ({DAY})")
        self.assertEqual((again["plan"], again["events"]), (before["plan"], before["events"]))
        photos = self.client.get(f"/api/jobs/{back.json()['id']}/photos").json()
        self.assertEqual([p["note"] for p in photos], ["before"])
        self.assertEqual(self.job("survey")["plan"]["name"], "Emptied")
        acts = self.client.get("/api/audit").json()
        self.assertIn(
            (f"{mine['name']} ({DAY}), from the copy of {DAY}", "restored"), [(a["about"], a["what"]) for a in acts]
        )

    def test_what_is_not_there(self) -> None:
        """A day without a copy, a job that is not in it, and a name that leads elsewhere."""
        self.copied()
        for path in (f"2026-11-28/{DEMO_ID}", f"{DAY}/nowhere", f"..%2F..%2Fh/{DEMO_ID}"):
            answer = self.client.post(f"/api/copies/{path}/back")
            self.assertEqual(answer.status_code, 404, path)
            self.assertEqual(answer.headers["content-type"], "application/problem+json")

    def test_a_torn_copy_is_left_out(self) -> None:
        """One that cannot be read hides no other; asked for, it is reported."""
        self.copied()
        (self.store.path.parent / COPIES / "hydrarch-2026-11-30.sqlite3").write_bytes(b"torn" * 5000)
        self.assertEqual([c["day"] for c in self.client.get("/api/copies").json()], [DAY])
        self.assertGreaterEqual(self.client.post(f"/api/copies/2026-11-30/{DEMO_ID}/back").status_code, 400)

    def test_the_crews_parts_come_with_it(self) -> None:
        """A job with a pipe of the crew's own comes back after that pipe was taken out of the crew's parts."""
        self.addCleanup(use_book, Book())
        added = self.client.post("/api/book", content=json.dumps({"format": "hydrarch/book/1", "pipes": [POLY]}))
        self.assertEqual(added.status_code, 200, added.text)
        spots = [point("M", 0, 0, "mains"), point("T", 9, 0, "tap")]
        drawn = draw(spots, [("M", "T")], runs_more=[{"series": POLY["id"], "size": "25"}]).model_dump(mode="json")
        job = self.client.post("/api/jobs", json={"name": "Farm line"}).json()
        saved = self.client.put(
            f"/api/jobs/{job['id']}/plan", json={"revision": 1, "plan": {**drawn, "name": "Farm line"}}
        )
        self.assertEqual(saved.status_code, 200, saved.text)
        self.copied()
        drawn["runs"][0] |= {"series": "pe100-sdr11"}
        self.client.put(f"/api/jobs/{job['id']}/plan", json={"revision": 2, "plan": {**drawn, "name": "Farm line"}})
        self.assertEqual(self.client.delete(f"/api/book/pipes/{POLY['id']}").status_code, 200)
        back = self.client.post(f"/api/copies/{DAY}/{job['id']}/back")
        self.assertEqual(back.status_code, 201, back.text)
        self.assertEqual(back.json()["plan"]["runs"][0]["series"], POLY["id"])
        self.assertIn(POLY["id"], [p["id"] for p in self.client.get("/api/book").json()["pipes"]])

    def test_activity_as_a_table(self) -> None:
        """What was done, as CSV with times in UTC, read back by a program; no cell is a formula."""
        self.copied()
        self.client.post(f"/api/copies/{DAY}/{DEMO_ID}/back")
        answer = self.client.get("/api/audit/export")
        self.assertEqual(answer.status_code, 200)
        rows = list(csv.DictReader(io.StringIO(answer.text)))
        self.assertEqual(set(rows[0]), {"at_utc", "who", "what", "about"})
        self.assertEqual(rows[0]["what"], "restored")
        self.assertRegex(rows[0]["at_utc"], r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\+00:00$")

    def test_a_picture_runs_nothing(self) -> None:
        """A drawing of others is served so that, opened by itself, no script in it runs and nothing is reached."""
        svg = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><script>alert(1)</script></svg>'
        kept = self.client.post("/api/pictures", content=svg).json()["picture"]
        policy = self.client.get(f"/api/pictures/{kept}").headers["content-security-policy"]
        self.assertIn("sandbox", policy)
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("sandbox", self.client.get("/api/jobs").headers["content-security-policy"])
