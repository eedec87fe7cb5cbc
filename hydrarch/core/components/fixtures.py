"""Where water is drawn in a house: basin, shower, bath, closet, sink and what else stands there, each side by itself.

A fixture with hot and cold is two places on the wall, one beside the other, as the fitter sets two wall plates. What
each counts for together with others stands in a table of the catalogue, by its kind.
"""

from __future__ import annotations

from math import inf
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from hydrarch.core.components.base import Kind, Trait, field, register, thread_port
from hydrarch.core.components.outlets import Outlet, Tap

__all__ = [
    "DRINKING",
    "Bath",
    "Bidet",
    "Dishwasher",
    "Fixture",
    "GardenTap",
    "KitchenSink",
    "LaundryTap",
    "Shower",
    "WashBasin",
    "WaterCloset",
]

Side = Literal["cold", "hot"]


class Fixture(Outlet):
    """Base of what draws water in a house: `flow` (m³/s) and the pressure it `needs` (Pa) at its wall plate,
    on its cold or its hot `side`.

    A thermostatic `mixer` keeps it from scalding; one that nobody looked at counts as none. `wets` says that
    people stand or sit under it, and how warm (K) it may be then at the most.
    """

    traits: ClassVar[tuple[Trait, ...]] = ("fixture",)
    wets: ClassVar[float] = inf
    sides: ClassVar[tuple[Side, ...]] = ("cold", "hot")
    flow: float = field(1e-4, "Flow wanted", "flow", gt=0, le=1)
    needs: float = field(100e3, "Pressure wanted", "pressure", ge=0, le=2e6)
    side: Side = Field("cold", title="Side")
    mixer: Annotated[
        Literal["not looked at", "thermostatic", "plain"],
        Field(title="Its mixer", json_schema_extra={"only": {"side": ["hot"]}}),
    ] = "not looked at"


SCALDS = 322.0389
"""K: 120 °F (49 °C), the most that a shower or a bath may give; North American plumbing codes, from memory."""


class WashBasin(Fixture):
    """A wash basin, a bathroom's or a hand's."""

    wets: ClassVar[float] = SCALDS
    kind: Literal["wash_basin"] = "wash_basin"


class Shower(Fixture):
    """A shower."""

    wets: ClassVar[float] = SCALDS
    kind: Literal["shower"] = "shower"
    flow: float = field(2e-4, "Flow wanted", "flow", gt=0, le=1)


class Bath(Fixture):
    """A bath tub."""

    wets: ClassVar[float] = SCALDS
    kind: Literal["bath"] = "bath"
    flow: float = field(4e-4, "Flow wanted", "flow", gt=0, le=1)


class Bidet(Fixture):
    """A bidet."""

    wets: ClassVar[float] = SCALDS
    kind: Literal["bidet"] = "bidet"


class WaterCloset(Fixture):
    """A closet with a tank; its own valve fills it, with cold water alone."""

    sides: ClassVar[tuple[Side, ...]] = ("cold",)
    kind: Literal["closet"] = "closet"


class KitchenSink(Fixture):
    """A kitchen sink."""

    kind: Literal["kitchen_sink"] = "kitchen_sink"
    flow: float = field(2e-4, "Flow wanted", "flow", gt=0, le=1)


class LaundryTap(Fixture):
    """The tap of a machine that washes clothes."""

    kind: Literal["laundry_tap"] = "laundry_tap"
    flow: float = field(2e-4, "Flow wanted", "flow", gt=0, le=1)


class Dishwasher(Fixture):
    """The tap of a machine that washes dishes."""

    kind: Literal["dishwasher"] = "dishwasher"
    flow: float = field(2e-4, "Flow wanted", "flow", gt=0, le=1)


class GardenTap(Fixture):
    """A hose tap on a house wall, for the garden or the car."""

    sides: ClassVar[tuple[Side, ...]] = ("cold",)
    kind: Literal["garden_tap"] = "garden_tap"
    flow: float = field(5e-4, "Flow wanted", "flow", gt=0, le=1)


DRINKING = (Tap, Fixture)
"""Outlets whose water may be drunk."""


def _fixture(model: type[Fixture], title: str, letter: str, size: str = "1/2") -> None:
    register(
        Kind(
            model=model,
            title=title,
            letter=letter,
            role="outlet",
            ports=(thread_port("in", "in", "Wall plate", size, takes=2),),
            bears=True,
            needs="one run, or two where the line goes on",
        )
    )


_fixture(WashBasin, "Wash basin", "BN")
_fixture(Shower, "Shower", "SH")
_fixture(Bath, "Bath", "BA")
_fixture(WaterCloset, "Closet", "WC")
_fixture(Bidet, "Bidet", "BD")
_fixture(KitchenSink, "Kitchen sink", "KS")
_fixture(LaundryTap, "Laundry tap", "LT")
_fixture(Dishwasher, "Dishwasher tap", "DT")
_fixture(GardenTap, "Garden tap", "GT")
