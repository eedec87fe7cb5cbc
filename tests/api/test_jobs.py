"""Jobs and their files at the API: what is sent and got, and how one is told what is wrong."""

import csv
import io
import json
import re
import unittest
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from hydrarch.api.app import create_app
from hydrarch.demo import (
    BEDS_ID,
    DEMO_ID,
    GATE_ID,
    HERBS_ID,
    JOBS,
    MEADOW_ID,
    POND_ID,
    RISERS_ID,
    TANK_ID,
    TUB_ID,
    WASH_ID,
    YARD_ID,
)
from tests.api.client import WithClient

ROOT = Path(__file__).resolve().parents[2]


class Jobs(WithClient):
    """Jobs and plans."""

    def test_list_and_open(self) -> None:
        """The demo is listed, and opens with everything derived."""
        self.assertEqual(
            [j["id"] for j in self.client.get("/api/jobs").json()],
            [DEMO_ID, HERBS_ID, YARD_ID, POND_ID, TUB_ID, TANK_ID, MEADOW_ID, BEDS_ID, WASH_ID, RISERS_ID, GATE_ID],
        )
        shown = self.job()["answer"]
        self.assertLess(set(shown["standing"]["readiness"]["joints"]), {j["id"] for j in shown["joints"]})
        self.assertTrue(shown["sizes"]["flows"])

    def test_a_stage_is_answered_with_what_it_needs(self) -> None:
        """Survey tells lines and what is wrong so far, and works nothing else out; each other stage its own parts."""
        survey = self.job("survey")["answer"]
        self.assertEqual(set(survey), {"stage", "revision", "lines", "cautions", "problems", "says"})
        for stage, part in (
            ("size", "surges"),
            ("join", "bill"),
            ("cut", "cuts"),
            ("make", "work"),
            ("prove", "sections"),
            ("keep", "standing"),
        ):
            shown = self.stage(stage)
            self.assertIn(part, shown)
            self.assertEqual((shown["stage"], shown["revision"]), (stage, 1))
        self.assertLess(len(json.dumps(survey)), len(json.dumps(self.stage("make"))) / 3)

    def test_answers_go_squeezed_to_other_devices_only(self) -> None:
        """A phone on the crew's network gets a squeezed answer with the same content; this machine gets it as it is."""
        app = create_app(self.store, None, self.settings)
        there, here = (
            TestClient(app, client=(address, 5000)).get(f"/api/jobs/{DEMO_ID}")
            for address in ("192.0.2.7", "127.0.0.1")
        )
        self.assertEqual(there.headers.get("content-encoding"), "gzip")
        self.assertNotIn("content-encoding", here.headers)
        self.assertEqual(there.json(), here.json())

    def test_edit_returns_what_follows(self) -> None:
        """One round trip: the plan goes in, the next revision and its sizes come back."""
        job = self.job("size")
        job["plan"]["conditions"]["max_velocity"] = 0.9
        saved = self.client.put(
            f"/api/jobs/{DEMO_ID}/plan?stage=size", json={"revision": 1, "plan": job["plan"]}
        ).json()
        self.assertEqual(saved["revision"], 2)
        self.assertEqual(job["answer"]["sizes"]["choices"]["R3"]["size"], "1-1/4")
        self.assertEqual(saved["answer"]["sizes"]["choices"]["R3"]["size"], "1-1/2")

    def test_switching_units_changes_no_stored_value(self) -> None:
        """The same plan in US units keeps every number; only what is said changes."""
        job = self.client.get(f"/api/jobs/{DEMO_ID}").json()
        plan = {**job["plan"], "units": "us"}
        saved = self.client.put(f"/api/jobs/{DEMO_ID}/plan?stage=size", json={"revision": 1, "plan": plan}).json()
        self.assertEqual({**self.job()["plan"], "units": "metric"}, job["plan"])
        said = " ".join(c["says"] for c in saved["answer"]["sizes"]["choices"].values())
        self.assertIn("ft/s", said)
        self.assertNotIn("m/s", said)

    def test_clash_shows_both_sides(self) -> None:
        """An edit of an old revision is refused with the newest plan beside it."""
        plan = self.client.get(f"/api/jobs/{DEMO_ID}").json()["plan"]
        self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 1, "plan": {**plan, "name": "theirs"}})
        answer = self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 1, "plan": {**plan, "name": "mine"}})
        body = self.refused(answer, 409, "clash", "revision 2")
        self.assertEqual((body["extra"]["revision"], body["extra"]["theirs"]["name"]), (2, "theirs"))

    def test_an_answer_that_was_lost_is_no_clash_with_oneself(self) -> None:
        """The same edit sent again, as a phone does that never heard, is the revision it made."""
        plan = {**self.job()["plan"], "name": "mine"}
        one, two = (
            self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 1, "plan": plan}).json() for _ in range(2)
        )
        self.assertEqual((one["revision"], two["revision"]), (2, 2))

    def test_a_job_can_be_taken_back(self) -> None:
        """An earlier revision becomes the newest; what came between stays; a stale request is a clash."""
        plan = self.job()["plan"]
        self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 1, "plan": {**plan, "name": "worse"}})
        self.assertEqual([r["number"] for r in self.client.get(f"/api/jobs/{DEMO_ID}/revisions").json()], [2, 1])
        self.refused(
            self.client.post(f"/api/jobs/{DEMO_ID}/revisions", json={"to": 1, "revision": 1}),
            409,
            "clash",
            "revision 2",
        )
        back = self.client.post(f"/api/jobs/{DEMO_ID}/revisions", json={"to": 1, "revision": 2}).json()
        self.assertEqual((back["revision"], back["plan"]), (3, plan))
        self.refused(
            self.client.post(f"/api/jobs/{DEMO_ID}/revisions", json={"to": 9, "revision": 3}),
            404,
            "not-there",
            "revision 9",
        )

    def test_bad_plans_are_refused_with_the_place(self) -> None:
        """Each kind of nonsense names where it is and what would do; the stored plan stays as it was."""
        plan = self.client.get(f"/api/jobs/{DEMO_ID}").json()["plan"]
        run = plan["runs"][0]
        cases: list[tuple[dict[str, Any], str]] = [
            (
                {"runs": [{**run, "b": {**run["b"], "point": "Nowhere"}}]},
                "goes to Nowhere, which is not on the drawing",
            ),
            ({"runs": [{**run, "measured_length": -4}]}, "must be 1 mm (1/16 in) or more, not -4.00 m (-13.1 ft)"),
            ({"points": [{**plan["points"][0], "x": "far"}]}, 'must be a number, not \\"far\\"'),
            ({"units": "cubits"}, "must be one of"),
            ({"colour": "red"}, "is not known here"),
        ]
        for change, says in cases:
            answer = self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 1, "plan": {**plan, **change}})
            body = self.refused(answer, 422, "invalid", says)
            self.assertTrue(body["places"][0]["where"].startswith("plan"))
        self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}").json()["revision"], 1)

    def test_an_outlet_without_source_is_a_problem_in_the_result(self) -> None:
        """What a crew can mend in a plan comes back with the plan, saved."""
        job = self.client.post("/api/jobs", json={"name": "Yard"}).json()
        tap = {"id": "T1", "x": 1.0, "y": 2.0, "what": {"kind": "tap"}}
        saved = self.client.put(
            f"/api/jobs/{job['id']}/plan", json={"revision": 1, "plan": {**job["plan"], "points": [tap]}}
        ).json()
        found = {p["code"]: p for p in saved["answer"]["problems"]}
        self.assertEqual(found["outlet-without-source"]["where"], "T1")
        self.assertIn("Draw runs", found["outlet-without-source"]["mend"])

    def test_names_get_ids_of_their_own(self) -> None:
        """Two jobs of one name both live."""
        one, two = (self.client.post("/api/jobs", json={"name": "Upper paddock"}).json()["id"] for _ in range(2))
        self.assertEqual(one, "upper-paddock")
        self.assertNotEqual(one, two)

    def test_unknown_things(self) -> None:
        """Unknown jobs, joints, points, workings and addresses say so."""
        self.refused(self.client.get("/api/jobs/none"), 404, "not-there", "there is no job none")
        self.refused(
            self.client.get(f"/api/jobs/{DEMO_ID}/joints/none/procedure"), 404, "unknown", "no joint called 'none'"
        )
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/profile?start=W&stop=QQ"), 404, "unknown", "no point called")
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/working/colour/R1"), 404, "unknown", "no working called")
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/working/loss/R99"), 404, "unknown", "R99")
        self.refused(self.client.get("/api/nothing"), 404, "not-there", "/api/nothing")


