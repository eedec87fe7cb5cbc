"""Files from outside are read in a process of their own, with so much memory and time and no more: one that swells, or
never comes to an end, stops nobody else.
"""

from __future__ import annotations

import multiprocessing
import resource
import threading
import time
from base64 import b64decode
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Annotated, Any, ParamSpec, TypeVar

from pydantic import BaseModel, ConfigDict, Field, field_validator

from hydrarch.api.apart import limit_memory
from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.plan.crew_parts import Book, book_in_use, use_book
from hydrarch.formats.explained import BadFile

__all__ = ["MEMORY", "SECONDS", "ForeignText", "read_foreign"]

SECONDS = 10.0
"""s that reading a file may take."""
MEMORY = 768 * 2**20
"""Bytes that reading a file may take beyond what the program takes."""
_LARGEST = 64 * 2**20  # bytes of what was read
_AT_ONCE = threading.BoundedSemaphore(2)
_CONTEXT = multiprocessing.get_context("forkserver")
P = ParamSpec("P")
T = TypeVar("T")


class ForeignText(BaseModel):
    """A file of text: as `text`, or its bytes as they lie (`data`, base64) where they are no UTF-8."""

    model_config = ConfigDict(extra="forbid", strict=True)
    text: Annotated[str, Field(max_length=2_000_000)] = ""
    data: Annotated[str, Field(max_length=2_800_000)] = ""

    @field_validator("data")
    @classmethod
    def _base64(cls, data: str) -> str:
        try:
            b64decode(data, validate=True)
        except ValueError:
            raise ValueError("the bytes of the file are not set as base64") from None
        return data

    @property
    def file(self) -> bytes | str:
        """What the file holds."""
        return b64decode(self.data) if self.data else self.text


def read_foreign(function: Callable[P, T], *given: P.args, **more: P.kwargs) -> T:
    """Call a reader of files apart, within its limits; function, arguments and result are sent between processes.

    Raises `BadFile` and `HydrarchError` as it does, and `BadFile` where it takes too long or too much.
    """
    with _AT_ONCE:
        mine, theirs = _CONTEXT.Pipe(duplex=False)
        process = _CONTEXT.Process(target=_read, args=(theirs, book_in_use(), function, given, more), daemon=True)
        try:
            process.start()
            theirs.close()
            until = time.monotonic() + SECONDS
            if not mine.poll(max(until - time.monotonic(), 0.0)):
                raise BadFile(f"this file takes longer than {SECONDS:.0f} s to read: leave out what is not wanted")
            try:
                kind, what = mine.recv()
            except (EOFError, OSError):
                raise BadFile("this file takes more to read than there is: leave out what is not wanted") from None
        finally:
            if process.pid is not None:
                process.kill()
                process.join(1)
            mine.close()
    if kind == "bad":
        raise BadFile(what[0], what[1])
    if kind == "failed":
        raise HydrarchError(what)
    found: T = what
    return found


def _read(
    sink: Connection, book: Book, function: Callable[..., Any], given: tuple[Any, ...], more: dict[str, Any]
) -> None:
    limit_memory(MEMORY)
    resource.setrlimit(resource.RLIMIT_CPU, (int(SECONDS) + 1, int(SECONDS) + 2))
    if book != book_in_use():
        use_book(book)
    try:
        sink.send(("done", function(*given, **more)))
    except BadFile as error:
        sink.send(("bad", (error.says, error.places)))
    except HydrarchError as error:
        sink.send(("failed", str(error)))
    except RecursionError:
        sink.send(("bad", ("this file is nested too deep to read", ())))
    except MemoryError:
        sink.send(("bad", ("this file takes more memory to read than there is: leave out what is not wanted", ())))
