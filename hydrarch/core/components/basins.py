"""Bodies of water and what is let into their walls: ponds, tubs, tanks, their skimmers, covers, returns, jets, drains
and floats.

A body of water is a shape that nothing is joined to; what is joined stands in its wall, where it is drawn. How the
water of a fitting's body stands follows from where the fitting is, and is no part of the document (`core/basins.py`).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, pi, sin
from typing import TYPE_CHECKING, ClassVar, Literal

from pydantic import Field, PrivateAttr, model_validator

from hydrarch.core.components.base import Kind, Model, PortSpec, Trait, What, field, listed, register, thread_port
from hydrarch.core.components.outlets import Outlet

__all__ = [
    "USES",
    "Basin",
    "Blower",
    "Bulkhead",
    "BulkheadIn",
    "Corner",
    "Heater",
    "InWall",
    "Jet",
    "Returns",
    "Skimmer",
    "Standpipe",
    "Suction",
    "SuctionCover",
    "TopUp",
    "Waters",
    "sockets",
]

Use = Literal["swimming pond", "garden pond", "fish pond", "hot tub", "plunge tub", "show tank", "sump", "tank"]
USES: tuple[Use, ...] = (
    "swimming pond",
    "garden pond",
    "fish pond",
    "hot tub",
    "plunge tub",
    "show tank",
    "sump",
    "tank",
)


class Corner(Model):
    """A corner of a free outline, east and north (m) of the thing."""

    east: float = field(0.0, "East", "length", ge=-500, le=500)
    north: float = field(0.0, "North", "length", ge=-500, le=500)


_OBLONG = {"shape": ["oblong"]}
_MEASURED = {"shape": ["round", "oblong"]}


class Basin(What):
    """A body of water: its outline at the rim, its `depth` (m) from the rim down, and how far below the rim its water
    stands.

    Round, it is `long` across; oblong, `long` by `wide`, turned by `facing` (rad from east). `floor` is the share of
    the rim's area that is level at the bottom, 1 for upright walls: between the two it narrows evenly. `rim` (m) is
    above the ground. `warm` (K) is what its water is kept at, None for as it comes; `turnover` (s) how long once round
    takes, None for what is usual for its use. What is let into `walls` of a liner is clamped to it by a face and
    screws.
    """

    traits: ClassVar[tuple[Trait, ...]] = ("water-body",)
    kind: Literal["basin"] = "basin"
    use: Use = Field("garden pond", title="What it is")
    shape: Literal["round", "oblong", "outline"] = Field("oblong", title="Shape")
    long: float = field(3.0, "Length, or across", "length", _MEASURED, gt=0, le=500)
    wide: float = field(2.0, "Width", "length", _OBLONG, gt=0, le=500)
    facing: float = field(0.0, "Its length points, left of east", "angle", _OBLONG, ge=-2 * pi, le=2 * pi)
    outline: tuple[Corner, ...] = listed(
        60, title="Corners of its outline", json_schema_extra={"only": {"shape": ["outline"]}}
    )
    depth: float = field(1.0, "Depth, from the rim", "length", gt=0, le=50)
    floor: float = field(1.0, "Floor, share of the rim's area", "ratio", ge=0, le=1)
    rim: float = field(0.0, "Rim above ground", "length", ge=-20, le=50)
    below_rim: float = field(0.1, "Water stands below the rim", "length", ge=0, le=50)
    turnover: float | None = field(None, "Once round takes, blank for what is usual", "hours", gt=0, le=1e7)
    warm: float | None = field(None, "Kept at, blank for as it comes", "temperature", ge=273.15, le=373.15)
    lies: Literal["open", "under a lid"] = Field("open", title="It lies")
    walls: Literal["rigid", "liner"] = Field("rigid", title="Its wall is")

    @property
    def lid(self) -> bool:
        """Whether a lid lies on it."""
        return self.lies == "under a lid"

    def turned(self, angle: float) -> Basin:
        """Its length points another way, and so do its corners."""
        corners = tuple(
            Corner(
                east=round(c.east * cos(angle) - c.north * sin(angle), 6),
                north=round(c.east * sin(angle) + c.north * cos(angle), 6),
            )
            for c in self.outline
        )
        return self.model_copy(update={"facing": (self.facing + angle) % (2 * pi), "outline": corners})

    def mirrored(self, east_west: bool) -> Basin:
        """Its mirror image."""
        corners = tuple(
            Corner(east=-c.east if east_west else c.east, north=c.north if east_west else -c.north)
            for c in reversed(self.outline)
        )
        return self.model_copy(
            update={"facing": (pi - self.facing if east_west else -self.facing) % (2 * pi), "outline": corners}
        )


@dataclass(frozen=True, slots=True)
class Waters:
    """How a fitting stands to its body of water: whose it is, its water's level, its rim's and its floor's (m)."""

    basin: str
    level: float
    rim: float
    floor: float


