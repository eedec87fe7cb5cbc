"""Bringing a database file to the newest form: numbered files of SQL, some followed by a step in Python, each in one
transaction.
"""

from __future__ import annotations

import json
import logging
import sqlite3
from collections.abc import Callable
from importlib.resources import files
from typing import TYPE_CHECKING, Any

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.identity import owner
from hydrarch.core.derivation.format_1 import Carrying
from hydrarch.core.plan.parting import part_event, part_plan, partings
from hydrarch.core.plan.references import named_in
from hydrarch.core.plan.upgrades import upgraded
from hydrarch.store.errors import NewerStore

if TYPE_CHECKING:
    from hydrarch.store.database import Store

__all__ = ["migrate", "migrations"]

_log = logging.getLogger("hydrarch")


def migrations() -> list[tuple[int, str]]:
    """The numbered files of store/schema, in order."""
    folder = files("hydrarch.store").joinpath("schema")
    found = [(int(f.name.partition("_")[0]), f.read_text("utf-8")) for f in folder.iterdir() if f.name.endswith(".sql")]
    return sorted(found)


def migrate(store: Store) -> None:
    """Bring a store to the newest form.

    Raises `NewerStore` for one from the future; a step that fails leaves it as it was.
    """
    with store.atomic() as db:
        db.execute("CREATE TABLE IF NOT EXISTS migration (number INTEGER PRIMARY KEY) STRICT")
    done = {row[0] for row in store.read().execute("SELECT number FROM migration")}
    known = migrations()
    newest = max(number for number, _ in known)
    if done and max(done) > newest:
        raise NewerStore(store.path, max(done))
    for number, script in known:
        if number in done:
            continue
        with store.atomic() as db:
            for statement in _statements(script):
                db.execute(statement)
            if number in _THEN:
                _THEN[number](db)
            db.execute("INSERT INTO migration VALUES (?)", (number,))


def _statements(script: str) -> list[str]:
    """The statements of a script, a trigger's body left whole."""
    found, so_far = [], ""
    for line in script.splitlines(keepends=True):
        so_far += line
        if sqlite3.complete_statement(so_far):
            found.append(so_far)
            so_far = ""
    return found


def _name_joints_by_end(db: sqlite3.Connection) -> None:
    """Events of form 1 named joints by point and run; they are named after ends of runs from form 2 on."""
    for (job,) in db.execute("SELECT id FROM job").fetchall():
        rows = db.execute("SELECT place, body FROM event WHERE job = ? ORDER BY place", (job,)).fetchall()
        if not rows:
            continue
        plans = db.execute("SELECT plan FROM revision WHERE job = ? ORDER BY number DESC", (job,))
        carrying = Carrying(json.loads(row[0]) for row in plans)
        for row in rows:
            body = carrying.event(json.loads(row["body"]))
            db.execute("UPDATE event SET body = ? WHERE place = ?", (json.dumps(body), row["place"]))


def _readable(plan: str) -> dict[str, Any]:
    """A stored plan in the newest format; one that cannot be brought to it has no ids to speak of, and stays as
    it is.
    """
    try:
        return upgraded(json.loads(plan))
    except HydrarchError:
        return {}


def _part_ids(db: sqlite3.Connection) -> None:
    """Ids that were used again after their thing was deleted are parted, and what each job knows is taken down."""
    for (job,) in db.execute("SELECT id FROM job").fetchall():
        rows = db.execute("SELECT number, saved, plan FROM revision WHERE job = ? ORDER BY number", (job,)).fetchall()
        found = partings((row["number"], row["saved"], _readable(row["plan"])) for row in rows)
        known: set[str] = set()
        here: set[str] = set()
        for row in rows:
            body = _readable(row["plan"])
            parted = part_plan(found, row["number"], body) if found else None
            if parted is not None:
                db.execute("INSERT INTO before_parting VALUES ('revision', ?, ?, ?)", (job, row["number"], row["plan"]))
                db.execute(
                    "UPDATE revision SET plan = ? WHERE job = ? AND number = ?",
                    (json.dumps(parted), job, row["number"]),
                )
            here = named_in(parted or body)
            known |= here
        for row in db.execute("SELECT place, body FROM event WHERE job = ?", (job,)).fetchall():
            event = json.loads(row["body"])
            parted = part_event(found, event) if found else None
            if parted is not None:
                db.execute("INSERT INTO before_parting VALUES ('event', ?, ?, ?)", (job, row["place"], row["body"]))
                db.execute("UPDATE event SET body = ? WHERE place = ?", (json.dumps(parted), row["place"]))
            known |= {owner(name) for name in (parted or event).get("joints", {})}
        for photo in db.execute("SELECT id, about, at FROM photo WHERE job = ?", (job,)).fetchall() if found else ():
            about = part_event(found, {"at": photo["at"], "of": photo["about"]})
            if about is not None:
                db.execute("UPDATE photo SET about = ? WHERE job = ? AND id = ?", (about["of"], job, photo["id"]))
        db.executemany("INSERT INTO known_id VALUES (?, ?, ?)", [(job, i, int(i in here)) for i in sorted(known)])


_THEN: dict[int, Callable[[sqlite3.Connection], None]] = {2: _name_joints_by_end, 8: _part_ids}
"""What follows a file of SQL, by its number."""
