"""The folder of the database: who holds it, copies of each day, and putting a copy in its place."""

from __future__ import annotations

import fcntl
import os
import sqlite3
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from hydrarch.store.database import Store
from hydrarch.store.errors import BadStore, InUse

__all__ = [
    "COPIES",
    "FILE",
    "KEPT",
    "Counted",
    "InCopy",
    "copies",
    "count",
    "daily_copy",
    "held",
    "opened_copy",
    "restore",
    "salvaged",
]

FILE = "hydrarch.sqlite3"
COPIES = "copies"
KEPT = 7
"""How many copies of a day are kept, the newest."""
_LOCK = "hydrarch.lock"
_BESIDE = ("-wal", "-shm")


@dataclass(frozen=True, slots=True)
class Counted:
    """What a sound database holds."""

    jobs: int
    events: int
    photos: int

    def words(self) -> str:
        """As a person reads it."""
        parts = ((self.jobs, "job"), (self.events, "record"), (self.photos, "photo"))
        return ", ".join(f"{n} {what}{'' if n == 1 else 's'}" for n, what in parts)


@contextmanager
def held(folder: Path, what: str) -> Iterator[None]:
    """Hold a folder for `what` ("serve", "restore") until the block ends; nobody else holds it meanwhile.

    The lock is the system's (flock), so that it goes with its process however that ends. Raises `InUse` with who
    holds it.
    """
    folder.mkdir(parents=True, exist_ok=True)
    lock = os.open(folder / _LOCK, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise InUse(folder, os.read(lock, 200).decode("utf-8", "replace").strip() or "another process") from None
        os.ftruncate(lock, 0)
        os.write(lock, f"{what}, process {os.getpid()}, since {time.strftime('%Y-%m-%d %H:%M')}\n".encode())
        yield
    finally:
        os.close(lock)


def count(path: Path) -> Counted:
    """Look a database over, whole and read-only, and count what is in it. Raises `BadStore` where it is not sound."""
    if not path.is_file():
        raise BadStore(path, "there is no such file")
    try:
        found = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)
        try:
            told = [str(row[0]) for row in found.execute("PRAGMA integrity_check(3)")]
            if told != ["ok"]:
                raise BadStore(path, f"it is torn ({'; '.join(told)})")
            here = {str(r[0]) for r in found.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            if not {"job", "revision", "event"} <= here:
                raise BadStore(path, "it is no database of Hydrarch")
            jobs, events, photos = (
                int(found.execute(f"SELECT count(*) FROM {table}").fetchone()[0]) if table in here else 0
                for table in ("job", "event", "photo")
            )
        finally:
            found.close()
    except sqlite3.Error as error:
        raise BadStore(path, str(error)) from error
    return Counted(jobs, events, photos)


def restore(folder: Path, source: Path, *, replace: bool) -> tuple[Counted, Path | None, Counted | None]:
    """Put a copy of a database in its place in `folder`; what was there is kept beside it, under a name with the time.

    Gives what is there now, where the old one is kept and what that holds, None for one that is torn and kept as it is.
    The folder must be `held`. Both are looked over before anything changes. Raises `BadStore`; also where there is one
    already and `replace` is not said.
    """
    target = folder / FILE
    count(source)
    fresh = folder / f"{FILE}.new-{os.getpid()}"
    _copied(source, fresh)
    try:
        Store(fresh, create=False).close()  # brought to this form, or refused as newer
        alone = sqlite3.connect(fresh)
        alone.execute("PRAGMA journal_mode = DELETE")
        alone.close()
        now = count(fresh)
        kept: Path | None = None
        was: Counted | None = None
        if target.exists():
            if not replace:
                raise BadStore(target, "there is a database already: say --replace to put it aside and take the copy")
            kept = _free(target.with_name(f"{FILE}.before-{time.strftime('%Y%m%d-%H%M%S')}"))
            try:
                Store(target, create=False).close()  # what is still in its log goes into it
                _copied(target, kept)
                was = count(kept)
            except BadStore:  # torn: kept as it lies, with its log
                was = None
                for end in ("", *_BESIDE):
                    with suppress(FileNotFoundError):
                        os.replace(f"{target}{end}", f"{kept}{end}")
        for end in _BESIDE:
            Path(f"{target}{end}").unlink(missing_ok=True)
        os.replace(fresh, target)
        _settled(folder)
    finally:
        for end in ("", *_BESIDE):
            Path(f"{fresh}{end}").unlink(missing_ok=True)
    return now, kept, was


def daily_copy(store: Store, folder: Path, today: str) -> Path | None:
    """Copy the database once a day ("2026-11-30"), look the copy over, and keep the newest `KEPT`; None where today's
    is there already.

    Raises `BadStore` for a copy that is not sound; it is not kept.
    """
    place = folder / COPIES
    target = place / f"hydrarch-{today}.sqlite3"
    if target.exists():
        return None
    place.mkdir(mode=0o700, exist_ok=True)
    fresh = place / f".{target.name}.{os.getpid()}"
    try:
        store.backup(fresh)
        count(fresh)
        os.replace(fresh, target)
    finally:
        fresh.unlink(missing_ok=True)
    for old in sorted(place.glob("hydrarch-*.sqlite3"))[:-KEPT]:
        old.unlink(missing_ok=True)
    return target


@dataclass(frozen=True, slots=True)
class InCopy:
    """A job in a copy: its name then, its newest revision, and how many records it had."""

    id: str
    name: str
    revision: int
    records: int


def copies(folder: Path) -> Iterator[tuple[str, tuple[InCopy, ...]]]:
    """The copies of the last days ("2026-11-30"), newest first, with the jobs in each; one that cannot be read is left
    out.
    """
    for file in sorted((folder / COPIES).glob("hydrarch-*.sqlite3"), reverse=True):
        try:
            found = sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro", uri=True)
            try:
                rows = found.execute(
                    "SELECT job.id, json_extract(revision.plan, '$.name'), job.revision, "
                    "(SELECT count(*) FROM event WHERE event.job = job.id) "
                    "FROM job JOIN revision ON revision.job = job.id AND revision.number = job.revision ORDER BY 2"
                )
                yield (
                    file.stem.removeprefix("hydrarch-"),
                    tuple(InCopy(str(r[0]), str(r[1] or ""), int(r[2]), int(r[3])) for r in rows),
                )
            finally:
                found.close()
        except sqlite3.Error:
            continue


@contextmanager
def opened_copy(folder: Path, day: str) -> Iterator[Store | None]:
    """A copy of a day, opened apart from the file itself and in this form; None where there is none. Raises
    `BadStore`.
    """
    file = next((f for f in (folder / COPIES).glob("hydrarch-*.sqlite3") if f.stem == f"hydrarch-{day}"), None)
    if file is None:
        yield None
        return
    with tempfile.TemporaryDirectory() as place:
        own = Path(place) / FILE
        _copied(file, own)
        store = Store(own, create=False)
        try:
            yield store
        finally:
            store.close()


def salvaged(path: Path) -> Iterator[tuple[str, str | None, list[str]]]:
    """What can still be read of a torn database: each job with its newest plan (JSON) that is legible, None where none
    is, and its records (JSON).

    Raises `BadStore` where not even the list of jobs can be read.
    """
    try:
        found = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)
        jobs = [str(r[0]) for r in found.execute("SELECT id FROM job")]
    except sqlite3.Error as error:
        raise BadStore(path, f"not even its list of jobs can be read ({error})") from error
    for job in jobs:
        plan: str | None = None
        events: list[str] = []
        with suppress(sqlite3.Error):
            for row in found.execute(
                "SELECT number FROM revision WHERE job = ? ORDER BY number DESC", (job,)
            ).fetchall():
                with suppress(sqlite3.Error):
                    plan = found.execute(
                        "SELECT plan FROM revision WHERE job = ? AND number = ?", (job, row[0])
                    ).fetchone()[0]
                    break
        with suppress(sqlite3.Error):
            for row in found.execute("SELECT body FROM event WHERE job = ?", (job,)):
                events.append(str(row[0]))
        yield job, plan, events


def _copied(source: Path, target: Path) -> None:
    """Copy a database by SQLite's backup, readable by its owner alone."""
    target.touch(0o600)
    try:
        old = sqlite3.connect(f"{source.absolute().as_uri()}?mode=ro", uri=True)
        try:
            new = sqlite3.connect(target)
            try:
                old.backup(new)
                new.execute("PRAGMA journal_mode = DELETE")  # one file, that stands alone
            finally:
                new.close()
        finally:
            old.close()
    except sqlite3.Error as error:
        raise BadStore(source, str(error)) from error


def _free(path: Path) -> Path:
    """That path, or one like it that is not taken."""
    number, found = 1, path
    while found.exists():
        number += 1
        found = path.with_name(f"{path.name}-{number}")
    return found


def _settled(folder: Path) -> None:
    """See that a change of names in a folder is on the disk."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
