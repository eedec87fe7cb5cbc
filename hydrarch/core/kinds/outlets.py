"""Where water leaves: taps, sprinklers, drip zones. Each stands above the line on a riser, or sits on it."""

from __future__ import annotations

from math import pi
from typing import TYPE_CHECKING, Literal

from hydrarch.core.kinds.base import Kind, What, field, register, thread_port

__all__ = ["Drip", "Outlet", "Sprinkler", "Tap"]


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


class Sprinkler(Outlet):
    """A head that passes `flow` (m³/s) at `at_pressure` (Pa), and q = k·p^x at others; `radius` (m) is its throw at that pressure.

    It waters an `arc` (rad) that `begins` (rad from east) on its right-hand side, as one stands behind it.
    """

    kind: Literal["sprinkler"] = "sprinkler"
    flow: float = field(1.4e-4, "Flow", "flow", gt=0, le=1)
    at_pressure: float = field(210e3, "at pressure", "pressure", gt=0, le=2e6)
    exponent: float = field(0.5, "Exponent x", "ratio", ge=0.1, le=1)
    needs: float = field(200e3, "Least pressure", "pressure", ge=0, le=2e6)
    height: float = field(0.0, "Height above ground", "length", ge=-5, le=100)
    radius: float = field(9.0, "Throw", "length", ge=0, le=100)
    arc: float = field(2 * pi, "Arc", "angle", ge=pi / 36, le=2 * pi)
    begins: float = field(0.0, "Arc begins, left of east", "angle", ge=-2 * pi, le=2 * pi)

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

    kind: Literal["drip"] = "drip"
    flow: float = field(1e-4, "Flow", "flow", gt=0, le=1)
    exponent: float = field(0.0, "Exponent x, 0 compensates", "ratio", ge=0, le=1)
    needs: float = field(140e3, "Least pressure", "pressure", ge=0, le=2e6)
    height: float = field(0.0, "Height above ground", "length", ge=-5, le=100)


def _outlet(model: type[Outlet], title: str, letter: str, size: str, turns: bool) -> None:
    port = thread_port("in", "in", "Inlet", size, takes=2, serves=True)
    register(
        Kind(model, title, letter, "outlet", (port,), turns=turns, stands=True, needs="one run, or two where the line goes on")
    )


_outlet(Tap, "Tap", "T", "3/4", turns=False)
_outlet(Sprinkler, "Sprinkler", "S", "1/2", turns=True)
_outlet(Drip, "Drip zone", "D", "3/4", turns=True)
