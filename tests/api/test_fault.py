"""Readings and what would explain them, through the API."""

import time
import uuid

from hydrarch.demo import GATE_ID, MEADOW_ID
from tests.api.client import WithClient


class FaultFound(WithClient):
    """Readings are events; the answer ranks what may be wrong."""

    def test_the_meadow(self) -> None:
        """Two readings of the demo: the north valve first, and where to read next."""
        answer = self.client.get(f"/api/jobs/{MEADOW_ID}/fault").json()
        self.assertEqual(answer["scenario"], "heads")
        found = answer["found"]
        self.assertEqual(len(found["readings"]), 2)
        self.assertEqual(found["explanations"][0]["kinds"], ["valve partly shut"])
        self.assertIsNotNone(found["next"])
        self.assertEqual({r["id"] for r in found["readings"]}, set(answer["by"]))

    def test_readings_at_what_is_gone(self) -> None:
        """They are counted and told, and do not keep the others from an answer; what is no reading is not kept."""
        job = self.client.post(f"/api/jobs/{MEADOW_ID}/copy").json()["id"]

        def say(of: str, **seen: object) -> bool:
            event = {
                "id": str(uuid.uuid4()),
                "kind": "observed",
                "at": time.time() - 1,
                "by": "Ash",
                "joints": [],
                "of": of,
            }
            told = {"what": "pressure", "value": 1e5, "error": 5e3, "scenario": "heads", **seen}
            answer = self.client.post(f"/api/jobs/{job}/events", json=[{**event, "seen": told}]).json()
            return bool(answer["events"][0]["kept"])

        self.assertTrue(say("S4") and say("nothing") and say("S4", scenario="nowhere") and say("M", shut="nothing"))
        self.assertFalse(say("S4", value=-1.0) or say("S4", error=0.0) or say("S4", what="noise") or say(""))
        answer = self.client.get(f"/api/jobs/{job}/fault").json()
        self.assertEqual(answer["gone"], 2)
        self.assertEqual(len(answer["found"]["left_out"]), 1)
        self.assertEqual([r["point"] for r in answer["found"]["readings"]], ["S4"])

    def test_signs_and_what_was_found(self) -> None:
        """A sign is weighed and told with its words; a fault that was found closes the search, and stays on record."""
        job = self.client.post(f"/api/jobs/{MEADOW_ID}/copy").json()["id"]

        def say(of: str, after: float = 1.0, **seen: object) -> bool:
            event = {
                "id": str(uuid.uuid4()),
                "kind": "observed",
                "at": time.time() - after,
                "by": "Ash",
                "joints": [],
                "of": of,
                "seen": seen,
            }
            answer = self.client.post(f"/api/jobs/{job}/events", json=[event]).json()
            return bool(answer["events"][0]["kept"])

        before = self.client.get(f"/api/jobs/{job}/fault?scenario=heads").json()
        self.assertIn("wet", {s["id"] for s in before["offered"]})
        run = self.client.get(f"/api/jobs/{job}").json()["plan"]["runs"][3]["id"]
        self.assertTrue(say(run, 5.0, what="sign", word="wet"))
        self.assertTrue(say(run, 5.0, what="sign", word="of another version"))
        answer = self.client.get(f"/api/jobs/{job}/fault?scenario=heads").json()
        self.assertEqual([(s["sign"], s["where"]) for s in answer["signs"]], [("wet", run)])
        self.assertEqual((answer["found"]["signs"], answer["gone"]), (1, before["gone"] + 1))
        self.assertFalse(say(run, what="sign"))
        self.assertFalse(say(run, what="pressure", value=1e5, error=5e3))
        self.assertTrue(say(run, 2.0, what="found", word="leak"))
        closed = self.client.get(f"/api/jobs/{job}/fault?scenario=heads").json()
        self.assertEqual([(c["kind"], c["where"], c["by"]) for c in closed["closed"]], [("leak", run, "Ash")])
        self.assertEqual((closed["signs"], closed["found"]["readings"], closed["found"]["nothing"]), ([], [], 1.0))
        self.assertEqual(closed["over"], 2)
        mend = {"id": str(uuid.uuid4()), "kind": "mended", "at": time.time() - 1, "by": "Rowan", "joints": []}
        mend |= {"of": closed["closed"][0]["event"], "note": "a coupling", "count": 1}
        self.assertTrue(self.client.post(f"/api/jobs/{job}/events", json=[mend]).json()["events"][0]["kept"])
        mended = self.client.get(f"/api/jobs/{job}/fault?scenario=heads").json()
        self.assertEqual([(c["mended"], c["mended_by"]) for c in mended["closed"]], [("a coupling", "Rowan")])
        self.assertIn("mended before", {what for why in mended["suspected"].values() for what, _ in why})
        again = self.client.post("/api/import", content=self.client.get(f"/api/jobs/{job}/export/job").content)
        self.assertEqual(again.status_code, 201, again.text)

    def test_a_mend_at_a_place_closes_the_search(self) -> None:
        """The line is another since: what was read before counts no more."""
        job = self.client.post(f"/api/jobs/{MEADOW_ID}/copy").json()["id"]
        before = self.client.get(f"/api/jobs/{job}/fault?scenario=heads").json()
        run = self.client.get(f"/api/jobs/{job}").json()["plan"]["runs"][3]["id"]
        mend = {"id": str(uuid.uuid4()), "kind": "mended", "at": time.time() - 1, "by": "Rowan", "joints": []}
        mend |= {"of": run, "note": "two slip couplings", "count": 1}
        self.assertTrue(self.client.post(f"/api/jobs/{job}/events", json=[mend]).json()["events"][0]["kept"])
        closed = self.client.get(f"/api/jobs/{job}/fault?scenario=heads").json()
        self.assertEqual(
            [(c["kind"], c["where"], c["mended"]) for c in closed["closed"]], [("", run, "two slip couplings")]
        )
        self.assertEqual((closed["found"]["readings"], closed["over"]), ([], len(before["found"]["readings"])))

    def test_a_job_with_nothing_drawn(self) -> None:
        """Nothing to read, and nothing to explain."""
        new = {"name": "Empty", "units": "metric", "market": "elsewhere", "about": ""}
        job = self.client.post("/api/jobs", json=new).json()["id"]
        found = self.client.get(f"/api/jobs/{job}/fault")
        self.assertEqual(found.status_code, 200, found.text)
        self.assertEqual((found.json()["found"]["explanations"], found.json()["found"]["next"]), ([], None))

    def test_all_shut(self) -> None:
        """With every outlet shut nothing was read; a scenario that is not there is refused in words."""
        answer = self.client.get(f"/api/jobs/{MEADOW_ID}/fault?scenario=shut").json()
        self.assertEqual((answer["scenario"], answer["found"]["readings"]), ("shut", []))
        gone = self.client.get(f"/api/jobs/{MEADOW_ID}/fault?scenario=nowhere")
        self.assertEqual(gone.status_code, 404)
        self.assertIn("scenario", gone.json()["detail"])

    def test_a_line_with_nothing_open(self) -> None:
        """A job whose outlets are fed through the changeover answers too."""
        self.assertEqual(self.client.get(f"/api/jobs/{GATE_ID}/fault").status_code, 200)
