"""What the routes share: the store, derived results memoised by revision, and news of changes."""

from __future__ import annotations

import asyncio
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Depends, Request

from hydrarch.core.chain import Derived, derive, where_it_stands
from hydrarch.core.proving.readiness import Readiness
from hydrarch.devices.controller import SimulatedController, ZoneController
from hydrarch.store.database import Store
from hydrarch.store.events import events
from hydrarch.store.jobs import Job, job

__all__ = ["News", "Service", "ServiceIn"]

_KEPT = 32


class News:
    """Tells everyone who listens to a job that it changed. Safe to call from any thread."""

    def __init__(self) -> None:
        self._listeners: dict[str, set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[str]]]] = {}

    def listen(self, name: str) -> tuple[asyncio.Queue[str], Callable[[], None]]:
        """A queue of what changed in a job, and what to call when done listening."""
        queue: asyncio.Queue[str] = asyncio.Queue(100)
        entry = (asyncio.get_running_loop(), queue)
        self._listeners.setdefault(name, set()).add(entry)
        return queue, lambda: self._listeners[name].discard(entry)

    def tell(self, name: str, what: str) -> None:
        """Say that `what` ("plan" or "events") of a job changed."""
        for loop, queue in tuple(self._listeners.get(name, ())):
            loop.call_soon_threadsafe(_put, queue, what)


def _put(queue: asyncio.Queue[str], what: str) -> None:
    if not queue.full():
        queue.put_nowait(what)


@dataclass(slots=True)
class Service:
    """The store and what is worked out from it."""

    store: Store
    clock: Callable[[], float] = time.time
    news: News = field(default_factory=News)
    _memo: OrderedDict[tuple[str, int, str], Derived] = field(default_factory=OrderedDict)
    _controllers: dict[str, ZoneController] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def derived(self, found: Job) -> Derived:
        """All that follows from a job's newest plan."""
        key = (found.id, found.revision, found.plan.name)
        with self._lock:
            known = self._memo.get(key)
        if known is None:
            known = derive(found.plan)
            with self._lock:
                self._memo[key] = known
                while len(self._memo) > _KEPT:
                    self._memo.popitem(last=False)
        return known

    def controller(self, name: str) -> ZoneController:
        """The zone controller of a job; a simulated one."""
        with self._lock:
            return self._controllers.setdefault(name, SimulatedController(self.clock))

    def forget(self, name: str) -> None:
        """Drop what was worked out for a job that is gone, whose id may be used again."""
        with self._lock:
            self._controllers.pop(name, None)
            for key in [k for k in self._memo if k[0] == name]:
                del self._memo[key]

    def stands(self, found: Job) -> Readiness:
        """Where a job stands now."""
        return where_it_stands(found.plan, self.derived(found), events(self.store, found.id), self.clock())

    def job(self, name: str) -> Job:
        """A job at its newest revision; raises `NotThere`."""
        return job(self.store, name)


def _service(request: Request) -> Service:
    service: Service = request.app.state.service
    return service


ServiceIn = Annotated[Service, Depends(_service)]
