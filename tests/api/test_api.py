"""The API: what a client sends and gets, and how it is told what is wrong."""

import itertools
import json
import re
import tempfile
import time
import unittest
import uuid
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from hydrarch.api.app import create_app, openapi
from hydrarch.api.guard import Settings
from hydrarch.cli import put_demo
from hydrarch.demo import DEMO_ID, HERBS_ID, YARD_ID
from hydrarch.store.database import Store

ROOT = Path(__file__).resolve().parents[2]


class WithClient(unittest.TestCase):
    """An application over a fresh store with the demo job."""

    settings = Settings(hosts=(*Settings().hosts, "testserver"))

    def setUp(self) -> None:
        """Start it."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.store = Store(Path(folder.name) / "h.sqlite3")
        self.addCleanup(self.store.close)
        put_demo(self.store, reset=False)
        self.client = TestClient(create_app(self.store, None, self.settings), raise_server_exceptions=False)
        self.addCleanup(self.client.close)

    def job(self, stage: str = "make", name: str = DEMO_ID) -> dict[str, Any]:
        """A job as one stage shows it."""
        found: dict[str, Any] = self.client.get(f"/api/jobs/{name}?stage={stage}").json()
        return found

    def stage(self, stage: str, name: str = DEMO_ID) -> dict[str, Any]:
        """What one stage shows."""
        found: dict[str, Any] = self.client.get(f"/api/jobs/{name}/stages/{stage}").json()
        return found

    def refused(self, answer: Any, status: int, kind: str, says: str) -> dict[str, Any]:
        """The answer is a problem document of that kind that says so, and no stack trace."""
        self.assertEqual(answer.status_code, status, answer.text)
        self.assertEqual(answer.headers["content-type"], "application/problem+json")
        body: dict[str, Any] = answer.json()
        self.assertEqual(body["type"], f"/problems/{kind}")
        self.assertIn(says, json.dumps(body, ensure_ascii=False))
        self.assertTrue(body["mend"])
        self.assertNotIn("Traceback", answer.text)
        return body


class Jobs(WithClient):
    """Jobs and plans."""

    def test_list_and_open(self) -> None:
        """The demo is listed, and opens with everything derived."""
        self.assertEqual([j["id"] for j in self.client.get("/api/jobs").json()], [DEMO_ID, HERBS_ID, YARD_ID])
        shown = self.job()["answer"]
        self.assertLess(set(shown["standing"]["readiness"]["joints"]), {j["id"] for j in shown["joints"]})
        self.assertTrue(shown["sizes"]["flows"])

    def test_a_stage_is_answered_with_what_it_needs(self) -> None:
        """Survey tells lines and what is wrong so far, and works nothing else out; each other stage its own parts."""
        survey = self.job("survey")["answer"]
        self.assertEqual(set(survey), {"stage", "revision", "lines", "cautions", "problems"})
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
            TestClient(app, client=(address, 5000)).get(f"/api/jobs/{DEMO_ID}") for address in ("192.0.2.7", "127.0.0.1")
        )
        self.assertEqual(there.headers.get("content-encoding"), "gzip")
        self.assertNotIn("content-encoding", here.headers)
        self.assertEqual(there.json(), here.json())

    def test_edit_returns_what_follows(self) -> None:
        """One round trip: the plan goes in, the next revision and its sizes come back."""
        job = self.job("size")
        job["plan"]["conditions"]["max_velocity"] = 0.9
        saved = self.client.put(f"/api/jobs/{DEMO_ID}/plan?stage=size", json={"revision": 1, "plan": job["plan"]}).json()
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
        one, two = (self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 1, "plan": plan}).json() for _ in range(2))
        self.assertEqual((one["revision"], two["revision"]), (2, 2))

    def test_a_job_can_be_taken_back(self) -> None:
        """An earlier revision becomes the newest; what came between stays; a stale request is a clash."""
        plan = self.job()["plan"]
        self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 1, "plan": {**plan, "name": "worse"}})
        self.assertEqual([r["number"] for r in self.client.get(f"/api/jobs/{DEMO_ID}/revisions").json()], [2, 1])
        self.refused(
            self.client.post(f"/api/jobs/{DEMO_ID}/revisions", json={"to": 1, "revision": 1}), 409, "clash", "revision 2"
        )
        back = self.client.post(f"/api/jobs/{DEMO_ID}/revisions", json={"to": 1, "revision": 2}).json()
        self.assertEqual((back["revision"], back["plan"]), (3, plan))
        self.refused(
            self.client.post(f"/api/jobs/{DEMO_ID}/revisions", json={"to": 9, "revision": 3}), 404, "not-there", "revision 9"
        )

    def test_bad_plans_are_refused_with_the_place(self) -> None:
        """Each kind of nonsense names where it is and what would do; the stored plan stays as it was."""
        plan = self.client.get(f"/api/jobs/{DEMO_ID}").json()["plan"]
        run = plan["runs"][0]
        cases: list[tuple[dict[str, Any], str]] = [
            ({"runs": [{**run, "b": {**run["b"], "point": "Nowhere"}}]}, "goes to Nowhere, which is not on the drawing"),
            ({"runs": [{**run, "measured_length": -4}]}, "must be 0.001 or more, not -4"),
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
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/joints/none/procedure"), 404, "unknown", "no joint called 'none'")
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
            ("{", "not a JSON file"), ("[1, 2]", "not a Hydrarch job"), ('{"format": "x"}', "not a Hydrarch job"),
            (json.dumps(broken), "plan.points[0].what.flow"), (json.dumps({**whole, "events": [{"id": 1}]}), "events[0]"),
            (b"\xff\xfe\x00", "not a JSON file"),
        ]  # fmt: skip
        for text, says in cases:
            self.refused(self.client.post("/api/import", content=text), 422, "bad-file", says)
        self.assertEqual(len(self.client.get("/api/jobs").json()), 3)

    def test_ten_megabytes(self) -> None:
        """A body over the limit is refused before it is read, with a length or without."""
        big = b'{"format": "' + b"x" * 10_000_000 + b'"}'
        self.refused(self.client.post("/api/import", content=big), 413, "too-large", "more than 5 MB")
        parts = (big[i : i + 65536] for i in range(0, len(big), 65536))
        self.refused(self.client.post("/api/import", content=parts), 413, "too-large", "more than 5 MB")

    def test_tables_and_sheet(self) -> None:
        """Parts and cuts come as CSV; the sheet lists what is dry before anything else."""
        parts = self.client.get(f"/api/jobs/{DEMO_ID}/export/parts").text.splitlines()
        self.assertEqual(parts[0], "group,count,unit,part,id,have,spare,each,price,detail")
        self.assertTrue(any(line.startswith("fitting,4,,PVC elbow 90° 1,pvc-elbow-90-1,") for line in parts))
        cuts = self.client.get(f"/api/jobs/{DEMO_ID}/export/cuts").text.splitlines()
        self.assertEqual(len(cuts), 1 + len(self.stage("cut")["cuts"]["pieces"]))
        sheet = self.client.get(f"/api/jobs/{DEMO_ID}/export/sheet").text
        self.assertLess(sheet.index("DRY, not made"), sheet.index("made, not proved"))
        self.assertLess(sheet.index("made, not proved"), sheet.index("<h2>Parts</h2>"))
        self.assertLess(sheet.index("<h2>Cuts, stop to stop</h2>"), sheet.index("<h2>At the saw</h2>"))
        for words in ("Bends the pipe makes itself", "Track bend", "sets an angle", "coat 3 at the most before pushing home"):
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
        self.client.put(f"/api/jobs/{made['id']}/plan", json={"revision": 1, "plan": {**plan, "name": made["plan"]["name"]}})
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
            self.client.put(f"/api/jobs/{DEMO_ID}/plan", json={"revision": 2, "plan": plan}), 422, "invalid", "control characters"
        )


def event(kind: str, **more: Any) -> dict[str, Any]:
    """An event of now."""
    return {"id": str(uuid.uuid4()), "kind": kind, "at": time.time(), "by": "Ash", **more}


class Records(WithClient):
    """Events and gates."""

    def say(self, *events: dict[str, Any]) -> Any:
        """Send events."""
        return self.client.post(f"/api/jobs/{DEMO_ID}/events", json=list(events))

    def stands(self, *events: dict[str, Any], name: str = DEMO_ID) -> dict[str, Any]:
        """Where the job stands after events that are all kept."""
        answer = self.client.post(f"/api/jobs/{name}/events", json=list(events)).json()
        self.assertEqual([e for e in answer["events"] if not e["kept"]], [])
        found: dict[str, Any] = answer["standing"]["readiness"]
        return found

    def told(self, told: dict[str, Any], status: int, kind: str, says: str) -> dict[str, Any]:
        """One event is refused, by itself, with a problem that says so."""
        (answer,) = self.say(told).json()["events"]
        self.assertFalse(answer["kept"])
        problem: dict[str, Any] = answer["problem"]
        self.assertEqual((problem["status"], problem["type"]), (status, f"/problems/{kind}"))
        self.assertIn(says, json.dumps(problem, ensure_ascii=False))
        return problem

    def test_made_starts_the_clock(self) -> None:
        """A weld marked made is setting, and says when it takes pressure."""
        job = self.stage("make")
        dry = {j for j, s in job["standing"]["readiness"]["joints"].items() if s["state"] == "dry"}
        welds = (j["id"] for j in job["joints"] if j["method"] == "solvent weld")
        joint = next(j for j in welds if j in dry)
        state = self.stands(event("made", joints=[joint]))["joints"][joint]
        self.assertEqual((state["state"], state["by"]), ("setting", "Ash"))
        self.assertAlmostEqual(state["cured_at"] - state["at"], 1800, delta=1)

    def test_sent_twice_changes_nothing(self) -> None:
        """A phone that sends its queue again alters nothing."""
        made = event("made", joints=["R13b~1"])
        one, two = self.stands(made), self.stands(made, made)
        self.assertEqual(one["joints"], {**two["joints"]})

    def test_no_pressure_on_what_is_not_cured(self) -> None:
        """A test of a section with open joints is refused with the reason; with a reason of its own it is kept."""
        start = time.time() - 900
        test = event("tested", section="sec-R10", pressure=7e5, ended=start + 600, passed=True) | {"at": start}
        body = self.told(test, 409, "gate", "not made yet")
        self.assertIn("give a reason", body["mend"])
        kept = self.stands({**test, "override": "charging the line to find the leak"})
        self.assertEqual(kept["sections"]["sec-R10"]["tests"][0]["override"], "charging the line to find the leak")
        self.assertFalse(kept["sections"]["sec-R10"]["proved"])

    def test_no_burying_of_what_is_not_proved(self) -> None:
        """The main may not be buried yet, the proved pump house may."""
        self.told(event("buried", section="sec-R3"), 409, "gate", "not proved by a test")
        self.assertTrue(self.stands(event("buried", section="sec-R1"))["sections"]["sec-R1"]["buried"])

    def test_events_in_one_batch_see_each_other(self) -> None:
        """A queue that makes, waits, tests and buries lands in one go, in order."""
        whole = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()
        fresh = self.client.post("/api/import", json={**whole, "events": []}).json()
        section = self.stage("prove", fresh["id"])["sections"][2]
        past = time.time() - 90000
        batch = [
            event("made", joints=section["joints"]) | {"at": past},
            event("tested", section=section["id"], pressure=7e5, ended=past + 80600, passed=True) | {"at": past + 80000},
            event("buried", section=section["id"]),
        ]
        self.assertTrue(self.stands(*batch, name=fresh["id"])["sections"][section["id"]]["buried"])

    def test_one_bad_event_keeps_no_other_from_being_kept(self) -> None:
        """Each event has its own answer: what is not well formed, at a shut gate or of the future is refused alone."""
        good = [event("made", joints=["R13b~1"]), event("looked", joints=["R13b~1"])]
        bad = [
            event("made"),
            event("buried", section="sec-R3"),
            event("made", joints=["R14a~1"]) | {"at": time.time() + 9999},
            {"id": 3},
        ]
        answer = self.say(good[0], *bad, good[1]).json()
        self.assertEqual([e["kept"] for e in answer["events"]], [True, False, False, False, False, True])
        self.assertTrue(all(e["problem"]["mend"] for e in answer["events"] if not e["kept"]))
        self.assertTrue(answer["standing"]["readiness"]["joints"]["R13b~1"]["looked"])

    def test_a_joint_nobody_knows_is_kept_as_lost(self) -> None:
        """What a crew says is never thrown away: a joint that is not of the drawing is listed until it is seen to."""
        lost = self.stands(event("made", joints=["R99a~1"]))["lost"]
        self.assertEqual([(x["joint"], x["by"]) for x in lost], [("R99a~1", "Ash")])

    def test_a_joint_that_is_gone_can_be_cut_out(self) -> None:
        """A made joint whose run is deleted is listed as lost, with where it was, until it is undone."""
        job = self.job()
        self.assertEqual(job["answer"]["standing"]["readiness"]["lost"], [])
        plan = job["plan"]
        plan["runs"] = [r for r in plan["runs"] if r["id"] != "R6"]
        plan["points"] = [p for p in plan["points"] if p["id"] != "T2"]
        for scenario in plan["scenarios"]:
            scenario["open"] = [o for o in scenario["open"] if o != "T2"]
        saved = self.client.put(f"/api/jobs/{DEMO_ID}/plan?stage=keep", json={"revision": 1, "plan": plan}).json()
        lost = saved["answer"]["standing"]["readiness"]["lost"]
        self.assertTrue(lost)
        self.assertTrue(all("Tap 2" in j["place"] or "Track tee" in j["place"] for j in lost), lost)
        self.assertEqual(self.stands(event("undone", joints=[j["joint"] for j in lost]))["lost"], [])

    def test_bad_events(self) -> None:
        """An event from the future, a test without an end, one that ends before it starts, and an id that is none."""
        self.told(event("made", joints=["R13b~1"]) | {"at": time.time() + 9999}, 422, "future", "future")
        self.told(event("tested", section="sec-R1", pressure=5e5, passed=True), 422, "invalid", "a test has a pressure, an end")
        early = event("tested", section="sec-R1", pressure=5e5, passed=True, ended=time.time() - 9e5)
        self.told(early, 422, "invalid", "ends after it starts")
        self.told(event("made", joints=["R13b~1"]) | {"id": "1"}, 422, "invalid", "id")
        self.told(event("made"), 422, "invalid", "names its joints")
        self.told(event("made", joints=["R13b~1"]) | {"at": 5e-324}, 422, "invalid", "at")
        half = json.dumps([event("made", joints=["R13b~1"]) | {"by": "\ud800"}]).encode()
        answer = self.client.post(f"/api/jobs/{DEMO_ID}/events", content=half, headers={"Content-Type": "application/json"})
        self.assertFalse(answer.json()["events"][0]["kept"])

    def test_procedure(self) -> None:
        """The steps of a joint come with its cautions and clocks."""
        found = self.client.get(f"/api/jobs/{DEMO_ID}/joints/R8b~3/procedure").json()
        self.assertEqual(found["method"], "solvent weld")
        self.assertEqual(found["cautions"][0]["code"], "solvent")
        self.assertEqual(found["cure"]["cure"], 1800.0)


class Questions(WithClient):
    """Reference, typed quantities, profile and working."""

    def test_reference(self) -> None:
        """Every kind of point has its fields with labels and quantities; cautions come along."""
        found = self.client.get("/api/reference").json()
        kinds = {k["kind"]: k for k in found["kinds"]}
        self.assertEqual(kinds["sprinkler"]["role"], "outlet")
        self.assertEqual([f["quantity"] for f in kinds["tap"]["fields"]], ["flow", "pressure", "length"])
        self.assertEqual(
            [(f["name"], f["shape"]) for f in kinds["pump"]["fields"]][:3],
            [("curve", "curve"), ("speed", "number"), ("side_by_side", "number")],
        )
        self.assertEqual(kinds["three_way"]["fields"][0]["choices"], ["", "in", "left", "right"])
        self.assertEqual(
            [(p["name"], p["given"]["elsewhere"]) for p in kinds["regulator"]["ports"]],
            [("in", "bsp:female:3/4"), ("out", "bsp:female:3/4")],
        )
        self.assertEqual(kinds["well_pump"]["cautions"][0]["code"], "electric")
        self.assertEqual((next(iter(found["waits"])), found["waits"]["thread"]), ("solvent weld", []))

    def test_typed_quantities(self) -> None:
        """Text is read in the job's system, or refused with an example."""
        read = self.client.post("/api/read", json={"text": "6 ft 3-1/2 in", "quantity": "length", "system": "us"}).json()
        self.assertAlmostEqual(read["value"], 1.9177)
        answer = self.client.post("/api/read", json={"text": "soon", "quantity": "pressure", "system": "us"})
        self.refused(answer, 422, "quantity", "type a number such as 12 psi")

    def test_profile(self) -> None:
        """Ground, pipe and grade along the way; empty where there is no way."""
        found = self.client.get(f"/api/jobs/{DEMO_ID}/profile?start=W&stop=S2&scenario=meadow").json()
        self.assertEqual((found[0]["name"], found[-1]["name"]), ("Well pump", "Head 2"))
        self.assertTrue(all(a["grade"] >= b["grade"] for a, b in itertools.pairwise(found)))

    def test_openapi_is_current_and_complete(self) -> None:
        """The committed document is what the application says, and every route has a summary and its errors."""
        kept = json.loads((ROOT / "docs" / "openapi.json").read_text("utf-8"))
        self.assertEqual(kept, json.loads(json.dumps(openapi())), "run ./run types")
        for path, methods in kept["paths"].items():
            for method, route in methods.items():
                self.assertTrue(route.get("summary"), f"{method} {path}")
                self.assertIn("422", route["responses"], f"{method} {path}")