class InWall(What):
    """Base of what is let into the wall or floor of a body of water. In no body it is dry."""

    draws_below: ClassVar[float] = 0.0
    """How far (m) below its own place water still comes to it."""
    _waters: Waters | None = PrivateAttr(None)

    @property
    def waters(self) -> Waters | None:
        """Its body of water; None where it stands in none."""
        return self._waters

    @property
    def water_level(self) -> float | None:
        """Where the water of its body stands (m); None where it stands in none."""
        return None if self._waters is None else self._waters.level

    def let_in(self, waters: Waters | None) -> InWall:
        """It in the wall of a body of water."""
        other = self.model_copy()
        other._waters = waters
        return other


class Suction(InWall):
    """Base of what a line draws from a body of water by. `rated` (m³/s) is what its cover is made for."""

    rated: float = field(0.0, "Its cover is rated for, 0 for not told", "flow", ge=0, le=1)


class Skimmer(Suction):
    """A skimmer at the water's level: its flap follows the water, its box holds what a basket keeps back."""

    draws_below: ClassVar[float] = 0.1
    kind: Literal["skimmer"] = "skimmer"


class SuctionCover(Suction):
    """A suction or a drain in wall or floor, under a cover: one that a body can lie on, or one that none can block."""

    kind: Literal["suction_cover"] = "suction_cover"
    cover: Literal["a body can block it", "no body can block it"] = Field("a body can block it", title="Its cover")


class Bulkhead(InWall):
    """A hole in a wall with a bulkhead fitting in it, by which water is let out. `wall` (m) is how thick that is."""

    kind: Literal["bulkhead"] = "bulkhead"
    wall: float = field(0.01, "The wall is thick", "cut", gt=0, le=0.5)


class BulkheadIn(InWall):
    """A bulkhead fitting in a wall by which water comes in."""

    kind: Literal["bulkhead_in"] = "bulkhead_in"
    wall: float = field(0.01, "The wall is thick", "cut", gt=0, le=0.5)


class Returns(InWall):
    """Where water comes back to its body, at its level or under it.

    A `hole` so far (m) above it lets air in when the water falls to it, so that nothing more siphons back; 0 for none.
    """

    kind: Literal["returns"] = "returns"
    hole: float = field(0.0, "Hole that lets air in, above it by; 0 for none", "takeoff", ge=0, le=20)


class Jet(InWall):
    """Base of a jet in the wall of a tub: it throws `flow` (m³/s) at `at_pressure` (Pa, over what stands above it), and
    takes `air` (m³/s).
    """

    if TYPE_CHECKING:
        flow: float
        at_pressure: float
        air: float


class LargeJet(Jet):
    """A jet of a large body: 2 in of water and 1-1/2 in of air, common practice."""

    kind: Literal["jet"] = "jet"
    flow: float = field(9.5e-4, "Flow", "flow", gt=0, le=1)
    at_pressure: float = field(70e3, "at pressure", "pressure", gt=0, le=1e6)
    air: float = field(0.0033, "Air it takes", "air", ge=0, le=1)


