"""What stands in the line: valves, filters, pumps, regulators, vents. Each has its way by its ports."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from hydrarch.core.catalogue.curves import Curve, check_curve, running_curve
from hydrarch.core.components.base import Kind, PortSpec, Trait, What, field, given_thread, register
from hydrarch.core.components.sources import CurvePoint, Lifter, curve_field

__all__ = ["BackflowPreventer", "CheckValve", "Filter", "Pump", "Regulator", "ThreeWay", "Union", "Valve", "Vent"]


class Valve(What):
    """An isolating valve; it divides the line into sections. Throttled, it is `opening` of the way open; 0 is shut.

    One `worked` by wire is opened by a controller, at 24 V.
    """

    traits: ClassVar[tuple[Trait, ...]] = ("leads-drip", "opens-zone", "fitting")
    kind: Literal["valve"] = "valve"
    opening: float = field(1.0, "Opening, 1 is wide open", "ratio", ge=0, le=1)
    turns: Literal["not tried", "yes", "no"] = Field("not tried", title="An old one turns")
    worked: Literal["by hand", "by wire"] = Field("by hand", title="It is worked")


class CheckValve(What):
    """A valve that lets water pass from its inlet to its outlet and not back."""

    traits: ClassVar[tuple[Trait, ...]] = ("fitting",)
    kind: Literal["check_valve"] = "check_valve"


class Union(What):
    """A union, so that what stands beside it can be taken out."""

    traits: ClassVar[tuple[Trait, ...]] = ("fitting",)
    kind: Literal["union"] = "union"


class Filter(What):
    """A screen filter that loses `loss` (Pa) clean and `dirty_loss` before it is cleaned, at `at_flow` (m³/s), as flow
    squared.

    `dirt` says where between the two it is calculated: 0 clean, 1 due for cleaning.
    """

    kind: Literal["filter"] = "filter"
    loss: float = field(20e3, "Loss, clean", "pressure", ge=0, le=1e6)
    dirty_loss: float = field(50e3, "Loss, due for cleaning", "pressure", ge=0, le=1e6)
    dirt: float = field(0.0, "Dirt, 0 clean to 1 due", "ratio", ge=0, le=1)
    at_flow: float = field(0.001, "at flow", "flow", ge=1e-7, le=1)

    @model_validator(mode="after")
    def _grows(self) -> Filter:
        if self.dirty_loss < self.loss:
            raise ValueError("a dirty filter loses more than a clean one, not less")
        return self

    def loss_now(self) -> float:
        """Loss (Pa) at `at_flow` as dirty as it is."""
        return self.loss + self.dirt * (self.dirty_loss - self.loss)


class BackflowPreventer(What):
    """A backflow preventer that loses `loss` (Pa) at `at_flow` (m³/s), as the square of flow; `makes` is its type, as
    codes name them.
    """

    kind: Literal["backflow"] = "backflow"
    makes: Literal["not said", "vacuum breaker", "double check", "reduced pressure"] = Field(
        "not said", title="Its type"
    )
    loss: float = field(40e3, "Loss", "pressure", ge=0, le=1e6)
    at_flow: float = field(0.001, "at flow", "flow", ge=1e-7, le=1)


class Pump(Lifter):
    """A pump in the line, as for a booster set or a pond: it lifts from its inlet to its outlet, and needs `npsh` (m)
    at its inlet.
    """

    kind: Literal["pump"] = "pump"
    curve: tuple[CurvePoint, ...] = curve_field((0.0, 32.0), (0.001, 25.0), (0.002, 10.0))
    speed: float = field(1.0, "Speed, share of rated", "ratio", ge=0.3, le=1.5)
    side_by_side: int = Field(1, title="How many side by side", ge=1, le=6)
    behind: int = Field(1, title="How many one behind the other", ge=1, le=6)
    npsh: float = field(2.5, "Suction head needed (NPSH)", "head", ge=0, le=20)

    @model_validator(mode="after")
    def _falls(self) -> Pump:
        check_curve([(c.flow, c.head) for c in self.curve])
        return self

    def running(self) -> Curve:
        """The curve of all its pumps together at their speed."""
        one = running_curve(tuple((c.flow, c.head) for c in self.curve), self.speed)
        return tuple((q * self.side_by_side, h * self.behind) for q, h in one)


class Regulator(What):
    """A pressure regulator that holds `pressure` (Pa, gauge) at its outlet."""

    kind: Literal["regulator"] = "regulator"
    pressure: float = field(170e3, "Pressure held", "pressure", gt=0, le=2e6)


class Vent(What):
    """An air and vacuum valve at a high point."""

    kind: Literal["vent"] = "vent"


class ThreeWay(What):
    """A three-way valve; `shut` names the port it closes, blank for none. A scenario may set it otherwise."""

    traits = ("diverts",)
    kind: Literal["three_way"] = "three_way"
    shut: Literal["", "in", "left", "right"] = Field("", title="Port it shuts")


def _in_line(ends: dict[str, str] | None = None, serves: bool = False) -> tuple[PortSpec, ...]:
    return (
        PortSpec("in", "in", "Inlet", given=ends, serves=serves),
        PortSpec("out", "out", "Outlet", given=ends, serves=serves),
    )


_TWO = "two runs, one at each side"
register(
    Kind(
        model=Valve,
        title="Valve",
        letter="V",
        role="device",
        ports=_in_line(),
        needs=_TWO,
        families=("valve", "union valve"),
        parting="shuts",
    )
)
register(
    Kind(
        model=CheckValve,
        title="Check valve",
        letter="CV",
        role="device",
        ports=_in_line(),
        needs=_TWO,
        families=("check valve",),
        one_way=True,
    )
)
register(
    Kind(
        model=Union,
        title="Union",
        letter="U",
        role="device",
        ports=_in_line(),
        needs=_TWO,
        families=("union",),
        parting="opens",
    )
)
register(
    Kind(
        model=Filter,
        title="Filter",
        letter="F",
        role="device",
        ports=_in_line(serves=True),
        needs=_TWO,
        families=("filter",),
    )
)
register(
    Kind(
        model=BackflowPreventer,
        title="Backflow preventer",
        letter="BP",
        role="device",
        ports=_in_line(serves=True),
        needs=_TWO,
        families=("backflow preventer",),
        one_way=True,
    )
)
register(
    Kind(
        model=Pump,
        title="Pump in the line",
        letter="P",
        role="device",
        ports=_in_line(given_thread("1-1/4"), serves=True),
        needs=_TWO,
        bears=True,
        one_way=True,
    )
)
register(
    Kind(
        model=Regulator,
        title="Pressure regulator",
        letter="PR",
        role="device",
        ports=_in_line(given_thread("3/4")),
        needs=_TWO,
        parting="opens",
        one_way=True,
    )
)
register(
    Kind(
        model=Vent,
        title="Air and vacuum valve",
        letter="AV",
        role="device",
        ports=(PortSpec("in", "any", "Inlet", takes=2),),
        needs="a run that ends at it, or two that pass it",
        families=("air vent",),
    )
)
register(
    Kind(
        model=ThreeWay,
        title="Three-way valve",
        letter="TW",
        role="device",
        ports=(PortSpec("in", "any", "Inlet"), PortSpec("left", "any", "Left"), PortSpec("right", "any", "Right")),
        needs="three runs",
        families=("three-way valve",),
    )
)
