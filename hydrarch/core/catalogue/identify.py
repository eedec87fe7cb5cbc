"""What pipe, or what thread, is this? Ranked candidates from what a caliper reads, and what to measure next."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import exp, hypot

from hydrarch.core.base.errors import HydrarchError, OutOfRange, Unknown
from hydrarch.core.base.units import INCH, check_range
from hydrarch.core.catalogue.fittings import End, ends
from hydrarch.core.catalogue.pipes import Pipe, Series, series, series_list

__all__ = ["COLOURS", "Candidate", "Identified", "Measured", "identify"]

_OUTSIDE_SPREAD = 0.15e-3  # m: what makers' tolerances and wear leave on an outside diameter; from memory
_WALL_SHARE = 0.08  # of the wall
_FAR = 4.5  # standard deviations beyond which a candidate is out
_THREAD_SPREAD = 0.35e-3  # m: crests are worn, and the taper moves where the jaws sit; from memory
_PITCH_SPREAD = 0.35  # threads to the inch, counted over half an inch with a rule; from memory
COLOURS = ("white", "grey", "dark", "clear", "metal")
_FEW = 3  # so many names can be told apart by name
_BY_HAND = 30.0  # outside diameters: a pipe that may be bent this tight gives way in the hands; from memory
_SELDOM = 0.15  # how much a colour or situation that does not fit takes off: it hints, it does not decide
_WORDS = {"outside": "the outside diameter", "bore": "the bore", "wall": "the wall"}


@dataclass(frozen=True, slots=True)
class Measured:
    """What was read, in m; any subset. `error` (m) is the tool's own.

    `threads_per_inch` was counted on a thread, or its `pitch` (m, from crest to crest) measured; its `outside` is over
    the crests. `colour` is one of `COLOURS` if seen, `situation` where it was met ("buried", "in wall", …).
    """

    outside: float | None = None
    bore: float | None = None
    wall: float | None = None
    error: float = 0.1e-3
    colour: str | None = None
    threads_per_inch: float | None = None
    situation: str | None = None
    pitch: float | None = None

    @property
    def threads(self) -> float | None:
        """Threads to the inch, counted or from the pitch; None when no thread was met."""
        if self.pitch is not None:
            return INCH / self.pitch
        return self.threads_per_inch

    def __post_init__(self) -> None:
        """Refuse what cannot be measured, or does not hang together."""
        given = {n: v for n in ("outside", "bore", "wall") if (v := getattr(self, n)) is not None}
        if self.pitch is not None:
            check_range("the pitch", self.pitch, INCH / 40, INCH / 4, "diameter")
        if self.pitch is not None and self.threads_per_inch is not None:
            raise HydrarchError("give the thread count or the pitch, not both: each follows from the other")
        if not given and self.threads is None:
            raise HydrarchError("measure something: outside, bore, wall or threads")
        if self.threads is not None and not 4 <= self.threads <= 40:
            raise OutOfRange("the thread count", self.threads, 4, 40, "to the inch")
        if self.threads is not None and self.wall is not None:
            raise HydrarchError(
                "a wall says nothing about a thread: measure its outside over the crests and count the threads"
            )
        if self.colour is not None and self.colour not in COLOURS:
            raise Unknown("colour", self.colour, COLOURS)
        for name, value in given.items():
            check_range(_WORDS[name], value, 1e-4, 1.0, "diameter")
        check_range("the tool's error", self.error, 0, 5e-3, "diameter")
        if self.outside is not None and self.bore is not None and self.bore >= self.outside:
            raise HydrarchError("the bore is larger than the outside: check which jaws were used")
        if self.outside is not None and self.wall is not None and 2 * self.wall >= self.outside:
            raise HydrarchError("two walls are thicker than the outside: check the wall")


@dataclass(frozen=True, slots=True)
class Candidate:
    """A pipe (by `series`) or thread (by `end`) that fits what was read.

    `likelihood` is its share among all that do, `off` (m) how far each reading is from it.
    """

    series: str | None
    end: str | None
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
    """Rank every pipe of the catalogue, or every thread where threads were counted, by how well it fits the readings.

    Each reading is compared with the average, its spread being the tool's error and the standard's tolerance
    together; likelihoods are normal and add up to one over all that fit.
    """
    scored = list(_threads(seen) if seen.threads is not None else _pipes(seen))
    total = sum(score for score, _ in scored)
    if not scored or total <= 0:
        return Identified(
            (), "the outside again, in two directions: it may be oval", "Nothing in the catalogue fits these readings."
        )
    scored.sort(key=lambda s: (-s[0], s[1].name))
    found = tuple(replace(c, likelihood=score / total) for score, c in scored[:8])
    return Identified(found, _next(seen, found), _says(found))


def _pipes(seen: Measured) -> Iterator[tuple[float, Candidate]]:
    for family in series_list():
        for item in family.sizes:
            wall = (item.outside - item.bore) / 2  # what a caliper meets is the average wall
            true = {"outside": item.outside, "bore": item.bore, "wall": wall}
            spread = {"outside": _OUTSIDE_SPREAD, "bore": 2 * _WALL_SHARE * wall, "wall": _WALL_SHARE * wall}
            score, off = _score(seen, true, spread)
            if score is not None:
                name = f"{family.name}, {item.size}"
                yield score * _hint(seen, family), _pipe(item, family, name, off)


def _pipe(item: Pipe, family: Series, name: str, off: dict[str, float]) -> Candidate:
    wall = (item.outside - item.bore) / 2
    return Candidate(item.series, None, name, item.size, 0.0, off, item.outside, item.bore, wall, family.caution)


def _threads(seen: Measured) -> Iterator[tuple[float, Candidate]]:
    assert seen.threads is not None
    for e in ends().values():
        if e.threads_per_inch is None or e.gender not in ("male", "female"):
            continue
        away = abs(seen.threads - e.threads_per_inch) / _PITCH_SPREAD
        if away > _FAR:
            continue
        pitch = INCH / e.threads_per_inch
        crest = e.diameter if e.gender == "male" else e.diameter - 1.28 * pitch  # jaws inside a female touch its crests
        side = "outside" if e.gender == "male" else "bore"
        if getattr(seen, "bore" if side == "outside" else "outside") is not None:
            continue
        score, off = _score(seen, {side: crest}, {side: _THREAD_SPREAD})
        if score is not None:
            score *= exp(-0.5 * away**2)
            yield (
                score,
                Candidate(None, e.name, e.words(), e.size, 0.0, off, e.diameter, crest, pitch, _thread_warning(e)),
            )


def _thread_warning(e: End) -> str:
    words = {
        "npt": "tape or paste; never into BSP, though 1/2 and 3/4 start to screw",
        "bsp": "tape or paste; never into NPT, though 1/2 and 3/4 start to screw",
        "bspp": "seals on a washer at a flat face, not by itself; a parallel female takes a taper male with tape or "
        "paste",
        "hose": "seals on a washer: no tape, and not on pipe thread",
        "buttress": "seals on an O-ring: no tape, and not on taper thread",
    }
    return words.get(e.system, "")


def _score(seen: Measured, true: dict[str, float], spread: dict[str, float]) -> tuple[float | None, dict[str, float]]:
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
    return score, off


def _hint(seen: Measured, family: Series) -> float:
    """What colour and situation take off: they hint, they do not decide."""
    hint = 1.0
    if seen.colour is not None and seen.colour != _colour(family):
        hint *= _SELDOM
    if seen.situation is not None and seen.situation not in family.situations:
        hint *= _SELDOM
    return hint


def _colour(family: Series) -> str:
    if family.material in _METALS:
        return "metal"
    return _COLOURS.get(family.pattern, family.pattern)


_METALS = {
    "steel": "a magnet sticks to steel",
    "cast iron": "a magnet sticks to cast iron, which rings and is rough",
    "copper": "copper shows red-brown under a scratch",
    "lead": "lead is soft, and shines silver where a coin scratches it: wash your hands",
}
"""How each metal is told, by material; common practice."""
_COLOURS = {"thin": "white"}


def _next(seen: Measured, found: tuple[Candidate, ...]) -> str:
    rivals = [c for c in found if c.likelihood > 0.02]
    if len(rivals) < 2 or found[0].likelihood > 0.98:
        return ""
    if seen.threads is not None:
        if seen.outside is None and seen.bore is None:
            return "measure across the crests: outside of a male thread, bore of a female one"
        return "hold it against a known thread, or try a gauge: they differ too little for a rule"
    metals = {m for c in rivals if c.series is not None and (m := series(c.series).material) in _METALS}
    if metals and (len(metals) < len(rivals) or len(metals) > 1) and len(rivals) <= _FEW:
        told = "; ".join(_METALS[m] for m in sorted(metals))
        return f"{told}; plastic shows none of these. Do not bend old pipe to find out"
    bends = [c for c in rivals if c.series is not None and series(c.series).bend_radius <= _BY_HAND]
    read = sum(getattr(seen, name) is not None for name in _WORDS)
    if bends and len(bends) < len(rivals) and (len(rivals) <= _FEW or read > 1):
        names = " and ".join(c.name for c in bends)
        return f"bend it by hand: of these only {names} {'gives' if len(bends) == 1 else 'give'} way"
    best, most = "", 0.0
    for name in ("wall", "bore", "outside"):
        if getattr(seen, name) is None:
            values = [getattr(c, name) for c in rivals]
            apart = (max(values) - min(values)) / (seen.error + 1e-4)
            if apart > most:
                best, most = name, apart
    if most < 2:
        return "nothing more: they differ too little for this tool; look for the print on the pipe"
    if len(rivals) > _FEW:
        return f"measure {_WORDS[best]}: it parts these best"
    return f"measure {_WORDS[best]}: it tells {rivals[0].name} from {rivals[1].name}"


def _says(found: tuple[Candidate, ...]) -> str:
    if found[0].likelihood > 0.9:
        return f"This is {found[0].name}."
    alike = sum(c.likelihood > 0.8 * found[0].likelihood for c in found)
    if alike > _FEW:
        return f"{'Many' if alike == len(found) else alike} fit alike: this reading does not tell them apart."
    return (
        f"Most likely {found[0].name}, but {found[1].name} fits too."
        if len(found) > 1
        else f"It may be {found[0].name}."
    )
