"""What brings water to a drain and where a drain ends, by the trade's own names: downpipe, channel, floor drain, waste
through a wall, washer's standpipe; connection, soakaway, pop-up.
"""

from __future__ import annotations

from typing import Literal, get_args

from pydantic import Field

from hydrarch.core.catalogue.fittings import pipe_end
from hydrarch.core.catalogue.markets import Market
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.components.base import Kind, PortSpec, field, register
from hydrarch.core.components.drains import DrainEnd, DrainPump, Inlet, Surface
from hydrarch.core.components.sources import CurvePoint, curve_field

__all__ = [
    "ChannelDrain",
    "Downpipe",
    "FloorDrain",
    "LaundryStandpipe",
    "PopUp",
    "SewerConnection",
    "Soakaway",
    "Waste",
    "stub_of",
]

Told = Literal["not known", "yes", "no"]
"""What a crew has looked at, or has not."""


class Downpipe(Inlet):
    """The foot of a roof's downpipe: the share of the roof that runs to it is its `area` (m², seen from above);
    `across` (m) is how wide the downpipe is inside, 0 where nobody measured it.
    """

    kind: Literal["downpipe"] = "downpipe"
    area: float = field(40.0, "Roof that runs to it, seen from above; 0 for none", "area", ge=0, le=1e6)
    across: float = field(0.0, "The downpipe is wide inside, 0 if not measured", "takeoff", ge=0, le=1)
    foot: Literal["straight into the drain", "by a shoe, over a gully"] = Field(
        "straight into the drain", title="Its foot goes"
    )
    leaf_trap: Told = Field("not known", title="Leaves are kept out of it")


class ChannelDrain(Inlet):
    """A grated channel of `long` (m) that takes what runs over paving."""

    kind: Literal["channel_drain"] = "channel_drain"
    area: float = field(20.0, "Ground it drains, seen from above; 0 for none", "area", ge=0, le=1e6)
    surface: Surface = Field("paving", title="That is")
    long: float = field(3.0, "Length of the channel", "length", gt=0, le=200)


class FloorDrain(Inlet):
    """A drain in a floor, with a trap or without one."""

    kind: Literal["floor_drain"] = "floor_drain"
    trap: Told = Field("not known", title="It has a trap")


class Waste(Inlet):
    """What comes through a wall or a floor out of a house: `across` (m) is its outside width, 0 where nobody measured
    it, and `drains` what it drains.
    """

    kind: Literal["waste"] = "waste"
    drains: Literal[
        "not known", "toilets and all", "toilet", "bath or shower", "basin", "kitchen sink", "washer", "floor drain"
    ] = Field("not known", title="What it drains")
    made_of: Literal["not known", "plastic", "cast iron", "copper", "lead", "clay", "bituminized fibre"] = Field(
        "not known", title="Made of"
    )
    across: float = field(0.0, "Outside, 0 if not measured", "takeoff", ge=0, le=1)
    cleanout: Told = Field("not known", title="It has a clean-out of its own")


class LaundryStandpipe(Inlet):
    """An open upright pipe with a trap under it, that a washer's hose or a diverter's branch runs into with air
    between: `rim` (m) is how high its rim stands over the floor.
    """

    kind: Literal["laundry_standpipe"] = "laundry_standpipe"
    rim: float = field(0.9, "Its rim stands over the floor by", "cut", ge=0, le=3)
    trap: Told = Field("yes", title="It has a trap")


class Washer(DrainPump):
    """A washing machine that pumps its water out by a hose: `hose_end` (m) is how high that ends above the floor.

    `load` (m³) is what it lets out each time, `loads` how often in a week; 0 where nobody knows.
    """

    kind: Literal["washer"] = "washer"
    level: float = field(0.4, "Level of its water", "level", ge=-3000, le=9000)
    curve: tuple[CurvePoint, ...] = curve_field((0.0, 2.6), (0.0006, 1.6), (0.0011, 0.3))
    hose: Told = Field("not known", title="The end of its hose fits what is bought for it")
    hose_end: float = field(0.9, "End of its hose above the floor", "cut", ge=0, le=3)
    load: float = field(0.0, "Water of one load, 0 if not known", "volume", ge=0, le=1)
    loads: float = field(0.0, "Loads in a week, 0 if not known", "ratio", ge=0, le=1000)


