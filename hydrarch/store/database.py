"""The database file: opened, migrated, written through one door, copied while in use.

StoreError
├── NotThere   no such job or revision
└── Clash      an edit was made on a revision that is no longer the newest
"""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path

__all__ = ["Clash", "NotThere", "Store", "StoreError", "migrations"]


class StoreError(Exception):
    """Base of what the store raises."""


class NotThere(StoreError):
    """There is no `what` called `name`."""

    def __init__(self, what: str, name: str) -> None:
        self.what, self.name = what, name
        super().__init__(f"there is no {what} {name}")


class Clash(StoreError):
    """An edit of `job` was made on revision `made_on`, but `newest` is the newest; `plan` is that one's JSON."""

    def __init__(self, job: str, made_on: int, newest: int, plan: str) -> None:
        self.job, self.made_on, self.newest, self.plan = job, made_on, newest, plan
        super().__init__(f"revision {newest} of {job} was saved after revision {made_on}, on which this edit was made")


def migrations() -> list[tuple[int, str]]:
    """The numbered files of store/schema, in order."""
    folder = files("hydrarch.store").joinpath("schema")
    found = [(int(f.name.split("_")[0]), f.read_text("utf-8")) for f in folder.iterdir() if f.name.endswith(".sql")]
    return sorted(found)


class Store:
    """One database file. Every write goes through `atomic()`; reads use connections that cannot write."""

    def __init__(self, path: Path) -> None:
        self.path = path
        path.parent.mkdir(parents=True, exist_ok=True)
        self._lock = threading.RLock()
        self._writer = self._connect("rwc")
        self._writer.execute("PRAGMA journal_mode = WAL")
        self._writer.execute("PRAGMA synchronous = FULL")  # what was acknowledged is on the disk
        self._readers = threading.local()
        self._migrate()

    def _connect(self, mode: str) -> sqlite3.Connection:
        connection = sqlite3.connect(
            f"{self.path.absolute().as_uri()}?mode={mode}", uri=True, isolation_level=None, check_same_thread=False
        )
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA busy_timeout = 5000")
        return connection

    def _migrate(self) -> None:
        self._writer.execute("CREATE TABLE IF NOT EXISTS migration (number INTEGER PRIMARY KEY) STRICT")
        done = {row[0] for row in self._writer.execute("SELECT number FROM migration")}
        for number, script in migrations():
            if number not in done:
                statements = f"BEGIN;\n{script}\nINSERT INTO migration VALUES ({number});\nCOMMIT;"
                try:
                    self._writer.executescript(statements)
                except sqlite3.Error:
                    if self._writer.in_transaction:
                        self._writer.execute("ROLLBACK")
                    raise

    @contextmanager
    def atomic(self) -> Iterator[sqlite3.Connection]:
        """A transaction: all of it lands, or none."""
        with self._lock:
            self._writer.execute("BEGIN IMMEDIATE")
            try:
                yield self._writer
            except BaseException:
                self._writer.execute("ROLLBACK")
                raise
            self._writer.execute("COMMIT")

    def read(self) -> sqlite3.Connection:
        """This thread's connection for reading."""
        connection: sqlite3.Connection | None = getattr(self._readers, "connection", None)
        if connection is None:
            connection = self._readers.connection = self._connect("ro")
        return connection

    def backup(self, target: Path) -> None:
        """Copy the database while it is in use, by SQLite's online backup."""
        copy = sqlite3.connect(target)
        try:
            with self._lock:
                self._writer.backup(copy)
        finally:
            copy.close()

    def close(self) -> None:
        """Close the writer and this thread's reader."""
        connection: sqlite3.Connection | None = getattr(self._readers, "connection", None)
        if connection is not None:
            connection.close()
            self._readers.connection = None
        with self._lock:
            self._writer.close()
