"""How well what is solved agrees with what was read and seen: readings doubted by their instrument and by the model."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log, pi, sqrt
from typing import Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from hydrarch.core.diagnosis.candidates import FaultyLine, Found, PossibleFault
from hydrarch.core.diagnosis.signs import SignSeen, outlet_fit, sign_called, sign_fit

__all__ = [
    "MODEL_DOUBT",
    "FaultCase",
    "FaultSizes",
    "Measured",
    "ReadHere",
    "SeenHere",
    "Values",
    "Weigher",
    "reading_doubt",
]

MODEL_DOUBT = 0.02
"""Share of an expected value by which a sound line may differ from its drawing; from memory."""
_DRAIN_DOUBT = 0.15
"""The same of what a drain takes: Manning's n of one pipe differs by as much from book to book."""
_SIGN_UNLISTED = 0.3
"""How often a sign is seen where the fault is one that is not listed; from memory."""
_USUAL_RATIO = {"weak": 0.5, "dead": 0.0, "good": 1.0}
Values = NDArray[np.float64]
Measured = Literal["pressure", "flow", "takes"]


@dataclass(frozen=True, slots=True)
class SeenHere:
    """A reading: `value` (Pa gauge; m³/s of a flow, or of what a drain takes before it backs up) at a point, how far
    the instrument may be off (same unit), and the valve that was `shut` meanwhile, "" for none.
    """

    id: str
    point: str
    what: Measured
    value: float
    error: float
    shut: str = ""


@dataclass(frozen=True, slots=True)
class ReadHere:
    """A reading beside what was expected there; `fits` within twice its doubt."""

    id: str
    point: str
    what: Measured
    value: float
    expected: float
    doubt: float
    fits: bool
    shut: str


@dataclass(frozen=True)
class FaultCase:
    """A fault of one size as it was solved: what it gives at the readings, and its log likelihood."""

    faults: tuple[tuple[PossibleFault, float], ...]
    found: Found
    gives: Values
    fit: float


FaultSizes: TypeAlias = list[tuple[float, FaultCase]]
"""A fault at its magnitudes, each with how likely it is by the readings."""


