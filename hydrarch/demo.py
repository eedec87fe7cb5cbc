"""Thistledown Camp, the invented upland campsite that the demo opens with. All of it is made up."""

from __future__ import annotations

import time
import uuid
from collections.abc import Mapping
from typing import Any

from hydrarch.core.components.base import What, kind_of
from hydrarch.core.components.devices import CheckValve, Filter, Pump, Regulator, Valve, Vent
from hydrarch.core.components.drains import DrainInlet, Outfall
from hydrarch.core.components.equipment import Vessel
from hydrarch.core.components.lines import Bend, Junction
from hydrarch.core.components.outlets import Drip, Sprinkler, Tap
from hydrarch.core.components.sources import CurvePoint, Tank, WellPump
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Conditions, Plan, Point, Run, RunEnd, Scenario
from hydrarch.core.record.events import Event, EventKind
from hydrarch.core.record.states import mark_joints

__all__ = ["DEMO_ID", "HERBS_ID", "YARD_ID", "drawn", "drying_yard", "herb_bank", "thistledown", "thistledown_events"]

DEMO_ID = "thistledown"
HERBS_ID = "thistledown-herbs"
YARD_ID = "thistledown-yard"

_PUMP = WellPump(
    water_level=182.0,
    curve=tuple(
        CurvePoint(flow=q * 1e-3, head=h) for q, h in ((0.0, 76.0), (0.5, 71.0), (1.0, 60.0), (1.5, 42.0), (2.0, 15.0))
    ),
)
_HEAD = Sprinkler(flow=2.0e-4, at_pressure=250e3, needs=220e3, radius=12.0)
_TAP = Tap(flow=2.5e-4, needs=100e3, height=1.0)

_POINTS: tuple[tuple[str, str, float, float, float, What], ...] = (
    ("W", "Well pump", 6, 14, 208.2, _PUMP),
    ("CV", "Pump house check", 8, 14, 208.2, CheckValve()),
    ("V1", "Pump house valve", 10, 14, 208.3, Valve()),
    ("J1", "Pitch tee", 38, 14, 209.2, Junction()),
    ("T1", "Tap 1", 38, 32, 210.4, _TAP),
    ("J2", "Track tee", 54, 14, 209.9, Junction()),
    ("T2", "Tap 2", 54, 3, 209.3, _TAP),
    ("B1", "Track bend", 62, 14, 210.3, Bend()),
    ("J7", "Material change", 74, 26, 211.4, Junction()),
    ("V2", "Meadow valve", 76, 28, 211.6, Valve()),
    ("B2", "Meadow bend", 80, 32, 211.9, Bend()),
    ("J3", "Loop tee", 84, 32, 212.2, Junction()),
    ("C1", "North-west corner", 84, 39, 212.6, Bend()),
    ("S1", "Head 1", 91, 39, 212.8, _HEAD),
    ("S2", "Head 2", 105, 39, 213.3, _HEAD),
    ("C2", "North-east corner", 112, 39, 213.5, Bend()),
    ("C3", "South-east corner", 112, 25, 212.9, Bend()),
    ("S3", "Head 3", 105, 25, 212.7, _HEAD),
    ("S4", "Head 4", 91, 25, 212.2, _HEAD),
    ("C4", "South-west corner", 84, 25, 211.9, Bend()),
)

_PE, _PVC = "pe-sidr7", "pvc40"
_RUNS: tuple[tuple[str, str, str, str], ...] = (
    ("R1", "W", "CV", _PE),
    ("R2", "CV", "V1", _PE),
    ("R3", "V1", "J1", _PE),
    ("R4", "J1", "T1", _PE),
    ("R5", "J1", "J2", _PE),
    ("R6", "J2", "T2", _PE),
    ("R7", "J2", "B1", _PE),
    ("R8", "B1", "J7", _PE),
    ("R9", "J7", "V2", _PVC),
    ("R10", "V2", "B2", _PVC),
    ("R11", "B2", "J3", _PVC),
    ("R12", "J3", "C1", _PVC),
    ("R13", "C1", "S1", _PVC),
    ("R14", "S1", "S2", _PVC),
    ("R15", "S2", "C2", _PVC),
    ("R16", "C2", "C3", _PVC),
    ("R17", "C3", "S3", _PVC),
    ("R18", "S3", "S4", _PVC),
    ("R19", "S4", "C4", _PVC),
    ("R20", "C4", "J3", _PVC),
)

