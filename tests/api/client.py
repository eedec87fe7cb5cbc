"""An application over a fresh store, and what is asked of every answer."""

import json
import sqlite3
import tempfile
import time
import unittest
import uuid
from collections import OrderedDict
from functools import cache
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from hydrarch.api.app import create_app
from hydrarch.api.guard import Guard, Settings
from hydrarch.api.service import Service
from hydrarch.api.sessions import Sessions
from hydrarch.cli import put_demo
from hydrarch.demo import DEMO_ID
from hydrarch.store.database import Store

ROOT = Path(__file__).resolve().parents[2]
PLAIN = {"accept-encoding": "identity"}
"""Answers are not squeezed: that takes longer than what is tested, and one test looks at it."""


@cache
def _demo() -> bytes:
    """A store with the demo jobs as bytes, made once: every test begins with a copy of it."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "demo.sqlite3"
        store = Store(file)
        put_demo(store, reset=False)
        copy = Path(folder) / "copy.sqlite3"
        with sqlite3.connect(copy) as whole, sqlite3.connect(file) as made:
            made.backup(whole)
        whole.close()
        made.close()
        store.close()
        return copy.read_bytes()


_WORKED_OUT: OrderedDict[bytes, object] = OrderedDict()
"""What was worked out of plans, by their text, shared by the applications of all tests in a process: the demo is
derived once."""


_BUILT: dict[Settings, Any] = {}
"""Applications by how they are reached: what answers a path is built when it is first asked, which takes most of a
second."""


def application(store: Store, settings: Settings) -> Guard:
    """An application over a store of its own, with nobody known to it yet."""
    if settings not in _BUILT:
        guard = create_app(store, None, settings)
        _BUILT[settings] = guard.app
        return guard
    app = _BUILT[settings]
    app.state.service = Service(store)
    guard = app.state.guard = Guard(app, settings, Sessions(store))
    return guard


def demo_store(file: Path) -> Store:
    """A fresh store with the demo jobs."""
    file.write_bytes(_demo())
    return Store(file)


class WithClient(unittest.TestCase):
    """An application over a fresh store with the demo job."""

    settings = Settings(hosts=(*Settings().hosts, "testserver"))

    def setUp(self) -> None:
        """Start it."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.store = demo_store(Path(folder.name) / "h.sqlite3")
        self.addCleanup(self.store.close)
        app = application(self.store, self.settings)
        app.app.state.service._derived = _WORKED_OUT  # type: ignore[attr-defined]
        self.client = TestClient(app, raise_server_exceptions=False, headers=PLAIN)
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


def event(kind: str, **more: Any) -> dict[str, Any]:
    """An event of now."""
    return {"id": str(uuid.uuid4()), "kind": kind, "at": time.time(), "by": "Ash", **more}
