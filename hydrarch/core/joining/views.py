"""Ends as they are shown: words and true sizes."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.catalogue.fittings import End

__all__ = ["EndView", "view"]


@dataclass(frozen=True, slots=True)
class EndView:
    """An end for drawing: words, system, gender, true sizes (m), and whether it goes inside its mate."""

    name: str
    words: str
    system: str
    gender: str
    size: str
    diameter: float
    engagement: float
    enters: bool


def view(e: End) -> EndView:
    """An end of the catalogue as it is shown."""
    return EndView(
        name=e.name,
        words=e.words(),
        system=e.system,
        gender=e.gender,
        size=e.size,
        diameter=e.diameter,
        engagement=e.engagement,
        enters=e.enters,
    )
