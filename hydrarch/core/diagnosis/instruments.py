"""What readings are taken with to find a fault, and how far each may be off."""

from __future__ import annotations

from dataclasses import dataclass

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.tables import read_rows
from hydrarch.core.record.events import READ

__all__ = ["ReadWith", "instruments"]


@dataclass(frozen=True, slots=True)
class ReadWith:
    """An instrument: its name, what it reads, and how far it may be off: a `share` of what it shows, at the `least` so
    much (Pa, m³/s).
    """

    name: str
    what: str
    share: float
    least: float


@remembered()
def instruments() -> tuple[ReadWith, ...]:
    """All of them, the usual one for each first."""

    def made(row: dict[str, str]) -> ReadWith:
        if row["what"] not in READ:
            raise ValueError(f"'{row['what']}' is not read; use one of {', '.join(READ)}")
        share, least = float(row["share"]), float(row["least"])
        if not (0 <= share < 1 and least > 0):
            raise ValueError("an instrument is off by a share from 0 up to 1, and by something at the least")
        return ReadWith(row["instrument"], row["what"], share, least)

    return tuple(read_rows("hydrarch.core.diagnosis", "instruments.csv", made))