class Guarded(WithClient):
    """Who may ask at all."""

    settings = Settings(hosts=("testserver",), passphrase="blue gate", requests_per_minute=60)

    def test_passphrase(self) -> None:
        """A shared server wants the crew's words once, and no others."""
        self.refused(self.client.get("/api/jobs"), 401, "session", "passphrase")
        self.refused(self.client.post("/api/session", json={"passphrase": "red gate"}), 401, "passphrase", "not the crew's")
        self.assertEqual(self.client.post("/api/session", json={"passphrase": "blue gate"}).status_code, 204)
        self.assertEqual(self.client.get("/api/jobs").status_code, 200)

    def test_guessing_is_slowed(self) -> None:
        """After a handful of wrong words even the right ones wait."""
        for _ in range(7):
            self.client.post("/api/session", json={"passphrase": "guess"})
        self.assertEqual(self.client.post("/api/session", json={"passphrase": "blue gate"}).status_code, 401)

    def test_foreign_hosts_and_pages(self) -> None:
        """A name the server does not answer to, and a change sent from a foreign page, are refused."""
        self.refused(self.client.get("/api/jobs", headers={"Host": "evil.example"}), 400, "host", "does not answer")
        answer = self.client.post("/api/session", json={"passphrase": "blue gate"}, headers={"Origin": "http://evil.example"})
        self.refused(answer, 403, "origin", "may not change jobs here")

    def test_policy_and_rate(self) -> None:
        """Every answer carries a strict policy; too many requests in a minute are turned away."""
        answer = self.client.post("/api/session", json={"passphrase": "blue gate"})
        self.assertIn("default-src 'self'", answer.headers["content-security-policy"])
        codes = {self.client.get("/api/jobs").status_code for _ in range(70)}
        self.assertEqual(codes, {200, 429})


