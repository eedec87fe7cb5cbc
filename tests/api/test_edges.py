"""Whatever can be saved can be opened: plans at the edges of every field are saved, opened, shown in every stage, let
out and brought back.
"""

import json
import random
import tempfile
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from hydrarch.api.app import create_app
from hydrarch.api.guard import Settings
from hydrarch.cli import put_demo
from hydrarch.core.catalogue.pipes import series_list
from hydrarch.core.components.base import Kind, kinds
from hydrarch.core.derivation.chain import STAGES
from hydrarch.core.plan.upgrades import read_plan
from hydrarch.formats.exports import EXPORTS
from hydrarch.store.database import Store
from hydrarch.store.jobs import add_job
from tests.api.client import PLAIN

JOBS = (
    "thistledown",
    "thistledown-yard",
    "thistledown-wash",
    "thistledown-herbs",
    "kept-every-kind",
    "kept-every-kind-2",
)
EDGES = [
    0.0,
    1e-12,
    1e-6,
    1e-3,
    0.01,
    0.1,
    0.5,
    0.999,
    1.0,
    1.001,
    2.0,
    10.0,
    33.4,
    100.0,
    1e3,
    3000.0,
    1e5,
    1e6,
    1e7,
    -0.5,
    -1.0,
    -100.0,
    243.15,
    273.15,
    273.16,
    288.15,
    313.15,
    333.15,
    353.15,
    363.15,
    373.15,
    5,
    0,
]
KEPT = Path(__file__).parents[1] / "kept"
TRIES = 96


