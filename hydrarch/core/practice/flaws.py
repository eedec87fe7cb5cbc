"""What can be wrong with a joint that looks finished: its dose, what follows, and what can still be saved."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import pi

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.units import System, show
from hydrarch.core.catalogue.methods import method
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["CHAMFER", "CLAMP_BAND", "Flaw", "JointShape", "flaw_of", "flaws_of"]

CHAMFER = 0.0015
"""m that the outer edge of a cut pipe is taken back; common practice."""
CLAMP_BAND = 0.2
"""Width of a clamp's band as a share of the barb's length; from memory."""


@dataclass(frozen=True, slots=True)
class JointShape:
    """The dimensions a joint is drawn from: its method and size, the pipe's outside and bore (m), and how much of it
    the other part takes (m).
    """

    method: str
    size: str
    outside: float
    bore: float
    depth: float

    @property
    def wall(self) -> float:
        """The pipe's wall (m)."""
        return (self.outside - self.bore) / 2


@dataclass(frozen=True, slots=True)
class Flaw:
    """One fault of one method. `limit` and `most` are doses as shares of what `of` names (a joint's depth, bore, wall,
    clamp band; the turn of its circle), or in SI where `of` is blank: what is accepted, and the largest that is drawn.

    `quantity` is "flag" where it is there or not (dose 0 or 1).
    """

    id: str
    method: str
    of: str
    quantity: str
    limit: float
    most: float
    title: str
    shows: str
    follows: str
    saved: str
    source: str

    def wrong(self, dose: float) -> bool:
        """Whether a dose is beyond what is accepted."""
        return dose > self.limit

    def size_of(self, shape: JointShape, dose: float) -> float:
        """A dose in the unit it is told in: m, rad, or a share of one."""
        bases = {"depth": shape.depth, "bore": shape.bore, "wall": shape.wall}
        return dose * bases.get(self.of, 1.0)

    def told(self, shape: JointShape, dose: float, system: System) -> str:
        """What there is to see, with the dose and what is accepted in the person's units."""
        if self.quantity == "flag":
            return self.shows
        values = {"dose": dose, "limit": self.limit}
        shown = {n: str(show(self.size_of(shape, v), self.quantity, system)) for n, v in values.items()}
        return self.shows.format(**shown)


@remembered()
def _flaws() -> tuple[Flaw, ...]:
    def made(row: dict[str, str]) -> tuple[Flaw, ...]:
        limit, most = float(row["limit"]), float(row["most"])
        if not 0 < limit < most <= 2 * pi:
            raise ValueError("the limit must be above zero and below the largest dose")
        return tuple(
            Flaw(
                id=row["flaw"],
                method=method(name).name,
                of=row["of"],
                quantity=row["quantity"],
                limit=limit,
                most=most,
                title=row["title"],
                shows=row["shows"],
                follows=row["follows"],
                saved=row["saved"],
                source=row["source"],
            )
            for name in row["methods"].split("|")
        )

    return tuple(f for rows in read_rows("hydrarch.core.practice", "flaws.csv", made) for f in rows)


def flaws_of(methods: Iterable[str]) -> tuple[Flaw, ...]:
    """Every fault written for these methods, each method's own."""
    wanted = set(methods)
    return tuple(f for f in _flaws() if f.method in wanted)


def flaw_of(name: str, method: str) -> Flaw:
    """The fault of that id at a method; raises `Unknown`."""
    mine = {f.id: f for f in flaws_of((method,))}
    if name not in mine:
        raise Unknown(f"fault of a joint by {method}", name, mine)
    return mine[name]
