"""What the routes share: the store, what was worked out of plans and records, and news of changes.

Everything is worked out once: a plan by what it holds, however many ask; the record as events come. Only so many plans
are worked out at once, and none without end, so that the page and the other jobs stay quick meanwhile.
"""

from __future__ import annotations

import asyncio
import hashlib
import json
import logging
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

from fastapi import Depends, Header, Request

from hydrarch.api.whereabouts import Whereabouts
from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.commissioning.readiness import Readiness
from hydrarch.core.derivation.chain import Derivation, derive, where_it_stands
from hydrarch.core.plan.crew_parts import Book, merged, new_rows, use_book, used_in
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event
from hydrarch.core.record.log import Log
from hydrarch.devices.controller import SimulatedController, ZoneController
from hydrarch.formats.bookfile import read_book, write_book
from hydrarch.formats.explained import BadFile
from hydrarch.store.book import gone_rows, keep_book, kept_book
from hydrarch.store.database import Store
from hydrarch.store.errors import NotThere
from hydrarch.store.events import add_events, events, last_place
from hydrarch.store.jobs import Job, job, job_exists, jobs
from hydrarch.store.practice import exercise_bodies

_log = logging.getLogger("hydrarch")

__all__ = ["By", "JobThere", "News", "Service", "ServiceIn", "Told", "hold_book"]

_KEPT = 32
_AT_ONCE = 2
"""Plans worked out at the same time."""
_SECONDS = 15.0
"""The longest one part of a derivation may take: ten times what the largest job takes on a quiet laptop."""


@dataclass(frozen=True, slots=True)
class Told:
    """That `what` of a job changed; `revision` is the newest of its plan, `by` names the page that changed it ("" where
    none says).
    """

    job: str
    what: Literal["plan", "events", "gone", "here", "photos"]
    revision: int
    by: str = ""


class News:
    """Tells everyone who listens what changed in which job. Safe to call from any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[Told]]] = set()

    def listen(self) -> tuple[asyncio.Queue[Told], Callable[[], None]]:
        """A queue of what changes, and what to call when done listening."""
        queue: asyncio.Queue[Told] = asyncio.Queue(1000)
        entry = (asyncio.get_running_loop(), queue)
        with self._lock:
            self._listeners.add(entry)

        def leave() -> None:
            with self._lock:
                self._listeners.discard(entry)

        return queue, leave

    def tell(self, told: Told) -> None:
        """Say that something changed."""
        with self._lock:
            listeners = tuple(self._listeners)
        for loop, queue in listeners:
            if not loop.is_closed():
                loop.call_soon_threadsafe(_put, queue, told)


def hold_book(store: Store) -> Book:
    """Use the book that a store keeps; an empty one where it keeps none, or one that this version cannot use."""
    text = kept_book(store)
    try:
        book = Book() if text is None else read_book(text)
        use_book(book)
    except ValueError as error:
        _log.error("the equipment book could not be used: %s", error)
        book = Book()
        use_book(book)
    return book


def _put(queue: asyncio.Queue[Told], told: Told) -> None:
    if not queue.full():
        queue.put_nowait(told)


class _Gate:
    """So many may work out plans at once, or one may change what all of them are worked out with: never both.

    Who wants to change goes before those that come later, so that it is not kept waiting without end.
    """

    def __init__(self, most: int) -> None:
        self._most, self._inside, self._wanted, self._alone = most, 0, 0, False
        self._turn = threading.Condition()

    @contextmanager
    def one_of_many(self) -> Iterator[None]:
        """Work with what is there, beside others."""
        with self._turn:
            self._turn.wait_for(lambda: not self._alone and not self._wanted and self._inside < self._most)
            self._inside += 1
        try:
            yield
        finally:
            with self._turn:
                self._inside -= 1
                self._turn.notify_all()

    @contextmanager
    def alone(self) -> Iterator[None]:
        """Change what is there, while nobody works with it."""
        with self._turn:
            self._wanted += 1
            self._turn.wait_for(lambda: not self._alone and not self._inside)
            self._wanted -= 1
            self._alone = True
        try:
            yield
        finally:
            with self._turn:
                self._alone = False
                self._turn.notify_all()


class _Deadline:
    """Late once its time is over; it begins anew with each part of the work."""

    def __init__(self, seconds: float) -> None:
        self.seconds, self.until = seconds, float("inf")

    def begin(self) -> None:
        self.until = time.monotonic() + self.seconds

    def __call__(self) -> bool:
        return time.monotonic() > self.until


@dataclass(slots=True)
class _Entry:
    """A derivation that several ask, one at a time."""

    derivation: Derivation
    deadline: _Deadline
    lock: threading.RLock = field(default_factory=threading.RLock)


@dataclass(slots=True)
class _Recorded:
    """A job's log as far as it was read: after place `last` of the table."""

    log: Log
    last: int
    lock: threading.RLock = field(default_factory=threading.RLock)


