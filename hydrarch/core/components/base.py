"""What a kind of thing is: its model, its ports, and what it is to a line.

One record a kind; rooms register what they do with it.

A thing of a plan holds a model of its kind (`What`) with the numbers a crew gives it. Its `Kind` tells the rest: ports
with their roles, which fittings of the catalogue may stand for it, and how a line is parted there.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal, cast

from pydantic import BaseModel, ConfigDict, Field, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema, PydanticCustomError, core_schema

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.markets import Market, market

__all__ = [
    "EQUIPMENT_ENDS",
    "THREADS",
    "AnyWhat",
    "Kind",
    "Model",
    "Parting",
    "PortRole",
    "PortSpec",
    "Role",
    "What",
    "borrowed",
    "field",
    "given_thread",
    "kind_named",
    "kind_of",
    "kinds",
    "register",
    "listed",
    "thread_port",
]

Role = Literal["source", "outlet", "device", "line", "end", "drain", "body", "mark"]
PortRole = Literal["in", "out", "suction", "drain", "pumped", "air", "any"]
Way = Literal["in", "out", "any"]
_WAYS: dict[str, Way] = {"in": "in", "out": "out", "suction": "out", "pumped": "out"}
Parting = Literal["through", "shuts", "opens"]
"""What a thing does to the sections of a line: nothing, parts it by being shut, or by being opened and plugged."""

THREADS = ("npt:female", "npt:male", "bsp:female", "bsp:male", "bspp:female", "bspp:male")
EQUIPMENT_ENDS = (
    *THREADS,
    "hose:female",
    "hose:male",
    "buttress:female",
    "buttress:male",
    "solvent:socket",
    "solvent:spigot",
    "solvent:deep",
    "solvent-metric:socket",
    "solvent-metric:spigot",
    "barb:insert",
    "vinyl:insert",
    "compression:socket",
    "compression-ips:socket",
    "compression-cts:socket",
    "fusion:socket",
    "fusion:spigot",
    "pe-fusion:socket",
    "copper:socket",
    "bulkhead:body",
    "saddle:clamp",
    "saddle-metric:clamp",
    "drip-600:insert",
    "drip-620:insert",
    "drip-520:insert",
    "drip-535:insert",
    "drip-820:insert",
    "drip-170:insert",
    "lock:socket",
)
"""The ends (system and gender) a piece of equipment may have at a port."""


class Model(BaseModel):
    """A part of a plan: frozen, strict, and without what it does not know."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, allow_inf_nan=False)


Trait = Literal[
    "waters", "drips", "throws", "leads-drip", "opens-zone", "water-body", "fitting", "sunk", "diverts", "fixture"
]
"""What core and page may ask of a component type, each no unless its model says so.

waters: it waters ground and is put into zones. drips: it is watered slowly, at a drip line's low pressure. throws: it
has a nozzle and an arc. leads-drip: the head of a drip line may be set behind it. opens-zone: a controller may open a
zone by it. water-body: fittings are let into its walls. fitting: it is drawn as a fitting of the line. sunk: it hangs
down a well, and so does pipe that goes straight up from it. diverts: it may be set otherwise in each scenario. fixture:
it is drawn from in a house, and what is expected of it and of others together sizes the pipe.
"""


class What(Model):
    """What stands at a point: base of the models of all kinds. Numbers in SI. Each names its `kind`."""

    if TYPE_CHECKING:
        kind: Any

    traits: ClassVar[tuple[Trait, ...]] = ()

    def turned(self, angle: float) -> What:
        """It as it is after a turn (rad, anticlockwise from above): the same, for what faces no way of its own."""
        return self

    def mirrored(self, east_west: bool) -> What:
        """It as a mirror shows it: east and west change places, or north and south."""
        return self


def field(
    default: float | None, label: str, quantity: str, only: Mapping[str, Sequence[str]] | None = None, **limits: Any
) -> Any:
    """A number of a model: its default, what a form calls it, and its quantity. It says something `only` where other
    fields have one of the values named.
    """
    extra: dict[str, Any] = {"quantity": quantity} | ({"only": only} if only else {})
    return Field(default, title=label, json_schema_extra=extra, **limits)


def listed(most: int, default: tuple[Any, ...] = (), **more: Any) -> Any:
    """A list of a model: JSON has lists where we keep tuples."""
    return Field(default, max_length=most, strict=False, **more)


@dataclass(frozen=True, slots=True)
class PortSpec:
    """One port of a kind. `takes` is how many runs it takes at the most (0: as many as come), `needs` whether it is
    wrong without one.

    `given` is the end (system:gender:size) it has in each market unless a crew says otherwise; None means that a part
    is taken whose ends suit the pipe. `ends` are what a crew may choose from (system:gender). `direction` points out of
    the thing (east, north, up), `height` (m) is above the thing's own level. `serves` says that what is beyond is taken
    off now and then, so a union belongs there; `falls` that what comes to it falls in or out in the open: nothing is
    joined there.
    """

    name: str
    role: PortRole
    title: str
    takes: int = 1
    needs: bool = True
    given: Mapping[str, str] | None = None
    ends: tuple[str, ...] = EQUIPMENT_ENDS
    direction: tuple[float, float, float] | None = None
    height: float = 0.0
    serves: bool = False
    falls: bool = False

    @property
    def way(self) -> Way:
        """Whether water comes in there, goes out, or either; a drain's port is named for it."""
        told = self.name if self.role == "drain" else self.role
        return _WAYS.get(told, "any")

    def end(self, where: Market) -> str | None:
        """The end it has in a market unless a crew says otherwise."""
        return None if self.given is None else self.given[where]


