"""Long work in a process of its own: what it says, what it gives, and that it ends when nobody waits."""

import asyncio
import os
import tempfile
import time
import unittest
from collections.abc import Callable
from contextlib import aclosing
from pathlib import Path
from typing import Any

from hydrarch.api.apart import MEMORY, Heard, apart
from hydrarch.api.service import Service
from hydrarch.cli import put_demo
from hydrarch.core.base.errors import HydrarchError
from hydrarch.demo import DEMO_ID
from hydrarch.store.database import Store


def slow(seconds: float, report: Callable[[str], object]) -> str:
    """Say which process this is, then take that long."""
    report(str(os.getpid()))
    time.sleep(seconds)
    return "rested"


def failing(report: Callable[[str], object]) -> None:
    """Fail as the core does."""
    raise HydrarchError("no pipe is that long")


def dying(report: Callable[[str], object]) -> None:
    """End without an answer."""
    os._exit(3)


def greedy(report: Callable[[str], object]) -> int:
    """Take more memory than it may."""
    return len(bytearray(MEMORY + 2**28))


async def heard(function: Callable[..., Any], *given: Any) -> list[Heard]:
    """All that comes from the work but the ticks."""
    return [h async for h in apart(function, *given) if h.kind != "tick"]


class Apart(unittest.TestCase):
    """Work beside the server."""

    def test_it_says_and_gives(self) -> None:
        """What it says comes as it is said, then its result; it is not this process that works."""
        says, done = asyncio.run(heard(slow, 0.0))
        self.assertEqual((says.kind, done.kind, done.what), ("says", "done", "rested"))
        self.assertNotEqual(int(says.what), os.getpid())

    def test_no_more_memory_than_it_may(self) -> None:
        """What takes more is refused in words; the next works as ever."""
        with self.assertRaisesRegex(HydrarchError, "memory"):
            asyncio.run(heard(greedy))
        self.assertEqual(asyncio.run(heard(slow, 0.0))[-1].what, "rested")

    def test_as_many_as_there_are_processors(self) -> None:
        """Of more than that the last says how many are before it, and comes in its turn; one that leaves the line lets
        the next go on.
        """
        places = os.cpu_count() or 1

        async def crowd() -> list[str]:
            first = [apart(slow, 1e6) for _ in range(places)]
            for work in first:
                while (await anext(work)).kind != "says":
                    pass
            waits, last = apart(slow, 1e6), apart(slow, 0.0)
            told = [(await anext(waits)).what, (await anext(last)).what]
            await waits.aclose()
            told.append((await anext(last)).what)
            for work in first:
                await work.aclose()
            return [*told, *[h.what async for h in last if h.kind == "done"]]

        self.assertEqual(
            asyncio.run(crowd()),
            ["1 before this one", "2 before this one", "1 before this one", "rested"],
        )

    def test_left_it_ends(self) -> None:
        """Work that would never end is gone when it is left: were it not, this would not end either."""

        async def leave() -> int:
            async with aclosing(apart(slow, 1e6)) as work:
                async for h in work:
                    if h.kind == "says":
                        return int(h.what)
            return 0

        process = asyncio.run(leave())
        with self.assertRaises(ProcessLookupError):
            os.kill(process, 0)

    def test_it_fails_as_the_core_does(self) -> None:
        """A refusal of the core arrives as one, and so does a process that dies."""
        with self.assertRaisesRegex(HydrarchError, "no pipe is that long"):
            asyncio.run(heard(failing))
        with self.assertRaisesRegex(HydrarchError, "ended without an answer"):
            asyncio.run(heard(dying))


class TooLong(unittest.TestCase):
    """A derivation that takes too long."""

    def test_it_says_so_once_and_is_tried_again(self) -> None:
        """What did not come to an end is reported once, the rooms after it are empty, the job opens; asked again it is
        worked out anew.
        """
        with tempfile.TemporaryDirectory() as folder:
            store = Store(Path(folder) / "t.sqlite3")
            self.addCleanup(store.close)
            put_demo(store, reset=False)
            service = Service(store, seconds=-1.0)
            found = service.job(DEMO_ID)
            late = service.derived(found)
            self.assertEqual([p.code for p in late.failed], ["took-too-long"])
            self.assertEqual((late.cuts.pieces, late.sections, late.work.tasks), ((), (), ()))
            self.assertTrue(service.stands(found).lost)
            service.seconds = 60.0
            again = service.derived(found)
            self.assertEqual(again.failed, [])
            self.assertTrue(again.cuts.pieces)

    def test_what_needs_sizes_is_refused_in_words(self) -> None:
        """Without sizes no answer is made up from nothing: whoever asks is told why, and it is tried again at the next
        asking.
        """
        with tempfile.TemporaryDirectory() as folder:
            store = Store(Path(folder) / "t.sqlite3")
            self.addCleanup(store.close)
            put_demo(store, reset=False)
            service = Service(store, seconds=-1.0)
            found = service.job(DEMO_ID)
            with self.assertRaisesRegex(HydrarchError, "sizes"):
                service.sized(found)
            service.seconds = 60.0
            self.assertTrue(service.sized(found).settled.pipes)
