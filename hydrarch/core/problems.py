"""Problems are data: what is wrong with a plan, where, and how to mend it. The chain goes on around them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

__all__ = ["Problem", "Severity"]

Severity = Literal["stop", "warn", "note"]


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
