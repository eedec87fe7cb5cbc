"""Long work in a process of its own: it says how far it is, and when nobody waits for it any more it is stopped."""

from __future__ import annotations

import asyncio
import multiprocessing
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

__all__ = ["Heard", "answer", "apart", "ready_apart", "tell"]

_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(
    [
        "hydrarch.core.derivation.chain",
        "hydrarch.formats.pictures",
        "hydrarch.formats.photos",
        "hydrarch.formats.archive",
    ]
)
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

    Function, arguments and result must be things that can be sent between processes. Raises `HydrarchError` as it does.
    """
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
                raise HydrarchError("the work ended without an answer; ask for it again") from None
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
    try:
        if book != book_in_use():
            use_book(book)
        sink.send(("done", function(*given, report=lambda says: sink.send(("says", says)))))
    except HydrarchError as error:
        sink.send(("failed", str(error)))
