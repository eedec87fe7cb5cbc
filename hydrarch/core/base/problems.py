"""Problems are data: what is wrong with a plan, where, and how to mend it. The chain goes on around them.

Each room declares the codes of the problems it finds, with the stage they are mended in and whether they hold that
stage back.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

__all__ = ["STAGE_TITLES", "Problem", "Severity", "Stage", "declare", "declared"]

Severity = Literal["stop", "warn", "note"]
Stage = Literal["survey", "size", "join", "cut", "make", "prove", "keep"]

STAGE_TITLES: dict[Stage, str] = {
    "survey": "Survey",
    "size": "Size",
    "join": "Join",
    "cut": "Cut",
    "make": "Make",
    "prove": "Test",
    "keep": "Record",
}
"""The stages as people read them."""
_STAGES: dict[str, tuple[Stage, bool]] = {}
_DANGERS: set[str] = set()


def declare(stage: Stage, *codes: str, holds: bool = False, danger: bool = False) -> None:
    """Say in which stage problems with these codes are mended, and whether it is not done while one stands.

    What is a `danger` to life is told in every stage, on the lists and at the hand-over: it is not to be built so.
    """
    _DANGERS.update(codes if danger else ())
    for code in codes:
        if _STAGES.setdefault(code, (stage, holds)) != (stage, holds):
            raise ValueError(f"the code {code} is declared twice, and not alike")


def declared() -> dict[str, tuple[Stage, bool]]:
    """Every code with its stage and whether it holds that back."""
    return dict(_STAGES)


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing a crew can mend.

    `where` is the id of a point or run (empty for the whole plan); `says` is one plain sentence; `mend` says what to
    do. "stop" means that it must not be built so, or cannot be worked out, "warn" that it breaks a limit, "note" that a
    person should know. `stage` is where it is mended, `holds` whether that stage is not done while it stands: both by
    its code. `follows` is the key of the problem it goes away with, "" for none; `does` what its plain mend would do,
    in words, "" where there is none; `danger` whether it is one to life, `scenario` the id of the scenario it is so in,
    "" where it is so in any. `title` and `detail` are the two halves of what it says, where it is told so (else "").
    """

    code: str
    severity: Severity
    where: str
    says: str
    mend: str
    stage: Stage = "survey"
    holds: bool = False
    follows: str = ""
    does: str = ""
    danger: bool = False
    scenario: str = ""
    title: str = ""
    detail: str = ""

    @property
    def key(self) -> str:
        """What it is told apart by among what is told of one plan."""
        return f"{self.code} {self.where}"

    def __post_init__(self) -> None:
        """Look its stage up; raises KeyError for a code no room declared."""
        stage, holds = _STAGES[self.code]
        object.__setattr__(self, "stage", stage)
        object.__setattr__(self, "holds", holds)
        object.__setattr__(self, "danger", self.code in _DANGERS)
