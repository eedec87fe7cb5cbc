"""Kinds of things by family.

Importing this room makes every kind known; a new kind is a record in one of its modules.
"""

from hydrarch.core.components import (
    basins,
    devices,
    drains,
    equipment,
    fixtures,
    inlets,
    lines,
    marks,
    outlets,
    protection,
    sources,
    wells,
)

__all__ = [
    "basins",
    "devices",
    "drains",
    "equipment",
    "fixtures",
    "inlets",
    "lines",
    "marks",
    "outlets",
    "protection",
    "sources",
    "wells",
]