def leaves(body: Any, way: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The place of every number in a plan."""
    if isinstance(body, dict):
        for key, value in body.items():
            yield from leaves(value, (*way, key))
    elif isinstance(body, list):
        for n, value in enumerate(body):
            yield from leaves(value, (*way, n))
    elif isinstance(body, (int, float)) and not isinstance(body, bool):
        yield way


def bounds(kind: Kind) -> list[float]:
    """The least and most any number of a kind may be."""
    found = []
    for field in kind.model.model_fields.values():
        for limit in field.metadata:
            found += [float(v) for n in ("ge", "gt", "le", "lt") if (v := getattr(limit, n, None)) is not None]
    return found


def put(body: Any, way: tuple[Any, ...], value: Any) -> None:
    """Put a value at a place of a plan."""
    for key in way[:-1]:
        body = body[key]
    body[way[-1]] = value


def changed(plan: dict[str, Any], rng: random.Random) -> str:
    """One change at an edge, made in place; what it was."""
    points, runs = plan["points"], plan["runs"]
    here, run = rng.choice(points), rng.choice(runs)
    kind = kinds()[here["what"]["kind"]]
    match rng.randrange(12):
        case 0 | 1 | 2:
            way = rng.choice(list(leaves(plan)))
            value = rng.choice(EDGES)
            put(plan, way, value)
            return f"{way} = {value}"
        case 3 | 4:
            own = [(w[0], *w[1:]) for w in leaves(here["what"])]
            if own:
                way, value = rng.choice(own), rng.choice([*bounds(kind), *EDGES])
                put(here["what"], way, value)
                return f"{here['id']} {kind.name} {way} = {value}"
        case 5:
            other = rng.choice(points)
            here["x"], here["y"] = other["x"], other["y"]
            return f"{here['id']} on {other['id']}"
        case 6 | 7:
            name = rng.choice(list(kinds()))
            here["what"], here["ports"] = {"kind": name}, {}
            return f"{here['id']} becomes {name}"
        case 8:
            family = rng.choice(list(series_list()))
            run["series"], run["size"] = family.id, rng.choice([None, *(p.size for p in family.sizes)])
            return f"{run['id']} of {family.id} {run['size']}"
        case 9:
            plan["conditions"]["market"] = rng.choice(["north-american", "metric", "both"])
            plan["conditions"]["series"] = rng.choice([f.id for f in series_list() if f.kind == "pressure"])
            return "another market"
        case 10:
            end = rng.choice(["a", "b"])
            run[end] = {**run[end], "port": rng.choice(["", "in", "out", "line"])}
            return f"{run['id']} {run[end]}"
        case 11:
            run[rng.choice(["coupled", "existing"])] = rng.choice([True, False, None, {"known": ""}])
            return f"{run['id']} coupled or existing"
    return "nothing"


class Edges(unittest.TestCase):
    """One application with the demo's jobs, a kept one of every kind, and edits at the edges of everything."""

    client: TestClient

    @classmethod
    def setUpClass(cls) -> None:
        """Start it once."""
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        store = Store(Path(folder.name) / "e.sqlite3")
        cls.addClassCleanup(store.close)
        put_demo(store, reset=False)
        for name, body in json.loads((KEPT / "plans-1.json").read_text("utf-8")).items():
            if f"kept-{name}" in JOBS:
                add_job(store, f"kept-{name}", read_plan(body))
        cls.client = TestClient(
            create_app(store, None, Settings(hosts=("testserver",), requests_per_minute=10**6)), headers=PLAIN
        )
        cls.addClassCleanup(cls.client.close)

    def opened(self, job: str) -> dict[str, Any]:
        """A job as it opens, with every stage shown."""
        found: dict[str, Any] = self.client.get(f"/api/jobs/{job}").json()
        for stage in STAGES:
            shown = self.client.get(f"/api/jobs/{job}/stages/{stage}")
            self.assertEqual(shown.status_code, 200, (stage, shown.text[:600]))
        return found

    def let_out(self, job: str) -> None:
        """Every export is given or refused with a word, and the job's own file is brought back as another job
        the same.
        """
        for name in EXPORTS:
            answer = self.client.get(f"/api/jobs/{job}/export/{name}")
            self.assertIn(answer.status_code, (200, 404, 409, 422), (name, answer.text[:600]))
        body = self.client.get(f"/api/jobs/{job}/export/job").content
        brought = self.client.post("/api/import", content=body, headers={"content-type": "application/json"})
        self.assertEqual(brought.status_code, 201, brought.text[:600])
        self.assertEqual(brought.json()["plan"], self.client.get(f"/api/jobs/{job}").json()["plan"])
        self.assertEqual(
            self.client.delete(
                f"/api/jobs/{brought.json()['id']}", params={"name": brought.json()["plan"]["name"]}
            ).status_code,
            204,
        )

    def test_what_is_saved_opens(self) -> None:
        """An edit is refused with a word and changes nothing, or it is saved, and then everything there is of the job
        is answered.
        """
        rng, taken = random.Random(12), 0
        for n in range(TRIES):
            job = JOBS[n % len(JOBS)]
            before = self.client.get(f"/api/jobs/{job}").json()
            plan = json.loads(json.dumps(before["plan"]))
            said = [changed(plan, rng) for _ in range(rng.choice([1, 1, 2, 4]))]
            with self.subTest(job=job, said=said, n=n):
                answer = self.client.put(
                    f"/api/jobs/{job}/plan?stage=keep", json={"revision": before["revision"], "plan": plan}
                )
                if answer.status_code != 200:
                    self.assertIn(answer.status_code, (409, 422), answer.text[:600])
                    self.assertTrue(answer.json()["detail"], answer.text[:600])
                    self.assertEqual(self.client.get(f"/api/jobs/{job}").json()["plan"], before["plan"])
                    continue
                taken += 1
                self.opened(job)
                if n % 4 == 0:
                    self.let_out(job)
                # undo: most edits are taken back, some stay for the next to stand on
                if rng.random() < 0.7:
                    revision = answer.json()["revision"]
                    back = self.client.put(f"/api/jobs/{job}/plan", json={"revision": revision, "plan": before["plan"]})
                    self.assertEqual(back.status_code, 200, back.text[:600])
        self.assertGreater(taken, TRIES // 4)

    def test_taken_back_from_anywhere(self) -> None:
        """After all of it every job goes back to its first revision."""
        for job in JOBS:
            now = self.client.get(f"/api/jobs/{job}").json()
            body = {"to": 1, "revision": now["revision"]}
            answer = self.client.post(f"/api/jobs/{job}/revisions", json=body)
            self.assertEqual(answer.status_code, 200, answer.text[:600])
            self.opened(job)


if __name__ == "__main__":
    unittest.main()
