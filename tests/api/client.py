"""An application over a fresh store, and what is asked of every answer."""

import json
import tempfile
import time
import unittest
import uuid
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from hydrarch.api.app import create_app
from hydrarch.api.guard import Settings
from hydrarch.cli import put_demo
from hydrarch.demo import DEMO_ID
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


def event(kind: str, **more: Any) -> dict[str, Any]:
    """An event of now."""
    return {"id": str(uuid.uuid4()), "kind": kind, "at": time.time(), "by": "Ash", **more}
