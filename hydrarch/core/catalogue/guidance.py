"""Practices (schools that disagree) and cautions, as data."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["Caution", "Practice", "PracticeOption", "cautions_for", "choose_practice", "cautioned_at", "practices"]

_PACKAGE = "hydrarch.core.catalogue"


@dataclass(frozen=True, slots=True)
class PracticeOption:
    """One school's answer: what it says, why, and any safety or code floor under it."""

    option: str
    says: str
    reason: str
    floor: str
    source: str


@dataclass(frozen=True, slots=True)
class Practice:
    """A question the trade answers in more than one way, with the answer taken when a crew has not chosen."""

    question: str
    title: str
    default: str
    options: tuple[PracticeOption, ...]


@dataclass(frozen=True, slots=True)
class Caution:
    """What can hurt someone, in plain words; `where` are the methods, point kinds or steps at which it is shown, parted
    by "|".
    """

    code: str
    title: str
    text: str
    where: str
    source: str


@remembered()
def practices() -> dict[str, Practice]:
    """Every practice by its question."""
    found: dict[str, Practice] = {}
    rows = read_rows(_PACKAGE, "practices.csv", dict)
    for question in dict.fromkeys(r["question"] for r in rows):
        mine = [r for r in rows if r["question"] == question]
        default = next(r["option"] for r in mine if r["default"])
        options = tuple(PracticeOption(r["option"], r["says"], r["reason"], r["floor"], r["source"]) for r in mine)
        found[question] = Practice(question, mine[0]["title"], default, options)
    return found


def choose_practice(chosen: dict[str, str], question: str) -> str:
    """The crew's answer to `question`, or the default; raises `Unknown` for an answer nobody gives."""
    practice = practices()[question]
    answer = chosen.get(question, practice.default)
    if answer not in {o.option for o in practice.options}:
        raise Unknown(f"way of {practice.title.lower()}", answer, [o.option for o in practice.options])
    return answer


@remembered()
def _cautions() -> tuple[Caution, ...]:
    return read_rows(_PACKAGE, "cautions.csv", lambda r: Caution(**r))


def cautioned_at(method: str, kinds: Iterable[str]) -> frozenset[str]:
    """Where the cautions of a joint stand, by its way of joining and the kinds of series its pipes are of: what pushes
    together is driven apart by pressure, and there is none in a drain. Where no pipe says its kind, there may be.
    """
    told = set(kinds)
    return frozenset({method}) if told == {"drain"} else frozenset({method, f"{method} under pressure"})


def cautions_for(*places: str) -> tuple[Caution, ...]:
    """The cautions shown at any of `places`, in the order of the data file."""
    return tuple(c for c in _cautions() if not set(c.where.split("|")).isdisjoint(places))
