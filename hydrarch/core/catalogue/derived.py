"""Walls, ratings, sockets and softening that follow from a published relation: the table is checked against them, row
by row.

Symbols: D outside, d bore, t wall, R the dimension ratio, S the hydrostatic design stress of the material (ISO S: the
pipe series number), all lengths in one unit.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import log10

__all__ = [
    "RULES",
    "SeriesRule",
    "barlow",
    "by_bore",
    "by_outside",
    "by_series",
    "metric_socket",
    "ppr_stress",
    "rated_by_bore",
    "rated_by_outside",
]


def by_outside(outside: float, ratio: float, least: float = 0.0) -> float:
    """Wall t = D / R, never below a least wall. Source: ASTM D2241, D3035 and D2737, which define R as D / t.

    >>> round(by_outside(1.315, 21), 3)
    0.063
    """
    return max(outside / ratio, least)


def by_bore(bore: float, ratio: float, least: float = 0.0) -> float:
    """Wall t = d / R, never below a least wall. Source: ASTM D2239, which defines R as d / t.

    >>> round(by_bore(1.049, 7, 0.060), 3)
    0.15
    """
    return max(bore / ratio, least)


def by_series(outside: float, series: float) -> float:
    """Wall e = D / (2 S + 1) for a pipe series S. Source: ISO 4065.

    >>> round(by_series(32.0, 5), 2)
    2.91
    """
    return outside / (2 * series + 1)


def rated_by_outside(stress: float, ratio: float) -> float:
    """Rating P = 2 S / (R − 1), R by the outside. Source: ISO equation as in ASTM D2241 and D3035.

    >>> rated_by_outside(2000, 21)
    200.0
    """
    return 2 * stress / (ratio - 1)


def rated_by_bore(stress: float, ratio: float) -> float:
    """Rating P = 2 S / (R + 1), R by the bore. Source: ASTM D2239.

    >>> rated_by_bore(1000, 7)
    250.0
    """
    return 2 * stress / (ratio + 1)


def barlow(stress: float, outside: float, wall: float) -> float:
    """Rating P = 2 S t / (D − t). Source: ASTM D1785 for schedule pipe.

    >>> round(barlow(2000, 1.315, 0.133), -1)
    450.0
    """
    return 2 * stress * wall / (outside - wall)


def ppr_stress(temperature: float, hours: float) -> float:
    """Hoop stress (MPa) that breaks PP-R after so many hours in water of a temperature (K): the lesser of the two
    branches of its reference curves, log t = −55.725 − 9484.1 log σ / T + 25502.2 / T + 6.39 log σ and log t = −19.98 +
    9507 / T − 4.11 log σ. Source: ISO 15874-2.

    >>> round(ppr_stress(293.15, 50 * 8760), 2), round(ppr_stress(343.15, 50 * 8760), 2)
    (9.71, 3.21)
    """
    inverse, life = 1 / temperature, log10(hours)
    early = (life + 55.725 - 25502.2 * inverse) / (6.39 - 9484.1 * inverse)
    late = (9507 * inverse - 19.98 - life) / 4.11
    return float(10 ** min(early, late))


def metric_socket(outside: float) -> float:
    """Depth of a solvent socket on metric pipe (mm) for an outside diameter (mm): 0.5 d + 6. Source: ISO 727-1.

    >>> metric_socket(32)
    22.0
    """
    return 0.5 * outside + 6.0


@dataclass(frozen=True, slots=True)
class SeriesRule:
    """How a series' rows follow: the wall (in, None where a table of a standard gives it) and the rating (psi, None
    where custom gives it), each within what the row is rounded to; and what relation that is.
    """

    wall: Callable[[float, float], float] | None
    rating: Callable[[float, float], float] | None
    wall_within: float
    rating_within: float
    says: str


_STEEL_BORES = (0.622, 0.824, 1.049, 1.380, 1.610, 2.067)


def _bore(outside: float, wall: float) -> float:
    """The schedule 40 steel bore that an inside-diameter pipe is made to: the nearest to its own."""
    return min(_STEEL_BORES, key=lambda b: abs(b - (outside - 2 * wall)))


def _sidr(ratio: float) -> SeriesRule:
    return SeriesRule(
        lambda outside, wall: by_bore(_bore(outside, wall), ratio, 0.060),
        lambda outside, wall: rated_by_bore(1000, ratio),
        0.0011,
        2.6,
        f"wall d / {ratio:g}, 0.060 in at the least; rating 2 × 1000 psi / ({ratio:g} + 1) (ASTM D2239 relations)",
    )


def _dr(ratio: float, standard: str, least: float, stress: float) -> SeriesRule:
    return SeriesRule(
        lambda outside, wall: by_outside(outside, ratio, least),
        lambda outside, wall: rated_by_outside(stress, ratio),
        0.0011,
        5.0,
        f"wall D / {ratio:g}, {least:g} in at the least; rating 2 × {stress:g} psi / ({ratio:g} − 1) "
        f"({standard} relations)",
    )


def _schedule() -> SeriesRule:
    return SeriesRule(
        None,
        lambda outside, wall: barlow(2000, outside, wall),
        0.0,
        6.0,
        "rating 2 × 2000 psi × t / (D − t) (ASTM D1785 relation)",
    )


def _metric(sdr: float, bar: float) -> SeriesRule:
    return SeriesRule(
        lambda outside, wall: by_outside(outside, sdr),
        lambda outside, wall: bar * 14.5038,
        0.012,  # rounded up to a tenth of a millimetre, and some sizes to a few tenths
        0.5,
        f"wall D / {sdr:g}, rounded up (ISO 4065); rating 20 × 10 MPa / (1.25 × ({sdr:g} − 1)) (ISO 4427-2 relation)",
    )


def _ppr(number: float) -> SeriesRule:
    return SeriesRule(
        lambda outside, wall: by_series(outside, number),
        None,
        0.0095,
        0.0,
        f"wall D / (2 × {number:g} + 1), rounded up (ISO 4065)",
    )


RULES: Mapping[str, SeriesRule] = {
    **{f"pe-sidr{r:g}": _sidr(r) for r in (7.0, 9.0, 11.5, 15.0, 19.0)},
    **{f"pe-dr{r:g}": _dr(r, "ASTM D3035", 0.062, 1000) for r in (9.0, 11.0, 13.5, 17.0)},
    **{f"pe-cts{r:g}": _dr(r, "ASTM D2737", 0.062, 1000) for r in (9.0, 11.0)},
    **{f"pvc-sdr{r:g}": _dr(r, "ASTM D2241", 0.060, 2000) for r in (13.5, 21.0, 26.0)},
    **{name: _schedule() for name in ("pvc40", "pvc80", "pvc120")},
    "pe100-sdr11": _metric(11, 16),
    "pe100-sdr17": _metric(17, 10),
    "ppr-s5": _ppr(5.0),
    "ppr-s3.2": _ppr(3.2),
    "ppr-s2.5": _ppr(2.5),
}
"""The relations, by series."""
