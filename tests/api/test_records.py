"""Events and gates at the API."""

import json
import time
import unittest
from pathlib import Path
from typing import Any

from hydrarch.demo import DEMO_ID
from tests.api.client import WithClient, event

ROOT = Path(__file__).resolve().parents[2]


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

    def test_all_procedures_at_once(self) -> None:
        """What a phone takes along is, joint by joint, what each joint is told by itself; joints made alike
        share one.
        """
        found = self.client.get(f"/api/jobs/{DEMO_ID}/procedures").json()
        self.assertLess(len(found["kinds"]), len(found["of"]) / 2)
        for joint in sorted(found["of"])[::7]:
            alone = self.client.get(f"/api/jobs/{DEMO_ID}/joints/{joint}/procedure").json()
            self.assertEqual({**found["kinds"][found["of"][joint]], "joint": joint}, alone)

    def test_a_phone_with_a_wrong_clock(self) -> None:
        """Two days slow, a joint is set now and not two days ago; an hour fast, it is kept and not refused.

        Both are put right, and it is kept by how much.
        """
        joints = [j["id"] for j in self.stage("make")["joints"] if j["method"] == "solvent weld"]
        now = time.time()
        for name, wrong in zip(joints, (-2 * 86400.0, 3600.0, 5.0), strict=False):
            with self.subTest(wrong=wrong):
                said = event("made", joints=[name]) | {"at": now + wrong}
                answer = self.client.post(f"/api/jobs/{DEMO_ID}/events?sent={now + wrong}", json=[said]).json()
                self.assertTrue(answer["events"][0]["kept"], answer["events"])
                state = answer["standing"]["readiness"]["joints"][name]
                self.assertAlmostEqual(state["at"], now, delta=10)
                self.assertEqual(state["state"], "setting")
                self.assertAlmostEqual(
                    answer["clock"], -wrong if abs(wrong) > 30 else 0.0, delta=10 if abs(wrong) > 30 else 0
                )
        kept = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()["events"]
        self.assertEqual(sorted(round(e["clock"] / 3600) for e in kept if e.get("clock")), [-1, 48])

    def test_a_clock_put_right_before_the_signal(self) -> None:
        """Three hours slow as a joint was made with no signal, and right again as it is sent: it is not cured by the
        hours that never were. The latest moment counts, and the doubt is kept and told.
        """
        joint = next(j["id"] for j in self.stage("make")["joints"] if j["method"] == "solvent weld")
        now = time.time()
        said = event("made", joints=[joint]) | {"at": now - 60 - 3 * 3600, "device_off": 3 * 3600.0}
        answer = self.client.post(f"/api/jobs/{DEMO_ID}/events?sent={now}", json=[said]).json()
        state = answer["standing"]["readiness"]["joints"][joint]
        self.assertAlmostEqual(state["at"], now - 60, delta=10)
        self.assertAlmostEqual(state["doubt"], 3 * 3600, delta=10)
        self.assertIn(state["state"], ("setting", "curing"))
        # by its own word a device's clock makes nothing younger than it can be, nor sets anything ahead
        for off in (-3 * 3600.0, 7 * 86400.0):
            other = next(j["id"] for j in self.stage("make")["joints"] if j["id"] != joint)
            told = event("made", joints=[other]) | {"at": now - 600, "device_off": off}
            at = self.client.post(f"/api/jobs/{DEMO_ID}/events?sent={now}", json=[told]).json()
            self.assertTrue(now - 601 <= at["standing"]["readiness"]["joints"][other]["at"] <= time.time() + 1, off)

    def test_the_second_clock_of_a_page(self) -> None:
        """Said with a clock that was wrong on a page that never heard the server's, ten minutes ago by the clock nobody
        sets: it counts from then, and the doubt is told, kept and exported.
        """
        joint = next(j["id"] for j in self.stage("make")["joints"] if j["method"] == "solvent weld")
        now = time.time()
        said = event("made", joints=[joint]) | {"at": now - 600 - 10800, "page": "one", "tick": 100.0}
        sent = f"sent={now}&page=one&tick=700"
        answer = self.client.post(f"/api/jobs/{DEMO_ID}/events?{sent}", json=[said]).json()
        state = answer["standing"]["readiness"]["joints"][joint]
        self.assertAlmostEqual(state["at"], now - 600, delta=10)
        self.assertAlmostEqual(state["doubt"], 10800, delta=10)
        kept = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()["events"]
        self.assertEqual([e["tick"] for e in kept if e.get("page") == "one"], [100.0])

    def test_sayings_of_a_page_stay_in_order(self) -> None:
        """The clock was wrong for one and right for the next a second later: they are kept in the order they were
        said in, whichever arrives first.
        """
        now = time.time()
        said = [
            {"kind": "got", "of": "x", "count": n, "at": at, "device_off": off, "page": "two", "tick": 50.0 + n}
            for n, at, off in ((1, now - 60.0, 0.0), (2, now - 59.0 - 7200.6, 7200.0), (3, now - 58.0 + 0.9, 0.0))
        ]
        events = [event("got") | e | {"joints": []} for e in said]
        for batch in ([events[2]], [events[0]], [events[1]]):
            sent = f"sent={now}&page=two&tick=112"
            answer = self.client.post(f"/api/jobs/{DEMO_ID}/events?{sent}", json=batch).json()
            self.assertTrue(answer["events"][0]["kept"], answer["events"])
        kept = [
            e for e in self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()["events"] if e.get("page") == "two"
        ]
        self.assertEqual([e["count"] for e in sorted(kept, key=lambda e: e["at"])], [1, 2, 3])

    def test_a_page_that_says_it_was_open_for_a_century(self) -> None:
        """A second clock that cannot be leads to no time that a job file may not have: the job opens again."""
        now = time.time()
        for n, tick in enumerate((4e9, 0.0, 2e9)):
            said = event("got") | {"of": "x", "count": n, "joints": [], "at": now - 60, "page": "old", "tick": tick}
            answer = self.client.post(f"/api/jobs/{DEMO_ID}/events?sent={now}&page=old&tick=4e9", json=[said]).json()
            self.assertTrue(answer["events"][0]["kept"], answer["events"])
        whole = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()
        ats = [e["at"] for e in whole["events"] if e.get("page") == "old"]
        self.assertTrue(all(abs(at - now) < 2 * 86400 for at in ats), ats)
        self.assertEqual(self.client.post("/api/import", json=whole).status_code, 201)

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
        self.told(event("buried", section="sec-R3"), 409, "gate", "not covered by a passed test")
        self.assertTrue(self.stands(event("buried", section="sec-R1"))["sections"]["sec-R1"]["buried"])

    def test_a_leak_on_a_run_is_mended(self) -> None:
        """Said of a run, it is of all its joints; a mend of that record closes it on all of them. What is mended is in
        the record or on the drawing, and it is said what was done.
        """
        whole = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()
        job = self.client.post("/api/import", json=whole).json()["id"]
        on_it = {j["id"] for j in self.stage("make", job)["joints"] if j["run"] == "R1"}
        leak = event("leaked", of="R1")
        joints = self.stands(leak, name=job)["joints"]
        leaking = {j for j, s in joints.items() if s["leak"]}
        self.assertTrue(on_it)
        self.assertLessEqual(on_it, leaking)
        mend = event("mended", of=leak["id"], count=1, note="two slip couplings and a piece")
        stands = self.stands(mend, name=job)["joints"]
        self.assertEqual({j for j, s in stands.items() if s["mend"]}, leaking)
        self.assertFalse(any(s["leak"] or (s["mend"] and s["proved"]) for s in stands.values()))
        whole = self.client.get(f"/api/jobs/{job}/export/job").json()
        again = self.client.post("/api/import", json=whole).json()["id"]
        kept = self.client.get(f"/api/jobs/{again}/standing").json()["readiness"]["joints"]
        self.assertEqual({j for j, s in kept.items() if s["mend"]}, leaking)
        self.told(event("mended", of="nowhere", count=1, note="x"), 422, "unknown", "neither in the record")
        self.told(event("mended", of=leak["id"], count=1), 422, "invalid", "what was done")

    def test_events_in_one_batch_see_each_other(self) -> None:
        """A queue that makes, waits, tests and buries lands in one go, in order."""
        whole = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").json()
        fresh = self.client.post("/api/import", json={**whole, "events": []}).json()
        section = self.stage("prove", fresh["id"])["sections"][2]
        past = time.time() - 90000
        batch = [
            event("made", joints=section["joints"]) | {"at": past},
            event(
                "tested",
                section=section["id"],
                pressure=section["test"],
                ended=past + 80000 + section["hold"],
                passed=True,
            )
            | {"at": past + 80000},
            event("buried", section=section["id"]),
        ]
        self.assertTrue(self.stands(*batch, name=fresh["id"])["sections"][section["id"]]["buried"])

    def test_one_bad_event_keeps_no_other_from_being_kept(self) -> None:
        """Each event has its own answer: what is not well formed, at a shut gate or of the future is refused alone."""
        good = [event("made", joints=["R13b~1"]), event("looked", joints=["R13b~1"], override="water is on")]
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
        self.told(
            event("tested", section="sec-R1", pressure=5e5, passed=True),
            422,
            "invalid",
            "a test has a pressure, an end",
        )
        early = event("tested", section="sec-R1", pressure=5e5, passed=True, ended=time.time() - 9e5)
        self.told(early, 422, "invalid", "ends after it starts")
        self.told(event("made", joints=["R13b~1"]) | {"id": "1"}, 422, "invalid", "id")
        self.told(event("made"), 422, "invalid", "names its joints")
        self.told(event("made", joints=["R13b~1"]) | {"at": 5e-324}, 422, "invalid", "at")
        half = json.dumps([event("made", joints=["R13b~1"]) | {"by": "\ud800"}]).encode()
        answer = self.client.post(
            f"/api/jobs/{DEMO_ID}/events", content=half, headers={"Content-Type": "application/json"}
        )
        self.assertFalse(answer.json()["events"][0]["kept"])

    def test_procedure(self) -> None:
        """The steps of a joint come with its cautions and clocks."""
        found = self.client.get(f"/api/jobs/{DEMO_ID}/joints/R8b~3/procedure").json()
        self.assertEqual(found["method"], "solvent weld")
        self.assertEqual(found["cautions"][0]["code"], "solvent")
        self.assertEqual(found["cure"]["cure"], 1800.0)


if __name__ == "__main__":
    unittest.main()
