"""A picture or plan that lies beneath the drawing: looked at, traced and measured from, and left out of all that is
derived.
"""

from __future__ import annotations

from math import pi
from typing import Annotated

from pydantic import Field

from hydrarch.core.components.base import Model

__all__ = ["Underlay"]


class Underlay(Model):
    """A picture by the hash of what it holds, `wide` and `high` in its own units, and where it lies.

    Its lower left corner is at `x`, `y` (m), each of its units is `scale` (m), it is turned about that corner by `turn`
    (rad, anticlockwise), and drawn at a `strength` between 0 and 1.
    """

    picture: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    name: Annotated[str, Field(max_length=80)] = ""
    wide: float = Field(gt=0, le=1e7)
    high: float = Field(gt=0, le=1e7)
    x: float = Field(0.0, ge=-1e5, le=1e5)
    y: float = Field(0.0, ge=-1e5, le=1e5)
    scale: float = Field(0.05, ge=1e-7, le=1e4)
    turn: float = Field(0.0, ge=-2 * pi, le=2 * pi)
    strength: float = Field(0.45, ge=0, le=1)
