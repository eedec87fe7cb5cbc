"""What belongs to a well besides its pump: the pitless adapter."""

from __future__ import annotations

from typing import Literal

from hydrarch.core.components.base import Kind, What, field, register, thread_port

__all__ = ["Pitless"]


class Pitless(What):
    """A pitless adapter: the string hangs on it, and the water leaves the casing by it below the frost.

    `carries` is what may hang on it (kg), `stands` the pressure (Pa) it is rated for; zero where nobody read that on
    it.
    """

    kind: Literal["pitless"] = "pitless"
    carries: float = field(0.0, "May carry, 0 if not read", "mass", ge=0, le=1e5)
    stands: float = field(0.0, "Rated for, 0 if not read", "pressure", ge=0, le=1e7)


register(
    Kind(
        model=Pitless,
        title="Pitless adapter",
        letter="PA",
        role="device",
        ports=(thread_port("in", "in", "String", "1-1/4"), thread_port("out", "out", "Outlet", "1-1/4")),
        needs="the string and the pipe from the well",
    )
)
