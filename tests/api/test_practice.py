"""The practice ground through the API: each person's own, apart from every job."""

import json
import time
import uuid
from base64 import b64decode
from typing import Any

from benchmarks.bench_scale import line
from hydrarch.api.guard import Settings
from hydrarch.core.plan.crew_parts import Book, use_book
from hydrarch.demo import DEMO_ID, TUB_ID
from hydrarch.store.practice import keep_exercise
from tests.api.client import WithClient
from tests.api.test_book import POLY, book
from tests.api.test_photos import photo
from tests.core.plans import draw, point


def attempt(exercise: str, **more: Any) -> dict[str, Any]:
    """An attempt that begins now."""
    now = time.time()
    return {"id": str(uuid.uuid4()), "exercise": exercise, "begun": now, "changed": now, **more}


class Practised(WithClient):
    """Exercises, attempts and what is told of them."""

    def keep(self, told: dict[str, Any], person: str = "Ash", status: int = 200) -> Any:
        """Put an attempt as a person."""
        answer = self.client.put(f"/api/practice/attempts/{told['id']}", params={"person": person}, json=told)
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()

    def ground(self, person: str = "Ash") -> Any:
        """What a person sees."""
        return self.client.get("/api/practice", params={"person": person}).json()

    def test_the_demo(self) -> None:
        """Six exercises, two of them begun and one ended; nobody else's record has them."""
        mine = self.ground("crew")
        self.assertEqual(len(mine["exercises"]), 6)
        self.assertEqual(sum(bool(e["under_way"]) for e in mine["exercises"]), 2)
        self.assertEqual(sum(a["ended"] is not None for a in mine["attempts"]), 1)
        self.assertEqual(self.ground("Ash")["attempts"], [])

    def test_no_answer_before_it_is_given(self) -> None:
        """An exercise tells no cut length and no fault; an answer is explained once it is given."""
        told = self.client.get("/api/practice/exercises/solvent-square").json()
        self.assertEqual(set(told["pieces"][0]), {"id", "name", "pipe", "takes", "centres"})
        first = self.keep(attempt("solvent-square"))
        self.assertEqual(len(first["questions"]), 8)
        self.assertEqual(set(first["questions"][0]), {"number", "method", "size", "drawing", "choices"})
        self.assertEqual(first["assessment"]["answers"], [])
        said = {**first["attempt"], "answers": [{"number": 0, "says": "sound"}], "changed": time.time()}
        answer = self.keep(said)["assessment"]["answers"][0]
        self.assertTrue(answer["truth"] == "sound" or (answer["shows"] and answer["saved"] and answer["sound"]))

    def test_an_attempt_is_ones_own(self) -> None:
        """Another person neither reads, writes nor deletes it, and does not learn that it is there."""
        mine = attempt("barb-tee")
        self.keep(mine)
        self.keep(mine, "Rowan", 404)
        path = f"/api/practice/attempts/{mine['id']}"
        self.assertEqual(self.client.get(path, params={"person": "Rowan"}).status_code, 404)
        self.assertEqual(self.client.delete(path, params={"person": "Rowan"}).status_code, 404)
        self.assertNotIn(mine["id"], self.client.get("/api/practice/record", params={"person": "Rowan"}).text)
        self.assertIn(mine["id"], self.client.get("/api/practice/record", params={"person": "Ash"}).text)
        self.assertEqual(self.client.delete(path, params={"person": "Ash"}).status_code, 204)
        self.assertEqual(self.ground()["attempts"], [])

    def test_its_joints_stay_the_same(self) -> None:
        """What is judged in an attempt is what was drawn at its beginning, though an attempt before it is deleted."""
        earlier = attempt("solvent-square", begun=time.time() - 900, ended=time.time() - 600)
        said = [{"number": n, "says": "nonsense"} for n in range(8)]
        self.keep({**earlier, "answers": said})
        mine = attempt("solvent-square")
        drawn = self.keep(mine)["questions"]
        self.client.delete(f"/api/practice/attempts/{earlier['id']}", params={"person": "Ash"})
        self.assertEqual(self.keep({**mine, "fitted": True, "changed": time.time() + 1})["questions"], drawn)
        again = self.client.get(f"/api/practice/attempts/{mine['id']}", params={"person": "Ash"}).json()
        self.assertEqual(again["questions"], drawn)

    def test_an_older_state_changes_nothing(self) -> None:
        """Two devices of one person: what comes late and is older is answered with what is kept."""
        first = attempt("barb-tee")
        later = {**first, "laid": ["insert-tee-1"], "changed": first["changed"] + 60}
        self.keep(later)
        self.assertEqual(self.keep(first)["attempt"]["laid"], ["insert-tee-1"])

    def test_ended_and_due_again(self) -> None:
        """An exercise that was ended has its share of what went well, and comes up on another day."""
        told = attempt("drain-wye", results=[{"what": "fall", "value": 0.02}], ended=time.time())
        self.keep(told)
        head = next(e for e in self.ground()["exercises"] if e["id"] == "drain-wye")
        self.assertEqual((head["under_way"], head["next"]["times"], head["next"]["last"]), ("", 1, 1.0))
        self.assertGreater(head["next"]["due"], time.time() + 86400)

    def test_what_is_refused(self) -> None:
        """Answers twice, a time of another century, an exercise that is not there: each in words, nothing kept."""
        twice = attempt("barb-tee", answers=[{"number": 0, "says": "sound"}, {"number": 0, "says": "sound"}])
        self.assertIn("twice", json.dumps(self.keep(twice, status=422)))
        self.keep(attempt("barb-tee") | {"begun": 5.0}, status=422)
        self.assertIn("exercise", self.keep(attempt("barb-teee"), status=404)["detail"])
        self.keep({**attempt("barb-tee"), "grade": 1}, status=422)
        self.assertEqual(self.ground()["attempts"], [])

    def test_of_a_job(self) -> None:
        """Any drawing becomes an exercise; the job is as it was, and a drawing with no joint is refused."""
        before = self.client.get(f"/api/jobs/{TUB_ID}").json()["revision"]
        made = self.client.post(f"/api/jobs/{TUB_ID}/exercise", json={"title": "Tub, to practise"})
        self.assertEqual(made.status_code, 201, made.text)
        name = made.json()["id"]
        self.assertTrue(self.client.get(f"/api/practice/exercises/{name}").json()["own"])
        self.assertEqual(self.client.get(f"/api/jobs/{TUB_ID}").json()["revision"], before)
        first = self.keep(attempt(name))
        self.assertEqual(len(first["questions"]), 8)
        new = {"name": "Empty", "units": "metric", "market": "elsewhere", "about": ""}
        job = self.client.post("/api/jobs", json=new).json()["id"]
        self.assertEqual(self.client.post(f"/api/jobs/{job}/exercise", json={}).status_code, 422)
        long = line(200).model_dump(mode="json")
        big = self.client.post("/api/import", json={"format": "hydrarch/job/2", "plan": long, "events": []}).json()[
            "id"
        ]
        refused = self.client.post(f"/api/jobs/{big}/exercise", json={})
        self.assertEqual((refused.status_code, "at most 120 runs" in refused.text), (422, True))
        self.assertEqual(self.client.delete(f"/api/practice/exercises/{name}").status_code, 204)
        self.assertEqual(self.client.delete("/api/practice/exercises/barb-tee").status_code, 404)
        gone = next(a for a in self.ground()["attempts"] if a["exercise"] == name)
        self.assertEqual(gone["title"], "An exercise that is gone")

    def test_to_and_from_a_file(self) -> None:
        """What is exported is taken in again, under an id of its own; a broken file is refused with where."""
        text = self.client.get("/api/practice/exercises/ppr-cross/export").text
        again = self.client.post("/api/practice/exercises", content=text)
        self.assertEqual(again.status_code, 201, again.text)
        self.assertNotEqual(again.json()["id"], "ppr-cross")
        self.assertEqual(again.json()["plan"], json.loads(text)["plan"])
        for broken, says in (
            ("[", "JSON"),
            ("{}", "format"),
            (json.dumps({**json.loads(text), "minutes": -1}), "minutes"),
            (json.dumps({**json.loads(text), "plan": {}}), "plan"),
            (
                json.dumps({**json.loads(text), "also": [{"method": "glue", "series": "a", "size": "1", "depth": 1}]}),
                "also",
            ),
        ):
            answer = self.client.post("/api/practice/exercises", content=broken)
            self.assertIn(answer.status_code, (400, 422), answer.text)
            self.assertIn(says, answer.text)
        self.assertEqual(len(self.ground()["exercises"]), 7)

    def test_an_exercise_brings_its_crew_parts(self) -> None:
        """The rows of the crew's own that its drawing uses go with the file, and are taken in where they are not known;
        one that is something else there is refused, and nothing is kept.
        """
        self.addCleanup(use_book, Book())
        self.assertEqual(self.client.post("/api/book", content=json.dumps(book(pipes=[POLY]))).status_code, 200)
        plan = draw(
            [point("K", 0, 0, "tank"), point("T", 20, 0, "tap", height=0.0)],
            [("K", "T")],
            conditions={"market": "elsewhere", "series": POLY["id"]},
        )
        job = self.client.post("/api/jobs", json={"name": "Poly", "units": "metric"}).json()["id"]
        body: dict[str, Any] = {"revision": 1, "plan": json.loads(plan.model_dump_json())}
        self.assertEqual(self.client.put(f"/api/jobs/{job}/plan", json=body).status_code, 200)
        name = self.client.post(f"/api/jobs/{job}/exercise", json={}).json()["id"]
        text = self.client.get(f"/api/practice/exercises/{name}/export").text
        self.assertEqual([p["id"] for p in json.loads(text)["book"]["pipes"]], [POLY["id"]])
        body = {"revision": 2, "plan": {**body["plan"], "conditions": {"market": "elsewhere"}}}
        self.assertEqual(self.client.put(f"/api/jobs/{job}/plan", json=body).status_code, 200)
        kept = self.client.delete(f"/api/book/pipes/{POLY['id']}")
        self.assertEqual((kept.status_code, "the exercise test" in kept.text), (409, True), kept.text)
        broken = '{"no": "title", "series": "' + POLY["id"] + '"}'
        self.assertTrue(keep_exercise(self.store, "broken-one", broken, 1.0))
        self.client.delete(f"/api/practice/exercises/{name}")
        kept = self.client.delete(f"/api/book/pipes/{POLY['id']}")
        self.assertEqual((kept.status_code, "the exercise broken-one" in kept.text), (409, True), kept.text)
        self.client.delete("/api/practice/exercises/broken-one")
        self.assertEqual(self.client.delete(f"/api/book/pipes/{POLY['id']}").status_code, 200)
        again = self.client.post("/api/practice/exercises", content=text)
        self.assertEqual(again.status_code, 201, again.text)
        self.assertEqual([p["id"] for p in self.client.get("/api/book").json()["pipes"]], [POLY["id"]])
        self.assertEqual(self.client.get(f"/api/practice/exercises/{again.json()['id']}").status_code, 200)
        other = json.loads(text)
        other["book"]["pipes"][0]["name"] = "Something else"
        count = len(self.ground()["exercises"])
        refused = self.client.post("/api/practice/exercises", content=json.dumps(other))
        self.assertEqual((refused.status_code, "something else" in refused.text), (422, True), refused.text)
        self.assertEqual(len(self.ground()["exercises"]), count)

    def test_photos_of_the_real_piece(self) -> None:
        """Beside a result, without where it was taken, once each; one's own alone, in one's record, gone with it."""
        told = attempt("solvent-square")
        path, first = f"/api/practice/attempts/{told['id']}/photos", str(uuid.uuid4())

        def send(name: str, person: str = "Ash", body: bytes = b"") -> Any:
            asked: dict[str, str | float] = {"id": name, "about": "bead", "at": time.time(), "person": person}
            return self.client.post(path, params=asked, content=body or photo())

        before = send(first)  # a phone may send it before the attempt itself
        self.assertEqual(before.status_code, 201, before.text)
        self.keep(told)
        self.assertEqual(send(first).status_code, 201)
        mine = self.client.get(path, params={"person": "Ash"}).json()
        self.assertEqual([(p["id"], p["about"], p["wide"]) for p in mine], [(first, "bead", 1600)])
        shown = self.client.get(f"{path}/{first}", params={"person": "Ash"})
        self.assertEqual(shown.headers["content-type"], "image/jpeg")
        self.assertNotIn(b"Secret Camera", shown.content)
        self.assertEqual(self.client.get(path, params={"person": "Rowan"}).json(), [])
        self.assertEqual(self.client.get(f"{path}/{first}", params={"person": "Rowan"}).status_code, 404)
        self.assertEqual(self.client.delete(f"{path}/{first}", params={"person": "Rowan"}).status_code, 404)
        self.assertEqual(send(str(uuid.uuid4()), body=b"no picture").status_code, 422)
        record = self.client.get("/api/practice/record", params={"person": "Ash"}).json()
        (kept,) = record["attempts"][0]["photos"]
        self.assertEqual(b64decode(kept["jpeg"]), shown.content)
        second = str(uuid.uuid4())
        send(second)
        self.assertEqual(self.client.delete(f"{path}/{second}", params={"person": "Ash"}).status_code, 204)
        self.client.delete(f"/api/practice/attempts/{told['id']}", params={"person": "Ash"})
        self.assertEqual(self.client.get(path, params={"person": "Ash"}).json(), [])

    def test_the_sheet(self) -> None:
        """Kit, pieces and joints stand on it with boxes; no cut length does."""
        sheet = self.client.get("/api/practice/exercises/solvent-square/sheet").text
        for words in (
            "Lay out the kit",
            "Measure and cut",
            "Make the joints",
            "Measure the result",
            "<svg",
            "Solvent vapour",
        ):
            self.assertIn(words, sheet)
        self.assertNotIn("15 3/8", sheet)

    def test_jobs_do_not_show_it(self) -> None:
        """Practice adds no event to any job, and no job to the list."""
        before = (self.client.get("/api/jobs").json(), self.client.get(f"/api/jobs/{DEMO_ID}/export/job").text)
        self.keep(attempt("solvent-square", fitted=True))
        self.assertEqual(
            before, (self.client.get("/api/jobs").json(), self.client.get(f"/api/jobs/{DEMO_ID}/export/job").text)
        )


class PractisedTogether(WithClient):
    """On a shared server."""

    settings = Settings(hosts=("testserver",), passphrase="blue gate")

    def test_who_was_let_in_decides(self) -> None:
        """A device that was let in as somebody sees that person's record, whatever name it asks with."""
        self.client.post("/api/session", json={"passphrase": "blue gate", "name": "Ash"})
        told = attempt("barb-tee")
        self.client.put(f"/api/practice/attempts/{told['id']}", params={"person": "Rowan"}, json=told)
        mine = self.client.get("/api/practice", params={"person": "Rowan"}).json()
        self.assertEqual((mine["person"], len(mine["attempts"])), ("Ash", 1))
        self.client.post("/api/session", json={"passphrase": "blue gate", "name": "Rowan"})
        self.assertEqual(self.client.get("/api/practice", params={"person": "Ash"}).json()["attempts"], [])