class Files(WithClient):
    """Export and import."""

    def test_round_trip_is_exact(self) -> None:
        """An exported job imports to a job that exports the same bytes."""
        text = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").content
        made = self.client.post("/api/import", content=text)
        self.assertEqual(made.status_code, 201)
        self.assertNotEqual(made.json()["id"], DEMO_ID)
        self.assertEqual(self.client.get(f"/api/jobs/{made.json()['id']}/export/job").content, text)

    def test_broken_files(self) -> None:
        """Not JSON, not a job, a job that does not hold together: each says so, and no job appears."""
        whole = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()
        broken = {
            **whole,
            "plan": {**whole["plan"], "points": [{"id": "A", "x": "q", "y": 1, "what": {"kind": "tap", "flow": -1}}]},
        }
        cases: list[tuple[str | bytes, str]] = [
            ("{", "not a JSON file"),
            ("[1, 2]", "not a Hydrarch job"),
            ('{"format": "x"}', "not a Hydrarch job"),
            (json.dumps(broken), "plan.points[0].what.flow"),
            (json.dumps({**whole, "events": [{"id": 1}]}), "events[0]"),
            (b"\xff\xfe\x00", "not a JSON file"),
        ]
        for text, says in cases:
            self.refused(self.client.post("/api/import", content=text), 422, "bad-file", says)
        self.assertEqual(len(self.client.get("/api/jobs").json()), len(JOBS))

    def test_ten_megabytes(self) -> None:
        """A body over the limit is refused before it is read, with a length or without."""
        big = b'{"format": "' + b"x" * 10_000_000 + b'"}'
        self.refused(self.client.post("/api/import", content=big), 413, "too-large", "more than 5 MB")
        parts = (big[i : i + 65536] for i in range(0, len(big), 65536))
        self.refused(self.client.post("/api/import", content=parts), 413, "too-large", "more than 5 MB")

    def test_tables_and_sheet(self) -> None:
        """Parts and cuts come as CSV; the sheet lists what is dry before anything else."""
        parts = self.client.get(f"/api/jobs/{DEMO_ID}/export/parts").text.lstrip("\ufeff").splitlines()
        self.assertEqual(parts[0], "group,count,unit,part,id,have,spare,each,per,price,detail")
        self.assertTrue(any(line.startswith("fitting,4,,PVC elbow 90° 1,pvc-elbow-90-1,") for line in parts))
        cuts = self.client.get(f"/api/jobs/{DEMO_ID}/export/cuts").text.splitlines()
        self.assertEqual(len(cuts), 1 + len(self.stage("cut")["cuts"]["pieces"]))
        rows = list(
            csv.DictReader(io.StringIO(self.client.get(f"/api/jobs/{DEMO_ID}/export/cuts").text.lstrip("\ufeff")))
        )
        self.assertTrue(all(re.fullmatch(r"[\d/-]+ (in|mm)", r["size"]) for r in rows), "no size is a date")
        told = self.client.get(f"/api/jobs/{DEMO_ID}/export/list")
        self.assertEqual(told.headers["content-type"].split(";")[0], "text/plain")
        self.assertIn("4 (+1 spare) PVC elbow 90° 1\n", told.text)
        self.assertIn("14 sticks of PVC schedule 40, 1 (83.77 m: 14 sticks of 6.10 m)\n", told.text)
        sheet = self.client.get(f"/api/jobs/{DEMO_ID}/export/sheet").text
        page_one = (
            "DRY, not made",
            "<h2>Water comes from</h2>",
            "<h2>What each valve shuts</h2>",
            "<h2>Unfinished, by section</h2>",
            "The line, from above",
            "<h2>Cautions</h2>",
            "<h2>Parts</h2>",
            "<h2>Every joint, by section</h2>",
        )
        places = [sheet.index(t) for t in page_one]
        self.assertEqual(places, sorted(places))
        self.assertIn("Head 1, Head 2, Head 3, Head 4", sheet)
        self.assertLess(sheet.index("<h2>Cuts, socket stop to socket stop</h2>"), sheet.index("<h2>At the saw</h2>"))
        for words in ("Bends the pipe makes itself", "Track bend", "sets an angle", "coat 3 at the most before it"):
            self.assertIn(words, sheet)
        self.assertLess(sheet.index("Loop tee to South-west corner"), sheet.index("Heads and taps, after flushing"))
        herbs = self.client.get(f"/api/jobs/{HERBS_ID}/export/sheet").text
        self.assertIn("person 2", herbs)
        self.assertIn("shut Bank valve", herbs)
        marked = set(re.findall(r"(?:ends|for) piece (\d+)", sheet))
        cut_here = [c for c in cuts[1:] if "~riser~" not in c]
        self.assertEqual(marked, {str(n) for n in range(1, len(cut_here) + 1)})

    def test_sheet_shows_names_as_text(self) -> None:
        """A name with markup in it is shown, not run, however it begins; so are those of points and people."""
        made = self.client.post("/api/jobs", json={"name": "<script>alert(1)</script>"}).json()
        plan = self.job()["plan"]
        for p in plan["points"]:
            p["name"] = f"<span onclick=x><script>{p['id']}"
        self.client.put(
            f"/api/jobs/{made['id']}/plan", json={"revision": 1, "plan": {**plan, "name": made["plan"]["name"]}}
        )
        text = self.client.get(f"/api/jobs/{made['id']}/export/sheet").text
        self.assertNotIn("<script", text)
        self.assertNotIn("<span onclick", text)
        self.assertIn("&lt;span onclick=x&gt;", text)

    def test_cells_that_a_spreadsheet_would_run_are_harmless(self) -> None:
        """A name that begins as a formula does, or with a tab, gets a quote before it; a plain number stays."""
        plan = self.job()["plan"]
        for p, name in zip(plan["points"], ("=1+1|cmd", "-9+cmd", "+x", "@x", "-4.5"), strict=False):
            p["name"] = name
        self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 1, "plan": plan})
        cells = self.client.get(f"/api/jobs/{DEMO_ID}/export/cuts").text
        for name in ("=1+1|cmd", "-9+cmd", "@x"):
            self.assertIn(f"'{name}", cells)
            self.assertNotIn(f",{name}", cells)
        plan["points"][0]["name"] = "\tx"
        self.refused(
            self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 2, "plan": plan}),
            422,
            "invalid",
            "control characters",
        )


if __name__ == "__main__":
    unittest.main()
