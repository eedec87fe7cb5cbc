"""Where water goes round at Thistledown Camp: the swimming pond with its filter, the cedar tub, the show tank in the
reception. All made up.
"""

from __future__ import annotations

import time
import uuid
from collections.abc import Iterable
from math import cos, pi, sin

from hydrarch.core.components.base import What
from hydrarch.core.components.basins import (
    Basin,
    Blower,
    Bulkhead,
    Heater,
    LargeJet,
    Returns,
    Skimmer,
    Standpipe,
    SuctionCover,
)
from hydrarch.core.components.devices import CheckValve, Filter, Pump, Union, Valve
from hydrarch.core.components.lines import Bend, Junction
from hydrarch.core.components.sources import CurvePoint
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Conditions, Plan, Point, Run, RunEnd, Situation
from hydrarch.core.record.events import Event, EventKind
from hydrarch.core.record.states import mark_joints

__all__ = ["POND_ID", "TANK_ID", "TUB_ID", "cedar_tub", "left_dry", "show_tank", "swimming_pond"]

POND_ID, TUB_ID, TANK_ID = "thistledown-pond", "thistledown-tub", "thistledown-tank"
_Spot = tuple[str, str, float, float, float, What]


_WITH_UNIONS = {"in": "buttress:male:2", "out": "buttress:male:2"}
"""The ends of filters and pumps as they come for tubs and ponds: 2 in unions, sealed by an O-ring."""


def _points(ground: float, spots: Iterable[_Spot]) -> tuple[Point, ...]:
    """Points at heights over the floor or ground (m)."""
    return tuple(
        Point(
            id=i,
            name=name,
            x=round(float(x), 3),
            y=round(float(y), 3),
            ground=ground,
            depth=round(-up, 4),
            what=w,
            ports=_WITH_UNIONS if isinstance(w, (Filter, Pump)) and ground < 204 else {},
        )
        for i, name, x, y, up, w in spots
    )


def _curve(*points: tuple[float, float]) -> tuple[CurvePoint, ...]:
    return tuple(CurvePoint(flow=q, head=h) for q, h in points)


def _runs(ends: Iterable[str], situation: Situation, series: str | None = None) -> tuple[Run, ...]:
    """Runs from "point.port point.port"; a port may be left out where a thing has but one."""
    found = []
    for n, pair in enumerate(ends, 1):
        a, b = (e.partition(".") for e in pair.split())
        found.append(
            Run(
                id=f"L{n}",
                a=RunEnd(id=f"L{n}a", point=a[0], port=a[2]),
                b=RunEnd(id=f"L{n}b", point=b[0], port=b[2]),
                situation=situation,
                series=series,
            )
        )
    return tuple(found)


def swimming_pond() -> Plan:
    """A pond to swim in, with a skimmer and two bottom drains to a pump house, a filter, and three returns."""
    pond = Basin(
        use="swimming pond", shape="oblong", long=12.0, wide=7.0, depth=1.8, floor=0.45, below_rim=0.1, walls="liner"
    )
    spots: tuple[_Spot, ...] = (
        ("P", "Swimming pond", 0, 0, 0, pond),
        ("SK", "Skimmer", -6.0, -2.0, -0.15, Skimmer(rated=5e-3)),
        ("D1", "North drain", -1.5, 1.2, -1.8, SuctionCover(rated=6e-3)),
        ("D2", "South drain", -1.5, -1.2, -1.8, SuctionCover(rated=6e-3)),
        ("A1", "North sweep", -7.0, 1.2, -1.8, Bend()),
        ("A2", "Drain tee", -7.0, -1.2, -1.8, Junction()),
        ("A3", "Rise", -7.0, -2.0, -1.8, Bend()),
        ("A4", "Skimmer tee", -7.0, -2.0, -0.5, Junction()),
        ("A5", "Skimmer drop", -7.0, -2.0, -0.15, Bend()),
        ("V1", "Suction valve", -8.0, -2.0, -0.5, Valve()),
        (
            "PU",
            "Pond pump",
            -9.0,
            -2.0,
            -0.5,
            Pump(curve=_curve((0, 10.5), (2.5e-3, 8.5), (5e-3, 4.5), (7e-3, 0.5)), npsh=2.0),
        ),
        ("B3", "Filter bend", -10.0, -2.0, -0.5, Bend()),
        ("V2", "Filter valve", -10.0, -1.0, -0.5, Valve()),
        ("F", "Pond filter", -10.0, 0.0, -0.5, Filter(loss=8e3, dirty_loss=35e3, at_flow=3e-3)),
        ("B1", "House bend", -10.0, 4.5, -0.5, Bend()),
        ("T1", "First return tee", -4.0, 4.5, -0.5, Junction()),
        ("T2", "Second return tee", 0.0, 4.5, -0.5, Junction()),
        ("B2", "Third return bend", 4.0, 4.5, -0.5, Bend()),
        ("R1", "West return", -4.0, 3.5, -0.5, Returns()),
        ("R2", "Middle return", 0.0, 3.5, -0.5, Returns()),
        ("R3", "East return", 4.0, 3.5, -0.5, Returns()),
    )
    ends = (
        "D1.out A1",
        "A1 A2",
        "D2.out A2",
        "A2 A3",
        "A3 A4",
        "SK.out A5",
        "A5 A4",
        "A4 V1.in",
        "V1.out PU.in",
        "PU.out B3",
        "B3 V2.in",
        "V2.out F.in",
        "F.out B1",
        "B1 T1",
        "T1 R1.in",
        "T1 T2",
        "T2 R2.in",
        "T2 B2",
        "B2 R3.in",
    )
    return Plan(
        name="Thistledown Camp, swimming pond",
        units="metric",
        about="pond",
        conditions=Conditions(
            weather="said",
            air_temperature=273.15 + 18,
            humidity=0.6,
            market="north-american",
            series="pvc40",
            water_temperature=273.15 + 16,
        ),
        points=_points(200.0, spots),
        runs=_runs(ends, "buried"),
    )