class Bench(WithClient):
    """Single questions without a job."""

    def test_join_by_words_and_by_choice(self) -> None:
        """Words and chosen ends give the same ways; nothing is kept."""
        said = self.client.post("/api/bench/join", json={"words": "1 in sch 40 pipe to 1 in poly"}).json()
        chosen = {"start": {"series": "pvc40", "size": "1"}, "stop": {"series": "pe-sidr7", "size": "1"}}
        self.assertEqual(self.client.post("/api/bench/join", json=chosen).json(), said)
        self.assertEqual(len(said["ways"][0]["joints"]), 3)
        self.assertTrue(said["wrong"])

    def test_bad_questions(self) -> None:
        """Unknown ends, empty words, contradictory limits and impossible readings say what would do."""
        self.refused(self.client.post("/api/bench/join", json={"words": ""}), 422, "refused", "say it as 'this to that'")
        ends = {"start": {"end": "npt:female:1"}, "stop": {"end": "npt:sideways:1"}}
        self.refused(self.client.post("/api/bench/join", json=ends), 404, "unknown", "did you mean npt")
        strong = {"words": "1 in poly to 1 socket", "pressure": 9e6}
        self.refused(self.client.post("/api/bench/join", json=strong), 422, "refused", "choose a heavier one")
        self.refused(self.client.post("/api/bench/identify", json={}), 422, "refused", "measure something")
        self.refused(self.client.post("/api/bench/identify", json={"outside": "wide"}), 422, "invalid", "must be a number")

    def test_identify_with_the_simulated_caliper(self) -> None:
        """The caliper reads, and its readings name the pipe."""
        read = {
            what: self.client.post("/api/bench/caliper", json={"series": "sewer-thin", "size": "4", "what": what}).json()["value"]
            for what in ("outside", "wall")
        }
        found = self.client.post("/api/bench/identify", json=read).json()
        self.assertEqual(found["candidates"][0]["series"], "sewer-thin")

    def test_branch_and_ends(self) -> None:
        """Branches come fewest joints first; every end is listed in words; an unknown size is refused."""
        asked = {"line": {"series": "pvc40", "size": "1-1/2"}, "off": {"series": "pvc40", "size": "3/4"}}
        ways = self.client.post("/api/bench/branch", json=asked).json()
        self.assertEqual((ways[0]["says"], ways[0]["joints"]), ("PVC reducing tee 1-1/2 × 1-1/2 × 3/4", 3))
        self.assertIn("3/4 in NPT female", [e["words"] for e in self.client.get("/api/bench/ends").json()])
        asked["line"]["size"] = "9"
        self.refused(self.client.post("/api/bench/branch", json=asked), 404, "unknown", "no size of PVC schedule 40")
        self.assertIn({"id": "pvc-tee-1", "name": "PVC tee 1"}, self.client.get("/api/bench/fittings").json())

    def test_contradictory_limits(self) -> None:
        """Limits that the pipe itself breaks are refused with which to lift; limits that leave nothing say which one does it."""
        asked = {"words": "1 in class 200 to 1 in sch 40", "potable": True}
        self.refused(self.client.post("/api/bench/join", json=asked), 422, "refused", "not for drinking water")
        none = self.client.post("/api/bench/join", json={"words": "1 in sch 40 to 1 in poly", "no_hot_work": True}).json()
        self.assertIn("without 'no hot work' there is a way", none["says"])


