"""The folder of the database: one who holds it, copies of each day, restoring, and what is told of a torn file."""

import contextlib
import io
import json
import shutil
import signal
import stat
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from hydrarch.cli import main
from hydrarch.core.record.events import Event, JointMark
from hydrarch.demo import thistledown
from hydrarch.store.database import Store
from hydrarch.store.errors import BadStore, InUse
from hydrarch.store.events import add_events, events
from hydrarch.store.folder import COPIES, FILE, KEPT, Counted, count, daily_copy, held, restore
from hydrarch.store.jobs import add_job, job

ROOT = Path(__file__).parents[2]


def made(number: int) -> Event:
    """A joint said made."""
    return Event(
        id=str(number), kind="made", at=time.time(), by="Ash", joints={f"R{number}~1": JointMark("x", where="here")}
    )


class InAFolder(unittest.TestCase):
    """A folder with a database of one job and one record."""

    def setUp(self) -> None:
        """Make it."""
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory())) / "data"
        self.file = self.folder / FILE
        self.store = Store(self.file)
        self.addCleanup(self.store.close)
        add_job(self.store, "meadow", thistledown())
        add_events(self.store, "meadow", [made(1)])

    def run_it(self, *words: str) -> subprocess.CompletedProcess[str]:
        """Run one command on the folder."""
        command = [*words, "--data", str(self.folder)]
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = main(command)
        return subprocess.CompletedProcess(command, status, out.getvalue(), err.getvalue())

    def torn(self) -> None:
        """Shut the database and overwrite its pages."""
        self.store.close()
        size = self.file.stat().st_size
        with self.file.open("r+b") as file:
            file.seek(4096)
            file.write(b"\xff" * (size - 4096))


class Held(InAFolder):
    """One at a time."""

    def test_a_second_server_and_a_restore_are_refused(self) -> None:
        """Each is told who holds it, and nothing of what is there changes; with the holder gone, each goes on."""
        copy = self.folder.parent / "copy.sqlite3"
        self.store.backup(copy)
        with held(self.folder, "serve"):
            for words in (
                ("serve", "--port", "0"),
                ("demo", "--port", "0", "--reset"),
                ("restore", str(copy), "--replace"),
            ):
                done = self.run_it(*words)
                self.assertEqual(done.returncode, 1, done.stdout)
                self.assertIn("is in use (serve, process", done.stderr)
            with self.assertRaises(InUse), held(self.folder, "restore"):
                pass
        self.assertEqual(self.run_it("restore", str(copy), "--replace").returncode, 0)

    def test_a_killed_holder_holds_nothing(self) -> None:
        """The lock is the system's: it goes with its process."""
        code = (
            "import sys, time; from pathlib import Path; from hydrarch.store.folder import held\n"
            "with held(Path(sys.argv[1]), 'serve'):\n print('held', flush=True); time.sleep(60)"
        )
        holder = subprocess.Popen(
            [sys.executable, "-c", code, str(self.folder)], cwd=ROOT, stdout=subprocess.PIPE, text=True
        )
        assert holder.stdout is not None
        self.assertEqual(holder.stdout.readline().strip(), "held")
        with self.assertRaises(InUse), held(self.folder, "serve"):
            pass
        holder.send_signal(signal.SIGKILL)
        holder.wait()
        holder.stdout.close()
        with held(self.folder, "serve"):
            pass

    def test_a_file_that_was_taken_away_takes_no_more(self) -> None:
        """The database moved away while it is open: a write is refused, none is acknowledged and lost."""
        self.file.rename(self.file.with_name("gone"))
        with self.assertRaises(BadStore):
            add_events(self.store, "meadow", [made(2)])
        self.file.with_name("gone").rename(self.file)
        add_events(self.store, "meadow", [made(2)])
        self.assertEqual(len(events(self.store, "meadow")), 2)


