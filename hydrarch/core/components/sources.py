"""Where water comes from: a well pump, a tapping of the mains, open water."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from hydrarch.core.catalogue.curves import Curve, check_curve, running_curve
from hydrarch.core.components.base import (
    Kind,
    Model,
    PortSpec,
    Trait,
    What,
    field,
    given_thread,
    listed,
    register,
    thread_port,
)

__all__ = ["CurvePoint", "Lifter", "Mains", "Tank", "WellPump", "curve_field"]


class CurvePoint(Model):
    """A point of a pump's curve: `flow` in m³/s, `head` in m."""

    flow: float = Field(ge=0, le=10, title="Flow", json_schema_extra={"quantity": "flow"})
    head: float = Field(ge=0, le=3000, title="Head", json_schema_extra={"quantity": "head"})


def curve_field(*points: tuple[float, float]) -> tuple[CurvePoint, ...]:
    """A pump's curve as a field of a model, with the curve it starts with."""
    made = tuple(CurvePoint(flow=q, head=h) for q, h in points)
    return listed(40, made, title="Pump curve", json_schema_extra={"quantity": "curve"})  # type: ignore[no-any-return]


class Lifter(What):
    """Base of what lifts water by a pump with a curve, which stops at once when the power goes."""

    def running(self) -> Curve:
        """The curve of all its pumps together as they run."""
        raise NotImplementedError


class WellPump(Lifter):
    """A pump that lifts from a water level: its curve, falling, from shut-off to its largest flow."""

    traits: ClassVar[tuple[Trait, ...]] = ("sunk",)

    kind: Literal["well_pump"] = "well_pump"
    water_level: float = field(-30.0, "Water level when pumping", "level", ge=-3000, le=9000)
    curve: tuple[CurvePoint, ...] = curve_field((0.0, 75.0), (0.001, 62.0), (0.002, 24.0))
    speed: float = field(1.0, "Speed, share of rated", "ratio", ge=0.3, le=1.5)

    @model_validator(mode="after")
    def _falls(self) -> WellPump:
        check_curve([(c.flow, c.head) for c in self.curve])
        return self

    def running(self) -> Curve:
        """Its curve at its speed."""
        return running_curve(tuple((c.flow, c.head) for c in self.curve), self.speed)


class Mains(What):
    """A tapping with `pressure` (Pa, gauge) at rest at the point's own pipe level.

    Measured with water running, it falls to `flowing_pressure` at `flowing`: the source is then a curve, p = p0 −
    k·q^1.85.
    """

    traits: ClassVar[tuple[Trait, ...]] = ("leads-drip",)
    kind: Literal["mains"] = "mains"
    pressure: float = field(350e3, "Pressure at rest", "pressure", ge=0, le=5e6)
    flowing: float = field(0.0, "Measured flow, 0 for none", "flow", ge=0, le=1)
    flowing_pressure: float = field(0.0, "Pressure at that flow", "pressure", ge=0, le=5e6)

    @model_validator(mode="after")
    def _falls(self) -> Mains:
        if self.flowing > 0 and self.flowing_pressure >= self.pressure:
            raise ValueError("the pressure with water running must be below the one at rest")
        return self


class Tank(What):
    """Open water by its level (m): a tank, a pond, a spring box. A foot valve at the intake keeps a suction line full.

    What comes back to it by `in` is thrown at the water's level, or at the pipe's own where that is above the water.
    """

    traits: ClassVar[tuple[Trait, ...]] = ("leads-drip",)
    kind: Literal["tank"] = "tank"
    water_level: float = field(10.0, "Water level", "level", ge=-3000, le=9000)
    intake: Literal["outlet", "foot valve"] = Field("outlet", title="Pipe begins at")


register(
    Kind(
        model=WellPump,
        title="Well pump",
        letter="W",
        role="source",
        ports=(thread_port("out", "out", "Outlet", "1-1/4", serves=True),),
        bears=True,
        needs="one run",
    )
)
register(
    Kind(
        model=Mains,
        title="Mains tapping",
        letter="M",
        role="source",
        ports=(thread_port("out", "out", "Outlet", "1"),),
        bears=True,
        needs="one run",
    )
)
register(
    Kind(
        model=Tank,
        title="Tank or pond",
        letter="K",
        role="source",
        ports=(
            PortSpec("out", "suction", "Outlet", needs=False, given=given_thread("1-1/2")),
            PortSpec("in", "in", "Inlet", needs=False, given=given_thread("1-1/2")),
        ),
        bears=True,
        apart=True,
        needs="one run at its outlet, and one at its inlet where something comes back",
    )
)