class SewerConnection(DrainEnd):
    """Where a drain joins what is there: a sewer, a tank, the street. Its `invert` (m) is fixed, None where nobody has
    read it.
    """

    kind: Literal["sewer_connection"] = "sewer_connection"
    into: Literal["sewer", "septic tank", "street gutter", "storm drain"] = Field("sewer", title="It goes into")
    invert: float | None = field(None, "Invert there, as read", "invert", ge=-3000, le=9000)


class Soakaway(DrainEnd):
    """A pit that lets rain soak away: `wide`, `long` and `deep` (m) below the pipe that comes in; `soaks` (m/s) as its
    test gave, 0 where none was made; the storm it is laid out for brings `storm_rain` (m) in `storm` (s).
    """

    kind: Literal["soakaway"] = "soakaway"
    wide: float = field(1.0, "Width", "length", gt=0, le=100)
    long: float = field(1.0, "Length", "length", gt=0, le=100)
    deep: float = field(1.0, "Depth under the pipe that comes in", "length", gt=0, le=20)
    filled: Literal["stone", "crates", "nothing: a lined ring"] = Field("stone", title="Filled with")
    soaks: float = field(0.0, "Soaks away by its test, 0 for none", "rain", ge=0, le=0.1)
    storm: float = field(3600.0, "Storm it is laid out for lasts", "hours", gt=0, le=7 * 86400)
    storm_rain: float = field(0.0, "Rain of that storm, 0 if not looked up", "depth", ge=0, le=1)


class PopUp(DrainEnd):
    """A lid in the lawn that the water lifts: what stands below it in the bend stays there."""

    kind: Literal["pop_up"] = "pop_up"
    weep: Told = Field("not known", title="A hole lets its bend drain into stone")


_OUT = PortSpec("out", "drain", "Outlet", ends=())
_FALLS_IN = PortSpec("in", "in", "What falls into it", takes=4, needs=False, ends=(), falls=True)
_ENDS = PortSpec("in", "drain", "Inlet", ends=(), falls=True)

_HOSE = dict.fromkeys(("north-american", "elsewhere", "both"), "vinyl:bore:1")
"""The end of a washer's hose: it goes over a barb with a clamp; its true bore is tried in the shop."""

_STUBS = {
    "cast iron": ("cast-iron",),
    "copper": ("copper-dwv",),
    "bituminized fibre": ("fibre",),
    "plastic": ("dwv40", "drain-metric"),
}
"""The series whose pipe comes out of a wall, by what a crew says it is made of; lead and clay are sold by none."""
_SPREAD = 0.0015
"""m by which what is measured across a stub may differ from a size: a tape about it and some dirt; from memory."""


def stub_of(what: Waste) -> str:
    """The end (by name) of what comes through the wall, by what it is made of and its width; "" where none is known to
    be so wide.
    """
    sizes = [(abs(p.outside - what.across), f, p.size) for f in _STUBS.get(what.made_of, ()) for p in series(f).sizes]
    off, name, size = min(sizes, default=(1.0, "", ""))
    return pipe_end(name, size).name if off <= _SPREAD else ""


def _waste_ports(what: Waste) -> tuple[PortSpec, ...]:
    """Its outlet is the stub itself, where that is known: what is joined to it is sold for its true width."""
    end = stub_of(what)
    out = PortSpec("out", "drain", "Outlet", given=dict.fromkeys(get_args(Market), end), ends=()) if end else _OUT
    return out, _FALLS_IN


for _model, _title, _letter in (
    (Downpipe, "Downpipe", "DP"),
    (ChannelDrain, "Channel drain", "CD"),
    (FloorDrain, "Floor drain", "FD"),
    (Waste, "Waste through a wall or floor", "WS"),
    (LaundryStandpipe, "Laundry standpipe with trap", "LS"),
):
    register(
        Kind(
            model=_model,
            title=_title,
            letter=_letter,
            role="drain",
            ports=_waste_ports if _model is Waste else (_OUT, _FALLS_IN),
            needs="one run at its outlet, and at its inlet what falls into it in the open",
            bears=True,
            apart=True,
        )
    )
for _end, _title, _letter in (
    (SewerConnection, "Connection to sewer, tank or street", "SC"),
    (Soakaway, "Soakaway", "SA"),
    (PopUp, "Pop-up outlet", "PO"),
):
    register(Kind(model=_end, title=_title, letter=_letter, role="drain", ports=(_ENDS,), needs="one run", bears=True))

register(
    Kind(
        model=Washer,
        title="Washer",
        letter="WM",
        role="drain",
        ports=(PortSpec("out", "pumped", "Hose", given=_HOSE, serves=True),),
        bears=True,
        needs="one run at its hose",
    )
)