class Choosing(WithClient):
    """What stands at a point, and what the crew puts over it."""

    def test_nodes_are_listed_chosen_and_kept(self) -> None:
        """The choices at a corner come with joints and price; one written in the plan is used; an unknown point is refused."""
        found = self.client.get("/api/jobs/thistledown/nodes/B2").json()
        self.assertEqual((found[0]["fittings"], found[0]["used"], found[0]["joints"]), (["pvc-elbow-45-1-1_4"], True, 2))
        job = self.client.get("/api/jobs/thistledown").json()
        plan = {**job["plan"], "nodes": [{"point": "B2", "how": found[1]["how"], "fittings": found[1]["fittings"]}]}
        plan["prices"] = {"pvc-tee-1-1_4-x-1-1_4-x-1": 9.5}
        saved = self.client.put("/api/jobs/thistledown/plan?stage=join", json={"revision": job["revision"], "plan": plan})
        self.assertEqual(saved.status_code, 200, saved.text)
        self.assertIn(found[1]["fittings"][0], [p["fitting"] for p in saved.json()["answer"]["parts"] if p["point"] == "B2"])
        self.refused(self.client.get("/api/jobs/thistledown/nodes/B99"), 404, "unknown", "no point called 'B99'")


class Sizing(WithClient):
    """Three ways to size, trying, charts and the bench's sums."""

    def test_three_ways(self) -> None:
        """The herb bank is a tree of two scenarios: its least cost is proved over both; the meadow has a loop and says so."""
        herbs = self.client.get(f"/api/jobs/{HERBS_ID}/sizing").json()
        self.assertEqual([w["way"] for w in herbs["ways"]], ["rule", "computed", "least cost"])
        self.assertTrue(herbs["ways"][2]["proved"] and herbs["ways"][2]["holds"])
        self.assertGreater(len(herbs["curve"]), 10)
        self.assertIn("not proved", self.client.get(f"/api/jobs/{DEMO_ID}/sizing").json()["ways"][2]["says"])

    def test_three_ways_as_it_goes(self) -> None:
        """The same comes as events: how far it is in words, then the same comparison; a job that is not there is told at once."""
        text = self.client.get(f"/api/jobs/{HERBS_ID}/sizing/live").text
        events = [dict(line.split(": ", 1) for line in e.split("\n")) for e in text.split("\n\n") if e and not e.startswith(":")]
        self.assertEqual({e["event"] for e in events[:-1]}, {"says"})
        self.assertIn("at most 20 s", events[1]["data"])
        self.assertEqual(json.loads(events[-1]["data"]), self.client.get(f"/api/jobs/{HERBS_ID}/sizing").json())
        self.refused(self.client.get("/api/jobs/nowhere/sizing/live"), 404, "not-there", "nowhere")

    def test_trying_keeps_nothing(self) -> None:
        """A plan tried tells what would change and leaves the job as it is; a plan that does not hold together is refused."""
        job = self.client.get(f"/api/jobs/{DEMO_ID}").json()
        plan = job["plan"]
        pump = next(p for p in plan["points"] if p["id"] == "W")
        pump["what"]["speed"] = 0.7
        found = self.client.post(f"/api/jobs/{DEMO_ID}/what-if", json=plan).json()
        self.assertLess(found["outcomes"][0]["margin_after"], found["outcomes"][0]["margin_before"])
        self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}").json()["revision"], job["revision"])
        pump["what"]["speed"] = 9
        self.refused(self.client.post(f"/api/jobs/{DEMO_ID}/what-if", json=plan), 422, "invalid", "speed")

    def test_operating_point(self) -> None:
        """A pump settles where its curve meets the system's; a tap is no pump."""
        found = self.client.get(f"/api/jobs/{DEMO_ID}/operating/W").json()
        for system in found["systems"]:
            near = min(found["pump"], key=lambda p: abs(p[0] - system["flow"]))
            self.assertLess(abs(near[1] - system["head"]), 20)
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/operating/T1"), 422, "refused", "is no pump")
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/operating/ZZ"), 404, "unknown", "no point called")

    def test_lines_drains_and_tables(self) -> None:
        """The bench's sums answer in SI and refuse what cannot be, with where and how to mend it."""
        line = self.client.post("/api/bench/line", json={"flow": 8e-4, "length": 60.0, "fittings": {"elbow": 2}}).json()
        self.assertEqual((line["pick"], line["rule"]["size"]), ("1", "1"))
        self.refused(
            self.client.post("/api/bench/line", json={"flow": 8e-4, "length": -1.0}), 422, "refused", "it must lie between"
        )
        drain = self.client.post("/api/bench/drain", json={"flow": 1e-3, "slope": 0.01}).json()
        self.assertEqual((drain[0]["size"], drain[0]["runs"]["cleans"]), ("4", True))
        self.refused(self.client.post("/api/bench/drain", json={"flow": 1e-3, "slope": 0.0}), 422, "refused", "does not fall")
        table = self.client.get("/api/bench/friction/pvc40?units=us").json()
        self.assertEqual(len(table["losses"]), len(table["flows"]))
        self.refused(self.client.get("/api/bench/friction/straw"), 404, "unknown", "no pipe series")

    def test_wells_and_sources(self) -> None:
        """A well is judged and a source measured; a hole that cannot be and a reading without flow are refused."""
        asked = {
            "depth": 60.0,
            "casing": 0.128,
            "static": 14.0,
            "pump": 45.0,
            "test_flow": 1e-3,
            "test_drawdown": 6.0,
            "flow": 8e-4,
            "pressure": 3e5,
        }
        found = self.client.post("/api/bench/well", json=asked).json()
        self.assertEqual(found["candidates"][0]["rejected"], [])
        self.assertEqual(found["checks"][0]["depth"], 45.0)
        self.refused(self.client.post("/api/bench/well", json={**asked, "pump": 70.0}), 422, "refused", "below the bottom")
        reading = {"pressure": 3e5, "volume": 0.01, "seconds": 18.0}
        source = self.client.post("/api/bench/supply", json={"rest": 3.8e5, "readings": [reading]}).json()
        self.assertAlmostEqual(source["points"][0][1], 3.8e5)
        self.refused(
            self.client.post("/api/bench/supply", json={"rest": 3.8e5, "readings": [{"pressure": 3e5}]}),
            422,
            "refused",
            "reading 1 has no flow",
        )


