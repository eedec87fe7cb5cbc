"""The equipment book: a crew's own things, fittings and pipe, used like any row that ships, and never lost
under a job.
"""

import contextlib
import io
import json
import threading
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from hydrarch.cli import main
from hydrarch.core.catalogue.fittings import fitting, fittings
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.catalogue.prices import fitting_price
from hydrarch.core.catalogue.ratings import fitting_rating
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.crew_parts import Book, use_book
from hydrarch.formats.bookfile import read_book, write_book
from hydrarch.formats.changes import change_of
from hydrarch.formats.explained import BadFile
from tests.api.client import WithClient
from tests.core.plans import draw, point

PUMP: dict[str, Any] = {
    "name": "Camp pump",
    "note": "from the shed",
    "what": {
        "kind": "pump",
        "curve": [{"flow": 0, "head": 20}, {"flow": 0.002, "head": 16}, {"flow": 0.004, "head": 4}],
    },
    "ports": {"in": "buttress:male:2", "out": "buttress:male:1-1/2"},
}
VALVE: dict[str, Any] = {
    "id": "own-slim-valve",
    "name": "Slim gate valve 1 BSP",
    "family": "valve",
    "material": "brass",
    "price": 4.5,
    "rating": "16 bar",
    "openings": [
        {"end": "bsp:female:1", "stop": "12 mm", "direction": 180},
        {"end": "bsp:female:1", "stop": 0.012, "direction": 0},
    ],
    "run": 8,
    "source": "measured on the bench",
}
POLY: dict[str, Any] = {
    "id": "own-farm-poly",
    "name": "Farm polyethylene",
    "like": "pe100-sdr11",
    "coil": "50 m",
    "source": "the reel's print",
    "sizes": [
        {"size": "25", "outside": "25 mm", "bore": "21 mm", "rating": "10 bar"},
        {"size": "32", "outside": "32 mm", "bore": "27.2 mm", "rating": "10 bar"},
    ],
}


def book(**rows: Any) -> dict[str, Any]:
    """A book file."""
    return {"format": "hydrarch/book/1", **rows}


WHOLE = book(things=[PUMP], fittings=[VALVE], pipes=[POLY])