def cedar_tub() -> Plan:
    """A round tub of cedar with two suctions, six large jets on a ring, a filter and a heater, and air from a blower
    over its loop.
    """
    tub = Basin(
        use="hot tub", shape="round", long=1.9, depth=1.1, rim=1.1, below_rim=0.15, warm=273.15 + 38, lies="under a lid"
    )
    spots: list[_Spot] = [
        ("W", "Cedar tub", 0, 0, 0, tub),
        ("S1", "Left suction", -0.95, 0.5, 0.1, SuctionCover(rated=7e-3)),
        ("S2", "Right suction", -0.95, -0.5, 0.1, SuctionCover(rated=7e-3)),
        ("E1", "Left elbow", -1.3, 0.5, 0.1, Bend()),
        ("ST", "Suction tee", -1.3, -0.5, 0.1, Junction()),
        ("E2", "Pump elbow", -1.3, -1.6, 0.1, Bend()),
        ("V1", "Suction valve", -1.7, -1.6, 0.1, Valve()),
        ("PU", "Tub pump", -2.3, -1.6, 0.1, Pump(curve=_curve((0, 13.0), (4e-3, 10.0), (8e-3, 3.0)), npsh=2.5)),
        ("E3", "Filter elbow", -3.0, -1.6, 0.1, Bend()),
        ("F", "Tub filter", -3.0, -0.6, 0.1, Filter(loss=12e3, dirty_loss=45e3, at_flow=4e-3)),
        ("H", "Heater", -3.0, 0.6, 0.1, Heater(power=6000.0, least=1e-3, largest=7e-3, loss=15e3)),
        ("E4", "Heater elbow", -3.0, 1.6, 0.1, Bend()),
        ("E5", "Foot", 0.0, 1.6, 0.1, Bend()),
        ("RW", "Ring tee", 0.0, 1.6, 0.5, Junction()),
        ("BL", "Blower", -3.0, 2.2, 1.5, Blower(flow=0.035, most=1.9)),
        ("CV", "Air check", -1.6, 2.2, 1.5, CheckValve()),
        ("E6", "Loop", 0.0, 2.2, 1.5, Bend()),
        ("E7", "Air drop", 0.0, 1.6, 1.5, Bend()),
        ("RA", "Air ring tee", 0.0, 1.6, 0.7, Junction()),
    ]
    ends = [
        "S1.out E1",
        "E1 ST",
        "S2.out ST",
        "ST E2",
        "E2 V1.in",
        "V1.out PU.in",
        "PU.out E3",
        "E3 F.in",
        "F.out H.in",
        "H.out E4",
        "E4 E5",
        "E5 RW",
        "BL.out CV.in",
        "CV.out E6",
        "E6 E7",
        "E7 RA",
    ]
    for ring, top, radius, port, tee in (("N", 0.5, 1.25, "water", "RW"), ("O", 0.7, 1.25, "air", "RA")):
        around = []
        for n in range(6):
            a = pi / 2 - pi / 6 - n * pi / 3
            spots.append(
                (
                    f"{ring}{n}",
                    f"{'Water' if port == 'water' else 'Air'} tee {n + 1}",
                    radius * cos(a),
                    radius * sin(a),
                    top,
                    Junction(),
                )
            )
            around.append(f"{ring}{n}")
            ends.append(f"{ring}{n} J{n}.{port}")
        ends += [f"{a} {b}" for a, b in zip([tee, *around], [*around, tee], strict=True)]
    for n in range(6):
        a = pi / 2 - pi / 6 - n * pi / 3
        spots.append((f"J{n}", f"Jet {n + 1}", 0.95 * cos(a), 0.95 * sin(a), 0.5, LargeJet(flow=6e-4)))
    return Plan(
        name="Thistledown Camp, cedar tub",
        units="us",
        about="tub",
        conditions=Conditions(
            weather="said",
            air_temperature=273.15 + 14,
            humidity=0.6,
            market="north-american",
            series="pvc40",
            water_temperature=273.15 + 12,
        ),
        points=_points(203.0, spots),
        runs=tuple(
            r.model_copy(update={"series": "pvc-flex"}) if {e.point[0] for e in r.ends} <= set("NOJR") else r
            for r in _runs(ends, "on surface")
        ),
    )


