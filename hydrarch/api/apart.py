"""Long work in a process of its own: it says how far it is, and when nobody waits for it any more it is stopped."""

from __future__ import annotations

import asyncio
import multiprocessing
import os
import resource
import threading
from collections.abc import AsyncGenerator, AsyncIterator, Callable
from contextlib import aclosing
from dataclasses import dataclass
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from typing import Any, Literal

from fastapi import Request
from fastapi.sse import ServerSentEvent
from pydantic import TypeAdapter

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.plan.crew_parts import Book, book_in_use, use_book

__all__ = ["MEMORY", "Heard", "answer", "apart", "limit_memory", "ready_apart", "tell"]

_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(
    [
        "hydrarch.api.foreign",
        "hydrarch.core.derivation.chain",
        "hydrarch.formats.pictures",
        "ezdxf.recover",
        "hydrarch.formats.photos",
        "hydrarch.formats.archive",
        "hydrarch.formats.bookfile",
        "hydrarch.formats.curvefile",
        "hydrarch.formats.pointsfile",
        "hydrarch.formats.tables",
        "hydrarch.devices.gauge",
        "hydrarch.devices.weather",
    ]
)
MEMORY = 512 * 2**20
"""Bytes that one piece of work may take beyond what the program takes."""
_LISTEN = 0.2  # s between looks at the work


@dataclass(frozen=True, slots=True)
class Heard:
    """What came from the work: "tick" while it is busy, "says" how far it is (text), "done" with its result."""

    kind: Literal["tick", "says", "done"]
    what: Any = None


def ready_apart() -> None:
    """Begin to load what the work needs, so that the first does not wait for it. Returns at once."""
    forkserver.ensure_running()


async def apart(function: Callable[..., Any], *given: Any) -> AsyncGenerator[Heard, None]:
    """Call `function(*given, report=…)` in a process of its own; `report` takes text. Left early, the process is ended.

    Function, arguments and result must be things that can be sent between processes. As many work at once as there are
    processors, each with `MEMORY` beyond what the program takes; the others wait in their turn and say their place.
    Raises `HydrarchError` as it does, and where it takes more.
    """
    turn = _LINE.take()
    try:
        while (before := _LINE.before(turn)) > 0:
            yield Heard("says", f"{before} before this one")
            await asyncio.sleep(_LISTEN)
        async with aclosing(_working(function, given)) as work:
            async for heard in work:
                yield heard
    finally:
        _LINE.leave(turn)


class _Line:
    """Who works and who waits, in the order they came."""

    def __init__(self, places: int) -> None:
        self._places = places
        self._there: list[int] = []
        self._next = 0
        self._lock = threading.Lock()

    def take(self) -> int:
        """A number at the end of the line."""
        with self._lock:
            self._next += 1
            self._there.append(self._next)
            return self._next

    def before(self, turn: int) -> int:
        """How many have to leave before it is that number's turn; 0 where it is."""
        with self._lock:
            return max(0, self._there.index(turn) + 1 - self._places)

    def leave(self, turn: int) -> None:
        """Go, done or not."""
        with self._lock:
            self._there.remove(turn)


_LINE = _Line(os.cpu_count() or 1)


async def _working(function: Callable[..., Any], given: tuple[Any, ...]) -> AsyncGenerator[Heard, None]:
    mine, theirs = _CONTEXT.Pipe(duplex=False)
    process = _CONTEXT.Process(target=_work, args=(theirs, book_in_use(), function, given), daemon=True)
    try:
        await asyncio.to_thread(process.start)
        theirs.close()
        while True:
            if not await asyncio.to_thread(mine.poll, _LISTEN):
                yield Heard("tick")
                continue
            try:
                kind, what = mine.recv()
            except EOFError:
                raise HydrarchError(
                    "the work ended without an answer, or took more memory than it may; ask for it again, or for less"
                ) from None
            if kind == "failed":
                raise HydrarchError(what)
            yield Heard(kind, what)
            if kind == "done":
                return
    finally:
        if process.pid is not None:
            process.kill()
            process.join(1)
        mine.close()


async def answer(request: Request, function: Callable[..., Any], *given: Any) -> Any:
    """The result of work done apart.

    Break the request off and the work stops. Raises `HydrarchError` as the work does.
    """
    async with aclosing(apart(function, *given)) as work:
        async for heard in work:
            if heard.kind == "done":
                return heard.what
            if await request.is_disconnected():
                break
    raise HydrarchError("stopped, because nobody waits for it any more")


async def tell(shape: TypeAdapter[Any], function: Callable[..., Any], *given: Any) -> AsyncIterator[ServerSentEvent]:
    """The same as server-sent events: "says" with how far it is, "done" with the result, "fault" with a reason."""
    try:
        async with aclosing(apart(function, *given)) as work:
            async for heard in work:
                if heard.kind == "done":
                    yield ServerSentEvent(event="done", raw_data=shape.dump_json(heard.what).decode())
                elif heard.kind == "says":
                    yield ServerSentEvent(event="says", raw_data=str(heard.what))
                else:
                    yield ServerSentEvent(comment="busy")
    except HydrarchError as error:
        yield ServerSentEvent(event="fault", raw_data=str(error))


def _work(sink: Connection, book: Book, function: Callable[..., Any], given: tuple[Any, ...]) -> None:
    limit_memory(MEMORY)
    try:
        if book != book_in_use():
            use_book(book)
        sink.send(("done", function(*given, report=lambda says: sink.send(("says", says)))))
    except HydrarchError as error:
        sink.send(("failed", str(error)))
    except MemoryError:
        sink.send(("failed", "this takes more memory than there is for it: part the job in two"))


def limit_memory(most: int) -> None:
    """Let this process take no more memory (bytes) than that beyond what it takes now."""
    with open("/proc/self/statm", encoding="ascii") as told:
        pages = int(told.read().split()[0])
    limit = pages * resource.getpagesize() + most
    resource.setrlimit(resource.RLIMIT_AS, (limit, limit))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
