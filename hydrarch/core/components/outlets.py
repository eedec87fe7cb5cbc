"""Where water leaves: taps, sprinklers, drip zones, rows of emitters.

Each stands above the line on a riser, sits on it, or ends it.
"""

from __future__ import annotations

from math import pi
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import Field, PrivateAttr

from hydrarch.core.base.identity import Refers
from hydrarch.core.components.base import Kind, PortSpec, Trait, What, field, register, thread_port

__all__ = ["DRIPPING", "IRRIGATING", "Bubbler", "Drip", "DripRow", "Hydrant", "Outlet", "Sprinkler", "Tap"]


class Outlet(What):
    """Base of what draws water: `flow` (m³/s), the pressure it `needs` (Pa) at its own `height` (m above ground)."""

    if TYPE_CHECKING:
        flow: float
        needs: float
        height: float


class Tap(Outlet):
    """A standpipe tap that draws `flow` (m³/s) and wants `needs` (Pa) at its own height."""

    kind: Literal["tap"] = "tap"
    flow: float = field(2.5e-4, "Flow wanted", "flow", gt=0, le=1)
    needs: float = field(100e3, "Pressure wanted", "pressure", ge=0, le=2e6)
    height: float = field(1.0, "Height above ground", "length", ge=-5, le=100)


class Hydrant(Outlet):
    """A hydrant on a metal riser, opened by hand: it draws `flow` (m³/s) and wants `needs` (Pa) at its own height."""

    kind: Literal["hydrant"] = "hydrant"
    flow: float = field(5e-4, "Flow wanted", "flow", gt=0, le=1)
    needs: float = field(150e3, "Pressure wanted", "pressure", ge=0, le=2e6)
    height: float = field(0.5, "Height above ground", "length", ge=-5, le=100)


class Sprinkler(Outlet):
    """A head that passes `flow` (m³/s) at `at_pressure` (Pa), and q = k·p^x at others; `radius` (m) is its throw at
    that pressure.

    A check in it keeps back so much (m). By `nozzle` its throw is read from that table. It waters an `arc` (rad) that
    `begins` (rad from east) on its right-hand side, as one stands behind it.
    """

    traits: ClassVar[tuple[Trait, ...]] = ("waters", "throws")
    kind: Literal["sprinkler"] = "sprinkler"
    flow: float = field(1.4e-4, "Flow", "flow", gt=0, le=1)
    at_pressure: float = field(210e3, "at pressure", "pressure", gt=0, le=2e6)
    exponent: float = field(0.5, "Exponent x", "ratio", ge=0.1, le=1)
    needs: float = field(200e3, "Least pressure", "pressure", ge=0, le=2e6)
    height: float = field(0.0, "Height above ground", "length", ge=-5, le=100)
    radius: float = field(9.0, "Throw", "length", ge=0, le=100)
    arc: float = field(2 * pi, "Arc", "angle", ge=pi / 36, le=2 * pi)
    begins: float = field(0.0, "Arc begins, left of east", "angle", ge=-2 * pi, le=2 * pi)
    nozzle: Annotated[str, Refers("nozzle")] = Field("", title="Nozzle it was set by", max_length=60)
    check: float = field(0.0, "Its check keeps back", "head", ge=0, le=20)

    def turned(self, angle: float) -> Sprinkler:
        """Its arc goes round with it."""
        return self.model_copy(update={"begins": (self.begins + angle) % (2 * pi)})

    def mirrored(self, east_west: bool) -> Sprinkler:
        """Its arc begins where it ended, on the other side."""
        ended = self.begins + self.arc
        return self.model_copy(update={"begins": (pi - ended if east_west else -ended) % (2 * pi)})


class Drip(Outlet):
    """A drip zone that draws `flow` (m³/s) and wants `needs` (Pa).

    With exponent 0 its emitters compensate for pressure and draw that flow at any; else q = k·p^x, `flow` at `needs`.
    """

    traits: ClassVar[tuple[Trait, ...]] = ("waters", "drips")
    kind: Literal["drip"] = "drip"
    flow: float = field(1e-4, "Flow", "flow", gt=0, le=1)
    exponent: float = field(0.0, "Exponent x, 0 compensates", "ratio", ge=0, le=1)
    needs: float = field(140e3, "Least pressure", "pressure", ge=0, le=2e6)
    height: float = field(0.0, "Height above ground", "length", ge=-5, le=100)