def show_tank() -> Plan:
    """A tank on a stand over its sump in the reception: two standpipes by their fall, a return under pump with
    unions.
    """
    tank = Basin(use="show tank", shape="oblong", long=1.2, wide=0.6, depth=0.6, rim=1.5, below_rim=0.055)
    sump = Basin(use="sump", shape="oblong", long=0.9, wide=0.45, depth=0.45, rim=0.5, below_rim=0.2)
    spots: tuple[_Spot, ...] = (
        ("T", "Show tank", 0, 0, 0, tank),
        ("S", "Sump", 0, 0, 0, sump),
        ("O1", "Main standpipe", -0.5, 0.2, 0.9, Standpipe(works="full", up=0.53, bore=0.04)),
        ("O2", "Spare standpipe", -0.5, -0.2, 0.9, Standpipe(works="in need", up=0.545, bore=0.04)),
        ("B1", "Main drop", -0.5, 0.2, 0.4, Bend()),
        ("B2", "Spare drop", -0.5, -0.2, 0.4, Bend()),
        ("D1", "Main drain's end", -0.3, 0.2, 0.4, Returns()),
        ("D2", "Spare drain's end", -0.3, -0.2, 0.4, Returns()),
        ("SU", "Sump bulkhead", 0.45, 0, 0.12, Bulkhead()),
        ("U1", "Pump union", 0.75, 0, 0.12, Union()),
        ("PU", "Return pump", 1.1, 0, 0.12, Pump(curve=_curve((0, 3.6), (4e-4, 2.6), (9e-4, 0.6)), npsh=1.0)),
        ("B3", "Return foot", 1.5, 0, 0.12, Bend()),
        ("V1", "Return valve", 1.5, 0, 0.7, Valve()),
        ("B4", "Return head", 1.5, 0, 1.4, Bend()),
        ("R1", "Return", 0.55, 0, 1.4, Returns(hole=0.03)),
    )
    ends = (
        "O1.out B1",
        "B1 D1.in",
        "O2.out B2",
        "B2 D2.in",
        "SU.out U1.in",
        "U1.out PU.in",
        "PU.out B3",
        "B3 V1.in",
        "V1.out B4",
        "B4 R1.in",
    )
    return Plan(
        name="Thistledown Camp, show tank",
        units="metric",
        about="tub",
        conditions=Conditions(
            weather="said",
            air_temperature=273.15 + 20,
            humidity=0.5,
            market="north-american",
            series="pvc40",
            water_temperature=273.15 + 20,
        ),
        points=_points(204.0, spots),
        runs=_runs(ends, "on bracket"),
    )


def left_dry(plan: Plan, things: tuple[str, ...], why: str, by: str, now: float | None = None) -> list[Event]:
    """The joints at some things left dry on purpose, as they are found at a hand-over."""
    derived = derive(plan)
    at = (time.time() if now is None else now) - 1800.0
    events = []
    for joint in derived.assembly.joints:
        if joint.point in things and joint.method != "bulkhead":
            kind: EventKind = "left_dry"
            name = str(uuid.uuid5(uuid.NAMESPACE_OID, f"{plan.name} {kind} {joint.id}"))
            events.append(
                Event(
                    id=name,
                    kind=kind,
                    at=at,
                    by=by,
                    joints=mark_joints(derived.assembly.joints, [joint.id], {}, place=True),
                    note=why,
                )
            )
    return events