@dataclass(slots=True)
class Service:
    """The store and what is worked out from it."""

    store: Store
    clock: Callable[[], float] = time.time
    seconds: float = _SECONDS
    news: News = field(default_factory=News)
    _derived: OrderedDict[bytes, _Entry] = field(default_factory=OrderedDict)
    _jobs: OrderedDict[tuple[str, int, str], Job] = field(default_factory=OrderedDict)
    _logs: OrderedDict[tuple[str, float], _Recorded] = field(default_factory=OrderedDict)
    _controllers: dict[str, ZoneController] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)
    _book: Book = field(default_factory=Book)
    whereabouts: Whereabouts = field(init=False)
    _gate: _Gate = field(default_factory=lambda: _Gate(_AT_ONCE))
    _book_lock: threading.RLock = field(default_factory=threading.RLock)

    def __post_init__(self) -> None:
        """Take up the crew's book as it was kept."""
        self._book = hold_book(self.store)
        self.whereabouts = Whereabouts(self.clock)

    def job(self, name: str) -> Job:
        """A job at its newest revision, read once for each revision; raises `NotThere`."""
        stamp = self._stamp(name)
        with self._lock:
            known = self._jobs.get(stamp)
        if known is None:
            known = job(self.store, name)
            self._keep(known, stamp)
        return known

    def _stamp(self, name: str) -> tuple[str, int, str]:
        """What tells one state of a job from another, also one of the same name and number after a reset."""
        row = (
            self.store.read()
            .execute(
                "SELECT job.revision, saved, created FROM job JOIN revision ON job = id AND number = "
                "job.revision WHERE id = ?",
                (name,),
            )
            .fetchone()
        )
        if row is None:
            raise NotThere("job", name)
        return name, row["revision"], f"{row['saved']!r} {row['created']!r}"

    def saved(self, found: Job) -> Job:
        """Remember a job as it was just saved, so that it is not read again."""
        self._keep(found, self._stamp(found.id))
        return found

    def _keep(self, found: Job, stamp: tuple[str, int, str]) -> None:
        if stamp[1] != found.revision:
            return
        with self._lock:
            self._jobs[stamp] = found
            while len(self._jobs) > _KEPT:
                self._jobs.popitem(last=False)

    def _entry(self, plan: Plan, text: str) -> _Entry:
        """What follows from a plan, shared by all who ask about one that holds the same."""
        key = hashlib.sha256(text.encode("utf-8", "surrogatepass")).digest()
        with self._lock:
            known = self._derived.get(key)
            if known is None:
                deadline = _Deadline(self.seconds)
                known = self._derived[key] = _Entry(derive(plan, deadline), deadline)
                while len(self._derived) > _KEPT:
                    self._derived.popitem(last=False)
            else:
                self._derived.move_to_end(key)
        return known

    def worked_out(self, plan: Plan, text: str, rooms: Iterable[str]) -> Derivation:
        """The same, with those rooms worked out: by whoever asks first, the others wait for it."""
        entry = self._entry(plan, text)
        missing = [r for r in rooms if r not in entry.derivation.__dict__]
        if missing:
            with entry.lock, self._gate.one_of_many():
                entry.deadline.begin()
                for r in missing:
                    getattr(entry.derivation, r)
                if any(p.code == "took-too-long" for p in entry.derivation.failed):
                    self._let_go(entry)  # the machine may have been busy: whoever asks next has it tried again
        return entry.derivation

    def _let_go(self, entry: _Entry) -> None:
        with self._lock:
            for key in [k for k, known in self._derived.items() if known is entry]:
                del self._derived[key]

    def derived(self, found: Job, *rooms: str) -> Derivation:
        """What follows from a job's plan; all of it, or with those rooms worked out."""
        return self.worked_out(found.plan, found.text, rooms or Derivation.ROOMS)

    def sized(self, found: Job) -> Derivation:
        """The same where sizes and fittings are needed for an answer.

        Raises `HydrarchError` with the reason where they could not be worked out.
        """
        derived = self.derived(found)
        if "settled" in derived.fallen:
            told = next(
                (p.says for p in derived.failed if p.stage in ("survey", "size")), "its sizes could not be worked out"
            )
            raise HydrarchError(told.removesuffix("."))
        return derived

    @contextmanager
    def log(self, name: str) -> Iterator[Log]:
        """All that was done in a job, folded as events come; nobody adds to it meanwhile. Raises `NotThere`."""
        kept = self._recorded(name)
        with kept.lock:
            self._read_on(name, kept)
            yield kept.log

    @contextmanager
    def recording(self, name: str) -> Iterator[tuple[Log, Callable[[Event], None]]]:
        """The log, and what to call to add an event; all that were added are kept at the end, in one transaction, or
        none.
        """
        fresh: list[Event] = []
        kept = self._recorded(name)
        with self.store.atomic(), kept.lock:
            self._read_on(name, kept)

            def add(event: Event) -> None:
                kept.log.add([event])
                fresh.append(event)

            try:
                yield kept.log, add
                add_events(self.store, name, fresh)
                kept.last = last_place(self.store, name)
            except BaseException:
                self._drop_log(name)
                raise

    def _read_on(self, name: str, kept: _Recorded) -> None:
        fresh = events(self.store, name, kept.last)
        if fresh:
            kept.log.add(e for _, e in fresh)
            kept.last = fresh[-1][0]

    def _drop_log(self, name: str) -> None:
        with self._lock:
            for key in [k for k in self._logs if k[0] == name]:
                del self._logs[key]

    def _recorded(self, name: str) -> _Recorded:
        row = self.store.read().execute("SELECT created FROM job WHERE id = ?", (name,)).fetchone()
        if row is None:
            raise NotThere("job", name)
        key = (name, float(row["created"]))
        with self._lock:
            kept = self._logs.setdefault(key, _Recorded(Log(), 0))
            while len(self._logs) > _KEPT:
                self._logs.popitem(last=False)
        return kept

    def controller(self, name: str) -> ZoneController:
        """The zone controller of a job; a simulated one."""
        with self._lock:
            return self._controllers.setdefault(name, SimulatedController(self.clock))

    def forget(self, name: str) -> None:
        """Drop what was worked out for a job that is gone, whose id may be used again."""
        with self._lock:
            self._controllers.pop(name, None)
            for key in [k for k in self._jobs if k[0] == name]:
                del self._jobs[key]
        self._drop_log(name)

    def stands(self, found: Job) -> Readiness:
        """Where a job stands now."""
        derived = self.derived(found)
        with self.log(found.id) as log:
            return where_it_stands(found.plan, derived, log, self.clock())

    def book(self) -> Book:
        """The crew's equipment book."""
        with self._lock:
            return self._book

    def keep_book(self, book: Book) -> Book:
        """Keep and use another book.

        Nothing is worked out meanwhile, and what was worked out with the one before is forgotten. What is kept is made
        of what was read while the book is held (`changing_book`), so that no other change is lost.
        """
        with self._book_lock, self._gate.alone():
            before = self.book()
            use_book(book)
            try:
                keep_book(self.store, write_book(book))
            except BaseException:
                use_book(before)
                raise
            with self._lock:
                self._book = book
                self._derived.clear()
        return book

    @contextmanager
    def changing_book(self) -> Iterator[Book]:
        """The crew's book as it is now; nobody else changes it until the block ends."""
        with self._book_lock:
            yield self.book()

    @contextmanager
    def with_rows(self, more: Book | None, what: str) -> Iterator[None]:
        """Rows that a file brings along, beside the crew's own from now on; not if the block fails.

        Raises `BadFile` where one is another under a name of the crew's; `what` is brought in, in words.
        """
        with self.changing_book() as before:
            try:
                fresh = None if more is None else new_rows(before, more)
            except HydrarchError as error:
                raise BadFile(f"this {what} cannot be brought in", (("book", str(error)),)) from error
            if fresh is not None and (fresh.fittings or fresh.pipes):
                self.keep_book(merged(before, fresh))
            try:
                yield
            except BaseException:
                if self.book() != before:
                    self.keep_book(before)
                raise

    def bring_back(self, text: str) -> bool:
        """Put rows that were taken out of the crew's parts back into them where a drawing (JSON) names them; whether
        any was. The drawing was begun before they were taken out, and nothing of it is lost by that.
        """
        wanted = {n: row for n, row in gone_rows(self.store).items() if f'"{n}"' in text}
        with self.changing_book() as book:
            there = {row.id for row in book.fittings} | {row.id for row in book.pipes}
            again: dict[str, list[Any]] = {"fittings": [], "pipes": []}
            for name, (section, body) in wanted.items():
                if name not in there and section in again:
                    again[section].append(json.loads(body))
            if not any(again.values()):
                return False
            self.keep_book(merged(book, Book.model_validate_json(json.dumps(again))))
            return True

    def jobs_using(self, name: str) -> list[str]:
        """The names of the jobs whose plan uses a row of the crew's own, or whose parts do, and of such exercises."""
        found = []
        for summary in jobs(self.store):
            mine = self.job(summary.id)
            named = name in set(used_in(mine.plan))
            if named or any(p.fitting == name for p in self.derived(mine, "settled").assembly.parts):
                found.append(mine.plan.name)
        own = exercise_bodies(self.store).items()
        return found + [f"the exercise {_title(body, known)}" for known, body in own if f'"{name}"' in body]

    def tell(self, name: str, what: Literal["plan", "events", "gone", "here", "photos"], by: str = "") -> None:
        """Tell everyone who listens that something of a job changed; to be called once the answer is ready."""
        self.news.tell(Told(name, what, job_exists(self.store, name) or 0, by))

    def events(self, name: str) -> list[Event]:
        """The events of a job in the order they were kept."""
        return [e for _, e in events(self.store, name)]


def _title(body: str, name: str) -> str:
    """What an exercise is called, by its text; its id where that cannot be read."""
    try:
        return str(json.loads(body)["title"])
    except (ValueError, KeyError, TypeError):
        return name


def _service(request: Request) -> Service:
    service: Service = request.app.state.service
    return service


ServiceIn = Annotated[Service, Depends(_service)]


def _job_there(service: ServiceIn, job_id: str) -> None:
    service.job(job_id)


By = Annotated[
    str, Header(alias="X-Page", max_length=60, description="Names the page that asks, so that it knows its own news")
]
JobThere = Depends(_job_there)
"""For streams: a job that is not there is told before the stream begins."""
