"""Jobs and the revisions of their plans."""

from __future__ import annotations

import json
import time
from collections.abc import Collection
from dataclasses import dataclass
from typing import Literal

from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.references import ids_of
from hydrarch.core.plan.upgrades import LeftOut, open_plan
from hydrarch.store.database import Store
from hydrarch.store.errors import Clash, NotThere
from hydrarch.store.identities import know_drawn

__all__ = [
    "Job",
    "Shelf",
    "JobSummary",
    "RevisionSummary",
    "add_job",
    "delete_job",
    "job",
    "job_exists",
    "put_on_shelf",
    "jobs",
    "revision",
    "revisions",
    "save_plan",
]


Shelf = Literal["list", "archive", "deleted"]


@dataclass(frozen=True, slots=True)
class JobSummary:
    """A job in a list: `saved`, and `shelved` where it was put away, are seconds since 1970."""

    id: str
    name: str
    revision: int
    saved: float
    points: int
    runs: int
    shelf: Shelf
    shelved: float | None


@dataclass(frozen=True, slots=True)
class RevisionSummary:
    """One revision of a job: `saved` is seconds since 1970."""

    number: int
    saved: float
    points: int
    runs: int


@dataclass(frozen=True, slots=True)
class Job:
    """A job at one revision, with the plan as it is kept (`text`) and read.

    `left_out` is what of it could not be read.
    """

    id: str
    revision: int
    plan: Plan
    text: str
    left_out: tuple[LeftOut, ...] = ()


def jobs(store: Store) -> list[JobSummary]:
    """Every job, the latest saved first."""
    rows = store.read().execute(
        """
        SELECT job.id, job.revision, job.shelf, job.shelved, revision.saved, json_extract(plan, '$.name') AS name,
               json_array_length(plan, '$.points') AS points, json_array_length(plan, '$.runs') AS runs
        FROM job JOIN revision ON revision.job = job.id AND revision.number = job.revision
        ORDER BY revision.saved DESC, job.id
        """
    )
    return [JobSummary(**row) for row in rows]


def job_exists(store: Store, name: str) -> int | None:
    """The newest revision of a job; None where there is no such job."""
    row = store.read().execute("SELECT revision FROM job WHERE id = ?", (name,)).fetchone()
    return None if row is None else int(row["revision"])


def job(store: Store, name: str) -> Job:
    """A job at its newest revision; raises `NotThere`, and as `open_plan` does."""
    row = (
        store.read()
        .execute(
            "SELECT revision, plan FROM job JOIN revision ON revision.job = id AND number = revision WHERE id = ?",
            (name,),
        )
        .fetchone()
    )
    if row is None:
        raise NotThere("job", name)
    return _read(name, row["revision"], row["plan"])


def _read(name: str, number: int, text: str) -> Job:
    plan, left_out = open_plan(json.loads(text))
    return Job(name, number, plan, text, left_out)


def revision(store: Store, name: str, number: int) -> Job:
    """A job as it was at an earlier revision; raises `NotThere`, and as `open_plan` does."""
    row = store.read().execute("SELECT plan FROM revision WHERE job = ? AND number = ?", (name, number)).fetchone()
    if row is None:
        raise NotThere("revision", f"{number} of {name}")
    return _read(name, number, row["plan"])


def revisions(store: Store, name: str, most: int = 200) -> list[RevisionSummary]:
    """The revisions of a job, the newest first; raises `NotThere`."""
    rows = store.read().execute(
        """
        SELECT number, saved, json_array_length(plan, '$.points') AS points, json_array_length(plan, '$.runs') AS runs
        FROM revision WHERE job = ? ORDER BY number DESC LIMIT ?
        """,
        (name, most),
    )
    found = [RevisionSummary(**row) for row in rows]
    if not found:
        raise NotThere("job", name)
    return found


def add_job(store: Store, name: str, plan: Plan) -> Job:
    """Keep a new job at revision 1."""
    text = plan.model_dump_json()
    with store.atomic() as db:
        now = time.time()
        db.execute("INSERT INTO job (id, created, revision) VALUES (?, ?, 1)", (name, now))
        db.execute("INSERT INTO revision (job, number, saved, plan) VALUES (?, 1, ?, ?)", (name, now, text))
        know_drawn(db, name, ids_of(plan), ())
    return Job(name, 1, plan, text)


def save_plan(store: Store, name: str, made_on: int, plan: Plan, back: Collection[str] = ()) -> Job:
    """Keep `plan` as the next revision. Raises `Clash`, with the newest plan, if it was not made on the newest.

    A plan that is the newest already is not kept twice: an answer that was lost on the way is no clash with oneself.
    `back` are the ids of things that come back as what they were, as by undo; raises `Reused` for any other id that the
    job has used before.
    """
    text = plan.model_dump_json()
    with store.atomic() as db:
        row = db.execute("SELECT revision FROM job WHERE id = ?", (name,)).fetchone()
        if row is None:
            raise NotThere("job", name)
        newest = row["revision"]
        if newest != made_on:
            theirs = db.execute("SELECT plan FROM revision WHERE job = ? AND number = ?", (name, newest)).fetchone()
            if theirs["plan"] == text:
                return Job(name, newest, plan, text)
            raise Clash(name, made_on, newest, theirs["plan"])
        know_drawn(db, name, ids_of(plan), back)
        db.execute(
            "INSERT INTO revision (job, number, saved, plan) VALUES (?, ?, ?, ?)", (name, newest + 1, time.time(), text)
        )
        db.execute("UPDATE job SET revision = ? WHERE id = ?", (newest + 1, name))
    return Job(name, newest + 1, plan, text)


def put_on_shelf(store: Store, name: str, shelf: Shelf) -> None:
    """Put a job in the list, in the archive or among the deleted; nothing of it is changed. Raises `NotThere`."""
    with store.atomic() as db:
        when = None if shelf == "list" else time.time()
        if db.execute("UPDATE job SET shelf = ?, shelved = ? WHERE id = ?", (shelf, when, name)).rowcount == 0:
            raise NotThere("job", name)


def delete_job(store: Store, name: str) -> None:
    """Forget a job with its revisions and events; raises `NotThere`."""
    with store.atomic() as db:
        if db.execute("DELETE FROM job WHERE id = ?", (name,)).rowcount == 0:
            raise NotThere("job", name)
