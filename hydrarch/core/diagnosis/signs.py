"""What is seen without an instrument, and how often each fault shows it: a wet spot, a pump that cycles, a weak head.

The table says of a sign and a fault that it is seen often, sometimes or seldom; what these words are worth as
probabilities is here. A sign at a place speaks for a fault there and hardly for one elsewhere; one at an outlet is
weighed by what the solved line gives there.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from math import exp, log
from typing import Literal

from hydrarch.core.base.cache import remembered
from hydrarch.core.base.errors import Unknown
from hydrarch.core.catalogue.tables import read_rows
from hydrarch.core.diagnosis.faults import FAULTS, TOLD_BY_SIGNS

__all__ = ["SEEN", "SIGNS", "USUAL", "Sign", "SignAt", "SignSeen", "outlet_fit", "sign_called", "sign_fit", "signs"]

SEEN: Mapping[str, float] = {"often": 0.8, "sometimes": 0.5, "seldom": 0.25}
"""How often a sign is seen with a fault, as probabilities; from memory."""
USUAL = 0.05
"""How often it is seen with any other fault, or with none; from memory."""
SignAt = Literal["outlet", "place", "line"]
_ELSEWHERE = 1.5  # times the usual share, where the fault is of the kind but at another place
_WEAK, _DEAD = 0.85, 0.1  # of its flow: below the first an outlet is called weak, below the second dead; from memory
_SOFT = 0.04  # of its flow: how far people's words for it spread; from memory
_RUNS_WELL = "drains-well"
_HOLD_UP = ("roots", "belly")
"""Faults that hold up whatever comes to them: where a drain runs as it should, none of them is below."""
_LEAST = 0.02  # of a sign that is seen though the line does not give it: people err


@dataclass(frozen=True, slots=True)
class Sign:
    """One sign: its id, its words, where it is seen, and with which faults oftener than usual."""

    id: str
    title: str
    at: SignAt
    shares: Mapping[str, float]


@dataclass(frozen=True, slots=True)
class SignSeen:
    """A sign as it was seen: by its event, at a point or run."""

    event: str
    sign: str
    where: str


@remembered()
def signs() -> dict[str, Sign]:
    """Every sign by its id, in the order they are offered."""

    def made(row: dict[str, str]) -> tuple[Sign, str, float]:
        at, fault = row["at"], row["fault"]
        if fault and fault not in (*FAULTS, *TOLD_BY_SIGNS):
            raise ValueError(f"'{fault}' is no fault")
        if at not in ("outlet", "place", "line"):
            raise ValueError(f"'{at}' is not where a sign is seen")
        if bool(fault) != (row["seen"] in SEEN):
            raise ValueError(f"with a fault a sign is seen {', '.join(SEEN)}")
        share = SEEN[row["seen"]] if fault else USUAL
        return Sign(row["sign"], row["title"], at, {}), fault, share  # type: ignore[arg-type]

    found: dict[str, Sign] = {}
    for sign, fault, share in read_rows("hydrarch.core.diagnosis", "signs.csv", made):
        known = found.get(sign.id, sign)
        if (known.title, known.at) != (sign.title, sign.at):
            raise ValueError(f"two rows of the sign {sign.id} do not agree")
        found[sign.id] = replace(known, shares={**known.shares, **({fault: share} if fault else {})})
    return found


SIGNS = tuple(signs())


def sign_called(name: str) -> Sign:
    """The sign of that id; raises `Unknown`."""
    if name not in signs():
        raise Unknown("sign", name, signs())
    return signs()[name]


def sign_fit(sign: Sign, faults: Iterable[tuple[str, bool]]) -> float:
    """The log of how often a sign is seen with faults, each with whether it is at the place the sign is seen."""
    if sign.id == _RUNS_WELL:
        return log(USUAL if any(here and kind in _HOLD_UP for kind, here in faults) else 1 - USUAL)
    shares = [USUAL]
    for kind, here in faults:
        share = sign.shares.get(kind)
        if share is not None:
            shares.append(share if here or sign.at == "line" else min(_ELSEWHERE * USUAL, share))
    return log(max(shares))


def outlet_fit(sign: str, ratio: float) -> float:
    """The log of how often an outlet that gives so much of its flow (a ratio) is called "weak", "dead" or "good"."""
    above_dead, above_weak = _step(ratio - _DEAD), _step(ratio - _WEAK)
    share = {"dead": 1 - above_dead, "weak": above_dead * (1 - above_weak), "good": above_weak}[sign]
    return log(_LEAST + (1 - 2 * _LEAST) * share)


def _step(x: float) -> float:
    return 1 / (1 + exp(-max(min(x / _SOFT, 50.0), -50.0)))