_FIXED = {**dict.fromkeys((f"R{n}" for n in range(12, 21)), "1"), "R5": "1-1/4", "R7": "1-1/4", "R8": "1-1/4"}
"""What the crew chose itself: a loop of one size all round, and a main that does not change on the way."""


def _end(run: str, side: str, point: str, things: Mapping[str, What]) -> RunEnd:
    """An end of a run drawn the way the water goes: it leaves a thing by its outlet and comes to the next at
    its inlet.
    """
    ports = kind_of(things[point]).ports_of(things[point])
    by_way = {"in": "b", "out": "a"}
    port = next((p for p in ports if len(ports) == 1 or by_way.get(p.name) == side), ports[0])
    return RunEnd(id=f"{run}{side}", point=point, port=port.name)


def drawn(name: str, a: str, b: str, things: Mapping[str, What], **more: Any) -> Run:
    """A run drawn the way the water goes."""
    return Run(id=name, a=_end(name, "a", a, things), b=_end(name, "b", b, things), **more)


def thistledown() -> Plan:
    """The meadow line: a well pump, a buried polyethylene main, two standpipe taps and a loop of four sprinklers."""
    things = {i: what for i, *_, what in _POINTS}
    return Plan(
        name="Thistledown Camp, meadow line",
        units="metric",
        conditions=Conditions(weather="said", air_temperature=273.15 + 9, humidity=0.7, market="north-american"),
        points=tuple(
            Point(id=i, name=name, x=float(x), y=float(y), ground=ground, depth=0.6, what=what)
            for i, name, x, y, ground, what in _POINTS
        ),
        runs=tuple(drawn(i, a, b, things, series=s, size=_FIXED.get(i)) for i, a, b, s in _RUNS),
        scenarios=(
            Scenario(id="meadow", name="Meadow watering", open=("S1", "S2", "S3", "S4")),
            Scenario(id="taps", name="Both taps", open=("T1", "T2")),
            Scenario(id="morning", name="Watering and one tap", open=("S1", "S2", "S3", "S4", "T1")),
        ),
    )


_SMALL = {"in": "npt:female:1", "out": "npt:female:1"}


def herb_bank() -> Plan:
    """The herb bank: a rain tank, a booster with its pressure vessel, a filter and a regulator, two drip zones and a
    tap.
    """
    curve = tuple(CurvePoint(flow=q * 1e-3, head=h) for q, h in ((0.0, 34.0), (0.5, 29.0), (1.0, 17.0)))
    spots: tuple[tuple[str, str, float, float, float, What], ...] = (
        ("K", "Rain tank", 4, 6, 204.0, Tank(water_level=205.4)),
        ("P", "Booster", 8, 6, 204.0, Pump(curve=curve, npsh=2.0)),
        ("JV", "Vessel tee", 11, 6, 204.1, Junction()),
        ("PV", "Vessel", 11, 9, 204.1, Vessel(volume=0.1, cut_in=180e3, cut_out=280e3)),
        ("V", "Bank valve", 14, 6, 204.2, Valve()),
        ("F", "Filter", 17, 6, 204.3, Filter(loss=10e3, dirty_loss=35e3, dirt=0.5, at_flow=5e-4)),
        ("JT", "Potting tee", 22, 6, 204.8, Junction()),
        ("T", "Potting tap", 22, 2, 204.8, Tap(flow=1.5e-4, needs=80e3, height=0.9)),
        ("R", "Bank regulator", 27, 6, 205.5, Regulator(pressure=150e3)),
        ("A", "Bank vent", 33, 6, 206.6, Vent()),
        ("J", "Bank tee", 36, 6, 207.1, Junction()),
        ("D1", "Thyme terrace", 44, 6, 208.4, Drip(flow=1.1e-4, needs=90e3)),
        ("D2", "Mint terrace", 36, 14, 206.2, Drip(flow=1.3e-4, needs=90e3, exponent=0.5)),
    )
    ends = ("KP", "P JV", "JV PV", "JV V", "V F", "F JT", "JT T", "JT R", "R A", "A J", "J D1", "J D2")
    things = {i: what for i, *_, what in spots}
    runs = tuple(
        drawn(f"H{n}", a, b, things, series="pvc40", situation="on surface" if n < 6 else "buried")
        for n, (a, b) in enumerate((e.split() if " " in e else tuple(e) for e in ends), 1)
    )
    return Plan(
        name="Thistledown Camp, herb bank",
        units="metric",
        conditions=Conditions(
            weather="said", air_temperature=273.15 + 12, humidity=0.6, altitude=205.0, crew="2", market="north-american"
        ),
        points=tuple(
            Point(
                id=i,
                name=name,
                x=float(x),
                y=float(y),
                ground=g,
                depth=0.0 if n < 6 else 0.4,
                what=w,
                ports=_SMALL if i == "P" else {},
            )
            for n, (i, name, x, y, g, w) in enumerate(spots)
        ),
        runs=runs,
        scenarios=(
            Scenario(id="thyme", name="Thyme terrace", open=("D1",)),
            Scenario(id="both", name="Both terraces and the tap", open=("D1", "D2", "T")),
        ),
    )