class SmallJet(Jet):
    """A jet of a small body: an inch of water and an inch of air, common practice."""

    kind: Literal["small_jet"] = "small_jet"
    flow: float = field(4.0e-4, "Flow", "flow", gt=0, le=1)
    at_pressure: float = field(70e3, "at pressure", "pressure", gt=0, le=1e6)
    air: float = field(0.0015, "Air it takes", "air", ge=0, le=1)


class Standpipe(InWall):
    """A standpipe in an overflow box or a tank: its open end `up` (m) above its foot takes what rises to it, by its own
    fall.

    An `open` one takes air with the water and is noisy and safe; a `full` one is shut to air and runs as a siphon; `in
    need` takes only what the others leave. `flow` (m³/s) is what it must take alone, None for what the pumps bring.
    """

    kind: Literal["standpipe"] = "standpipe"
    works: Literal["open", "full", "in need"] = Field("open", title="It works")
    up: float = field(0.3, "Its open end above its foot", "cut", ge=0, le=20)
    bore: float = field(0.04, "Bore of its open end", "cut", gt=0, le=1)
    flow: float | None = field(None, "Must take alone, blank for all that comes", "flow", gt=0, le=1)


class TopUp(Outlet):
    """A float valve that fills a body of water up to `stops` (m) below its rim, from `gap` (m) above the rim: an air
    gap.
    """

    kind: Literal["top_up"] = "top_up"
    flow: float = field(1.5e-4, "Flow wanted", "flow", gt=0, le=1)
    needs: float = field(50e3, "Pressure wanted", "pressure", ge=0, le=2e6)
    height: float = field(0.0, "Height above ground", "length", ge=-5, le=100)
    stops: float = field(0.1, "It shuts with the water below the rim by", "cut", ge=0, le=20)
    opening: float = field(0.019, "Bore of its spout", "cut", gt=0, le=0.3)
    gap: float = field(0.05, "Spout above the rim by", "cut", ge=-5, le=5)


class Blower(What):
    """A blower of air for the jets of a tub: its curve of flow (m³/s) and head of water (m), and its outlet."""

    kind: Literal["blower"] = "blower"
    flow: float = field(0.03, "Air at no pressure", "air", gt=0, le=10)
    most: float = field(1.8, "Head of water at which none comes", "head", gt=0, le=50)


class Heater(What):
    """What warms, chills or cleans water on its way: `power` (W) to or from it, the `least` and the `largest` flow
    (m³/s) its maker allows.

    It loses `loss` (Pa) at the largest flow, as flow squared. `gives` (K) is the water a heater on a supply gives, or
    what a valve at its outlet `mixes` it to, and `stores` (m³) is how much of it it holds; a tub's goes round at what
    the tub is kept at.
    """

    kind: Literal["heater"] = "heater"
    does: Literal["heats", "chills", "disinfects"] = Field("heats", title="It")
    power: float = field(6000.0, "Power", "power", ge=0, le=1e6)
    least: float = field(3e-4, "Least flow", "flow", ge=0, le=1)
    largest: float = field(3e-3, "Largest flow", "flow", gt=0, le=1)
    loss: float = field(15e3, "Loss at the largest flow", "pressure", ge=0, le=1e6)
    gives: float = field(333.15, "Hot water it gives to a supply", "temperature", ge=273.15, le=373.15)
    stores: float | None = field(None, "Water it stores, blank if not known", "volume", ge=0, le=100)
    mixes: float | None = field(
        None, "A mixing valve on its outlet is set to, blank for none", "temperature", ge=293.15, le=373.15
    )

    @property
    def sends(self) -> float:
        """How warm (K) the water is that it sends on to a supply."""
        return self.gives if self.mixes is None else min(self.gives, self.mixes)

    @model_validator(mode="after")
    def _between(self) -> Heater:
        if self.largest <= self.least:
            raise ValueError("the largest flow must be above the least")
        return self


