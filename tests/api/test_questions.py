"""What else is asked at the API: the reference, the bench, sizing, the saw, and who may ask."""

import itertools
import json
import unittest
from pathlib import Path

from hydrarch.api.app import openapi
from hydrarch.demo import DEMO_ID, HERBS_ID
from tests.api.client import WithClient
from tests.core.test_mends import faulty
from tests.core.test_pictures import png

ROOT = Path(__file__).resolve().parents[2]


class Beneath(WithClient):
    """Pictures beneath a drawing."""

    def test_the_ground_is_painted_when_it_is_asked_for(self) -> None:
        """By its scenario; a scenario in which no head runs, or that there is none of, is refused by name."""
        mesh = self.client.get(f"/api/jobs/{DEMO_ID}/watered/meadow").json()
        self.assertGreater(max(map(max, mesh["rates"])), 0)
        self.assertNotIn("painted", self.stage("size")["watered"]["meadow"])
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/watered/nowhere"), 404, "unknown", "nowhere")

    def test_a_picture_goes_with_its_job(self) -> None:
        """Kept once, named by the plan, exported and brought back in another store; without it the job still opens;
        nothing is derived from it.
        """
        kept = self.client.post("/api/pictures", content=png(40, 20)).json()
        self.assertEqual((kept["wide"], kept["high"], kept["media"]), (40, 20, "image/png"))
        self.assertEqual(self.client.post("/api/pictures", content=png(40, 20)).json()["picture"], kept["picture"])
        body = self.client.get(f"/api/jobs/{DEMO_ID}").json()
        under = {"picture": kept["picture"], "name": "site.png", "wide": 40, "high": 20, "scale": 0.5, "strength": 0.3}
        saved = self.client.put(
            f"/api/jobs/{DEMO_ID}/plan",
            json={"revision": body["revision"], "plan": {**body["plan"], "underlay": under}},
        )
        self.assertEqual(saved.status_code, 200, saved.text)
        self.assertEqual(saved.json()["answer"]["lines"], body["answer"]["lines"])
        file = self.client.get(f"/api/jobs/{DEMO_ID}/export/job").content
        with self.store.atomic() as db:
            db.execute("DELETE FROM picture")
        self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}").status_code, 200)
        self.assertEqual(self.client.get(f"/api/pictures/{kept['picture']}").status_code, 404)
        again = self.client.post("/api/import", content=file)
        self.assertEqual(again.status_code, 201, again.text)
        shown = self.client.get(f"/api/pictures/{kept['picture']}")
        self.assertEqual((shown.content, shown.headers["content-type"]), (png(40, 20), "image/png"))
        self.assertIn("default-src 'none'", shown.headers["content-security-policy"])
        other = json.loads(file) | {"picture": "AAAA"}
        self.refused(self.client.post("/api/import", content=json.dumps(other)), 422, "bad-file", "picture")
        self.refused(
            self.client.post("/api/pictures", content=b"hello"),
            422,
            "bad-file",
            "no PNG, JPEG, TIFF, WebP, PDF, SVG, DXF or GeoJSON",
        )


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
        read = self.client.post(
            "/api/read", json={"text": "6 ft 3-1/2 in", "quantity": "length", "system": "us"}
        ).json()
        self.assertAlmostEqual(read["value"], 1.9177)
        answer = self.client.post("/api/read", json={"text": "soon", "quantity": "pressure", "system": "us"})
        self.refused(answer, 422, "quantity", "type a number such as 12 psi")

    def test_refusals_are_told_in_the_units_the_page_names(self) -> None:
        """What a caliper, a line, a well or the weather cannot be is told in inches, feet, psi and °F to who asked in
        them.
        """
        hole = {
            "depth": 150,
            "casing": 0.01,
            "static": 14,
            "pump": 140,
            "test_flow": 1e-3,
            "test_drawdown": 6,
            "flow": 1e-3,
            "pressure": 3e5,
        }
        for path, body, us, metric in (
            ("identify", {"outside": 3.0}, "118.110 in", "3000.0 mm"),
            ("line", {"series": "pvc40", "flow": 1e-3, "length": 2e5}, "656168.0 ft", "200000.00 m"),
            (
                "wait",
                {"method": "solvent weld", "size": "1", "temperature": 250, "humidity": 0.5, "pressure": 4e5},
                "-10 °F",
                "-23 °C",
            ),
            ("well", hole, "0.394 in", "10.0 mm"),
        ):
            for units, says in (("us", us), ("metric", metric)):
                answer = self.client.post(f"/api/bench/{path}", json=body, headers={"X-Units": units})
                self.assertIn(says, answer.json()["detail"])

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
        self.refused(
            self.client.post("/api/bench/join", json={"words": ""}), 422, "refused", "say it as 'this to that'"
        )
        ends = {"start": {"end": "npt:female:1"}, "stop": {"end": "npt:sideways:1"}}
        self.refused(self.client.post("/api/bench/join", json=ends), 404, "unknown", "did you mean npt")
        strong = {"words": "1 in poly to 1 socket", "pressure": 9e6}
        self.refused(self.client.post("/api/bench/join", json=strong), 422, "refused", "choose a heavier one")
        self.refused(self.client.post("/api/bench/identify", json={}), 422, "refused", "measure something")
        self.refused(
            self.client.post("/api/bench/identify", json={"outside": "wide"}), 422, "invalid", "must be a number"
        )

    def test_identify_with_the_simulated_caliper(self) -> None:
        """The caliper reads, and its readings name the pipe."""
        read = {
            what: self.client.post(
                "/api/bench/caliper", json={"series": "sewer-thin", "size": "4", "what": what}
            ).json()["value"]
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
        """Limits that the pipe itself breaks are refused with which to lift; limits that leave nothing say which one
        does it.
        """
        asked = {"words": "1 in class 200 to 1 in sch 40", "potable": True}
        self.refused(self.client.post("/api/bench/join", json=asked), 422, "refused", "not for drinking water")
        none = self.client.post("/api/bench/join", json={"words": "20 mm ppr to 20 mm ppr", "no_hot_work": True}).json()
        self.assertIn("without 'no hot work' there is a way", none["says"])


class Choosing(WithClient):
    """What stands at a point, and what the crew puts over it."""

    def test_nodes_are_listed_chosen_and_kept(self) -> None:
        """The choices at a corner come with joints and price; one written in the plan is used; an unknown point is
        refused.
        """
        found = self.client.get("/api/jobs/thistledown/nodes/B2").json()
        self.assertEqual(
            (found[0]["fittings"], found[0]["used"], found[0]["joints"]), (["pvc-elbow-45-1-1_4"], True, 2)
        )
        job = self.client.get("/api/jobs/thistledown").json()
        plan = {**job["plan"], "nodes": [{"point": "B2", "how": found[1]["how"], "fittings": found[1]["fittings"]}]}
        plan["prices"] = {"pvc-tee-1-1_4-x-1-1_4-x-1": 9.5}
        saved = self.client.put(
            "/api/jobs/thistledown/plan?stage=join", json={"revision": job["revision"], "plan": plan}
        )
        self.assertEqual(saved.status_code, 200, saved.text)
        self.assertIn(
            found[1]["fittings"][0], [p["fitting"] for p in saved.json()["answer"]["parts"] if p["point"] == "B2"]
        )
        self.refused(self.client.get("/api/jobs/thistledown/nodes/B99"), 404, "unknown", "no point called 'B99'")


class Sizing(WithClient):
    """Three ways to size, trying, charts and the bench's sums."""

    def test_three_ways(self) -> None:
        """The herb bank is a tree of two scenarios: its least cost is proved over both; the meadow has a loop and says
        so.
        """
        herbs = self.client.get(f"/api/jobs/{HERBS_ID}/sizing").json()
        self.assertEqual([w["way"] for w in herbs["ways"]], ["rule", "computed", "least cost"])
        self.assertTrue(herbs["ways"][2]["proved"] and herbs["ways"][2]["holds"])
        self.assertGreater(len(herbs["curve"]), 10)
        self.assertIn("not proved", self.client.get(f"/api/jobs/{DEMO_ID}/sizing").json()["ways"][2]["says"])

    def test_three_ways_as_it_goes(self) -> None:
        """The same comes as events: how far it is in words, then the same comparison; a job that is not there is told
        at once.
        """
        text = self.client.get(f"/api/jobs/{HERBS_ID}/sizing/live").text
        events = [
            dict(line.split(": ", 1) for line in e.split("\n"))
            for e in text.split("\n\n")
            if e and not e.startswith(":")
        ]
        self.assertEqual({e["event"] for e in events[:-1]}, {"says"})
        self.assertIn("at most 20 s", events[1]["data"])
        self.assertEqual(json.loads(events[-1]["data"]), self.client.get(f"/api/jobs/{HERBS_ID}/sizing").json())
        self.refused(self.client.get("/api/jobs/nowhere/sizing/live"), 404, "not-there", "nowhere")

    def test_trying_keeps_nothing(self) -> None:
        """A plan tried tells what would change and leaves the job as it is; a plan that does not hold together is
        refused.
        """
        job = self.client.get(f"/api/jobs/{DEMO_ID}").json()
        plan = job["plan"]
        pump = next(p for p in plan["points"] if p["id"] == "W")
        pump["what"]["speed"] = 0.7
        found = self.client.post(f"/api/jobs/{DEMO_ID}/what-if", json=plan).json()
        self.assertLess(found["outcomes"][0]["margin_after"], found["outcomes"][0]["margin_before"])
        self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}").json()["revision"], job["revision"])
        pump["what"]["speed"] = 9
        self.refused(self.client.post(f"/api/jobs/{DEMO_ID}/what-if", json=plan), 422, "invalid", "speed")

    def test_a_mend_that_cannot_be(self) -> None:
        """A problem that is not there, and one with no plain mend, are refused in words."""
        job = self.client.get(f"/api/jobs/{DEMO_ID}").json()
        told = self.client.get(f"/api/jobs/{DEMO_ID}/stages/size").json()["problems"]
        keyed = {f"{p['code']} {p['where']}": p["does"] for p in told}
        bare = next(k for k, does in keyed.items() if not does)
        self.refused(
            self.client.post(f"/api/jobs/{DEMO_ID}/mend", json={"key": "thirsty Z9"}), 404, "unknown", "thirsty Z9"
        )
        self.refused(
            self.client.post(f"/api/jobs/{DEMO_ID}/mend", json={"key": bare}), 422, "refused", "no one-press fix"
        )
        self.assertEqual(self.client.get(f"/api/jobs/{DEMO_ID}").json()["revision"], job["revision"])

    def test_a_mend_tells_what_is_told_otherwise(self) -> None:
        """A vessel twice as large and still too small: the old figure goes, the new one comes; it is never said that
        nothing changes.
        """
        plan = faulty()["vessel-small"]
        job = self.client.post("/api/jobs", json={"name": "small vessel", "units": "metric"}).json()
        body = plan.model_dump(mode="json") | {"name": "small vessel"}
        self.client.put(f"/api/jobs/{job['id']}/plan", json={"revision": 1, "plan": body})
        found = self.client.post(f"/api/jobs/{job['id']}/mend", json={"key": "vessel-small V"}).json()
        self.assertTrue(found["goes"], found)
        self.assertTrue(found["comes"], found)
        self.assertEqual(self.client.get(f"/api/jobs/{job['id']}").json()["revision"], 2)

    def test_operating_point(self) -> None:
        """A pump settles where its curve meets the system's; a tap is no pump."""
        found = self.client.get(f"/api/jobs/{DEMO_ID}/operating/W").json()
        for system in found["systems"]:
            near = min(found["pump"], key=lambda p: abs(p[0] - system["flow"]))
            self.assertLess(abs(near[1] - system["head"]), 20)
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/operating/T1"), 422, "refused", "is no pump")
        self.refused(self.client.get(f"/api/jobs/{DEMO_ID}/operating/ZZ"), 404, "unknown", "no point called")

    def test_a_pasted_curve(self) -> None:
        """It is read in the person's units, and refused with the line that is not understood."""
        asked = {"text": "0 120\n10 100\n20 60", "units": "us"}
        found = self.client.post("/api/measures/curve", json=asked).json()
        self.assertAlmostEqual(found["points"][1]["head"], 30.48, places=6)
        self.assertIn("3 points", found["says"])
        asked["text"] = "0 120\n10\n20 60"
        self.refused(self.client.post("/api/measures/curve", json=asked), 422, "refused", "line 2")

    def test_lines_drains_and_tables(self) -> None:
        """The bench's sums answer in SI and refuse what cannot be, with where and how to mend it."""
        line = self.client.post("/api/bench/line", json={"flow": 8e-4, "length": 60.0, "fittings": {"elbow": 2}}).json()
        self.assertEqual((line["pick"], line["rule"]["size"]), ("1", "1"))
        self.refused(
            self.client.post("/api/bench/line", json={"flow": 8e-4, "length": -1.0}),
            422,
            "refused",
            "it must lie between",
        )
        drain = self.client.post("/api/bench/drain", json={"flow": 1e-3, "slope": 0.01}).json()
        self.assertEqual((drain[0]["size"], drain[0]["runs"]["cleans"]), ("4", True))
        self.refused(
            self.client.post("/api/bench/drain", json={"flow": 1e-3, "slope": 0.0}), 422, "refused", "does not fall"
        )
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
            "hoist": True,
        }
        found = self.client.post("/api/bench/well", json=asked).json()
        self.assertEqual(found["candidates"][0]["rejected"], [])
        self.assertEqual(found["checks"][0]["depth"], 45.0)
        self.refused(
            self.client.post("/api/bench/well", json={**asked, "pump": 70.0}), 422, "refused", "below the bottom"
        )
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
        self.refused(self.client.post("/api/prices", json={"text": book.text}), 422, "refused", "marked as your own")
        read = self.client.post("/api/prices", json={"text": "item,price\npvc-tee-1,2.5\n"}).json()
        self.assertEqual(read, {"prices": {"pvc-tee-1": 2.5}, "currency": ""})
        self.refused(
            self.client.post("/api/prices", json={"text": "item,price\npvc-tee-1,dear\n"}), 422, "refused", "line 2"
        )

    def test_clocks_as_a_calendar(self) -> None:
        """What still cures is in the calendar with an alarm, and every line is at most 75 octets (RFC 5545)."""
        running = self.client.get(f"/api/jobs/{DEMO_ID}/standing?stage=prove").json()["clocks"]
        self.assertTrue(running)
        text = self.client.get(f"/api/jobs/{DEMO_ID}/export/clocks").text
        self.assertEqual(text.count("BEGIN:VEVENT"), len(running))
        self.assertEqual(text.count("BEGIN:VALARM"), len(running))
        self.assertTrue(all(len(line.encode()) <= 75 for line in text.split("\r\n")))

    def test_weather(self) -> None:
        """The simulated feed gives the coldest of the hours to come; a CSV is read in its place, a broken one
        refused.
        """
        found = self.client.post("/api/weather", json={"hours": 24}).json()
        self.assertEqual(found["temperature"], min(h["temperature"] for h in found["hours"]))
        self.refused(self.client.post("/api/weather", json={"csv": "time,celsius\n"}), 422, "refused", "line 1")

    def test_flush_gauge_and_verdict(self) -> None:
        """A section is flushed end by end; the simulated gauge's log is judged; an unknown section and too few readings
        are refused.
        """
        section = self.stage("prove")["sections"][1]["id"]
        base = f"/api/jobs/{DEMO_ID}/sections/{section}"
        self.assertEqual(self.client.get(f"{base}/flush").json()["ends"], ["Tap 1", "Tap 2"])
        for leak, tight in ((0, True), (2e-7, False)):
            log = self.client.get(f"{base}/gauge?leak={leak}").json()
            self.assertEqual(self.client.post(f"{base}/judge", json={"readings": log}).json()["tight"], tight)
        typed = "minutes,bar,celsius\n0,7.4,12\n5,7.4,12\n10,7.39,12\n20,7.39,12\n30,7.39,12\n"
        for thermometer, tight in ((0.1, True), (0.5, False)):  # K: half a degree may hide more than passes here
            asked = {"csv": typed, "thermometer": thermometer}
            self.assertEqual(self.client.post(f"{base}/judge", json=asked).json()["tight"], tight)
        self.refused(
            self.client.post(f"{base}/judge", json={"csv": "minutes,bar\n0,7\n"}), 422, "refused", "four readings"
        )
        self.refused(
            self.client.get(f"/api/jobs/{DEMO_ID}/sections/nowhere/flush"), 404, "unknown", "no section called"
        )

    def test_fused_joint(self) -> None:
        """The bench tries a fused joint; a depth that cannot be is refused."""
        found = self.client.post("/api/bench/fused", json={"depth": 0.014, "heating": 5.5}).json()
        self.assertIn("double lip", found["verdict"])
        self.refused(
            self.client.post("/api/bench/fused", json={"depth": 0.5, "heating": 5.5}),
            422,
            "refused",
            "it must lie between",
        )


if __name__ == "__main__":
    unittest.main()
