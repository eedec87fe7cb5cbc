"""The methods of joining: what each takes, whether it can be undone, buried, and used for drinking water."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.catalogue.tables import read_rows, yes_or_no

__all__ = ["Method", "method", "methods", "methods_where"]


@dataclass(frozen=True, slots=True)
class Method:
    """One way of joining: `heat` and `solvent` say what it needs; `undo`, `bury` and `drink` what the joint allows.

    `grips` is whether it holds against thrust: one that does not must be blocked or held where water presses. `closes`
    is whether it can be made last, between two ends that neither turn nor move: a nut is drawn up, or a sleeve slid
    back over the gap. `wait` is what there is to wait for before water comes, "" where a clock runs. Made wrong, it
    `spoils` "none", the "pipe" end or the "fitting"; `saved` says what can still be saved, and until when.
    """

    name: str
    heat: bool
    solvent: bool
    undo: bool
    bury: bool
    drink: bool
    grips: bool
    closes: bool
    tools: str
    spoils: str
    saved: str
    wait: str
    source: str


def _method(row: dict[str, str]) -> Method:
    flags = {name: yes_or_no(row[name]) for name in ("heat", "solvent", "undo", "bury", "drink", "grips", "closes")}
    return Method(
        row["method"],
        tools=row["tools"],
        spoils=_spoils(row["spoils"]),
        saved=row["saved"],
        wait=row["wait"],
        source=row["source"],
        **flags,
    )


def _spoils(text: str) -> str:
    if text not in ("none", "pipe", "fitting"):
        raise ValueError(f"'{text}' is not what a joint spoils: none, pipe or fitting")
    return text


@remembered()
def methods() -> dict[str, Method]:
    """Every method by its name."""
    return {m.name: m for m in read_rows("hydrarch.core.catalogue", "methods.csv", _method)}


def method(name: str) -> Method:
    """The method called `name`; raises `Unknown` with the nearest."""
    found = methods().get(name)
    if found is None:
        raise Unknown("method of joining", name, methods())
    return found


@remembered()
def methods_where(flag: str, value: bool) -> frozenset[str]:
    """The names of the methods whose `flag` (heat, solvent, undo, bury, drink, grips or closes) is `value`."""
    return frozenset(m.name for m in methods().values() if getattr(m, flag) is value)