def sockets(inch: str, metric: str) -> dict[str, str]:
    """A solvent socket in each market: by pipe size, or by metric diameter."""
    own = f"solvent:socket:{inch}"
    return {"north-american": own, "elsewhere": f"solvent-metric:socket:{metric}", "both": own}


def _jet(model: type[Jet], title: str, letter: str, water: dict[str, str], air: dict[str, str]) -> None:
    ports = (
        PortSpec("water", "in", "Water", takes=2, given=water),
        PortSpec("air", "air", "Air", takes=2, given=air, needs=False),
    )
    register(
        Kind(
            model=model,
            title=title,
            letter=letter,
            role="end",
            ports=ports,
            needs="a run at its water, and one at its air where it takes air",
            bears=True,
            apart=True,
        )
    )


_BY_WALL = dict.fromkeys(("north-american", "elsewhere", "both"), "bulkhead:wall:1-1/2")
_WALLS = ("bulkhead:wall",)


_UNIONS = sockets("1-1/2", "50")
register(
    Kind(
        model=Heater,
        title="Heater or chiller",
        letter="H",
        role="device",
        ports=(
            PortSpec("in", "in", "Inlet", given=_UNIONS, serves=True),
            PortSpec("out", "out", "Outlet", given=_UNIONS, serves=True),
        ),
        needs="two runs, one at each side",
        bears=True,
    )
)
_OUT = (PortSpec("out", "suction", "Outlet", given=sockets("2", "63"), serves=True),)
register(
    Kind(
        model=Basin,
        title="Body of water",
        letter="WB",
        role="body",
        ports=(),
        needs="fittings in its wall: nothing is joined to the water itself",
    )
)
register(Kind(model=Skimmer, title="Skimmer", letter="SK", role="source", ports=_OUT, needs="one run", bears=True))
register(
    Kind(
        model=SuctionCover,
        title="Suction or drain",
        letter="SU",
        role="source",
        ports=_OUT,
        needs="one run",
        bears=True,
    )
)
register(
    Kind(
        model=Bulkhead,
        title="Bulkhead out",
        letter="BH",
        role="source",
        ports=(PortSpec("out", "suction", "Wall", given=_BY_WALL, ends=_WALLS),),
        needs="one run on its dry side",
        bears=True,
    )
)
register(
    Kind(
        model=BulkheadIn,
        title="Bulkhead in",
        letter="BI",
        role="end",
        ports=(PortSpec("in", "in", "Wall", given=_BY_WALL, ends=_WALLS),),
        needs="one run on its dry side",
        bears=True,
    )
)
register(
    Kind(
        model=Standpipe,
        title="Standpipe",
        letter="SO",
        role="source",
        ports=(PortSpec("out", "suction", "Foot", given=_BY_WALL, ends=_WALLS),),
        needs="one run at its foot",
        bears=True,
    )
)
register(
    Kind(
        model=Returns,
        title="Return",
        letter="RT",
        role="end",
        ports=(PortSpec("in", "in", "Inlet", given=sockets("1-1/2", "50")),),
        needs="one run",
        bears=True,
    )
)
_jet(LargeJet, "Jet", "JT", sockets("2", "63"), sockets("1-1/2", "50"))
_jet(SmallJet, "Small jet", "JS", sockets("1", "32"), sockets("1", "32"))
register(
    Kind(
        model=TopUp,
        title="Float valve",
        letter="FV",
        role="outlet",
        ports=(thread_port("in", "in", "Inlet", "1/2"),),
        needs="one run",
        bears=True,
    )
)
register(
    Kind(
        model=Blower,
        title="Blower",
        letter="BL",
        role="device",
        ports=(PortSpec("out", "air", "Outlet", given=sockets("2", "63"), serves=True),),
        needs="one run",
        bears=True,
    )
)
