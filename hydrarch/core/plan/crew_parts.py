"""The equipment book: a crew's own things, fittings and pipe, kept beside the catalogue and used like any row that
ships.

Lengths are in m, pressures in Pa and angles in degrees, or text with a unit ("25 mm", "1-1/2 in", "10 bar").
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import pairwise
from math import radians
from typing import Annotated, Any, Literal

from pydantic import (
    BeforeValidator,
    Field,
    ValidationError,
    ValidationInfo,
    ValidatorFunctionWrapHandler,
    field_validator,
    model_validator,
)

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import read
from hydrarch.core.catalogue.fittings import Fitting, Loss, Port, end, ends, fittings
from hydrarch.core.catalogue.own import OWN, Own, own, use
from hydrarch.core.catalogue.pipes import Pipe, Series, series
from hydrarch.core.catalogue.prices import fitting_price
from hydrarch.core.catalogue.ratings import fitting_rating
from hydrarch.core.components.base import AnyWhat, Model, kind_of
from hydrarch.core.plan.document import EndName, Plan
from hydrarch.core.plan.names import Name, PortName, Words

__all__ = [
    "Book",
    "OwnFitting",
    "OwnSeries",
    "OwnThing",
    "book_in_use",
    "merged",
    "new_rows",
    "part_of",
    "rows_of",
    "use_book",
    "used_in",
]


def _in(quantity: str) -> BeforeValidator:
    """Read text with a unit as a number in SI; a number is one already."""

    def number(value: Any) -> Any:
        return read(value, quantity) if isinstance(value, str) else value

    return BeforeValidator(number)


Length = Annotated[float, Field(ge=-0.5, le=1000), _in("diameter")]
Pressure = Annotated[float, Field(gt=0, le=1e8), _in("pressure")]
OwnId = Annotated[str, Field(pattern=rf"^{OWN}[a-z0-9_-]{{1,60}}$")]
Source = Annotated[Words, Field(min_length=1)]


class OwnThing(Model):
    """A thing as it is bought: what it is with its numbers, and the ends its ports have."""

    name: Annotated[Name, Field(min_length=1)]
    what: AnyWhat
    ports: dict[PortName, EndName] = Field(default_factory=dict, max_length=8)
    note: Words = ""

    @model_validator(mode="after")
    def _has_them(self) -> OwnThing:
        kind = kind_of(self.what)
        for name in self.ports:
            if kind.port(self.what, name) is None:
                raise ValueError(f"a {kind.title.lower()} has no port called {name}")
        return self


class OwnOpening(Model):
    """An opening of a fitting: its end by name, centre to stop (m), and its direction (degrees in the fitting's
    plane).
    """

    end: EndName
    stop: Length
    direction: Annotated[float, Field(ge=-360, le=360)]


class OwnFitting(Model):
    """A fitting as it was measured.

    `run` and `branch` are its equivalent lengths in diameters, `bore` (m) a narrowed way through.

    `rating` (Pa) and `price` are those of its material where they are left out.
    """

    id: OwnId
    name: Annotated[Name, Field(min_length=1)]
    family: Annotated[str, Field(max_length=40)]
    material: Annotated[str, Field(max_length=20)]
    openings: tuple[OwnOpening, ...] = Field(min_length=1, max_length=4, strict=False)
    run: Annotated[float, Field(ge=0, le=1000)] = 0.0
    branch: Annotated[float, Field(ge=0, le=1000)] = 0.0
    bore: Length | None = None
    rating: Pressure | None = None
    price: Annotated[float, Field(ge=0, le=1e6)] | None = None
    source: Source

    @model_validator(mode="after")
    def _is_one(self) -> OwnFitting:
        families = {f.family: len(f.ports) for f in fittings().values()}
        materials = {f.material for f in fittings().values()} - {"pipe"}
        if self.family not in families:
            raise ValueError(f"'{self.family}' is no family of fittings; use one of {', '.join(sorted(families))}")
        if self.material not in materials:
            raise ValueError(f"'{self.material}' is no material of ours; use one of {', '.join(sorted(materials))}")
        like = {len(f.ports) for f in fittings().values() if f.family == self.family}
        if len(self.openings) not in like:
            told = " or ".join(str(n) for n in sorted(like))
            raise ValueError(f"a {self.family} has {told} openings, and this one has {len(self.openings)}")
        return self

    def part(self) -> Fitting:
        """It as the catalogue has fittings."""
        ports = tuple(Port(end(o.end), o.stop, radians(o.direction)) for o in self.openings)
        loss = Loss(
            self.run, self.branch or self.run, self.bore, len({p.end.size for p in ports}) > 1 and self.run == 0
        )
        return Fitting(
            id=self.id,
            name=self.name,
            family=self.family,
            material=self.material,
            ports=ports,
            loss=loss,
            source=self.source,
        )


class OwnSize(Model):
    """A size of pipe: outside and bore (m), and its rating (Pa) at 23 °C."""

    size: Annotated[str, Field(pattern=r"^[0-9][0-9/.-]{0,9}$")]
    outside: Annotated[float, Field(gt=0, le=2), _in("diameter")]
    bore: Annotated[float, Field(gt=0, le=2), _in("diameter")]
    rating: Pressure

    @model_validator(mode="after")
    def _has_a_wall(self) -> OwnSize:
        if self.bore >= self.outside:
            raise ValueError(f"a bore of {self.bore * 1e3:g} mm leaves no wall in {self.outside * 1e3:g} mm outside")
        return self


class OwnSeries(Model):
    """A pipe of the crew's own: like a series that ships, but for its name, its sizes and the lengths it comes
    in (m).
    """

    id: OwnId
    name: Annotated[Name, Field(min_length=1)]
    like: Annotated[str, Field(max_length=40)]
    sizes: tuple[OwnSize, ...] = Field(min_length=1, max_length=40, strict=False)
    stick: Annotated[float, Field(gt=0, le=100), _in("length")] | None = None
    coil: Annotated[float, Field(gt=0, le=1000), _in("length")] | None = None
    source: Source

    @model_validator(mode="after")
    def _is_one(self) -> OwnSeries:
        if self.like.startswith(OWN):
            raise ValueError(f"'{self.like}' is not a series that ships")
        family = series(self.like)
        wide = [s.outside for s in self.sizes]
        if any(a >= b for a, b in pairwise(wide)):
            raise ValueError("the sizes must grow from row to row")
        known = ends()
        for s in self.sizes:
            if not any(f"{e}:{s.size}" in known for e in family.ends):
                told = sorted({e.size for e in known.values() if f"{e.system}:{e.gender}" in family.ends})
                raise ValueError(
                    f"no end of ours fits size {s.size} of a pipe like {family.name}; use {', '.join(told)}"
                )
        return self

    def family(self) -> Series:
        """It as the catalogue has series."""
        like = series(self.like)
        sizes = tuple(
            Pipe(
                series=self.id,
                size=s.size,
                outside=s.outside,
                wall=(s.outside - s.bore) / 2,
                bore=s.bore,
                rating=s.rating,
                source=self.source,
            )
            for s in self.sizes
        )
        lengths = {"stick": self.stick, "coil": self.coil} if self.stick or self.coil else {}
        fields = {f: getattr(like, f) for f in Series.__slots__}
        return Series(
            **{
                **fields,
                "id": self.id,
                "name": self.name,
                "short": self.name,
                "sizes": sizes,
                "source": self.source,
                **lengths,
            }
        )


class Book(Model):
    """All of a crew's own."""

    format: Literal["hydrarch/book/1"] = "hydrarch/book/1"
    things: tuple[OwnThing, ...] = Field((), max_length=500, strict=False)
    fittings: tuple[OwnFitting, ...] = Field((), max_length=2000, strict=False)
    pipes: tuple[OwnSeries, ...] = Field((), max_length=100, strict=False)
    assemblies: tuple[Plan, ...] = Field((), max_length=200, strict=False)
    """Parts of drawings to be set down again: a tap on its riser, a valve box. Each is a plan of its own."""

    @field_validator("assemblies", mode="wrap")
    @classmethod
    def _with_these_rows(cls, value: Any, read_all: ValidatorFunctionWrapHandler, info: ValidationInfo) -> Any:
        """An assembly may name rows of this very book, which are not in use before it is read."""
        try:
            return read_all(value)
        except ValidationError:
            rows, before = (
                Book.model_construct(fittings=info.data.get("fittings", ()), pipes=info.data.get("pipes", ())).own(),
                own(),
            )
            if not rows.fittings and not rows.series:
                raise
            use(rows)
            try:
                return read_all(value)
            finally:
                use(before)

    @model_validator(mode="after")
    def _apart(self) -> Book:
        for what, names in (
            ("things", [t.name for t in self.things]),
            ("fittings", [f.id for f in self.fittings]),
            ("pipes", [p.id for p in self.pipes]),
            ("assemblies", [a.name for a in self.assemblies]),
        ):
            twice = next((n for n in names if names.count(n) > 1), None)
            if twice is not None:
                raise ValueError(f"two {what} are called {twice}; give each a name of its own")
        return self

    def own(self) -> Own:
        """Its rows as the catalogue takes them."""
        return Own(
            tuple(p.family() for p in self.pipes),
            tuple(f.part() for f in self.fittings),
            {f.id: f.rating for f in self.fittings if f.rating is not None},
            {f.id: f.price for f in self.fittings if f.price is not None},
        )


