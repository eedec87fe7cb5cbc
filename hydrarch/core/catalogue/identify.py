"""What pipe is this? Ranked candidates from what a caliper reads, and what to measure next to tell them apart."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, hypot

from hydrarch.core.catalogue.pipes import Pipe, series, series_list
from hydrarch.core.errors import HydrarchError, OutOfRange

__all__ = ["Candidate", "Identified", "Measured", "identify"]

_OUTSIDE_SPREAD = 0.15e-3  # m: what makers' tolerances and wear leave on an outside diameter; from memory
_WALL_SHARE = 0.08  # of the wall
_FAR = 4.5  # standard deviations beyond which a candidate is out
_WORDS = {"outside": "the outside diameter", "bore": "the bore", "wall": "the wall"}


@dataclass(frozen=True, slots=True)
class Measured:
    """What was read, in m; any subset. `error` (m) is the tool's own, `colour` white, grey, dark or metal if seen."""

    outside: float | None = None
    bore: float | None = None
    wall: float | None = None
    error: float = 0.1e-3
    colour: str | None = None

    def __post_init__(self) -> None:
        """Refuse what cannot be measured, or does not hang together."""
        given = {n: v for n in ("outside", "bore", "wall") if (v := getattr(self, n)) is not None}
        if not given:
            raise HydrarchError("measure something: outside, bore or wall")
        for name, value in given.items():
            if not 1e-4 <= value <= 1.0:
                raise OutOfRange(_WORDS[name], value * 1e3, 0.1, 1000, "mm")
        if not 0 <= self.error <= 5e-3:
            raise OutOfRange("the tool's error", self.error * 1e3, 0, 5, "mm")
        if self.outside is not None and self.bore is not None and self.bore >= self.outside:
            raise HydrarchError("the bore is larger than the outside: check which jaws were used")
        if self.outside is not None and self.wall is not None and 2 * self.wall >= self.outside:
            raise HydrarchError("two walls are thicker than the outside: check the wall")


@dataclass(frozen=True, slots=True)
class Candidate:
    """A pipe that fits what was read: `likelihood` is its share among all that do, `off` (m) how far each reading is from it."""

    series: str
    name: str
    size: str
    likelihood: float
    off: dict[str, float]
    outside: float
    bore: float
    wall: float
    warning: str


@dataclass(frozen=True, slots=True)
class Identified:
    """Candidates, the likeliest first; `next` says what to measure next, empty when there is no need."""

    candidates: tuple[Candidate, ...]
    next: str
    says: str


def identify(seen: Measured) -> Identified:
    """Rank every pipe of the catalogue by how well it fits the readings.

    Each reading is compared with the pipe's average, its spread being the tool's error and the standard's tolerance
    together; likelihoods are normal and add up to one over all pipes that fit.
    """
    scored = []
    for family in series_list():
        for item in family.sizes:
            score, off = _score(item, seen, family.pattern)
            if score is not None:
                scored.append((score, item, off))
    total = sum(s for s, _, _ in scored)
    if not scored or total <= 0:
        return Identified(
            (), "the outside again, in two directions: it may be oval", "Nothing in the catalogue fits these readings."
        )
    scored.sort(key=lambda s: (-s[0], s[1].series))
    found = tuple(
        Candidate(
            item.series, f"{series(item.series).name}, {item.size}", item.size, score / total, off,
            item.outside, item.bore, item.wall, series(item.series).caution,
        )
        for score, item, off in scored[:8]
    )  # fmt: skip
    return Identified(found, _next(seen, found), _says(found))


def _score(item: Pipe, seen: Measured, pattern: str) -> tuple[float | None, dict[str, float]]:
    wall = (item.outside - item.bore) / 2  # what a caliper meets is the average wall
    true = {"outside": item.outside, "bore": item.bore, "wall": wall}
    spread = {"outside": _OUTSIDE_SPREAD, "bore": 2 * _WALL_SHARE * wall, "wall": _WALL_SHARE * wall}
    off, score = {}, 1.0
    for name, value in true.items():
        read = getattr(seen, name)
        if read is None:
            continue
        off[name] = read - value
        away = abs(read - value) / hypot(seen.error, spread[name])
        if away > _FAR:
            return None, off
        score *= exp(-0.5 * away**2) / hypot(seen.error, spread[name])
    if seen.colour is not None and seen.colour != _COLOURS.get(pattern, pattern):
        score *= 0.15  # colour hints; it does not decide
    return score, off


_COLOURS = {"white": "white", "thin": "white", "dark": "dark", "grey": "grey"}


def _next(seen: Measured, found: tuple[Candidate, ...]) -> str:
    rivals = [c for c in found if c.likelihood > 0.02]
    if len(rivals) < 2 or found[0].likelihood > 0.98:
        return ""
    best, most = "", 0.0
    for name in ("wall", "bore", "outside"):
        if getattr(seen, name) is None:
            values = [getattr(c, name) for c in rivals]
            apart = (max(values) - min(values)) / (seen.error + 1e-4)
            if apart > most:
                best, most = name, apart
    if most < 2:
        return "nothing more: they differ too little for this tool; look for the print on the pipe"
    return f"measure {_WORDS[best]}: it tells {rivals[0].name} from {rivals[1].name}"


def _says(found: tuple[Candidate, ...]) -> str:
    if found[0].likelihood > 0.9:
        return f"This is {found[0].name}."
    return f"Most likely {found[0].name}, but {found[1].name} fits too." if len(found) > 1 else f"It may be {found[0].name}."