class Weigher:
    """Readings, and how well what is solved agrees with them."""

    def __init__(self, line: FaultyLine, seen: Sequence[SeenHere], signs_seen: Sequence[SignSeen] = ()) -> None:
        self.line = line
        known = [(sign_called(s.sign), s.where) for s in signs_seen]
        self.told_at = [(s, where) for s, where in known if s.at != "outlet"]
        rests = [
            (s.id, where, line.flow(line.rest, where))
            for s, where in known
            if s.at == "outlet" and where in line.plan.by_id
        ]
        self.outlets = [(name, where, q) for name, where, q in rests if q is not None and q > 0]
        self.count = len(self.told_at) + len(self.outlets)
        expected = [(s, self.shows((), line.rest, s.point, s.what, s.shut)) for s in seen]
        mute = {s.where for s in signs_seen if sign_called(s.sign).at == "outlet"} - {
            where for _, where, _ in self.outlets
        }
        unheard_of = tuple(s.event for s in signs_seen if s.where in mute and sign_called(s.sign).at == "outlet")
        self.left_out = (*(s.id for s, e in expected if e is None), *unheard_of)
        self.seen = [s for s, e in expected if e is not None]
        self.expected = np.array([e for _, e in expected if e is not None])
        self.values = np.array([s.value for s in self.seen])
        least = np.array([1e3 if s.what == "pressure" else 2e-6 for s in self.seen])
        errors = np.array([s.error for s in self.seen])
        model = np.array([_model_doubt(s.what) for s in self.seen])
        self.doubt = np.sqrt(errors**2 + (model * np.abs(self.expected)) ** 2 + least**2)

    @property
    def good(self) -> float:
        """The log likelihood of what is off by twice its doubt at every reading."""
        return self.fit(np.append(self.values + 2 * self.doubt, [_USUAL_RATIO[name] for name, _, _ in self.outlets]))

    @property
    def unlisted(self) -> float:
        """The log likelihood of readings that may be anything up to twice what was expected."""
        wide = np.maximum(np.maximum(2 * np.abs(self.expected), self.values), 10 * self.doubt)
        by_signs = self.count * log(_SIGN_UNLISTED)
        return by_signs + (float(-np.sum(np.log(wide))) if len(self.seen) else 0.0)

    def by_signs(self, faults: Sequence[PossibleFault]) -> float:
        """The log of how often all that was seen without an instrument is seen with these faults."""
        return sum(
            sign_fit(sign, [(f.kind, self._near(f.where, where)) for f in faults]) for sign, where in self.told_at
        )

    def _near(self, fault: str, seen: str) -> bool:
        """Whether a fault's place is where a sign was seen, or touches it; in a drain, whether the water from there
        runs through it: what is blocked holds up all that is above it, and nothing below.
        """
        runs = self.line.plan.run_by_id
        if fault in runs and self.line.model.lay.systems.drain(fault):
            return fault in self.line.runs_below(seen)
        mine = {fault, *(runs[fault].points if fault in runs else ())}
        theirs = {seen, *(runs[seen].points if seen in runs else ())}
        return bool(mine & theirs)

    def _at(self, found: Found, point: str, what: Measured) -> float | None:
        """What is worked out at a place."""
        return self.line.pressure(found, point) if what == "pressure" else self.line.flow(found, point)

    def shows(
        self, faults: tuple[tuple[PossibleFault, float], ...], found: Found, point: str, what: Measured, shut: str
    ) -> float | None:
        """The same with a valve shut meanwhile, where one is."""
        if what == "takes":
            return self.line.takes(faults, point)
        if not shut:
            return self._at(found, point, what)
        then = self.line.with_faults(*faults, shut=shut) if shut in self.line.valves() else None
        return None if then is None else self._at(then, point, what)

    def fit(self, gives: Values) -> float:
        """The log likelihood of the readings, and of what outlets are called, where the line gives these."""
        count = len(self.seen)
        off = (self.values - gives[:count]) / self.doubt
        called = sum(outlet_fit(o[0], float(r)) for o, r in zip(self.outlets, gives[count:], strict=True))
        return float(-0.5 * np.sum(off**2) - np.sum(np.log(self.doubt * sqrt(2 * pi)))) + called

    def case(self, faults: tuple[tuple[PossibleFault, float], ...], found: Found) -> FaultCase:
        """A solved line with what it gives at the readings."""
        gives = [self.shows(faults, found, s.point, s.what, s.shut) or 0.0 for s in self.seen]
        ratios = [(self.line.flow(found, where) or 0.0) / q for _, where, q in self.outlets]
        told = np.array([*gives, *ratios])
        return FaultCase(faults, found, told, self.fit(told))

    def measures(self, fault: PossibleFault) -> bool:
        """Whether anything that was read tells how large a fault is."""
        poured = any(s.what == "takes" for s in self.seen)
        return self.line.solves(fault) and (poured or not self.line.in_drain(fault))

    @property
    def columns(self) -> int:
        """How many figures each case gives: one a reading, one an outlet that was called something."""
        return len(self.seen) + len(self.outlets)

    def told(self) -> Sequence[ReadHere]:
        """The readings beside what was expected."""
        return [
            ReadHere(s.id, s.point, s.what, s.value, float(e), float(d), bool(abs(s.value - e) <= 2 * d), s.shut)
            for s, e, d in zip(self.seen, self.expected, self.doubt, strict=True)
        ]


def _model_doubt(what: Measured) -> float:
    return _DRAIN_DOUBT if what == "takes" else MODEL_DOUBT


def reading_doubt(at: float, what: Measured) -> float:
    """How far a reading still to be taken may be off: a gauge of 0.05 bar, a flow of 2 %, a pail poured of 10 %, and
    the model.
    """
    least = {"pressure": 5e3, "flow": 0.02 * abs(at) + 2e-6, "takes": 0.1 * abs(at)}[what]
    return sqrt(least**2 + (_model_doubt(what) * at) ** 2)