class AtTheSaw(WithClient):
    """Nesting, price books, clocks, weather, gauge."""

    def test_nests_and_price_books(self) -> None:
        """Nests come with their bound; a price book goes out as CSV and is read back, a broken one refused by line."""
        nests = self.client.get(f"/api/jobs/{DEMO_ID}/nests").json()
        self.assertTrue(all(n["bound"] <= len(n["sticks"]) for n in nests))
        book = self.client.get(f"/api/jobs/{DEMO_ID}/export/prices")
        self.assertEqual(book.headers["content-type"].split(";")[0], "text/csv")
        self.assertEqual(self.client.post("/api/prices", json={"text": book.text}).json(), {})
        read = self.client.post("/api/prices", json={"text": "item,price\npvc-tee-1,2.5\n"}).json()
        self.assertEqual(read, {"pvc-tee-1": 2.5})
        self.refused(self.client.post("/api/prices", json={"text": "item,price\npvc-tee-1,dear\n"}), 422, "refused", "line 2")

    def test_clocks_as_a_calendar(self) -> None:
        """What still cures is in the calendar with an alarm, and every line is at most 75 octets (RFC 5545)."""
        running = self.client.get(f"/api/jobs/{DEMO_ID}/standing?stage=prove").json()["clocks"]
        self.assertTrue(running)
        text = self.client.get(f"/api/jobs/{DEMO_ID}/export/clocks").text
        self.assertEqual(text.count("BEGIN:VEVENT"), len(running))
        self.assertEqual(text.count("BEGIN:VALARM"), len(running))
        self.assertTrue(all(len(line.encode()) <= 75 for line in text.split("\r\n")))

    def test_weather(self) -> None:
        """The simulated feed gives the coldest of the hours to come; a CSV is read in its place, a broken one refused."""
        found = self.client.post("/api/weather", json={"hours": 24}).json()
        self.assertEqual(found["temperature"], min(h["temperature"] for h in found["hours"]))
        self.refused(self.client.post("/api/weather", json={"csv": "time,celsius\n"}), 422, "refused", "line 1")

    def test_flush_gauge_and_verdict(self) -> None:
        """A section is flushed end by end; the simulated gauge's log is judged; an unknown section and too few readings are refused."""
        section = self.stage("prove")["sections"][1]["id"]
        base = f"/api/jobs/{DEMO_ID}/sections/{section}"
        self.assertEqual(self.client.get(f"{base}/flush").json()["ends"], ["Tap 1", "Tap 2"])
        for leak, tight in ((0, True), (2e-7, False)):
            log = self.client.get(f"{base}/gauge?leak={leak}").json()
            self.assertEqual(self.client.post(f"{base}/judge", json={"readings": log}).json()["tight"], tight)
        typed = "minutes,bar\n0,7.4\n5,7.4\n10,7.39\n20,7.39\n30,7.39\n"
        self.assertTrue(self.client.post(f"{base}/judge", json={"csv": typed}).json()["tight"])
        self.refused(self.client.post(f"{base}/judge", json={"csv": "minutes,bar\n0,7\n"}), 422, "refused", "four readings")
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/sections/nowhere/flush"), 404, "unknown", "no section called")

    def test_fused_joint(self) -> None:
        """The bench tries a fused joint; a depth that cannot be is refused."""
        found = self.client.post("/api/bench/fused", json={"depth": 0.014, "heating": 5.5}).json()
        self.assertIn("double lip", found["verdict"])
        self.refused(
            self.client.post("/api/bench/fused", json={"depth": 0.5, "heating": 5.5}), 422, "refused", "it must lie between"
        )
