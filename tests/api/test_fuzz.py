"""Nonsense at every door: whatever is sent, the answer is a problem document or an answer, never a fault of ours."""

import tempfile
import unittest
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from hydrarch.api.app import create_app, openapi
from hydrarch.api.guard import Settings
from hydrarch.cli import put_demo
from hydrarch.store.database import Store
from tests.api.client import PLAIN

VALUES = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(10**6), 10**6),
    st.sampled_from([0.0, -1.0, 1e-12, 1e-6, 0.01, 0.5, 1.0, 33.4, 1e3, 1e12]),
    st.sampled_from([1e308, -1e308, 5e-324, 10**400, -(10**400)]),
    st.sampled_from(["a\x00b", "a\x07b", "NaN", "1e999", "\u202e", "9" * 400]),
    st.sampled_from(
        [
            "",
            "1",
            "3/4",
            "32",
            "pvc40",
            "npt:male:1",
            "pe-sidr7",
            "1 in poly to 1 in poly",
            "item,price\n",
            "'; drop table jobs; --",
            "é" * 50,
        ]
    ),
    st.lists(st.integers(0, 3), max_size=3),
    st.dictionaries(
        st.sampled_from(["series", "size", "end", "elbow"]), st.sampled_from(["pvc40", "1", 2]), max_size=2
    ),
)
DOCUMENT: dict[str, Any] = openapi()
SCHEMAS: dict[str, Any] = DOCUMENT["components"]["schemas"]


def bodies() -> list[tuple[str, str, list[str]]]:
    """Every route that takes a JSON object: method, path, and the names of the object's fields."""
    found = []
    for path, methods in DOCUMENT["paths"].items():
        for method, route in methods.items():
            schema = route.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema", {})
            name = schema.get("$ref", "").rpartition("/")[2]
            if name:
                found.append((method.upper(), path, list(SCHEMAS[name].get("properties", {}))))
    return found


class Fuzz(unittest.TestCase):
    """One application, much nonsense."""

    client: TestClient

    @classmethod
    def setUpClass(cls) -> None:
        """Start it once."""
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        store = Store(Path(folder.name) / "f.sqlite3")
        cls.addClassCleanup(store.close)
        put_demo(store, reset=False)
        cls.client = TestClient(
            create_app(store, None, Settings(hosts=("testserver",), requests_per_minute=10**6)),
            raise_server_exceptions=False,
            headers=PLAIN,
        )
        cls.addClassCleanup(cls.client.close)

    def sent(self, method: str, path: str, body: Any) -> None:
        """Send it; anything below 500 will do, and a refusal is a problem document with a mend."""
        for name, value in (
            ("{job_id}", "thistledown"),
            ("{section}", "sec-R4"),
            ("{joint}", "R3b~1"),
            ("{point}", "J1"),
            ("{run}", "R3"),
        ):
            path = path.replace(name, value)
        answer = self.client.request(method, path, json=body)
        self.assertLess(answer.status_code, 500, f"{method} {path} {body!r}: {answer.text[:300]}")
        if answer.status_code >= 400:
            self.assertEqual(answer.headers["content-type"], "application/problem+json", path)
            self.assertTrue(answer.json()["mend"], path)

    @settings(max_examples=250, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.data())
    def test_objects_of_random_fields(self, data: st.DataObject) -> None:
        """Fields of the right names with wrong values, at every route that takes a body."""
        method, path, fields = data.draw(st.sampled_from(bodies()))
        body = data.draw(st.dictionaries(st.sampled_from(fields), VALUES, max_size=len(fields))) if fields else {}
        self.sent(method, path, body)

    @settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.data())
    def test_numbers_that_fit_the_type(self, data: st.DataObject) -> None:
        """Numbers of the right type and any size at the bench's sums."""
        number = st.sampled_from([-1e9, -1.0, 0.0, 1e-9, 1e-4, 1e-3, 0.05, 1.0, 20.0, 400e3, 1e9])
        path, fields = data.draw(
            st.sampled_from(
                [
                    ("/api/bench/line", ("flow", "length", "rise", "working", "max_velocity")),
                    ("/api/bench/drain", ("flow", "slope")),
                    (
                        "/api/bench/well",
                        ("depth", "casing", "static", "pump", "test_flow", "test_drawdown", "flow", "pressure"),
                    ),
                    ("/api/bench/fused", ("depth", "heating")),
                    ("/api/bench/identify", ("outside", "bore", "wall", "error", "threads_per_inch", "pitch")),
                ]
            )
        )
        self.sent("POST", path, {f: data.draw(number) for f in fields})

    def test_every_get_of_the_demo(self) -> None:
        """Every address that only reads answers for the demo, or refuses in words."""
        for path, methods in DOCUMENT["paths"].items():
            if "get" in methods and not path.endswith("/live"):
                query = "?start=W&stop=T1" if path.endswith("/profile") else ""
                self.sent("GET", path.replace("{kind}", "flow").replace("{name}", "R3") + query, None)
