"""What there is to choose from: pipe, kinds of point, practices, quantities; and reading what a crew typed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, get_args

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from hydrarch.api.problems import Fault, problem
from hydrarch.core.catalogue.guidance import Caution, Practice, cautions_for, practices
from hydrarch.core.catalogue.pipes import Series, series_list
from hydrarch.core.errors import BadQuantity
from hydrarch.core.making.waiting import waiting_methods
from hydrarch.core.plan import Conditions, Device, Drain, Outlet, Situation, Source, What
from hydrarch.core.problems import STAGE_OF, Stage
from hydrarch.core.units import QUANTITIES, Quantity, System, read, show

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["reference"])


@dataclass(frozen=True, slots=True)
class Field_:
    """A number or choice of a kind of point: its name, label, quantity, default, and choices where it has some."""

    name: str
    label: str
    quantity: str | None
    default: Any
    choices: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of point with its role and its fields, in the order to ask for them."""

    kind: str
    title: str
    role: str
    fields: tuple[Field_, ...]
    cautions: tuple[Caution, ...]


@dataclass(frozen=True, slots=True)
class Reference:
    """All a client needs to offer choices, set numbers, and put each problem, by its code, to the stage that mends it."""

    series: tuple[Series, ...]
    kinds: tuple[Kind, ...]
    conditions: tuple[Field_, ...]
    situations: tuple[str, ...]
    practices: tuple[Practice, ...]
    quantities: tuple[Quantity, ...]
    problem_stages: dict[str, Stage]
    waits: dict[str, tuple[str, ...]]


_TITLES = {
    "well_pump": "Well pump", "mains": "Mains tapping", "tank": "Tank or pond", "junction": "Junction", "bend": "Bend",
    "valve": "Valve", "check_valve": "Check valve", "union": "Union", "filter": "Filter",
    "backflow": "Backflow preventer", "pump": "Pump in the line", "regulator": "Pressure regulator", "vent": "Air and vacuum valve",
    "three_way": "Three-way valve", "vessel": "Pressure vessel", "cap": "Cap", "tap": "Tap", "sprinkler": "Sprinkler", "drip": "Drip zone",
    "drain_inlet": "Drain inlet", "outfall": "Outfall of a drain",
}  # fmt: skip


def _fields(model: type[BaseModel]) -> tuple[Field_, ...]:
    found = []
    for name, info in model.model_fields.items():
        if name == "kind":
            continue
        extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
        quantity = extra.get("quantity")
        default = info.default
        if isinstance(default, tuple):
            default = [d.model_dump() for d in default]
        found.append(Field_(name, info.title or name, str(quantity) if quantity else None, default, _choices(info.annotation)))
    return tuple(found)


def _choices(annotation: Any) -> tuple[str, ...]:
    return tuple(a for a in get_args(annotation) if isinstance(a, str))


def _role(model: type[BaseModel]) -> str:
    for role, group in (("source", Source), ("outlet", Outlet), ("device", Device), ("drain", Drain)):
        if model in get_args(group):
            return role
    return "line"


def _kinds() -> tuple[Kind, ...]:
    models = get_args(get_args(What)[0])
    return tuple(
        Kind(k := str(m.model_fields["kind"].default), _TITLES[k], _role(m), _fields(m), cautions_for(k)) for m in models
    )


@router.get("/reference", summary="What there is to choose from")
def reference() -> Reference:
    """Pipe series and sizes, kinds of point with their fields, practices, and quantities with their units."""
    return Reference(
        series=series_list(),
        kinds=_kinds(),
        conditions=_fields(Conditions),
        situations=get_args(Situation),
        practices=tuple(practices().values()),
        quantities=tuple(QUANTITIES.values()),
        problem_stages=STAGE_OF,
        waits=waiting_methods(),
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
        raise Fault(problem(
            "quantity", "Not a number we can read", 422, f"{error}.", f"{error.mend[:1].upper()}{error.mend[1:]}.", ((typed.quantity, str(error)),)
        )) from error  # fmt: skip
    return TypedReading(value, str(show(value, typed.quantity, typed.system)))
