"""Markets: which threads and families of pipe a job's shop sells, and which it would have to send for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from hydrarch.core.base.cache import remembered
from hydrarch.core.catalogue.beginnings import Usual
from hydrarch.core.catalogue.fittings import end_systems, ends, pipe_end
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.catalogue.tables import read_rows

__all__ = ["Market", "MarketRow", "market", "markets"]

Market = Literal["north-american", "elsewhere", "both"]


@dataclass(frozen=True, slots=True)
class MarketRow:
    """A market: the system of its pipe threads and of its hose threads, the pipe it usually sells for a line, as drip
    tubing, for a house, where a stiff one stands free and for a drain, and systems it does not sell.
    """

    market: Market
    title: str
    thread: str
    hose: str
    series: str
    tubing: str
    house: str
    rigid: str
    drain: str
    foreign: frozenset[str]
    source: str

    def usual(self, pipe: Usual) -> str:
        """The series usually sold here for a line, as drip tubing, for a house, or where a stiff pipe stands free."""
        return {"series": self.series, "tubing": self.tubing, "house": self.house, "rigid": self.rigid}[pipe]

    def drain_pipe(self, wanted: str) -> str:
        """A series of drain pipe as it is sold here: the one wanted, or what is usual where that would have to be sent
        for.
        """
        return self.drain if pipe_end(wanted, series(wanted).sizes[0].size).system in self.foreign else wanted

    def pipe_end(self, series_name: str, size: str) -> str:
        """The end (by name) a cut pipe usually has here: a steel pipe's thread is that of the market."""
        own = pipe_end(series_name, size)
        here = f"{self.thread}:{own.gender}:{own.size}"
        return here if own.system in ("npt", "bsp") and here in ends() else own.name


@remembered()
def markets() -> dict[str, MarketRow]:
    """Every market by its name."""

    def make(row: dict[str, str]) -> MarketRow:
        foreign = frozenset(row["foreign"].split("|")) if row["foreign"] else frozenset()
        unknown = (foreign | {row["thread"], row["hose"]}) - end_systems().keys()
        if unknown:
            raise ValueError(f"'{min(unknown)}' is not a system of ends")
        for usual in ("series", "tubing", "house", "rigid", "drain"):
            series(row[usual])
        name = next((m for m in get_args(Market) if m == row["market"]), None)
        if name is None:
            raise ValueError(f"'{row['market']}' is not a market")
        return MarketRow(
            name,
            row["title"],
            row["thread"],
            row["hose"],
            row["series"],
            row["tubing"],
            row["house"],
            row["rigid"],
            row["drain"],
            foreign,
            row["source"],
        )

    return {m.market: m for m in read_rows("hydrarch.core.catalogue", "markets.csv", make)}


def market(name: Market) -> MarketRow:
    """The market of that name."""
    return markets()[name]
