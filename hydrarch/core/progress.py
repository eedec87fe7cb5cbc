"""How long work says how far it is."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeAlias

__all__ = ["Report", "unheard"]

Report: TypeAlias = Callable[[str], object]
"""Told in a few words what is being worked on now."""


def unheard(says: str) -> None:
    """For work that nobody listens to."""
