"""The faults a line may have: how often each is one before anything is read, and what is done once it is found."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["FAULTS", "PRIORS", "TOLD_BY_SIGNS", "FaultKind", "FaultWords", "fault_words"]

FaultKind = Literal[
    "leak",
    "blocked pipe",
    "valve partly shut",
    "check valve stuck",
    "filter clogged",
    "worn",
    "clogged",
    "weak source",
    "pump worn",
    "pump slow",
    "regulator off",
    "suction air",
    "vessel waterlogged",
    "check valve passing",
    "valve passing",
    "air trapped",
    "roots",
    "belly",
    "liner leak",
    "siphon",
]
TOLD_BY_SIGNS: tuple[FaultKind, ...] = (
    "vessel waterlogged",
    "check valve passing",
    "valve passing",
    "air trapped",
    "roots",
    "belly",
    "liner leak",
    "siphon",
)
"""Faults that the pressures and flows of a scenario do not show: they are weighed once a sign was seen."""
FAULTS: tuple[FaultKind, ...] = tuple(k for k in get_args(FaultKind) if k not in TOLD_BY_SIGNS)
"""Faults that change what the line gives, solved with each."""
PRIORS: Mapping[str, float] = {
    "leak": 0.25,
    "blocked pipe": 0.10,
    "valve partly shut": 0.15,
    "check valve stuck": 0.05,
    "filter clogged": 0.15,
    "worn": 0.08,
    "clogged": 0.10,
    "weak source": 0.12,
    "pump worn": 0.05,
    "pump slow": 0.03,
    "regulator off": 0.06,
    "suction air": 0.06,
    "vessel waterlogged": 0.20,
    "check valve passing": 0.08,
    "valve passing": 0.08,
    "air trapped": 0.04,
    "roots": 0.06,
    "belly": 0.05,
    "liner leak": 0.05,
    "siphon": 0.03,
}
"""How often each kind is the fault beside the others, before anything is read: from memory, for want of a survey.
Shared out among its places, leaks by joints and blocked pipe by length; what a line can have comes to 1 then.
"""


@dataclass(frozen=True, slots=True)
class FaultWords:
    """What a fault is called, how it is put right, whether pipe or a joint is opened for that as a rule, and what broke
    as the repair bench calls it, "" where nothing is cut out.
    """

    fault: FaultKind
    title: str
    fix: str
    opens: bool
    broke: str


@remembered()
def fault_words() -> dict[str, FaultWords]:
    """The words for each fault, by its kind."""

    def made(row: dict[str, str]) -> FaultWords:
        if row["fault"] not in get_args(FaultKind):
            raise ValueError(f"'{row['fault']}' is no fault")
        if row["opens"] not in ("yes", "no"):
            raise ValueError("whether it opens pipe is yes or no")
        kind: FaultKind = row["fault"]  # type: ignore[assignment]
        return FaultWords(kind, row["title"], row["fix"], row["opens"] == "yes", row["broke"])

    return {w.fault: w for w in read_rows("hydrarch.core.diagnosis", "faults.csv", made)}
