"""The server killed in the midst of it, a disk that is full or may only be read: what was acknowledged is there, and
nothing is half there.
"""

import io
import os
import random
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import unittest
import uuid
from pathlib import Path
from typing import Any

import httpx2
from PIL import Image

from hydrarch.store.database import Store
from hydrarch.store.errors import BadStore
from hydrarch.store.jobs import job
from hydrarch.store.photos import photo_body, photos
from tests.api.client import WithClient, event

ROOT = Path(__file__).resolve().parents[2]
KILLS = int(os.environ.get("HYDRARCH_KILLS", "3"))
CLIENTS = 3


def _free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


class Killed(unittest.TestCase):
    """Under three phones at once."""

    def setUp(self) -> None:
        """A folder, and a photo that takes a moment to send and to read."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        out = io.BytesIO()
        Image.effect_noise((700, 500), 60).save(out, "JPEG")
        self.photo = out.getvalue()
        self.port = _free_port()
        self.url = f"http://127.0.0.1:{self.port}/api"
        self.acknowledged: set[str] = set()
        self.sent = 0

    def start(self) -> subprocess.Popen[str]:
        """A server that listens."""
        (self.folder / "hydrarch.sqlite3").touch()
        command = [sys.executable, "-m", "hydrarch", "serve", "--port", str(self.port), "--data", str(self.folder)]
        server = subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, text=True)
        assert server.stdout is not None
        server.stdout.readline()
        httpx2.get(f"{self.url}/jobs", timeout=60)
        return server

    def phone(self, job: str, until: threading.Event) -> None:
        """Send events and photos in turn until the server is gone; only what was acknowledged is written down."""
        with httpx2.Client(timeout=20) as client:
            while not until.is_set():
                name = str(uuid.uuid4())
                try:
                    if self.sent % 3:
                        told = {**event("got", of=f"part {name}", count=1), "id": name}
                        answer = client.post(f"{self.url}/jobs/{job}/events", json=[told])
                        kept = answer.status_code == 200 and answer.json()["events"][0]["kept"]
                    else:
                        asked: dict[str, Any] = {"id": name, "about": "R1", "by": "Ash", "at": time.time()}
                        kept = (
                            client.post(f"{self.url}/jobs/{job}/photos", params=asked, content=self.photo).status_code
                            == 201
                        )
                except httpx2.HTTPError:
                    return
                self.sent += 1
                if kept:
                    self.acknowledged.add(name)

    def test_nothing_acknowledged_is_lost(self) -> None:
        """Killed again and again under three phones (HYDRARCH_KILLS says how often): all that was acknowledged is
        there, no photo is half there, and the file is sound.
        """
        rng, name = random.Random(5), ""
        for n in range(KILLS):
            server = self.start()
            try:
                if not name:
                    name = httpx2.post(
                        f"{self.url}/jobs", json={"name": "Trench", "units": "metric"}, timeout=20
                    ).json()["id"]
                until = threading.Event()
                phones = [threading.Thread(target=self.phone, args=(name, until)) for _ in range(CLIENTS)]
                before, late = len(self.acknowledged), time.monotonic() + 30
                for p in phones:
                    p.start()
                while len(self.acknowledged) == before and time.monotonic() < late:
                    time.sleep(0.05)
                time.sleep(rng.uniform(0.2, 1.2))
            finally:
                server.send_signal(signal.SIGKILL)
                server.wait()
                assert server.stdout is not None
                server.stdout.close()
            until.set()
            for p in phones:
                p.join()
            with self.subTest(kill=n):
                self.sound(name)
        self.assertTrue(self.acknowledged)

    def sound(self, name: str) -> None:
        """Look into the file itself."""
        store = Store(self.folder / "hydrarch.sqlite3", create=False)
        try:
            self.assertEqual(store.read().execute("PRAGMA integrity_check").fetchone()[0], "ok")
            self.assertEqual(job(store, name).revision, 1)
            there = {r["id"] for r in store.read().execute("SELECT id FROM event WHERE job = ?", (name,))}
            listed = photos(store, name)
            self.assertEqual(self.acknowledged - there - {p.id for p in listed}, set())
            for p in rng_some(listed):
                with Image.open(io.BytesIO(photo_body(store, name, p.id))) as image:
                    image.load()
                    self.assertEqual(image.size, (p.wide, p.high))
        finally:
            store.close()


def rng_some(listed: tuple[Any, ...]) -> tuple[Any, ...]:
    """The last ones, which a kill may have met."""
    return listed[-6:]


class Disk(WithClient):
    """A disk that takes nothing more."""

    def test_full(self) -> None:
        """A full disk is told in words; nothing is half kept, and the next write goes through once there is room."""
        job = self.client.get("/api/jobs").json()[0]["id"]
        writer = self.store._writer
        pages = writer.execute("PRAGMA page_count").fetchone()[0]
        writer.execute(f"PRAGMA max_page_count = {pages}")
        out = io.BytesIO()
        Image.effect_noise((900, 700), 80).save(out, "JPEG")
        asked: dict[str, Any] = {"id": str(uuid.uuid4()), "about": "R1", "by": "Ash", "at": time.time()}
        answer = self.client.post(f"/api/jobs/{job}/photos", params=asked, content=out.getvalue())
        self.refused(answer, 503, "store", "full")
        self.assertEqual(self.client.get(f"/api/jobs/{job}/photos").json(), [])
        writer.execute("PRAGMA max_page_count = 1073741823")
        self.assertEqual(
            self.client.post(f"/api/jobs/{job}/photos", params=asked, content=out.getvalue()).status_code, 201
        )

    def test_read_only(self) -> None:
        """A file that may only be read is refused when the server starts, with its name; one that becomes so says it at
        the write.
        """
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "h.sqlite3"
            Store(file).close()
            with sqlite3.connect(file) as plain:
                plain.execute("PRAGMA journal_mode = DELETE")
            plain.close()
            file.chmod(0o400)
            if os.access(file, os.W_OK):  # the owner of everything may write everywhere
                file.write_bytes(b"this is no database" * 100)
            with self.assertRaisesRegex(BadStore, "h.sqlite3"):
                Store(file, create=False)
        self.store._writer.execute("PRAGMA query_only = ON")
        job = self.client.get("/api/jobs").json()[0]["id"]
        answer = self.client.post(f"/api/jobs/{job}/events", json=[event("got", of="x", count=1)])
        self.refused(answer, 503, "store", "readonly")
        self.store._writer.execute("PRAGMA query_only = OFF")
        self.assertEqual(
            self.client.post(f"/api/jobs/{job}/events", json=[event("got", of="x", count=1)]).status_code, 200
        )


if __name__ == "__main__":
    unittest.main()
