"""Jobs and the revisions of their plans."""

from __future__ import annotations

import time
from dataclasses import dataclass

from hydrarch.core.plan import Plan
from hydrarch.store.database import Clash, NotThere, Store

__all__ = ["Job", "JobSummary", "add_job", "delete_job", "job", "jobs", "save_plan"]


@dataclass(frozen=True, slots=True)
class JobSummary:
    """A job in a list: `saved` is seconds since 1970."""

    id: str
    name: str
    revision: int
    saved: float
    points: int
    runs: int


@dataclass(frozen=True, slots=True)
class Job:
    """A job at its newest revision."""

    id: str
    revision: int
    plan: Plan


def jobs(store: Store) -> list[JobSummary]:
    """Every job, the latest saved first."""
    rows = store.read().execute(
        """
        SELECT job.id, job.revision, revision.saved, json_extract(plan, '$.name') AS name,
               json_array_length(plan, '$.points') AS points, json_array_length(plan, '$.runs') AS runs
        FROM job JOIN revision ON revision.job = job.id AND revision.number = job.revision
        ORDER BY revision.saved DESC, job.id
        """
    )
    return [JobSummary(**row) for row in rows]


def job(store: Store, name: str) -> Job:
    """A job at its newest revision; raises `NotThere`."""
    row = store.read().execute(
        "SELECT revision, plan FROM job JOIN revision ON revision.job = id AND number = revision WHERE id = ?", (name,)
    ).fetchone()  # fmt: skip
    if row is None:
        raise NotThere("job", name)
    return Job(name, row["revision"], Plan.model_validate_json(row["plan"]))


def add_job(store: Store, name: str, plan: Plan) -> Job:
    """Keep a new job at revision 1."""
    with store.atomic() as db:
        now = time.time()
        db.execute("INSERT INTO job (id, created, revision) VALUES (?, ?, 1)", (name, now))
        db.execute("INSERT INTO revision (job, number, saved, plan) VALUES (?, 1, ?, ?)", (name, now, plan.model_dump_json()))
    return Job(name, 1, plan)


def save_plan(store: Store, name: str, made_on: int, plan: Plan) -> Job:
    """Keep `plan` as the next revision. Raises `Clash`, with the newest plan, if it was not made on the newest."""
    with store.atomic() as db:
        row = db.execute("SELECT revision FROM job WHERE id = ?", (name,)).fetchone()
        if row is None:
            raise NotThere("job", name)
        newest = row["revision"]
        if newest != made_on:
            theirs = db.execute("SELECT plan FROM revision WHERE job = ? AND number = ?", (name, newest)).fetchone()
            raise Clash(name, made_on, newest, theirs["plan"])
        db.execute(
            "INSERT INTO revision (job, number, saved, plan) VALUES (?, ?, ?, ?)",
            (name, newest + 1, time.time(), plan.model_dump_json()),
        )
        db.execute("UPDATE job SET revision = ? WHERE id = ?", (newest + 1, name))
    return Job(name, newest + 1, plan)


def delete_job(store: Store, name: str) -> None:
    """Forget a job with its revisions and events; raises `NotThere`."""
    with store.atomic() as db:
        if db.execute("DELETE FROM job WHERE id = ?", (name,)).rowcount == 0:
            raise NotThere("job", name)
