"""What points at what in a plan: one table, read off the fields that declare it, and the edits that follow it.

Whoever takes a thing out of a plan, brings two plans together, copies a part or calls a thing otherwise goes by this
table, so that no field is forgotten. The page goes by the same table (web/src/job/references.json, written by `./run
types`).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import asdict, dataclass
from functools import cache
from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from hydrarch.core.base.identity import Names, Refers, Sort, owner, renamed
from hydrarch.core.components.base import kinds
from hydrarch.core.plan.document import Plan

__all__ = [
    "KEYS",
    "Naming",
    "ReferenceField",
    "ids_of",
    "named_in",
    "names_in",
    "namings",
    "references",
    "renaming",
    "table",
    "without",
]

Body = dict[str, Any]
KEYS: dict[str, tuple[str, ...]] = {
    "points": ("id",),
    "runs": ("id",),
    "leaving": ("id",),
    "scenarios": ("id",),
    "ways": ("end",),
    "nodes": ("point",),
    "measured": ("fitting", "port"),
    "extras": ("fitting", "note"),
    "zones": ("id",),
    "details": ("name",),
    "rules": ("start", "stop"),
    "nozzles": ("name",),
}
"""The fields that tell the items of each list of a plan apart. Other lists travel and merge whole."""


@dataclass(frozen=True, slots=True)
class Naming:
    """A field that says what its item is called: its path from the plan, lists left out ("runs.a.id"), and the sort of
    name.
    """

    path: str
    sort: Sort


@dataclass(frozen=True, slots=True)
class ReferenceField:
    """A field that names something: its path, the sort of name, and what becomes of it when that is gone.

    "item": the item of the list it is in goes too. "entry": it is an entry of a list of names, and leaves it. "blank":
    it is left blank. `holds` is as the field says.
    """

    path: str
    sort: Sort
    gone: Literal["item", "entry", "blank"]
    holds: Literal["always", "outlet", "kind"]


@cache
def _declared() -> tuple[tuple[Naming, ...], tuple[ReferenceField, ...]]:
    namings: list[Naming] = []
    found: list[ReferenceField] = []

    def look(model: type[BaseModel], path: str) -> None:
        for name, info in model.model_fields.items():
            here = f"{path}.{name}" if path else name
            for mark in info.metadata:
                if isinstance(mark, Names):
                    namings.append(Naming(here, mark.sort))
                if isinstance(mark, Refers):
                    found.append(ReferenceField(here, mark.sort, "item" if info.is_required() else "blank", mark.holds))
            for inner in _inner(info):
                if isinstance(inner, Refers):
                    found.append(ReferenceField(here, inner.sort, "entry", inner.holds))
                elif isinstance(inner, type) and issubclass(inner, BaseModel):
                    look(inner, here)

    look(Plan, "")
    for kind in kinds().values():
        look(kind.model, "points.what")
    return tuple(dict.fromkeys(namings)), tuple(dict.fromkeys(found))


def _inner(info: FieldInfo) -> Iterator[Any]:
    """The models in a field's type, and the marks of what it lists."""

    def walk(annotation: Any, in_list: bool) -> Iterator[Any]:
        yield annotation
        yield from (m for m in getattr(annotation, "__metadata__", ()) if in_list and isinstance(m, Refers))
        for part in get_args(annotation):
            yield from walk(part, in_list or get_origin(annotation) in (tuple, list))

    return walk(info.annotation, False)


def references() -> tuple[ReferenceField, ...]:
    """Every field of a plan that names something else in it."""
    return _declared()[1]


def namings() -> tuple[Naming, ...]:
    """Every field of a plan that says what its item is called."""
    return _declared()[0]


def table() -> dict[str, Any]:
    """The whole table as plain data, for the page."""
    return {
        "keys": {name: list(fields) for name, fields in KEYS.items()},
        "namings": [asdict(n) for n in namings()],
        "references": [asdict(r) for r in references()],
    }


def _holders(body: Body, path: str) -> Iterator[tuple[Body, str]]:
    """The objects that have the last field of a path, each with that field's name."""
    *way, last = path.split(".")
    level: list[Any] = [body]
    for step in way:
        inside = (x.get(step) for x in level if isinstance(x, dict))
        level = [y for x in inside for y in (x if isinstance(x, list | tuple) else [x]) if y is not None]
    return ((x, last) for x in level if isinstance(x, dict) and last in x)