class Restored(InAFolder):
    """Putting a copy in its place."""

    def test_what_was_there_is_kept_whole(self) -> None:
        """A database that was never checkpointed is kept with all its records, though its last ones are in its log."""
        copy = self.folder.parent / "copy.sqlite3"
        self.store.backup(copy)
        add_events(self.store, "meadow", [made(n) for n in range(2, 40)])
        crashed = self.folder.parent / "crashed"
        shutil.copytree(self.folder, crashed)  # as a killed server leaves it: records in the log, not in the file
        now, kept, was = restore(crashed, copy, replace=True)
        assert kept is not None
        self.assertEqual((now, was), (Counted(1, 1, 0), Counted(1, 39, 0)))
        self.assertEqual(count(kept), Counted(1, 39, 0))
        self.assertEqual(count(crashed / FILE), Counted(1, 1, 0))
        self.assertEqual([p.name for p in crashed.iterdir() if p.name.endswith(("-wal", "-shm"))], [])
        back = Store(crashed / FILE)
        self.addCleanup(back.close)
        self.assertEqual(job(back, "meadow").plan.name, thistledown().name)

    def test_refused_before_anything_changes(self) -> None:
        """No --replace, a torn copy, a file of another program: each in words, and the database is as it was."""
        copy = self.folder.parent / "copy.sqlite3"
        self.store.backup(copy)
        other = self.folder.parent / "notes.txt"
        other.write_text("no database")
        self.store.close()
        before = self.file.read_bytes()
        for source, replace, says in (
            (copy, False, "say --replace"),
            (other, True, "cannot be used"),
            (self.folder.parent / "missing", True, "no such file"),
        ):
            with self.assertRaisesRegex(BadStore, says):
                restore(self.folder, source, replace=replace)
            self.assertEqual(self.file.read_bytes(), before)
        self.assertEqual([p.name for p in self.folder.iterdir() if ".new-" in p.name], [])

    def test_a_torn_one_is_kept_as_it_lay(self) -> None:
        """Where the old database cannot be read it is put aside byte by byte, and the copy takes its place."""
        copy = self.folder.parent / "copy.sqlite3"
        self.store.backup(copy)
        self.torn()
        lay = self.file.read_bytes()
        _, kept, was = restore(self.folder, copy, replace=True)
        assert kept is not None
        self.assertEqual((was, kept.read_bytes()), (None, lay))
        self.assertEqual(count(self.file), Counted(1, 1, 0))

    def test_a_clean_stop_leaves_one_file(self) -> None:
        """What was written is in the file itself, so that copying that file alone loses nothing."""
        add_events(self.store, "meadow", [made(n) for n in range(2, 40)])
        self.store.close()
        alone = self.folder.parent / "alone.sqlite3"
        shutil.copyfile(self.file, alone)
        self.assertEqual(count(alone), Counted(1, 39, 0))


class Daily(InAFolder):
    """A copy of each day."""

    def test_the_last_seven_are_kept(self) -> None:
        """One a day, sound, for its owner alone; an older one goes when a newer comes."""
        for day in range(1, 11):
            self.assertIsNotNone(daily_copy(self.store, self.folder, f"2026-11-{day:02}"))
        self.assertIsNone(daily_copy(self.store, self.folder, "2026-11-10"))
        kept = sorted((self.folder / COPIES).iterdir())
        self.assertEqual([p.name[9:19] for p in kept], [f"2026-11-{d:02}" for d in range(11 - KEPT, 11)])
        for path in kept:
            self.assertEqual(count(path), Counted(1, 1, 0))
            self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600)

    def test_a_backup_is_for_its_owner_alone(self) -> None:
        """Mode 600, as the database has."""
        target = self.folder.parent / "copy.sqlite3"
        self.assertEqual(self.run_it("backup", str(target)).returncode, 0)
        self.assertEqual(stat.S_IMODE(target.stat().st_mode), 0o600)


class Torn(InAFolder):
    """A database that the disk has spoilt."""

    def test_it_is_told_in_words(self) -> None:
        """Every command says so in a line, with what to do; none shows a traceback."""
        self.torn()
        for words in (("serve", "--port", "0"), ("export", "meadow"), ("revisions", "meadow")):
            done = self.run_it(*words)
            self.assertEqual(done.returncode, 1)
            self.assertNotIn("Traceback", done.stderr)
            self.assertTrue(done.stderr.startswith("hydrarch: "), done.stderr)

    def test_what_can_be_read_is_saved(self) -> None:
        """Salvaged from a sound file: each job with its drawing and records, in files that programs read."""
        self.store.close()
        target = self.folder.parent / "saved"
        done = self.run_it("salvage", str(target))
        self.assertEqual(done.returncode, 0, done.stderr)
        told = json.loads((target / "meadow.salvaged.json").read_text("utf-8"))
        self.assertEqual((told["plan"]["name"], len(told["records"])), (thistledown().name, 1))


if __name__ == "__main__":
    unittest.main()
