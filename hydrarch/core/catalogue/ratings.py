"""What pressure a fitting carries: by the material of its body and the kind of each of its openings.

No standard open to us prints one table for all; each rule is cautious and says where it comes from. The figure moulded
on the part wins.
"""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import OutOfRange, Unknown
from hydrarch.core.base.units import PSI
from hydrarch.core.catalogue.fittings import Fitting, Port, fitting, fittings, mates_of, pipe_end
from hydrarch.core.catalogue.own import own
from hydrarch.core.catalogue.pipes import Pipe, derating, pipe, series, series_list
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["fitting_rating", "fitting_rating_at", "usual_fittings_rating"]

_SOFTENS = {"pvc80": "pvc", "insert": "pe", "pp": "pe", "drip": "pe", "ppr-brass": "ppr", "body": "pe"}
"""The material whose derating a fitting follows, where it is not its own."""
_HARD = ("brass", "iron", "band", "drain")


@dataclass(frozen=True, slots=True)
class _Rule:
    material: str
    system: str
    family: str
    series: str
    share: float
    rating: float | None
    source: str


@remembered()
def _rules() -> tuple[_Rule, ...]:
    def make(row: dict[str, str]) -> _Rule:
        if bool(row["series"]) == bool(row["rating_psi"]):
            raise ValueError("give either a series and its share, or a rating")
        if row["series"]:
            series(row["series"])
        rating = float(row["rating_psi"]) * PSI if row["rating_psi"] else None
        share = float(row["share"] or 1)
        return _Rule(row["material"], row["system"], row["family"], row["series"], share, rating, row["source"])

    return read_rows("hydrarch.core.catalogue", "ratings.csv", make)


def _of_pipe(name: str, size: str) -> float:
    """Rating (Pa) of that size of a series, or of the next larger one made."""
    family = series(name)
    found = next((p for p in family.sizes if p.size == size), family.sizes[-1])
    return pipe(name, found.size).rating


def _of_port(part: Fitting, port: Port) -> float:
    if part.material == "pipe":
        end = f"{port.end.system}:{port.end.gender}"
        cut = [p.rating for s in series_list() if end in s.ends for p in s.sizes if p.size == port.end.size]
        return min(cut, default=0.0)
    found = [
        rule.share * _of_pipe(rule.series, port.end.size) if rule.rating is None else rule.rating
        for rule in _rules()
        if rule.material == part.material and rule.system in ("", port.end.system) and rule.family in ("", part.family)
    ]
    if not found:
        raise Unknown("rating rule for fitting", f"{part.id} at its {port.end.system} opening")
    return min(found)


@remembered()
def fitting_rating(name: str, temperature: float = 293.15) -> float:
    """Gauge pressure (Pa) a fitting (by id) carries at a water temperature (K), by its weakest opening.

    Raises `Unknown` for a fitting no rule covers, `OutOfRange` above its material's table. Sources: ratings.csv.
    """
    part = fitting(name)
    cold = own().ratings.get(name)
    if cold is None:
        cold = min(_of_port(part, port) for port in part.ports)
    if part.material in _HARD:
        return cold
    return cold * derating(_softening(part), temperature)


def fitting_rating_at(name: str, temperature: float) -> float:
    """The same; zero where the fitting is not made for water so warm."""
    try:
        return fitting_rating(name, temperature)
    except OutOfRange:
        return 0.0


_COMMON = ("coupling", "elbow", "tee")


@remembered()
def _usual_fittings(name: str, size: str) -> tuple[tuple[str, ...], ...]:
    """Couplings, elbows and tees that a pipe is joined with by its usual end, parted by the method."""
    by = dict(mates_of(pipe_end(name, size)))
    found: dict[str, list[str]] = {}
    for f in fittings().values():
        methods = {by.get(p.end.name, "") for p in f.ports}
        if f.family in _COMMON and len(methods) == 1 and "" not in methods:
            found.setdefault(methods.pop(), []).append(f.id)
    return tuple(tuple(names) for names in found.values())


def usual_fittings_rating(item: Pipe, temperature: float) -> float | None:
    """What couplings, elbows and tees on the usual end of a pipe carry (Pa) at a water temperature (K): the weakest of
    those by the method there are most for; None where there are none of its size.
    """
    ways = _usual_fittings(item.series, item.size)
    return min((fitting_rating_at(f, temperature) for f in max(ways, key=len)), default=None) if ways else None


def _softening(part: Fitting) -> str:
    if part.material != "pipe":
        return _SOFTENS.get(part.material, part.material)
    end = f"{part.ports[0].end.system}:{part.ports[0].end.gender}"
    return next(s.material for s in series_list() if end in s.ends)
