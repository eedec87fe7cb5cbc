"""How long work says how far it is, and when it is to stop."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeAlias

from hydrarch.core.base.errors import HydrarchError

__all__ = ["Late", "Report", "TookTooLong", "never", "unheard"]

Report: TypeAlias = Callable[[str], object]
"""Told in a few words what is being worked on now."""
Late: TypeAlias = Callable[[], bool]
"""Asked now and then whether the time given is over."""


class TookTooLong(HydrarchError):
    """The time given was over before `part` of the work came to an end; `where` is the point or run it was at, "" for
    none.
    """

    def __init__(self, part: str, where: str = "") -> None:
        self.part, self.where = part, where
        super().__init__(f"{part} did not come to an end in the time there is")


def unheard(says: str) -> None:
    """For work that nobody listens to."""


def never() -> bool:
    """For work that may take as long as it takes."""
    return False
