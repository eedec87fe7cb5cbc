"""Problems are data: what is wrong with a plan, where, and how to mend it. The chain goes on around them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

__all__ = ["STAGE_OF", "Problem", "Severity", "Stage", "holds_back"]

Severity = Literal["stop", "warn", "note"]
Stage = Literal["survey", "size", "join", "cut", "make", "prove", "keep"]

_HOLDING: dict[Stage, tuple[str, ...]] = {
    "survey": (
        "no-source", "outlet-without-source", "lone-point", "open-end", "inlet-without-outfall", "drain-on-supply",
        "device-not-in-line", "end-not-at-end", "run-without-length",
    ),
    "size": ("no-pressure", "outlet-starved", "too-fast", "over-rating", "not-settled", "pump-off-curve", "no-fall", "drain-full"),
    "join": ("no-way", "no-elbow", "tee-angle", "turn-at-device", "too-many-runs", "outlet-on-junction"),
    "cut": ("too-close",),
}  # fmt: skip
"""What keeps a stage from being done, by code."""
_TELLING: dict[Stage, tuple[str, ...]] = {
    "survey": ("no-backflow",),
    "size": (
        "source-too-low", "sizes-not-settled", "surge", "cavitation", "priming", "regulator-starved", "vessel-unreached",
        "vessel-small", "air-trap", "intake-dry", "intake-shallow", "drain-slow",
    ),
    "join": ("two-elbows", "wide-trench", "choice-lapsed", "part-over-rating", "square-branch", "no-swing"),
    "make": ("cannot-turn", "old-tin", "tin-ahead"),
}  # fmt: skip
"""What a crew should know in a stage and may leave as it is, by code."""
STAGE_OF: dict[str, Stage] = {c: s for table in (_HOLDING, _TELLING) for s, codes in table.items() for c in codes}
"""The stage a problem is mended in, by its code."""


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing a crew can mend.

    `where` is the id of a point or run (empty for the whole plan); `says` is one plain sentence; `mend` says what
    to do. "stop" means that part of the plan cannot be worked out, "warn" that it breaks a limit, "note" that a
    person should know.
    """

    code: str
    severity: Severity
    where: str
    says: str
    mend: str

    @property
    def stage(self) -> Stage:
        """The stage it is mended in, by its code; raises KeyError for a code of none."""
        return STAGE_OF[self.code]


def holds_back(problem: Problem) -> bool:
    """Whether its stage is not done while this stands."""
    return problem.code in _HOLDING.get(problem.stage, ())