def given_thread(size: str, gender: str = "female") -> dict[str, str]:
    """A pipe thread of `size` in each market's own system."""
    return {m: f"{market(m).thread}:{gender}:{size}" for m in ("north-american", "elsewhere", "both")}


def thread_port(name: str, role: PortRole, title: str, size: str, **more: Any) -> PortSpec:
    """A port with a female pipe thread of the market."""
    return PortSpec(name, role, title, given=given_thread(size), **more)


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of thing.

    `letter` begins the names of new ones. `ports` are its own, or what makes them from a model where the crew says
    which it has. `families` are the catalogue's families that may stand for it where its ports are suited to the pipe.
    `bears` says that it is fixed to the ground, so that no hand turns it; `turns` that it may stand at any angle on its
    joint. `stands` says that its port stands above the line on a riser, `apart` that its ports hold waters apart: what
    is at one is not what is at another, `one_way` that it passes water from its inlet to its outlet and not back.
    `needs` says in words what it is drawn with.
    """

    model: type[What]
    title: str
    letter: str
    role: Role
    ports: tuple[PortSpec, ...] | Callable[[Any], tuple[PortSpec, ...]]
    needs: str = ""
    families: tuple[str, ...] = ()
    parting: Parting = "through"
    bears: bool = False
    turns: bool = False
    stands: bool = False
    apart: bool = False
    one_way: bool = False

    @property
    def name(self) -> str:
        """What a plan calls it."""
        return cast(str, self.model.model_fields["kind"].default)

    @property
    def traits(self) -> tuple[Trait, ...]:
        """What it is to those who ask by trait."""
        return self.model.traits

    @property
    def plain(self) -> bool:
        """Whether it is only a place of the line, where pipes meet or turn."""
        return self.role == "line"

    @property
    def joined(self) -> bool:
        """Whether runs come to it: not to a mark, and not to a body of water, whose wall fittings they come to."""
        return self.role not in ("mark", "body")

    @property
    def start(self) -> What:
        """A thing of this kind as it is set down, before a word is said of it."""
        return self.model.model_validate({"kind": self.name})

    def ports_of(self, what: What) -> tuple[PortSpec, ...]:
        """The ports of a thing of this kind."""
        return self.ports(what) if callable(self.ports) else self.ports

    def port(self, what: What, name: str) -> PortSpec | None:
        """The port of that name. A kind with one port has only that one to mean; None where there is no such port."""
        mine = self.ports_of(what)
        return mine[0] if len(mine) == 1 else next((p for p in mine if p.name == name), None)


_OFFERED: tuple[Role, ...] = ("source", "outlet", "line", "device", "end", "drain", "body", "mark")
_KINDS: dict[str, Kind] = {}


def register(kind: Kind) -> Kind:
    """Make a kind known; raises `HydrarchError` where there is one of that name, or one of its ports is called as
    another.
    """
    if kind.name in _KINDS:
        raise HydrarchError(f"there is a kind called {kind.name} already")
    if not callable(kind.ports):
        names = [p.name for p in kind.ports]
        if len(set(names)) != len(names) or len(names) > 8:
            raise HydrarchError(f"the ports of {kind.name} must have names of their own, and be eight at the most")
    _KINDS[kind.name] = kind
    return kind


@contextmanager
def borrowed(kind: Kind) -> Iterator[Kind]:
    """Make a kind known for as long as it is used: for trying one out."""
    register(kind)
    try:
        yield kind
    finally:
        del _KINDS[kind.name]


def kinds() -> dict[str, Kind]:
    """Every kind by its name, in the order they are offered."""
    return dict(sorted(_KINDS.items(), key=lambda k: _OFFERED.index(k[1].role)))


def kind_named(name: str) -> Kind:
    """The kind of that name; raises KeyError."""
    return _KINDS[name]


def kind_of(what: What) -> Kind:
    """The kind of what stands at a point."""
    return _KINDS[what.kind]


class _ByKind:
    """Reads a model of whatever kind is named: a kind is known by being registered, and nowhere else."""

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            cls._read,
            serialization=core_schema.plain_serializer_function_ser_schema(
                lambda w: w.model_dump(), when_used="always"
            ),
        )

    @staticmethod
    def _read(value: Any) -> What:
        if isinstance(value, What):
            return value
        name = value.get("kind") if isinstance(value, dict) else None
        kind = _KINDS.get(name) if isinstance(name, str) else None
        if kind is None:
            raise PydanticCustomError(
                "no_such_kind", "there is no kind of thing called '{name}'", {"name": str(name)[:40]}
            )
        return kind.model.model_validate(value)

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        models = {name: kind.model.__pydantic_core_schema__ for name, kind in _KINDS.items()}
        return handler(core_schema.tagged_union_schema(models, "kind"))  # each by its name, so that it stands once


AnyWhat = Annotated[What, _ByKind]
"""What stands at a point, of any kind that is known."""