def use_book(book: Book) -> None:
    """Put a book's rows beside the catalogue's, in place of those that were.

    Raises `HydrarchError` for a row no rule covers.
    """
    before = own()
    use(book.own())
    try:
        for f in book.fittings:
            fitting_price(f.id)
            fitting_rating(f.id)
    except HydrarchError:
        use(before)
        raise
    global _in_use  # noqa: PLW0603  there is one catalogue, and one book beside it
    _in_use = book


_in_use = Book()


def book_in_use() -> Book:
    """The book whose rows are beside the catalogue's now."""
    return _in_use


def new_rows(book: Book, more: Book) -> Book:
    """The rows of `more` that a book has not. Raises `HydrarchError` for one that is another under the same name."""
    known, new = (dict[str, OwnFitting | OwnSeries]() for _ in range(2))
    for rows, of in ((known, book), (new, more)):
        rows |= {f.id: f for f in of.fittings}
        rows |= {p.id: p for p in of.pipes}
    for name, row in new.items():
        if known.get(name, row) != row:
            raise HydrarchError(f"{name} is something else in your own book: rename it in one of the two")
    return part_of(more, frozenset(new.keys() - known.keys()))


def merged(book: Book, more: Book) -> Book:
    """A book with rows added; one of the same name takes the place of the one before."""

    def both(mine: tuple[Any, ...], new: tuple[Any, ...], name: str) -> tuple[Any, ...]:
        return tuple({getattr(x, name): x for x in (*mine, *new)}.values())

    return Book(
        things=both(book.things, more.things, "name"),
        fittings=both(book.fittings, more.fittings, "id"),
        pipes=both(book.pipes, more.pipes, "id"),
        assemblies=both(book.assemblies, more.assemblies, "name"),
    )


def used_in(plan: Plan) -> Iterator[str]:
    """The ids of a crew's own rows that a plan names."""
    named = [plan.conditions.series, *(r.series for r in plan.runs)]
    named += [f for w in plan.ways for f in w.fittings] + [f for n in plan.nodes for f in n.fittings]
    named += [m.fitting for m in plan.measured] + [e.fitting for e in plan.extras]
    named += [_row_of(item) for item in (*(s.item for s in plan.stock), *plan.prices)]
    yield from dict.fromkeys(n for n in named if n is not None and n.startswith(OWN))


def _row_of(item: str) -> str:
    """The id of the row that stock or a price names: its fitting, or the series of its pipe, known here or not."""
    return item.split(" ", maxsplit=1)[0]


def rows_of(plan: Plan, made_of: Iterable[str]) -> Book:
    """The rows of the book in use that a plan names, or that are among what it is made of (ids of parts and series)."""
    return part_of(_in_use, frozenset({*used_in(plan), *made_of}))


def part_of(book: Book, names: frozenset[str]) -> Book:
    """The rows of a book with those ids."""
    return Book(
        fittings=tuple(f for f in book.fittings if f.id in names), pipes=tuple(p for p in book.pipes if p.id in names)
    )
