"""Keeping jobs: revisions, events, migrations, backup, and what a killed process leaves."""

import os
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

import httpx2

from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event, JointMark
from hydrarch.demo import thistledown
from hydrarch.store.database import Store
from hydrarch.store.errors import BadStore, Clash, NewerStore, NotThere
from hydrarch.store.events import add_events, events
from hydrarch.store.jobs import add_job, delete_job, job, jobs, put_on_shelf, save_plan
from hydrarch.store.migrations import migrations

ROOT = Path(__file__).resolve().parents[2]


class WithStore(unittest.TestCase):
    """A store in a folder of its own."""

    def setUp(self) -> None:
        """Open it."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "h.sqlite3"
        self.store = Store(self.path)
        self.addCleanup(self.store.close)


class Jobs(WithStore):
    """Jobs and revisions."""

    def test_a_new_database_is_its_owners(self) -> None:
        """Nobody else on the machine reads what a crew keeps."""
        self.assertEqual(self.path.stat().st_mode & 0o077, 0)

    def test_saved_plans_read_back(self) -> None:
        """A plan comes back equal, at the next revision, and stands first in the list."""
        add_job(self.store, "a", thistledown())
        add_job(self.store, "b", Plan(name="other"))
        self.assertEqual(job(self.store, "a").plan, thistledown())
        again = save_plan(self.store, "a", 1, Plan(name="changed"))
        self.assertEqual(again.revision, 2)
        self.assertEqual(
            [(j.id, j.name, j.revision) for j in jobs(self.store)], [("a", "changed", 2), ("b", "other", 1)]
        )

    def test_an_edit_of_an_old_revision_is_refused_with_theirs(self) -> None:
        """The second of two edits of revision 1 gets the newest revision and its plan; nothing is overwritten."""
        add_job(self.store, "a", Plan(name="start"))
        save_plan(self.store, "a", 1, Plan(name="theirs"))
        with self.assertRaises(Clash) as caught:
            save_plan(self.store, "a", 1, Plan(name="mine"))
        self.assertEqual((caught.exception.newest, Plan.model_validate_json(caught.exception.plan).name), (2, "theirs"))
        self.assertEqual(job(self.store, "a").plan.name, "theirs")

    def test_what_is_not_there(self) -> None:
        """Unknown jobs are named."""
        for act in (
            lambda: job(self.store, "x"),
            lambda: save_plan(self.store, "x", 1, Plan(name="n")),
            lambda: delete_job(self.store, "x"),
        ):
            with self.assertRaisesRegex(NotThere, "there is no job x"):
                act()

    def test_nothing_lands_after_a_failure(self) -> None:
        """A transaction that fails half-way leaves no trace."""
        with self.assertRaises(ZeroDivisionError), self.store.atomic() as db:
            db.execute("INSERT INTO job (id, created, revision) VALUES ('half', 0, 1)")
            raise ZeroDivisionError
        self.assertEqual(jobs(self.store), [])

    def test_one_in_another_is_a_savepoint(self) -> None:
        """What fails inside is taken back alone; what fails outside takes all of it back."""
        with self.store.atomic():
            add_job(self.store, "kept", Plan(name="n"))
            with self.assertRaises(ZeroDivisionError), self.store.atomic():
                add_job(self.store, "gone", Plan(name="n"))
                raise ZeroDivisionError
            self.assertEqual([j.id for j in jobs(self.store)], ["kept"])
        with self.assertRaises(ZeroDivisionError), self.store.atomic():
            with self.store.atomic():
                add_job(self.store, "too", Plan(name="n"))
            raise ZeroDivisionError
        self.assertEqual([j.id for j in jobs(self.store)], ["kept"])

    def test_a_commit_that_fails_is_not_the_end(self) -> None:
        """A reference left open fails at COMMIT: nothing of it lands, and the next write goes through."""
        with self.assertRaises(sqlite3.IntegrityError), self.store.atomic() as db:
            db.execute("PRAGMA defer_foreign_keys = ON")
            db.execute("INSERT INTO revision (job, number, saved, plan) VALUES ('nobody', 1, 0, '{}')")
        add_job(self.store, "after", Plan(name="n"))
        self.assertEqual([j.id for j in jobs(self.store)], ["after"])

    def test_a_connection_that_is_lost_is_opened_again(self) -> None:
        """Where even the ROLLBACK fails, a new connection takes the next write."""
        with self.assertRaises(sqlite3.Error), self.store.atomic() as db:
            add_job(self.store, "half", Plan(name="n"))
            db.close()
            db.execute("SELECT 1")
        add_job(self.store, "after", Plan(name="n"))
        self.assertEqual([j.id for j in jobs(self.store)], ["after"])

    def test_reads_cannot_write(self) -> None:
        """A connection for reading refuses to change anything."""
        with self.assertRaisesRegex(sqlite3.OperationalError, "readonly"):
            self.store.read().execute("DELETE FROM job")

    def test_a_job_put_away_is_whole(self) -> None:
        """It lies elsewhere, takes edits and events as before, and comes back as it is."""
        add_job(self.store, "a", Plan(name="n"))
        put_on_shelf(self.store, "a", "deleted")
        self.assertEqual([(j.shelf, j.shelved is not None) for j in jobs(self.store)], [("deleted", True)])
        save_plan(self.store, "a", 1, Plan(name="m"))
        self.assertEqual(add_events(self.store, "a", [Event(id="1", kind="made", at=5.0, by="Ash")]), 1)
        put_on_shelf(self.store, "a", "list")
        self.assertEqual([(j.shelf, j.shelved, j.name) for j in jobs(self.store)], [("list", None, "m")])
        self.assertEqual(len(events(self.store, "a")), 1)
        with self.assertRaises(NotThere):
            put_on_shelf(self.store, "b", "archive")
        with self.assertRaises(sqlite3.IntegrityError):
            put_on_shelf(self.store, "a", "attic")  # type: ignore[arg-type]


class Events(WithStore):
    """Events are only ever added."""

    def test_twice_changes_nothing(self) -> None:
        """The same event sent twice is kept once."""
        add_job(self.store, "a", Plan(name="n"))
        event = Event(id="1", kind="made", at=5.0, by="Ash", joints={"R1a~1": JointMark("weld")})
        self.assertEqual(add_events(self.store, "a", [event]), 1)
        self.assertEqual(add_events(self.store, "a", [event]), 0)
        self.assertEqual([e for _, e in events(self.store, "a")], [event])

    def test_events_cannot_be_edited(self) -> None:
        """The database itself refuses to change an event."""
        add_job(self.store, "a", Plan(name="n"))
        add_events(self.store, "a", [Event(id="1", kind="made", at=5.0, by="Ash")])
        with self.assertRaisesRegex(sqlite3.IntegrityError, "only ever added"), self.store.atomic() as db:
            db.execute("UPDATE event SET body = '{}'")

    def test_a_job_goes_with_its_events(self) -> None:
        """Deleting a job leaves none of its rows, and events of an unknown job are refused."""
        add_job(self.store, "a", Plan(name="n"))
        add_events(self.store, "a", [Event(id="1", kind="made", at=5.0, by="Ash")])
        delete_job(self.store, "a")
        self.assertEqual(events(self.store, "a"), [])
        with self.assertRaises(NotThere):
            add_events(self.store, "a", [Event(id="2", kind="made", at=5.0, by="Ash")])


class Files(WithStore):
    """Migrations and backup."""

    def test_migrations_are_numbered_and_run_once(self) -> None:
        """From every earlier version the file comes up to date, with what was in it."""
        numbers = [n for n, _ in migrations()]
        self.assertEqual(numbers, list(range(1, len(numbers) + 1)))
        for stop in range(len(numbers) + 1):
            path = self.path.with_name(f"from{stop}.sqlite3")
            db = sqlite3.connect(path)
            db.execute("CREATE TABLE migration (number INTEGER PRIMARY KEY) STRICT")
            for number, script in migrations()[:stop]:
                db.executescript(script)
                db.execute("INSERT INTO migration VALUES (?)", (number,))
            db.commit()
            db.close()
            store = Store(path)
            self.assertEqual([r[0] for r in store.read().execute("SELECT number FROM migration ORDER BY 1")], numbers)
            add_job(store, "a", Plan(name="n"))
            store.close()
            again = Store(path)
            self.assertEqual([j.id for j in jobs(again)], ["a"])
            again.close()

    def test_a_file_that_cannot_be_used_is_told(self) -> None:
        """A file of no database, one from a newer version, and one that is not there are refused in words."""
        broken = self.path.with_name("broken.sqlite3")
        broken.write_text("this is no database at all, however long one looks at it" * 20)
        with self.assertRaisesRegex(BadStore, "broken.sqlite3 cannot be used: file is not a database"):
            Store(broken)
        with self.store.atomic() as db:
            db.execute("INSERT INTO migration VALUES (99)")
        with self.assertRaisesRegex(NewerStore, "newer version"):
            Store(self.path)
        with self.assertRaisesRegex(BadStore, "no such file"):
            Store(self.path.with_name("typo.sqlite3"), create=False)
        self.assertFalse(self.path.with_name("typo.sqlite3").exists())

    def test_backup_of_a_store_in_use(self) -> None:
        """The copy opens by itself and holds every job."""
        add_job(self.store, "a", thistledown())
        target = self.path.with_name("copy.sqlite3")
        self.store.backup(target)
        copy = Store(target)
        self.assertEqual(job(copy, "a").plan, thistledown())
        copy.close()


class Killed(unittest.TestCase):
    """What was acknowledged survives."""

    def test_every_acknowledged_edit_survives_a_kill(self) -> None:
        """A server killed in the middle of edits still has the last one it answered."""
        with tempfile.TemporaryDirectory() as folder:
            command = [sys.executable, "-m", "hydrarch", "serve", "--port", "0", "--data", folder]
            server = subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, text=True)
            assert server.stdout is not None
            try:
                address = server.stdout.readline().split()[3].rstrip("/")
                client = httpx2.Client(base_url=address, timeout=20)
                made = client.post("/api/jobs", json={"name": "yard"}).json()
                plan, revision = made["plan"], 1
                for n in range(12):
                    tap = {"id": f"K{n}", "x": float(n), "y": 0.0, "what": {"kind": "tank"}}
                    plan = {**plan, "points": [*plan["points"], tap]}
                    answer = client.put("/api/jobs/yard/plan", json={"revision": revision, "plan": plan})
                    self.assertEqual(answer.status_code, 200, answer.text)
                    revision = answer.json()["revision"]
            finally:
                os.kill(server.pid, signal.SIGKILL)
                server.wait()
                server.stdout.close()
            store = Store(Path(folder) / "hydrarch.sqlite3")
            kept = job(store, "yard")
            store.close()
            self.assertEqual((kept.revision, len(kept.plan.points)), (13, 12))


class CommandLine(unittest.TestCase):
    """Export, import and backup from the shell."""

    def run_it(self, *words: str) -> subprocess.CompletedProcess[str]:
        """Run one command."""
        return subprocess.run(
            [sys.executable, "-m", "hydrarch", *words], cwd=ROOT, capture_output=True, text=True, check=False
        )

    def test_round_trip_through_files(self) -> None:
        """A job exported, imported elsewhere and exported again is the same text; a missing one is told in a line."""
        with tempfile.TemporaryDirectory() as folder:
            here, there = f"{folder}/one", f"{folder}/two"
            store = Store(Path(here) / "hydrarch.sqlite3")
            add_job(store, "meadow", thistledown())
            add_events(
                store,
                "meadow",
                [Event(id="1", kind="made", at=time.time(), by="Ash", joints={"R1a~1": JointMark("x", where="here")})],
            )
            store.close()
            first = self.run_it("export", "meadow", "--data", here).stdout
            file = Path(folder) / "meadow.json"
            file.write_text(first, "utf-8")
            self.assertEqual(self.run_it("import", str(file), "--data", there).stdout.strip(), "meadow")
            self.assertEqual(self.run_it("export", "meadow", "--data", there).stdout, first)
            missing = self.run_it("export", "nothing", "--data", there)
            self.assertEqual((missing.returncode, missing.stderr), (1, "hydrarch: there is no job nothing\n"))
