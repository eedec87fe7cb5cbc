"""One list at two shops: what each asks for what is bought, row by row, and what comes to less."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hydrarch.core.cutting.bill import bill
from hydrarch.core.cutting.billrow import BillRow
from hydrarch.core.derivation.chain import Derivation

__all__ = ["TwoPrices", "TwoShops", "two_shops"]

_PRICED = ("fitting", "added", "pipe", "riser")
"""The groups of a list that price books hold."""


@dataclass(frozen=True, slots=True)
class TwoPrices:
    """A row of the list with what it costs by the job's own prices and by the other book's, None where one has none."""

    item: str
    name: str
    count: int
    unit: str
    here: float | None
    there: float | None


@dataclass(frozen=True, slots=True)
class TwoShops:
    """Two price books over one list. The sums are of those rows that both have; `split` is what those come to where
    each is bought at the cheaper shop. The rest is counted: what only one has, and what none has.

    `alike` is whether both books say one currency, None where one of them says none.
    """

    rows: tuple[TwoPrices, ...]
    both: int
    here: float
    there: float
    split: float
    only_here: int
    only_there: int
    unpriced: int
    alike: bool | None


def two_shops(derived: Derivation, prices: Mapping[str, float], currency: str) -> TwoShops:
    """The list of a job by its own prices and by another book's; starting prices are nobody's and count for none.

    `prices` are of one, or of a metre of pipe, by item; `currency` three letters, "" where the book says none. The cuts
    are those of the job, whatever other lengths the other shop sells.
    """
    plan = derived.plan
    other = plan.model_copy(update={"prices": dict(prices)})
    theirs = bill(other, derived.assembly, derived.cuts, derived.wire)  # the same rows: prices choose none of them
    rows = tuple(
        TwoPrices(a.item, a.name, a.count - a.have + a.spare, a.unit, _own(a), _own(b))
        for a, b in zip(derived.bill, theirs, strict=True)
        if a.group in _PRICED and a.price != 0 and a.count - a.have + a.spare > 0
    )
    both = [(r.here, r.there) for r in rows if r.here is not None and r.there is not None]
    return TwoShops(
        rows=rows,
        both=len(both),
        here=sum(a for a, _ in both),
        there=sum(b for _, b in both),
        split=sum(min(pair) for pair in both),
        only_here=sum(r.here is not None and r.there is None for r in rows),
        only_there=sum(r.here is None and r.there is not None for r in rows),
        unpriced=sum(r.here is None and r.there is None for r in rows),
        alike=plan.currency == currency if plan.currency and currency else None,
    )


def _own(row: BillRow) -> float | None:
    """What a row costs by prices that somebody gave."""
    return row.price if row.own else None
