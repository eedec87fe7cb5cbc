"""Exercises of the crew's own, and each person's attempts at any exercise, with photos of what they made."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass

from hydrarch.core.practice.attempt import Attempt
from hydrarch.store.database import Store
from hydrarch.store.errors import NotThere

__all__ = [
    "AttemptPhoto",
    "AttemptRow",
    "attempt_as_row",
    "attempt_photo",
    "attempt_photos",
    "attempt_row",
    "attempt_rows",
    "drop_attempt",
    "drop_attempt_photo",
    "drop_exercise",
    "exercise_body",
    "exercise_bodies",
    "keep_attempt",
    "keep_attempt_photo",
    "keep_exercise",
]


@dataclass(frozen=True, slots=True)
class AttemptRow:
    """One attempt as it is kept: whose, at what, when (s since 1970), how it went so far, the faults that were not
    seen, and the whole of it as JSON.
    """

    id: str
    person: str
    exercise: str
    begun: float
    changed: float
    ended: float | None
    share: float | None
    missed: tuple[str, ...]
    before: dict[str, int]
    body: str


@dataclass(frozen=True, slots=True)
class AttemptPhoto:
    """A photo of the real piece without what is in it: beside which result it lies (by the id of its tolerance), when
    it was taken (s since 1970), and its size in pixels.
    """

    id: str
    about: str
    at: float
    wide: int
    high: int


def attempt_as_row(
    attempt: Attempt, person: str, share: float | None, missed: tuple[str, ...], before: Mapping[str, int]
) -> AttemptRow:
    """An attempt of a person's, with how it went so far, as it is kept."""
    return AttemptRow(
        id=attempt.id,
        person=person,
        exercise=attempt.exercise,
        begun=attempt.begun,
        changed=attempt.changed,
        ended=attempt.ended,
        share=share,
        missed=missed,
        before=dict(before),
        body=attempt.model_dump_json(),
    )


def keep_exercise(store: Store, name: str, body: str, now: float) -> bool:
    """Keep an exercise under a new id; whether it was new."""
    with store.atomic() as db:
        return (
            db.execute("INSERT INTO exercise VALUES (?, ?, ?) ON CONFLICT DO NOTHING", (name, now, body)).rowcount > 0
        )


def exercise_bodies(store: Store) -> dict[str, str]:
    """The exercises of the crew's own by id, the newest last."""
    rows = store.read().execute("SELECT id, body FROM exercise ORDER BY added, id")
    return {str(r["id"]): str(r["body"]) for r in rows}


def exercise_body(store: Store, name: str) -> str | None:
    """One exercise of the crew's own; None where it is none of theirs."""
    row = store.read().execute("SELECT body FROM exercise WHERE id = ?", (name,)).fetchone()
    return None if row is None else str(row["body"])


def drop_exercise(store: Store, name: str) -> None:
    """Take an exercise out; what was done in it stays. Raises `NotThere`."""
    with store.atomic() as db:
        if db.execute("DELETE FROM exercise WHERE id = ?", (name,)).rowcount == 0:
            raise NotThere("exercise", name)


def keep_attempt(store: Store, row: AttemptRow) -> AttemptRow:
    """Keep an attempt as it is now, unless a later state of it is kept already; gives what is kept. Raises `NotThere`
    where the id is another person's.
    """
    with store.atomic() as db:
        there = db.execute("SELECT * FROM attempt WHERE id = ?", (row.id,)).fetchone()
        if there is not None:
            if (there["person"], there["exercise"]) != (row.person, row.exercise):
                raise NotThere("attempt", row.id)
            if there["changed"] > row.changed:
                return _row(dict(there))
        db.execute(
            "INSERT OR REPLACE INTO attempt VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (
                row.id,
                row.person,
                row.exercise,
                row.begun,
                row.changed,
                row.ended,
                row.share,
                json.dumps(row.missed),
                json.dumps(row.before),
                row.body,
            ),
        )
    return row


def attempt_rows(store: Store, person: str) -> tuple[AttemptRow, ...]:
    """All that one person did, the latest first."""
    rows = store.read().execute("SELECT * FROM attempt WHERE person = ? ORDER BY begun DESC, id", (person,))
    return tuple(_row(dict(r)) for r in rows)


def attempt_row(store: Store, person: str, name: str) -> AttemptRow:
    """One attempt of a person's own; raises `NotThere`."""
    row = store.read().execute("SELECT * FROM attempt WHERE id = ? AND person = ?", (name, person)).fetchone()
    if row is None:
        raise NotThere("attempt", name)
    return _row(dict(row))


def drop_attempt(store: Store, person: str, name: str) -> None:
    """Delete one attempt of a person's own, with its photos; raises `NotThere`."""
    with store.atomic() as db:
        db.execute("DELETE FROM attempt_photo WHERE attempt = ? AND person = ?", (name, person))
        if db.execute("DELETE FROM attempt WHERE id = ? AND person = ?", (name, person)).rowcount == 0:
            raise NotThere("attempt", name)


def keep_attempt_photo(store: Store, person: str, attempt: str, new: AttemptPhoto, body: bytes) -> AttemptPhoto:
    """Keep a photo of a person's own attempt, which may come later itself; one that is there by its id stays as it was.
    Gives what is kept.
    """
    with store.atomic() as db:
        row = (person, attempt, new.id, new.about, new.at, new.wide, new.high, body)
        db.execute("INSERT INTO attempt_photo VALUES (?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING", row)
    return next(p for p in attempt_photos(store, person, attempt) if p.id == new.id)


def attempt_photos(store: Store, person: str, attempt: str) -> tuple[AttemptPhoto, ...]:
    """The photos of one attempt of a person's own, the earliest first."""
    rows = store.read().execute(
        "SELECT id, about, at, wide, high FROM attempt_photo WHERE person = ? AND attempt = ? ORDER BY at, id",
        (person, attempt),
    )
    return tuple(AttemptPhoto(**dict(r)) for r in rows)


def attempt_photo(store: Store, person: str, attempt: str, name: str) -> bytes:
    """What is in a photo (JPEG); raises `NotThere`."""
    row = (
        store.read()
        .execute("SELECT body FROM attempt_photo WHERE person = ? AND attempt = ? AND id = ?", (person, attempt, name))
        .fetchone()
    )
    if row is None:
        raise NotThere("photo", name)
    return bytes(row["body"])


def drop_attempt_photo(store: Store, person: str, attempt: str, name: str) -> None:
    """Take a photo out; raises `NotThere`."""
    with store.atomic() as db:
        where = (person, attempt, name)
        if not db.execute("DELETE FROM attempt_photo WHERE person = ? AND attempt = ? AND id = ?", where).rowcount:
            raise NotThere("photo", name)


def _row(row: dict[str, object]) -> AttemptRow:
    return AttemptRow(
        **{**row, "missed": tuple(json.loads(str(row["missed"]))), "before": json.loads(str(row["before"]))}
    )