class Bubbler(Outlet):
    """A bubbler in a basin, or an emitter by itself at one plant: it passes `flow` (m³/s) at `at_pressure` (Pa), and q
    = k·p^x at others.

    With exponent 0 it compensates, and passes that at any from `needs` (Pa) on.
    """

    traits: ClassVar[tuple[Trait, ...]] = ("waters", "drips")
    kind: Literal["bubbler"] = "bubbler"
    flow: float = field(1.6e-5, "Flow", "emitter", gt=0, le=1e-3)
    at_pressure: float = field(100e3, "at pressure", "pressure", gt=0, le=1e6)
    exponent: float = field(0.5, "Exponent x, 0 compensates", "ratio", ge=0, le=1)
    needs: float = field(70e3, "Least pressure", "pressure", ge=0, le=1e6)
    height: float = field(0.0, "Height above ground", "length", ge=-5, le=100)


class DripRow(Outlet):
    """The plugged end of a row of emitters: the tubing that comes here drips all along, back to where it branches off.

    Each passes `each` (m³/s) at `at_pressure` (Pa), and q = k·p^x at others; with exponent 0 it compensates, and passes
    that at any from `needs` (Pa) on. They are `spacing` (m) apart, the first half of that from where the row begins;
    `count` is how many, None for as many as fit. `variation` is the maker's coefficient of variation of their flow.
    What is `set` on a feeder stands so far (m) from the tubing. At its `end` a plug closes it, or a valve that lets out
    what has settled.
    """

    traits: ClassVar[tuple[Trait, ...]] = ("waters", "drips")
    kind: Literal["drip_row"] = "drip_row"
    spacing: float = field(0.3, "Emitters apart by", "length", ge=0.02, le=100)
    each: float = field(2e-3 / 3600, "Flow of each", "emitter", gt=0, le=1e-4)
    at_pressure: float = field(100e3, "at pressure", "pressure", gt=0, le=1e6)
    exponent: float = field(0.5, "Exponent x, 0 compensates", "ratio", ge=0, le=1)
    needs: float = field(70e3, "Least pressure", "pressure", ge=0, le=1e6)
    variation: float = field(0.05, "Maker's variation", "ratio", ge=0, le=0.5)
    count: float | None = field(None, "Emitters, blank for as many as fit", "ratio", ge=1, le=5000)
    built: Literal["in line", "on the tubing", "on feeders"] = Field("in line", title="Emitters sit")
    feeder: float = field(0.3, "Length of each feeder", "length", ge=0, le=30)
    end: Literal["plug", "flush valve"] = Field("plug", title="At its end")
    _laid: int = PrivateAttr(1)

    @property
    def emitters(self) -> int:
        """How many there are: the crew's number, or as many as fit on the row as it is drawn; one where that is on no
        drawing.
        """
        return max(1, round(self.count or self._laid))

    def laid(self, emitters: int) -> DripRow:
        """It on a row that so many fit on."""
        other = self.model_copy()
        other._laid = emitters
        return other

    @property  # type: ignore[misc]
    def flow(self) -> float:
        """What they all draw (m³/s) at their pressure."""
        return self.emitters * self.each


DRIPPING = (Drip, DripRow, Bubbler)
"""Outlets that ask for a drip line's head: clean water at a low pressure."""
IRRIGATING = (Sprinkler, *DRIPPING)
"""Outlets whose water lies about on the ground, and must not come back."""


def _outlet(model: type[Outlet], title: str, letter: str, size: str, turns: bool) -> None:
    port = thread_port("in", "in", "Inlet", size, takes=2, serves=True)
    register(
        Kind(
            model=model,
            title=title,
            letter=letter,
            role="outlet",
            ports=(port,),
            turns=turns,
            stands=True,
            needs="one run, or two where the line goes on",
        )
    )


_outlet(Tap, "Tap", "T", "3/4", turns=False)
_outlet(Hydrant, "Hydrant", "Y", "1", turns=False)
_outlet(Sprinkler, "Sprinkler", "S", "1/2", turns=True)
_outlet(Drip, "Drip zone", "D", "3/4", turns=True)
_outlet(Bubbler, "Bubbler", "BU", "1/2", turns=True)
register(
    Kind(
        model=DripRow,
        title="Drip row",
        letter="E",
        role="outlet",
        ports=(PortSpec("line", "any", "Line"),),
        needs="the tubing it ends, back to where that branches off",
        families=("cap",),
    )
)
