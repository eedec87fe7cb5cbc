"""Parting two things that were called alike: in jobs of earlier versions an id was used again after its thing was
deleted.

What was recorded of the first thing then stood for the second. Here the reuse is found in a job's revisions, and the
first thing gets an id of its own, in the revisions it was in and in the events about it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from itertools import count
from typing import Any

from hydrarch.core.base.identity import owner, renamed
from hydrarch.core.plan.references import named_in, renaming

__all__ = ["Parting", "part_event", "part_plan", "partings"]

Body = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Parting:
    """An id that was used again: `revision` and `saved` (s since 1970) of its second thing, and the id that the first
    has from now on.
    """

    id: str
    revision: int
    saved: float
    first: str


@dataclass(slots=True)
class _Seen:
    """What was last known of each id, and which were there in the revision before."""

    last: dict[str, Any] = field(default_factory=dict)
    here: set[str] = field(default_factory=set)


def partings(revisions: Iterable[tuple[int, float, Body]]) -> tuple[Parting, ...]:
    """Every id that came back as another thing, the revisions given in order as number, time and document.

    What comes back as it was is the same thing, as after an undo. A run comes back as another one where its document
    differs, or where one of its points is another. Of an id that was used three times there are two partings, the
    earlier first.
    """
    seen = _Seen()
    found: list[Parting] = []
    every: set[str] = set()
    for number, saved, body in revisions:
        things = _things(body)
        back = {i for i in things if i not in seen.here and i in seen.last}
        other = {i for i in back if things[i] != seen.last[i]}
        other |= {i for i in back if any(p in other for p in _points(things[i]))}
        runs = {r["id"]: r for r in body.get("runs", ())}
        other |= {
            e for r in runs.values() if r["id"] in other for e in _ends(r) if e in seen.last and e not in seen.here
        }
        every |= things.keys()
        found += [Parting(i, number, saved, i) for i in sorted(other)]
        seen.last |= things
        seen.here = set(things)
    names = (n for n in count(1))
    fresh: list[Parting] = []
    for p in found:
        first = next(f"{p.id[:30]}-{n}" for n in names if f"{p.id[:30]}-{n}" not in every)
        every.add(first)
        fresh.append(Parting(p.id, p.revision, p.saved, first))
    return tuple(fresh)


def _things(body: Body) -> dict[str, Any]:
    """What each id of a document is: a point, a run, an end of one, a scenario or a zone."""
    found: dict[str, Any] = {}
    for p in body.get("points", ()):
        found[p["id"]] = ("point", p["what"]["kind"], p["x"], p["y"], p.get("ground"), p.get("depth"), p.get("name"))
    for r in body.get("runs", ()):
        if not isinstance(r["a"], dict):
            continue  # format 1: its ends had no names
        found[r["id"]] = ("run", r["a"]["point"], r["b"]["point"], tuple(sorted((k, repr(v)) for k, v in r.items())))
        for side in ("a", "b"):
            found[r[side]["id"]] = ("end", r["id"], r[side]["point"], r[side].get("port"))
    for part in ("scenarios", "zones"):
        found |= {s["id"]: (part, s.get("name")) for s in body.get(part, ())}
    return found


def _points(thing: tuple[Any, ...]) -> tuple[str, ...]:
    if thing[0] == "run":
        return thing[1:3]
    return (thing[1], thing[2]) if thing[0] == "end" else ()


def _ends(run: Body) -> Iterable[str]:
    return (run[side]["id"] for side in ("a", "b") if isinstance(run[side], dict))


def _ids(found: Iterable[Parting], before: Callable[[Parting], bool]) -> Mapping[str, str]:
    """What things are called in a revision or an event that lies before some partings: of several of one id the
    earliest that is after it.
    """
    ids: dict[str, str] = {}
    for p in found:
        if before(p):
            ids.setdefault(p.id, p.first)
    return ids


def part_plan(found: Iterable[Parting], number: int, body: Body) -> Body | None:
    """A revision with its things called as they are from now on; None where nothing of it changes."""
    ids = {i: to for i, to in _ids(found, lambda p: number < p.revision).items() if i in named_in(body)}
    return renaming(body, ids) if ids else None


def part_event(found: Iterable[Parting], body: Body) -> Body | None:
    """An event's body with its joints and section called as they are from now on; None where nothing of it changes."""
    ids = _ids(found, lambda p: body["at"] < p.saved)
    if not ids:
        return None
    joints = {
        renamed(name, ids): {k: renamed(v, ids) if k in ("also", "was") else v for k, v in mark.items()}
        for name, mark in body.get("joints", {}).items()
    }
    now = {**body, "joints": joints}
    if body.get("section"):
        now["section"] = _section(body["section"], ids)
    if owner(body.get("of") or "") in ids:
        now["of"] = renamed(body["of"], ids)
    return now if now != body else None


def _section(name: str, ids: Mapping[str, str]) -> str:
    """A section is called after its first run."""
    return next((f"sec-{to}" for i, to in ids.items() if name == f"sec-{i}"), name)
