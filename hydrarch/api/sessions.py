"""The sessions of a shared server: found by token without asking the disk twice, and ended at once for every stream as
well.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

from hydrarch.store.crew import Session, end_session, hashed, open_session, seen_sessions, sessions
from hydrarch.store.database import Store

__all__ = ["IDLE", "SESSION", "Sessions"]

SESSION = 14 * 86400.0
"""s that a session lasts."""
IDLE = 3 * 86400.0
"""s after which one that asked nothing ends."""
_WRITTEN = 900.0  # s between two writings down of when sessions last asked anything


class Sessions:
    """The devices that were let in. Safe to call from any thread."""

    def __init__(self, store: Store, clock: Callable[[], float] = time.time) -> None:
        self._store, self.clock = store, clock
        self._lock = threading.Lock()
        self._known: dict[str, Session] = {s.token: s for s in sessions(store, clock())}
        self._seen: dict[str, float] = {}
        self._written = clock()

    def open(self, member: str, device: str, owner: bool = False) -> str:
        """Let a device in; its token."""
        now = self.clock()
        token = open_session(self._store, member, device, now, SESSION, owner)
        with self._lock:
            self._known = {s.token: s for s in sessions(self._store, now)}
        return token

    def find(self, token: str) -> Session | None:
        """The session a token is of; None where it is of none, or of one that ended."""
        now = self.clock()
        with self._lock:
            found = self._known.get(hashed(token)) if token else None
            if found is None or found.ends < now or max(found.seen, self._seen.get(found.token, 0.0)) < now - IDLE:
                return None
            self._seen[found.token] = now
            write = dict(self._seen) if now - self._written > _WRITTEN else None
            if write is not None:
                self._written = now
        if write is not None:
            seen_sessions(self._store, write)
        return found

    def all(self) -> tuple[Session, ...]:
        """Those that have not ended, the newest first, with when each last asked anything."""
        with self._lock:
            seen = dict(self._seen)
        seen_sessions(self._store, seen)
        return sessions(self._store, self.clock())

    def end(self, name: str) -> bool:
        """End one by its id, at once; whether there was one."""
        gone = end_session(self._store, name)
        with self._lock:
            self._known = {t: s for t, s in self._known.items() if s.id != name}
        return gone