def drying_yard() -> Plan:
    """The drying yard: two gullies and a washing-up trough that drain to a ditch, in sewer pipe that carts
    drive over.
    """
    spots: tuple[tuple[str, str, float, float, float, float, What], ...] = (
        ("G1", "Trough gully", 4, 20, 207.2, 0.45, DrainInlet(flow=8e-4)),
        ("G2", "Yard gully", 12, 27, 207.1, 0.45, DrainInlet(flow=1.2e-3)),
        ("J1", "Yard wye", 20, 20, 207.0, 0.62, Junction()),
        ("G3", "Line gully", 28, 28, 206.9, 0.45, DrainInlet(flow=6e-4)),
        ("J2", "Hedge wye", 36, 20, 206.7, 0.66, Junction()),
        ("B1", "Gate bend", 52, 20, 206.1, 0.50, Bend()),
        ("O1", "Ditch", 60, 12, 205.6, 0.25, Outfall()),
    )
    ends = ("G1 J1", "G2 J1", "J1 J2", "G3 J2", "J2 B1", "B1 O1")
    things = {i: what for i, *_, what in spots}
    return Plan(
        name="Thistledown Camp, drying yard",
        units="metric",
        conditions=Conditions(weather="said", air_temperature=273.15 + 10, humidity=0.65, market="north-american"),
        points=tuple(
            Point(id=i, name=name, x=float(x), y=float(y), ground=g, depth=d, what=w)
            for i, name, x, y, g, d, w in spots
        ),
        runs=tuple(drawn(f"D{n}", a, b, things) for n, (a, b) in enumerate((e.split() for e in ends), 1)),
    )


def thistledown_events(plan: Plan, now: float | None = None) -> list[Event]:
    """What the crew has done so far: the pump house made and tested, the main made, part of the meadow made or dry."""
    derived = derive(plan)
    start = (time.time() if now is None else now) - 26 * 3600
    joints = derived.assembly.named
    order = [t.joint for t in derived.work.tasks]
    pump_house, main, meadow = (set(s.joints) for s in derived.sections)
    events: list[Event] = []

    def say(kind: EventKind, at: float, names: list[str], by: str, **more: Any) -> None:
        name = str(uuid.uuid5(uuid.NAMESPACE_OID, f"{kind} {names[0]} {by}"))
        events.append(
            Event(
                id=name,
                kind=kind,
                at=at,
                by=by,
                joints=mark_joints(joints.values(), names, {}, place=kind in ("made", "dry_fitted", "left_dry")),
                **more,
            )
        )

    for n, joint in enumerate(j for j in order if j in pump_house):
        say("made", start + 300 * n, [joint], "Ash")
    house = derived.sections[0]
    tested = start + 2.5 * 3600
    say(
        "tested",
        tested,
        list(house.joints),
        "Ash",
        section=house.id,
        pressure=house.test,
        ended=tested + 1800,
        passed=True,
        note="no drop in half an hour",
    )
    say("looked", tested + 3600, list(house.parted), "Ash")
    for n, joint in enumerate(j for j in order if j in main and joints[j].role != "head"):
        say("made", start + 4 * 3600 + 300 * n, [joint], "Ash")
    for n, joint in enumerate([j for j in order if j in meadow][:9]):
        say("made", start + 25.6 * 3600 + 240 * n / 2, [joint], "Rowan", temperature=273.15 + 9)
    for n, joint in enumerate([j for j in order if j in meadow][9:14]):
        say("dry_fitted", start + 25.9 * 3600 + 30 * n, [joint], "Rowan")
    return events
