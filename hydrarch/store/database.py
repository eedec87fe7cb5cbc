"""The database file: opened, migrated, written through one door, copied while in use."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from hydrarch.store.errors import BadStore, StoreError
from hydrarch.store.migrations import migrate

__all__ = ["Store"]


class Store:
    """One database file. Every write goes through `atomic()`; reads use connections that cannot write.

    With `create` false a file that is not there is refused instead of made. Raises `BadStore` or `NewerStore`.
    """

    def __init__(self, path: Path, *, create: bool = True) -> None:
        self.path = path
        self._lock = threading.RLock()
        self._depth = 0
        self._readers = threading.local()
        if not create and not path.is_file():
            raise BadStore(path, "there is no such file")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            path.touch(0o600)  # the crew's own; an existing file keeps the mode it has
            self._writer = self._open_writer()
            self._file = self._which()
        except (sqlite3.Error, OSError) as error:
            raise BadStore(path, str(error)) from error
        self._migrate()

    def _open_writer(self) -> sqlite3.Connection:
        writer = self._connect("rwc")
        try:
            writer.execute("PRAGMA journal_mode = WAL")
            writer.execute("PRAGMA synchronous = FULL")  # what was acknowledged is on the disk
        except sqlite3.Error:
            writer.close()
            raise
        return writer

    def _connect(self, mode: str) -> sqlite3.Connection:
        connection = sqlite3.connect(
            f"{self.path.absolute().as_uri()}?mode={mode}", uri=True, isolation_level=None, check_same_thread=False
        )
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA busy_timeout = 5000")
        return connection

    def _migrate(self) -> None:
        try:
            migrate(self)
        except sqlite3.Error as error:
            self._writer.close()
            raise BadStore(self.path, str(error)) from error
        except StoreError:
            self._writer.close()
            raise

    @contextmanager
    def atomic(self) -> Iterator[sqlite3.Connection]:
        """A transaction: all of it lands, or none. One inside another is a savepoint of it."""
        with self._lock:
            depth = self._depth
            name = f"level_{depth}"
            if depth == 0 and self._which() != self._file:
                raise BadStore(self.path, "its file was moved or deleted while it was open; nothing more is kept in it")
            self._writer.execute("BEGIN IMMEDIATE" if depth == 0 else f"SAVEPOINT {name}")
            self._depth += 1
            try:
                yield self._writer
                self._writer.execute("COMMIT" if depth == 0 else f"RELEASE {name}")
            except BaseException:
                self._undo(depth, name)
                raise
            finally:
                self._depth = depth

    def _which(self) -> tuple[int, int] | None:
        """Which file lies at the path now; None where none does."""
        try:
            told = self.path.stat()
        except OSError:
            return None
        return told.st_dev, told.st_ino

    def _undo(self, depth: int, name: str) -> None:
        """Take back what was begun; where even that fails, a new connection takes the place of the one that is
        stuck.
        """
        try:
            if depth:
                self._writer.execute(f"ROLLBACK TO {name}")
                self._writer.execute(f"RELEASE {name}")
            elif self._writer.in_transaction:
                self._writer.execute("ROLLBACK")
        except sqlite3.Error:
            if depth:
                raise
            with suppress(sqlite3.Error):
                self._writer.close()
            self._writer = self._open_writer()

    def read(self) -> sqlite3.Connection:
        """This thread's connection for reading; inside a transaction of this thread, the one that writes."""
        if self._depth and self._lock_is_mine():
            return self._writer
        connection: sqlite3.Connection | None = getattr(self._readers, "connection", None)
        if connection is None:
            connection = self._readers.connection = self._connect("ro")
        return connection

    def _lock_is_mine(self) -> bool:
        return self._lock._is_owned()  # type: ignore[attr-defined, no-any-return]

    def backup(self, target: Path) -> None:
        """Copy the database while it is in use, by SQLite's online backup.

        Raises `BadStore` where the target cannot be written.
        """
        try:
            target.touch(0o600)  # the crew's own, like the database
            copy = sqlite3.connect(target)
            try:
                with self._lock:
                    self._writer.backup(copy)
                copy.execute("PRAGMA journal_mode = DELETE")  # one file, that stands alone
            finally:
                copy.close()
        except (sqlite3.Error, OSError) as error:
            raise BadStore(target, str(error)) from error

    def close(self) -> None:
        """Close the writer and this thread's reader; what is in the log goes into the file, so that it stands alone."""
        connection: sqlite3.Connection | None = getattr(self._readers, "connection", None)
        if connection is not None:
            connection.close()
            self._readers.connection = None
        with self._lock:
            with suppress(sqlite3.Error):
                self._writer.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            self._writer.close()
