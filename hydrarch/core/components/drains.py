"""Where water runs away by its own fall, and the pit it is pumped from."""

from __future__ import annotations

from math import pi
from typing import Literal, Self

from pydantic import Field, model_validator

from hydrarch.core.catalogue.curves import Curve, check_curve, running_curve
from hydrarch.core.components.base import Kind, PortSpec, What, field, given_thread, register
from hydrarch.core.components.sources import CurvePoint, Lifter, curve_field

__all__ = ["RUNS_OFF", "DrainEnd", "DrainInlet", "DrainPump", "Inlet", "Outfall", "Sump", "Surface"]


Surface = Literal["roof", "paving", "gravel", "grass"]
RUNS_OFF: dict[Surface, float] = {"roof": 1.0, "paving": 0.9, "gravel": 0.5, "grass": 0.3}
"""The share of rain that runs off: 1.0 for roofs as in EN 12056-3; the others from memory, of the upper half of what
handbooks give."""


class Inlet(What):
    """Base of what water runs into a drain by; `flow` (m³/s) is the most that comes to it.

    Where it drains an `area` (m², seen from above) of roof or ground, what comes is that area's in the job's hardest
    rain, and `flow` is not asked.
    """

    flow: float = field(5e-4, "Most that comes to it, but for rain", "flow", gt=0, le=1)
    area: float = field(0.0, "Roof or ground it drains, seen from above; 0 for none", "area", ge=0, le=1e6)
    surface: Surface = Field("roof", title="That is")

    @property
    def runs_off(self) -> float:
        """The share of the rain on its area that comes to it."""
        return RUNS_OFF[self.surface]


class DrainInlet(Inlet):
    """Where water runs into a drain: a gully, a trap, a gutter's foot."""

    kind: Literal["drain_inlet"] = "drain_inlet"


class DrainEnd(What):
    """Base of what a drain ends at. What is pumped to it falls out in the open."""


class Outfall(DrainEnd):
    """Where a drain ends in the open: a ditch, daylight."""

    kind: Literal["outfall"] = "outfall"


class DrainPump(Lifter):
    """Base of what pumps waste or rain water away: its water's `level` (m) when the pump starts, and the pump's curve."""

    level: float = field(-1.0, "Water level when the pump starts", "level", ge=-3000, le=9000)
    curve: tuple[CurvePoint, ...] = curve_field((0.0, 9.0), (0.001, 7.5), (0.003, 2.5))

    @property
    def stands_by(self) -> bool:
        """Whether it runs only where another one fails."""
        return False

    @model_validator(mode="after")
    def _falls(self) -> Self:
        check_curve([(c.flow, c.head) for c in self.curve])
        return self

    def running(self) -> Curve:
        """Its pump's curve."""
        return running_curve(tuple((c.flow, c.head) for c in self.curve), 1.0)


class Sump(DrainPump):
    """A pit that a drain runs into and a pump lifts from.

    One that stands by runs only where the other one fails, on the mains or on a battery: never with it. `comes` (m³/s)
    is the most that runs into the pit, where its drains are not drawn; `stores` (m³) what it lifts between the floats
    that switch it on and off, `starts` how often in an hour it may; `battery` (C) what a battery holds at its 20-hour
    rate, and `draws` (A) what the pump takes from it; 0 for each that is not told.

    The pit, where somebody measured it, is `round`, `wide` (m), or square-cornered, `wide` by `long`; `floor`, `off`,
    `alarm` and `inlet` are the levels (m) of its floor, of the float that stops the pump, of the one that sounds and of
    the lowest drain that comes in; None where nobody read them.
    """

    kind: Literal["sump"] = "sump"
    turn: Literal["runs first", "stands by"] = Field("runs first", title="Its turn")
    shape: Literal["not measured", "round", "square-cornered"] = Field("not measured", title="The pit is")
    wide: float = field(0.45, "Width inside", "cut", only={"shape": ("round", "square-cornered")}, gt=0, le=20)
    long: float = field(0.45, "Length inside", "cut", only={"shape": ("square-cornered",)}, gt=0, le=20)
    floor: float | None = field(None, "Level of its floor", "level", ge=-3000, le=9000)
    off: float | None = field(None, "Water level when the pump stops", "level", ge=-3000, le=9000)
    alarm: float | None = field(None, "Water level when its alarm sounds", "level", ge=-3000, le=9000)
    inlet: float | None = field(None, "Invert of the lowest drain that comes in", "level", ge=-3000, le=9000)
    comes: float = field(0.0, "Most that comes to it, 0 for what its drains bring", "flow", ge=0, le=1)
    stores: float = field(0.0, "Water between its floats, 0 if not measured", "volume", ge=0, le=1000)
    starts: float = field(0.0, "Starts an hour it may make, 0 if not read", "ratio", ge=0, le=1000)
    battery: float = field(0.0, "Charge of its battery, 0 for none", "charge", ge=0, le=4e7)
    draws: float = field(0.0, "It draws from the battery", "current", ge=0, le=1000)

    @property
    def stands_by(self) -> bool:
        """Whether it runs only where another one fails."""
        return self.turn == "stands by"

    @property
    def across(self) -> float:
        """The area of its water (m²), 0 where nobody measured it."""
        if self.shape == "not measured":
            return 0.0
        return pi * self.wide**2 / 4 if self.shape == "round" else self.wide * self.long

    @property
    def lifts_each(self) -> float:
        """What it lifts each time (m³): as measured, or the pit between its floats; 0 where neither is known."""
        if self.stores or self.off is None:
            return self.stores
        return max(self.level - self.off, 0.0) * self.across


register(
    Kind(
        model=DrainInlet,
        title="Drain inlet",
        letter="G",
        role="drain",
        ports=(
            PortSpec("out", "drain", "Outlet", ends=()),
            PortSpec("in", "in", "What falls into it", takes=4, needs=False, ends=(), falls=True),
        ),
        needs="one run at its outlet, and at its inlet what falls into it in the open",
        bears=True,
        apart=True,
    )
)
register(
    Kind(
        model=Outfall,
        title="Outfall of a drain",
        letter="O",
        role="drain",
        ports=(PortSpec("in", "drain", "Inlet", ends=(), falls=True),),
        needs="one run",
        bears=True,
    )
)
register(
    Kind(
        model=Sump,
        title="Sump with its pump",
        letter="SP",
        role="drain",
        ports=(
            PortSpec("in", "drain", "Drain in", takes=4, needs=False, ends=()),
            PortSpec("out", "pumped", "Pump outlet", given=given_thread("1-1/2"), serves=True),
        ),
        needs="the pump's riser at its outlet, and drains at its inlet",
        bears=True,
        apart=True,
    )
)
