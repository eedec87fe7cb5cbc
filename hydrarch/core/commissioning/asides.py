"""What is done with each thing of a line before a test: what stays, what is taken off, and what then lets pressure by.

A type of thing that says nothing is not known to stand a test: it is taken off, and that is said.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import singledispatch

from hydrarch.core.components.base import What
from hydrarch.core.components.basins import Blower, Heater, InWall
from hydrarch.core.components.devices import (
    BackflowPreventer,
    CheckValve,
    Filter,
    Pump,
    Regulator,
    ThreeWay,
    Union,
    Valve,
    Vent,
)
from hydrarch.core.components.drains import DrainEnd, Inlet, Sump
from hydrarch.core.components.equipment import Equipment, Vessel
from hydrarch.core.components.inlets import Washer
from hydrarch.core.components.lines import Bend, Cap, Junction
from hydrarch.core.components.outlets import Outlet
from hydrarch.core.components.protection import ExpansionTank, Injector, ReliefValve
from hydrarch.core.components.sources import Mains, Tank, WellPump
from hydrarch.core.components.wells import Pitless

__all__ = ["Aside", "bridged", "set_aside"]


@dataclass(frozen=True, slots=True)
class Aside:
    """What is done with a thing before a test: in words ("" where it stays), whether its own joints are `parted` and
    made again after it, and whether what stands in its place `passes` pressure.
    """

    says: str = ""
    parted: bool = False
    passes: bool = True


_STAYS = Aside()


def bridged(label: str, why: str) -> Aside:
    """A thing that is taken out, with a piece of pipe in its place, so that pressure reaches both sides."""
    return Aside(f"take {label} out and bridge its place: {why}", parted=True)


@singledispatch
def set_aside(what: What, label: str, ways: int = 2) -> Aside:
    """What is done with a thing called `label`, that so many `ways` of this section come to, before its test."""
    if ways > 1:
        return bridged(label, "whether it stands the test is not known")
    return Aside(f"take {label} off and plug its place: whether it stands the test is not known", True, False)


@set_aside.register(Junction)
@set_aside.register(Bend)
@set_aside.register(Cap)
@set_aside.register(Outlet)
@set_aside.register(Valve)
@set_aside.register(CheckValve)
@set_aside.register(Union)
@set_aside.register(BackflowPreventer)
@set_aside.register(Vent)
@set_aside.register(ThreeWay)
@set_aside.register(Pitless)
@set_aside.register(Regulator)
@set_aside.register(Inlet)
@set_aside.register(DrainEnd)
def _(what: What, label: str, ways: int = 2) -> Aside:
    return _STAYS


@set_aside.register
def _(what: Injector, label: str, ways: int = 2) -> Aside:
    return bridged(label, "its seals are made for working pressure")


@set_aside.register
def _(what: ReliefValve, label: str, ways: int = 2) -> Aside:
    return Aside(f"take {label} off and plug its place: it would open, or be spoilt by being held shut", True, False)


@set_aside.register
def _(what: WellPump, label: str, ways: int = 2) -> Aside:
    return Aside(f"part the line from {label} and plug it there", True, False)


@set_aside.register
def _(what: Mains, label: str, ways: int = 2) -> Aside:
    told = f"part the line from {label} and plug it there: no test pressure goes back into the mains"
    return Aside(told, True, False)


@set_aside.register
def _(what: Tank, label: str, ways: int = 2) -> Aside:
    return Aside(f"plug the open end at {label}")


@set_aside.register
def _(what: InWall, label: str, ways: int = 2) -> Aside:
    return Aside(f"plug {label}")


@set_aside.register
def _(what: Blower, label: str, ways: int = 2) -> Aside:
    return Aside(
        f"take {label} off: air is tested apart, with the jets' air ends plugged, by water or soap and a breath "
        "of pressure"
    )


@set_aside.register
def _(what: Heater, label: str, ways: int = 2) -> Aside:
    return bridged(label, "its maker's pressure is not known here")


@set_aside.register
def _(what: Pump, label: str, ways: int = 2) -> Aside:
    return bridged(label, "no test pressure on its seal") if ways > 1 else _off(label)


def _off(label: str) -> Aside:
    return Aside(f"take {label} out and plug its place", True, False)


@set_aside.register
def _(what: Sump, label: str, ways: int = 2) -> Aside:
    return Aside(f"part the riser from {label}'s pump and plug it", True, False)


@set_aside.register
def _(what: Washer, label: str, ways: int = 2) -> Aside:
    return Aside(f"take the hose of {label} off and plug the line there", True, False)


@set_aside.register
def _(what: ExpansionTank, label: str, ways: int = 2) -> Aside:
    return Aside(f"take {label} off and plug its branch: left in, it hides a leak", True, False)


@set_aside.register
def _(what: Vessel, label: str, ways: int = 2) -> Aside:
    return Aside(f"take {label} off and plug its branch: left in, it hides a leak", True, False)


@set_aside.register
def _(what: Filter, label: str, ways: int = 2) -> Aside:
    return Aside(f"take the element out of {label}")


@set_aside.register
def _(what: Equipment, label: str, ways: int = 2) -> Aside:
    if ways > 1:
        return bridged(label, "what it stands is not known here")
    return Aside(f"leave {label} out and plug what comes to it", True, False)