class Books(WithClient):
    """Kept, used, refused."""

    def setUp(self) -> None:
        """Put every book away afterwards."""
        super().setUp()
        self.addCleanup(use_book, Book())

    def test_an_assembly_of_ones_own_valve_is_read_back(self) -> None:
        """Kept in one file with the valve it names, it opens on a fresh server; the valve stays while the assembly
        needs it.
        """
        points = [point("B", 0, 0, "bend"), point("V", 1, 0, "valve"), point("C", 2, 0, "cap")]
        self.assertEqual(self.add(book(fittings=[VALVE])).status_code, 200)
        part = draw(
            points, [("B", "V"), ("V", "C")], nodes=[{"point": "V", "how": "fitting", "fittings": [VALVE["id"]]}]
        )
        rows = {"assemblies": [json.loads(part.model_dump_json())], "fittings": [VALVE]}
        self.assertEqual(self.add(book(**rows)).status_code, 200)
        text = write_book(Book.model_validate(self.client.get("/api/book").json()))
        use_book(Book())  # as it is when a server starts
        again = read_book(text)
        self.assertEqual(again.assemblies[0].nodes[0].fittings, (VALVE["id"],))
        self.assertNotIn(VALVE["id"], fittings(), "reading a book does not put it in use")
        use_book(again)
        answer = self.client.delete(f"/api/book/fittings/{VALVE['id']}")
        self.refused(answer, 409, "in-use", "test")
        self.assertEqual(self.client.delete("/api/book/assemblies/test").status_code, 200)
        self.assertEqual(self.client.delete(f"/api/book/fittings/{VALVE['id']}").status_code, 200)

    def add(self, rows: dict[str, Any]) -> Any:
        """Send a book file."""
        return self.client.post("/api/book", content=json.dumps(rows))

    def test_nobody_undoes_what_they_did_not_see(self) -> None:
        """Two look at the crew parts; one changes a row, then the other would put the row as it was seen in its place,
        or take one out: both are told, and nothing of the first's is lost. What meets no other row goes in.
        """
        self.assertEqual(self.add(book(fittings=[VALVE], pipes=[POLY])).status_code, 200)
        seen = {"If-Match": self.client.get("/api/book").headers["etag"]}
        dearer = book(fittings=[{**VALVE, "price": 9.0}])
        self.assertEqual(self.client.post("/api/book", content=json.dumps(dearer), headers=seen).status_code, 200)
        other = book(fittings=[{**VALVE, "price": 1.0}])
        answer = self.client.post("/api/book", content=json.dumps(other), headers=seen)
        self.refused(answer, 409, "row-changed", VALVE["id"])
        self.refused(self.client.delete(f"/api/book/pipes/{POLY['id']}", headers=seen), 409, "row-changed", POLY["id"])
        self.assertEqual(self.client.get("/api/book").json()["fittings"][0]["price"], 9.0)
        self.assertEqual(
            self.client.post("/api/book", content=json.dumps(book(things=[PUMP])), headers=seen).status_code, 200
        )
        now = {"If-Match": self.client.get("/api/book").headers["etag"]}
        self.assertEqual(self.client.post("/api/book", content=json.dumps(other), headers=now).status_code, 200)

    def test_reads_back(self) -> None:
        """A book is kept, comes back the same as a file, and again after a restart; adding it twice changes nothing."""
        self.assertEqual(self.add(WHOLE).status_code, 200)
        text = self.client.get("/api/book/export").text
        self.assertEqual(write_book(read_book(text)), text)
        self.assertEqual(self.add(json.loads(text)).json(), json.loads(self.client.get("/api/book").text))
        kept = read_book(text)
        self.assertEqual((kept.fittings[0].openings[0].stop, kept.pipes[0].coil), (0.012, 50.0))
        use_book(Book())
        self.setUp()
        self.assertEqual(self.client.get("/api/book").json()["things"], [])

    def test_used_like_any_row(self) -> None:
        """Joining takes the valve where it is best, at its price and rating; sizing and cutting use the pipe, its bore
        and its coil.
        """
        self.add(WHOLE)
        self.assertEqual(fitting_price("own-slim-valve"), 4.5)
        self.assertAlmostEqual(fitting_rating("own-slim-valve"), 1.6e6)
        self.assertEqual((series("own-farm-poly").material, series("own-farm-poly").coil), ("pe100", 50.0))
        self.assertAlmostEqual(pipe("own-farm-poly", "25").bore, 0.021)
        points = [
            point("K", 0, 0, "tank", water_level=20),
            point("V", 70, 0, "valve"),
            point("T", 140, 0, "tap", height=0.0),
        ]
        steel = {"series": "galv40", "size": "1"}
        plan = draw(
            points,
            [("K", "V"), ("V", "T")],
            conditions={"market": "elsewhere", "series": "own-farm-poly"},
            runs_more=[steel, {}],
        )
        done = derive(plan)
        self.assertIn("own-slim-valve", [p.fitting for p in done.assembly.parts if p.point == "V"])
        self.assertEqual(done.sizes.choices["R2"].series, "own-farm-poly")
        coil = next(n for n in done.cuts.nests if n.series == "own-farm-poly")
        self.assertEqual((coil.stock, coil.coil), (50.0, True))
        self.assertIn("Slim gate valve 1 BSP", [b.name for b in done.bill])
        self.assertIn("Farm polyethylene", [s["name"] for s in self.client.get("/api/reference").json()["series"]])

    def test_a_thing_of_the_book_on_a_drawing(self) -> None:
        """A pump with its unions is led to by union tails of both sizes."""
        points = [
            point("K", 0, 0, "tank", water_level=2),
            point("P", 5, 0, "pump"),
            point("T", 20, 0, "tap", height=0.0),
        ]
        points[1]["what"], points[1]["ports"] = PUMP["what"], PUMP["ports"]
        done = derive(draw(points, [("K", "P"), ("P", "T")]))
        self.assertEqual([p.says for p in done.problems() if p.severity == "stop"], [])
        self.assertEqual({j.method for j in done.assembly.joints if j.b.what == "pump P"}, {"union"})

    def test_wrong_rows_are_told_one_by_one(self) -> None:
        """Every wrong row is named with what would do, and nothing of the file is taken."""
        wrong = [
            ({**VALVE, "id": "pvc-elbow-90-1"}, "own-"),
            ({**VALVE, "family": "gadget"}, "is no family of fittings"),
            ({**VALVE, "openings": VALVE["openings"][:1]}, "has 2 openings"),
            (
                {**VALVE, "openings": [{"end": "bsp:female:7", "stop": 0.1, "direction": 0}] * 2},
                "there is no end called",
            ),
            ({**VALVE, "source": ""}, "source"),
            ({**VALVE, "rating": "warm"}, "is not a pressure"),
        ]
        answer = self.add(
            book(fittings=[VALVE, *(row for row, _ in wrong)], things=[{**PUMP, "ports": {"side": "bsp:male:1"}}])
        )
        body = self.refused(answer, 422, "bad-file", "nothing was taken")
        told = {p["where"]: p["says"] for p in body["places"]}
        for n, (row, says) in enumerate(wrong, 2):
            where = f"fittings, row {n} ({row['id']})"
            self.assertIn(where, told)
            self.assertTrue(any(says in p["says"] for p in body["places"] if p["where"] == where), (where, told[where]))
        self.assertIn("has no port called side", told["things, row 1 (Camp pump)"])
        nothing = {"format": "hydrarch/book/1", "things": [], "fittings": [], "pipes": [], "assemblies": []}
        self.assertEqual(self.client.get("/api/book").json(), nothing)
        self.assertNotIn("own-slim-valve", fittings())
        for size, says in (
            ({"size": "25", "outside": "25 mm", "bore": "25 mm", "rating": "10 bar"}, "leaves no wall"),
            ({"size": "26", "outside": "26 mm", "bore": "20 mm", "rating": "10 bar"}, "no end of ours fits"),
        ):
            self.refused(self.add(book(pipes=[{**POLY, "sizes": [size]}])), 422, "bad-file", says)
        for text, says in (
            ("shopping", "not a JSON file"),
            ("{}", "no equipment book"),
            ('{"format": "hydrarch/book/9"}', "up to date"),
        ):
            self.refused(self.client.post("/api/book", content=text), 422, "bad-file", says)

    def started(self) -> str:
        """A job that lays the farm's own pipe."""
        self.add(WHOLE)
        job: str = self.client.post("/api/jobs", json={"name": "Farm", "units": "metric"}).json()["id"]
        points = [point("K", 0, 0, "tank", water_level=20), point("T", 14, 0, "tap", height=0.0)]
        plan = draw(points, [("K", "T")], name="Farm", conditions={"market": "elsewhere", "series": "own-farm-poly"})
        kept = self.client.put(
            f"/api/jobs/{job}/plan", json={"revision": 1, "plan": json.loads(plan.model_dump_json())}
        )
        self.assertEqual(kept.status_code, 200, kept.text)
        return job

    def test_eight_phones_add_at_once(self) -> None:
        """Four rows each from eight phones, while plans are worked out: none is lost, and nothing hangs."""
        done = threading.Event()

        def works_out() -> None:
            while not done.is_set():
                self.client.get("/api/jobs/thistledown/stages/size")
                self.client.put("/api/jobs/none/plan", json={})

        def adds(phone: int) -> list[int]:
            rows = ({**PUMP, "name": f"Pump {phone}-{n}"} for n in range(4))
            return [
                self.client.post("/api/book", json={**Book().model_dump(mode="json"), "things": [r]}).status_code
                for r in rows
            ]

        watching = threading.Thread(target=works_out)
        watching.start()
        try:
            with ThreadPoolExecutor(8) as phones:
                codes = [c for found in phones.map(adds, range(8)) for c in found]
        finally:
            done.set()
            watching.join(60)
        self.assertFalse(watching.is_alive())
        self.assertEqual(codes, [200] * 32)
        names = {t["name"] for t in self.client.get("/api/book").json()["things"]}
        self.assertEqual(len([n for n in names if n.startswith("Pump ")]), 32)
        for n in sorted(names):
            self.client.delete(f"/api/book/things/{n}")

    def test_a_row_in_use_stays(self) -> None:
        """A pipe that a job lays is not taken out of the book from under it; what nothing uses goes."""
        self.started()
        self.refused(self.client.delete("/api/book/pipes/own-farm-poly"), 409, "in-use", "is used in Farm")
        self.assertEqual(self.client.delete("/api/book/fittings/own-slim-valve").json()["fittings"], [])
        self.assertEqual(self.client.delete("/api/book/things/Camp pump").json()["things"], [])
        self.refused(self.client.delete("/api/book/things/Camp pump"), 404, "unknown", "Camp pump")

    def test_a_drawing_begun_before_brings_its_row_back(self) -> None:
        """Drawn with no signal with a pipe of the crew's own that somebody takes out meanwhile: the drawing is kept,
        the row is in the crew's parts again, and the list of what was done says so.
        """
        job = self.started()
        found = self.client.get(f"/api/jobs/{job}").json()
        runs = [{**r, "series": None, "size": None} for r in found["plan"]["runs"]]
        whole = {**found["plan"], "runs": runs, "conditions": {**found["plan"]["conditions"], "series": "pvc40"}}
        answer = self.client.put(f"/api/jobs/{job}/plan", json={"revision": found["revision"], "plan": whole})
        self.assertEqual(answer.status_code, 200, answer.text)
        self.assertEqual(self.client.delete("/api/book/pipes/own-farm-poly").json()["pipes"], [])
        change = change_of(whole, {**whole, "runs": [{**r, "series": "own-farm-poly"} for r in runs]})
        edit = {"revision": answer.json()["revision"], "change": change.model_dump(mode="json")}
        kept = self.client.patch(f"/api/jobs/{job}/plan", json=edit)
        self.assertEqual(kept.status_code, 200, kept.text)
        self.assertEqual([p["id"] for p in self.client.get("/api/book").json()["pipes"]], ["own-farm-poly"])
        plan = self.client.get(f"/api/jobs/{job}").json()["plan"]
        self.assertEqual({r["series"] for r in plan["runs"]}, {"own-farm-poly"})
        # what nobody ever had is refused as before
        wrong = change_of(plan, {**plan, "runs": [{**r, "series": "own-nothing"} for r in plan["runs"]]})
        edit = {"revision": kept.json()["revision"], "change": wrong.model_dump(mode="json")}
        self.assertEqual(self.client.patch(f"/api/jobs/{job}/plan", json=edit).status_code, 422)

    def test_a_job_takes_its_rows_along(self) -> None:
        """Its file holds the rows it uses; brought in where they are not known they come with it, and a clash of names
        is told.
        """
        job = self.started()
        text = self.client.get(f"/api/jobs/{job}/export/job").text
        self.assertEqual([p["id"] for p in json.loads(text)["book"]["pipes"]], ["own-farm-poly"])
        self.assertNotIn("fittings", [k for k, v in json.loads(text)["book"].items() if k == "fittings" and v])
        self.setUp()  # another crew's
        self.assertEqual(self.client.get("/api/book").json()["pipes"], [])
        self.assertEqual(self.client.post("/api/import", content=text).status_code, 201)
        self.assertEqual([p["id"] for p in self.client.get("/api/book").json()["pipes"]], ["own-farm-poly"])
        other = json.loads(text)
        other["book"]["pipes"][0]["name"] = "Other pipe"
        self.refused(
            self.client.post("/api/import", content=json.dumps(other)),
            422,
            "bad-file",
            "is something else in your own book",
        )
        broken = json.loads(text)
        broken["book"]["pipes"][0]["id"] = "own-new"
        broken["plan"]["runs"][0]["a"]["point"] = "nowhere"
        self.refused(self.client.post("/api/import", content=json.dumps(broken)), 422, "bad-file", "not on the drawing")
        self.assertEqual([p["id"] for p in self.client.get("/api/book").json()["pipes"]], ["own-farm-poly"])

    def test_the_command_line_knows_it(self) -> None:
        """Exported by command, a job has its rows along too."""
        job = self.started()
        folder = self.store.path.parent
        self.store.path.rename(folder / "hydrarch.sqlite3")
        for more in folder.glob("h.sqlite3*"):
            more.rename(folder / more.name.replace("h.sqlite3", "hydrarch.sqlite3"))
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            self.assertEqual(main(["export", job, "--data", str(folder)]), 0)
        self.assertEqual([p["id"] for p in json.loads(out.getvalue())["book"]["pipes"]], ["own-farm-poly"])

    def test_least_cost_in_its_own_process(self) -> None:
        """Work done apart knows the book as well."""
        answer = self.client.get(f"/api/jobs/{self.started()}/sizing")
        self.assertEqual(answer.status_code, 200, answer.text)
        self.assertEqual({w["sizes"]["R1"] for w in answer.json()["ways"]} - {"25", "32"}, set())


class Files(WithClient):
    """The file itself."""

    def test_nested_too_deep(self) -> None:
        """A file nested without end is refused in words."""
        with self.assertRaises(BadFile):
            read_book("[" * 100_000)

    def test_ids_cannot_meet(self) -> None:
        """No row that ships begins as a crew's own do."""
        self.assertEqual([f for f in fittings() if f.startswith("own-")], [])
        self.assertTrue(fitting("pvc-elbow-90-1"))


del WithClient
