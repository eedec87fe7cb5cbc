"""What a job may be begun as: the things at hand for it, and what is asked first. Nothing is laid out by it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["Beginning", "Usual", "beginnings"]


Usual = Literal["series", "tubing", "house", "rigid"]


@dataclass(frozen=True, slots=True)
class Beginning:
    """A kind of job: its title, the kinds of thing at hand, the conditions and practices to be settled first, and what
    to find out.

    `bench` names the question at the bench that helps most with it; `pipe` which of the market's usual pipes it begins
    with. What is drawn first lies so, at that `depth` (m), on a sheet that is `across` (m); `sun` reaches it. `starts`
    is how a kind of thing begins here where it differs, field by field. `drawn` is the line of the small drawing it
    begins with, by measure in metres, or the name of the part that it is; "" where it has none.
    """

    about: str
    title: str
    pipe: Usual
    lies: str
    depth: float
    across: float
    sun: bool
    starts: dict[str, dict[str, str | float]]
    drawn: str
    things: tuple[str, ...]
    conditions: tuple[str, ...]
    practices: tuple[str, ...]
    bench: str
    first: tuple[str, ...]
    source: str


def _starts(text: str) -> dict[str, dict[str, str | float]]:
    found: dict[str, dict[str, str | float]] = {}
    for told in filter(None, text.split("|")):
        where, _, value = told.partition("=")
        kind, _, name = where.partition(".")
        found.setdefault(kind, {})[name] = float(value) if value.replace(".", "", 1).isdigit() else value
    return found


def _make(row: dict[str, str]) -> Beginning:
    usual = next(u for u in get_args(Usual) if u == row["pipe"])
    return Beginning(
        row["about"],
        row["title"],
        usual,
        row["lies"],
        float(row["depth_m"]),
        float(row["across_m"]),
        row["sun"] == "yes",
        _starts(row["starts"]),
        row["drawn"],
        tuple(row["things"].split()),
        tuple(row["conditions"].split()),
        tuple(row["practices"].split()),
        row["bench"],
        tuple(row["first"].split("|")),
        row["source"],
    )


@remembered()
def beginnings() -> dict[str, Beginning]:
    """Every kind of job by its name, in the order of the data file."""
    return {b.about: b for b in read_rows("hydrarch.core.catalogue", "beginnings.csv", _make)}
