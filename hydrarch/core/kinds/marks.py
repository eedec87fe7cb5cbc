"""Marks: what a crew measures from and keeps clear of, and nothing is joined to."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from hydrarch.core.kinds.base import Kind, What, register

__all__ = ["Mark"]


class Mark(What):
    """A wall's corner, a tree, a drive, a cable: a fixed point of the site."""

    kind: Literal["mark"] = "mark"
    what: Literal["corner", "wall", "tree", "drive", "cable", "post"] = Field("corner", title="What it is")


register(Kind(Mark, "Mark to measure from", "X", "mark", (), "nothing: it is measured from"))
