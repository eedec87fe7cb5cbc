"""What there is to choose from: pipe, kinds of point, practices, quantities; and reading what a crew typed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, cast, get_args, get_origin

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field
from pydantic.fields import FieldInfo

from hydrarch.api.problems import Fault, problem
from hydrarch.core.base.errors import BadQuantity
from hydrarch.core.base.identity import RESERVED
from hydrarch.core.base.units import QUANTITIES, Quantity, System, read, show, size_value
from hydrarch.core.catalogue.beginnings import Beginning, beginnings
from hydrarch.core.catalogue.fittings import ends
from hydrarch.core.catalogue.guidance import Caution, Practice, cautions_for, practices
from hydrarch.core.catalogue.markets import Market, markets
from hydrarch.core.catalogue.nozzles import Nozzle, generic_nozzles
from hydrarch.core.catalogue.pipes import Series, series_list
from hydrarch.core.components.base import EQUIPMENT_ENDS, Kind, Trait, kinds
from hydrarch.core.components.synonyms import also
from hydrarch.core.coverage.need import Plants, Soil, plants, soils
from hydrarch.core.making.waiting import waiting_methods
from hydrarch.core.plan.document import AT_A_PLACE, LEAST_LENGTH, Conditions, Situation
from hydrarch.formats.exports import EXPORTS

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["reference"])


@dataclass(frozen=True, slots=True)
class FieldView:
    """A number, text, choice or list of a kind: its name, label, quantity, default and choices.

    `shape` says how it is asked for: "number", "text", "choice", "end" (of a port), "curve" (points of flow and head)
    or "rows" (each of `fields`). `low` and `high` are the least and most of a number, None where there is no such
    limit. It says something `only` where the fields named have one of those values; always where none is named.
    """

    name: str
    label: str
    shape: str
    quantity: str | None
    default: Any
    choices: tuple[str, ...]
    low: float | None
    high: float | None
    fields: tuple[FieldView, ...] = ()
    only: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class PortView:
    """A port of a kind: its role, which way water goes there, how many runs it takes (0: as many as come), whether it
    must have one, and its ends.

    `given` is the end it has in each market unless a crew says otherwise ("" where a part is suited to the pipe),
    `ends` the systems and genders a crew may choose from.
    """

    name: str
    title: str
    role: str
    way: str
    takes: int
    needs: bool
    given: dict[str, str]
    ends: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class KindView:
    """A kind of thing: how new ones are named, what it is to a line, its fields in the order to ask for them, and its
    ports.

    `also` are its other names, to be found by; `own_ports` names the field in which a thing of it lists ports of its
    own; `one_way` says that it can be turned round.
    """

    kind: str
    title: str
    also: tuple[str, ...]
    letter: str
    role: str
    needs: str
    one_way: bool
    traits: tuple[Trait, ...]
    fields: tuple[FieldView, ...]
    ports: tuple[PortView, ...]
    own_ports: str
    cautions: tuple[Caution, ...]


@dataclass(frozen=True, slots=True)
class EndSystem:
    """A system and gender of ends: what a crew calls it, and the sizes there are."""

    name: str
    title: str
    sizes: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class MarketView:
    """A market: its name and what it is."""

    market: str
    title: str


@dataclass(frozen=True, slots=True)
class ExportView:
    """An export a job offers: by name, as people read it, whether it is kept as a file or shown, and whether it needs
    to know where on earth the job lies.
    """

    name: str
    title: str
    saved: bool
    on_earth: bool


@dataclass(frozen=True, slots=True)
class Reference:
    """All a client needs to offer choices and set numbers."""

    series: tuple[Series, ...]
    kinds: tuple[KindView, ...]
    conditions: tuple[FieldView, ...]
    situations: tuple[str, ...]
    practices: tuple[Practice, ...]
    at_a_place: tuple[str, ...]
    quantities: tuple[Quantity, ...]
    waits: dict[str, tuple[str, ...]]
    markets: tuple[MarketView, ...]
    beginnings: tuple[Beginning, ...]
    soils: tuple[Soil, ...]
    plants: tuple[Plants, ...]
    nozzles: tuple[Nozzle, ...]
    ends: tuple[EndSystem, ...]
    exports: tuple[ExportView, ...]
    reserved: tuple[str, ...]
    least_length: float


def _fields(model: type[BaseModel]) -> tuple[FieldView, ...]:
    return tuple(_field(name, info) for name, info in model.model_fields.items() if name != "kind")


def _field(name: str, info: FieldInfo) -> FieldView:
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    quantity, row = extra.get("quantity"), _row(info.annotation)
    default = None if info.is_required() else info.default
    if isinstance(default, tuple):
        default = [d.model_dump() for d in default]
    choices = _choices(info.annotation)
    shape = str(quantity) if quantity in ("curve", "end") else "rows" if row else "choice" if choices else "number"
    if shape == "number" and info.annotation is str:
        shape = "text"
    told = None if shape in ("curve", "end", "rows") or not quantity else str(quantity)
    low, high = _limits(info)
    return FieldView(
        name=name,
        label=info.title or name,
        shape=shape,
        quantity=told,
        default=default,
        choices=choices,
        low=low,
        high=high,
        fields=_fields(row) if row else (),
        only={other: tuple(values) for other, values in cast(Any, extra.get("only", {})).items()},
    )


def _limits(info: FieldInfo) -> tuple[float | None, float | None]:
    """The least and the most a number may be, or rows of a list."""
    of_list = ("min_length", "max_length") if _row(info.annotation) else ()
    limits = {
        name: getattr(m, name) for m in info.metadata for name in ("ge", "gt", "le", "lt", *of_list) if hasattr(m, name)
    }
    return limits.get("ge", limits.get("gt", limits.get("min_length"))), limits.get(
        "le", limits.get("lt", limits.get("max_length"))
    )


def _row(annotation: Any) -> type[BaseModel] | None:
    """The model of the rows of a list field."""
    inner = get_args(annotation)[0] if get_origin(annotation) is tuple else None
    return inner if isinstance(inner, type) and issubclass(inner, BaseModel) else None


def _choices(annotation: Any) -> tuple[str, ...]:
    return tuple(a for a in get_args(annotation) if isinstance(a, str))


def _kind(kind: Kind) -> KindView:
    fields = _fields(kind.model)
    starts = kind.start
    ports = tuple(
        PortView(
            name=p.name,
            title=p.title,
            role=p.role,
            way=p.way,
            takes=p.takes,
            needs=p.needs,
            given={m: p.end(m) or "" for m in get_args(Market)},
            ends=p.ends,
        )
        for p in kind.ports_of(starts)
    )
    own = next((f.name for f in fields if f.shape == "rows" and callable(kind.ports)), "")
    return KindView(
        kind=kind.name,
        title=kind.title,
        also=also(kind.name),
        letter=kind.letter,
        role=kind.role,
        needs=kind.needs,
        one_way=kind.one_way,
        traits=kind.traits,
        fields=fields,
        ports=ports,
        own_ports=own,
        cautions=cautions_for(kind.name),
    )


def _ends() -> tuple[EndSystem, ...]:
    sizes: dict[str, list[str]] = {}
    words: dict[str, str] = {}
    for e in ends().values():
        key = f"{e.system}:{e.gender}"
        sizes.setdefault(key, []).append(e.size)
        words.setdefault(key, e.kind_words())
    return tuple(
        EndSystem(k, words[k], tuple(sorted(s, key=size_value))) for k, s in sizes.items() if k in EQUIPMENT_ENDS
    )


@router.get("/reference", summary="What there is to choose from")
def reference() -> Reference:
    """Pipe series and sizes, kinds of thing with their fields and ports, practices, markets, ends, and quantities with
    their units.
    """
    return Reference(
        series=series_list(),
        kinds=tuple(_kind(k) for k in kinds().values()),
        conditions=_fields(Conditions),
        situations=get_args(Situation),
        practices=tuple(practices().values()),
        at_a_place=AT_A_PLACE,
        quantities=tuple(QUANTITIES.values()),
        waits=waiting_methods(),
        markets=tuple(MarketView(m.market, m.title) for m in markets().values()),
        beginnings=tuple(beginnings().values()),
        soils=tuple(soils().values()),
        plants=tuple(plants().values()),
        nozzles=tuple(generic_nozzles().values()),
        ends=_ends(),
        exports=tuple(ExportView(e.name, e.title, e.saved, e.on_earth) for e in EXPORTS.values() if not e.beside),
        reserved=tuple(sorted(RESERVED)),
        least_length=LEAST_LENGTH,
    )


class Typed(BaseModel):
    """Text that a crew typed for a quantity."""

    model_config = ConfigDict(extra="forbid", strict=True)
    text: str = Field(max_length=60, examples=["3/4 in"])
    quantity: str = Field(examples=["length"])
    system: System = "metric"


@dataclass(frozen=True, slots=True)
class TypedReading:
    """The SI value of what was typed, and how it is shown."""

    value: float
    shown: str


@router.post("/read", summary="Read a typed quantity")
def read_typed(typed: Typed) -> TypedReading:
    """Decimals, fractions, feet and inches, with or without a unit."""
    try:
        value = read(typed.text, typed.quantity, typed.system)
    except BadQuantity as error:
        raise Fault(
            problem(
                "quantity",
                "Not a number we can read",
                422,
                f"{error}.",
                f"{error.mend[:1].upper()}{error.mend[1:]}.",
                ((typed.quantity, str(error)),),
            )
        ) from error
    return TypedReading(value, str(show(value, typed.quantity, typed.system)))