def named_in(body: Body, *sorts: Sort) -> set[str]:
    """The names of these sorts (all, where none is given) that a plan's document gives to its things."""
    wanted = [n for n in namings() if not sorts or n.sort in sorts]
    return {x[field] for n in wanted for x, field in _holders(body, n.path)}


def names_in(body: Body) -> Iterator[tuple[ReferenceField, str]]:
    """Every reference of a plan's document, with the name in it."""
    for reference in references():
        for x, field in _holders(body, reference.path):
            for name in x[field] if reference.gone == "entry" else (x[field],):
                if name:
                    yield reference, name


def ids_of(plan: Plan) -> frozenset[str]:
    """Every id of a plan: points, runs, ends of runs, scenarios and zones."""
    return frozenset(
        (
            *(p.id for p in plan.points),
            *(i for r in plan.runs for i in (r.id, r.a.id, r.b.id)),
            *(i for x in plan.leaving for i in (x.id, *(e.id for e in x.ends))),
            *(s.id for s in plan.scenarios),
            *(z.id for z in plan.zones),
        )
    )


def without(body: Body, gone: Iterable[str]) -> Body:
    """A plan's document without the things of these ids and without all that names them, to the last.

    A run goes with its point, the choices for its ends go with the run; nothing is left to be inherited by what is
    drawn later.
    """
    taken, found = set(gone), _copied(body)
    more = True
    while more:  # what goes may take others with it
        more = False
        for part in KEYS:
            left = [item for item in found.get(part, ()) if not _goes(part, item, taken)]
            more |= len(left) < len(found.get(part, ()))
            if part in found:
                found[part] = left
    return _forgetting(found, taken, tuple(r for r in references() if r.gone != "item"))


def become(body: Body, point: str, *, outlet: bool) -> Body:
    """A plan's document after a thing became another kind: without what was chosen for the kind it was, or held while
    it was an outlet.
    """
    ends = {e["id"] for r in body["runs"] for e in (r["a"], r["b"]) if e["point"] == point}
    over = tuple(r for r in references() if r.holds == "kind" or (r.holds == "outlet" and not outlet))
    found, gone = _copied(body), {point, *ends}
    for part in KEYS:
        wants = [r.path.removeprefix(f"{part}.") for r in over if r.gone == "item" and r.path.startswith(f"{part}.")]
        if wants:
            found[part] = [
                x for x in found[part] if not any(owner(y[f]) in gone for w in wants for y, f in _holders(x, w))
            ]
    return _forgetting(found, gone, tuple(r for r in over if r.gone != "item"))


def _forgetting(found: Body, gone: set[str], over: tuple[ReferenceField, ...]) -> Body:
    """Take names out of lists of names and single fields, in place."""
    for r in over:
        for x, field in _holders(found, r.path):
            if r.gone == "entry":
                x[field] = [n for n in x[field] if owner(n) not in gone]
            elif r.sort != "nozzle" and owner(x[field]) in gone:
                x[field] = ""
    return found


def _goes(part: str, item: Body, taken: set[str]) -> bool:
    """Whether an item of a list is gone, or names what is; what it names its own is gone with it."""
    mine = [n.path.removeprefix(f"{part}.") for n in namings() if n.path.startswith(f"{part}.")]
    wants = [
        r.path.removeprefix(f"{part}.") for r in references() if r.gone == "item" and r.path.startswith(f"{part}.")
    ]
    goes = ("id" in mine and item["id"] in taken) or any(
        owner(x[f]) in taken for w in wants for x, f in _holders(item, w)
    )
    if goes:
        taken.update(x[f] for path in mine for x, f in _holders(item, path))
    return goes


def _copied(body: Body) -> Body:
    """A copy of a document in which what an edit by references may change is its own."""
    return {k: [_deep(x) for x in v] if k in KEYS else v for k, v in body.items()}


def _deep(value: Any) -> Any:
    if isinstance(value, dict):
        return {k: _deep(v) for k, v in value.items()}
    return [_deep(v) for v in value] if isinstance(value, list | tuple) else value


def renaming(body: Body, ids: Mapping[str, str]) -> Body:
    """A plan's document in which things are called otherwise, wherever they are named."""
    found = _copied(body)
    for n in namings():
        for x, field in _holders(found, n.path):
            x[field] = ids.get(x[field], x[field])
    for r in references():
        if r.sort == "nozzle":
            continue
        for x, field in _holders(found, r.path):
            x[field] = [renamed(name, ids) for name in x[field]] if r.gone == "entry" else renamed(x[field], ids)
    return found
