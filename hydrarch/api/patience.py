"""Connections of a server: how many one address may have, and how long it may take to say what it wants."""

from __future__ import annotations

import asyncio
import resource
from collections import Counter
from typing import Any

from uvicorn.protocols.http.h11_impl import H11Protocol

__all__ = ["HEAD", "MOST_OF_ONE", "Patient", "more_files"]

HEAD = 10.0
"""s in which a request's head has to come whole."""
MOST_OF_ONE = 128
"""Connections that one address may have: a crew's phones have an address each, and a page needs a handful."""
_open: Counter[str] = Counter()


class Patient(H11Protocol):
    """The framework's own protocol, which waits for a head without end and takes any number of connections, with an end
    to both.
    """

    def __init__(self, *given: Any, **more: Any) -> None:
        super().__init__(*given, **more)
        self._waiting: asyncio.TimerHandle | None = None
        self._address = ""

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Take a connection, or close it where its address has too many."""
        super().connection_made(transport)
        self._address = self.client[0] if self.client else ""
        _open[self._address] += 1
        if _open[self._address] > MOST_OF_ONE:
            transport.abort()
            return
        self._wait()

    def data_received(self, data: bytes) -> None:
        """Take what comes; a head that is not whole yet is waited for so long and no longer."""
        super().data_received(data)
        if self.cycle is None or self.cycle.response_complete:
            self._wait()
        elif self._waiting is not None:
            self._waiting.cancel()
            self._waiting = None

    def connection_lost(self, exc: Exception | None) -> None:
        """It is over."""
        if self._waiting is not None:
            self._waiting.cancel()
            self._waiting = None
        _open[self._address] -= 1
        if _open[self._address] <= 0:
            del _open[self._address]
        super().connection_lost(exc)

    def _wait(self) -> None:
        if self._waiting is None:
            self._waiting = self.loop.call_later(HEAD, self._give_up)

    def _give_up(self) -> None:
        self._waiting = None
        if (self.cycle is None or self.cycle.response_complete) and not self.transport.is_closing():
            self.transport.abort()


def more_files(most: int = 16_384) -> None:
    """Let this process hold more connections and files than the usual thousand, as far as the system lets it."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = most if hard == resource.RLIM_INFINITY else min(most, hard)
    if soft < wanted:
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))
