"""Rows of a crew's own beside those that ship: what the lookups of this room add to their tables."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from hydrarch.core.base.cache import forget

if TYPE_CHECKING:
    from hydrarch.core.catalogue.fittings import Fitting
    from hydrarch.core.catalogue.pipes import Series

__all__ = ["OWN", "Own", "own", "use"]

OWN = "own-"
"""How the id of every row of a crew's own begins, so that none can meet a row that ships."""


@dataclass(frozen=True, slots=True)
class Own:
    """A crew's own series of pipe and fittings, with what each fitting carries (Pa) and costs."""

    series: tuple[Series, ...] = ()
    fittings: tuple[Fitting, ...] = ()
    ratings: Mapping[str, float] = field(default_factory=dict)
    prices: Mapping[str, float] = field(default_factory=dict)


_now = Own()


def own() -> Own:
    """The rows in use."""
    return _now


def use(rows: Own) -> None:
    """Take other rows; what was worked out with those before is forgotten."""
    global _now  # noqa: PLW0603  the catalogue is one for a whole process, as its files are
    _now = rows
    forget()
