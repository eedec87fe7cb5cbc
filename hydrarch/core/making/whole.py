"""The catalogue looked over as a whole: what a table names and another table lacks.

A gap fails the tests; in a running product it is told.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import get_args

from hydrarch.core.base.errors import Unknown
from hydrarch.core.catalogue.fittings import ends, fittings, mates_of
from hydrarch.core.catalogue.markets import Market
from hydrarch.core.catalogue.methods import methods
from hydrarch.core.catalogue.pipes import series_list
from hydrarch.core.catalogue.prices import fitting_price, pipe_price
from hydrarch.core.catalogue.ratings import fitting_rating
from hydrarch.core.components.base import kinds
from hydrarch.core.making.steps import steps_of

__all__ = ["gaps"]


def gaps() -> tuple[str, ...]:
    """Return what the tables lack, in words; empty where every reference between them is met.

    Every method has steps, every method a mating and every mating its method; every pipe and fitting a price, every
    fitting a rating; every end of a fitting is one that something mates with; every end that a component type gives its
    ports exists.
    """
    return (*_methods(), *_prices(), *_ratings(), *_ends())


def _methods() -> Iterator[str]:
    joined = {how for e in ends().values() for _, how in mates_of(e)}
    for name in methods():
        if not steps_of(name):
            yield f"method {name}: no steps"
        if name not in joined:
            yield f"method {name}: no two ends are joined by it"
    yield from (f"mating by {name}: no such method" for name in sorted(joined - set(methods())))


def _prices() -> Iterator[str]:
    for family in series_list():
        for item in family.sizes if family.kind != "met" else ():
            try:
                pipe_price(item)
            except Unknown as error:
                yield f"pipe {item.series} {item.size}: {error}"
    for part in fittings().values():
        try:
            fitting_price(part.id)
        except Unknown as error:
            yield f"fitting {part.id}: {error}"


def _ratings() -> Iterator[str]:
    for part in fittings().values():
        try:
            fitting_rating(part.id)
        except Unknown as error:
            yield f"fitting {part.id}: {error}"


def _ends() -> Iterator[str]:
    known = ends()
    for kind in kinds().values():
        for port in kind.ports_of(kind.start):
            for where in get_args(Market):
                name = port.end(where)
                if name and name not in known:
                    yield f"{kind.name}, port {port.name} in {where}: there is no end {name}"
    for part in fittings().values():
        for opening in part.ports:
            if not mates_of(opening.end):
                yield f"fitting {part.id}: nothing mates with {opening.end.name}"
