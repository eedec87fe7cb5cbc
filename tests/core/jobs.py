"""Jobs that crews do by hand, drawn small: those the demo does not have. Figures are round and invented."""

from __future__ import annotations

from hydrarch.core.plan.document import Plan
from hydrarch.core.wells.droppipe import Duty, drop_pipes
from hydrarch.core.wells.hole import Hole
from hydrarch.core.wells.laid import lay_well
from tests.core.plans import draw, point


def well() -> Plan:
    """A well 70 m deep, its pump at 61 m, a pitless adapter and a vessel, and a house tap 60 m away."""
    hole = Hole(70.0, 0.15, 14.0, 61.0, 1e-3, 6.0)
    duty = Duty(8e-4, 2.5e5, shut_off=100.0, hoist=True, cut_in=2.5e5, cut_out=4e5, market="elsewhere")
    plan = Plan.model_validate({"name": "well", "about": "well", "conditions": {"market": "elsewhere"}})
    body = lay_well(plan, hole, duty, drop_pipes(hole, duty)).model_dump(mode="json")
    vessel = next(p for p in body["points"] if p["what"]["kind"] == "vessel")
    pitless = next(p for p in body["points"] if p["what"]["kind"] == "pitless")
    tee = point("J", vessel["x"] - 2.0, vessel["y"], "junction", depth=0.9)
    tap = point("T", vessel["x"] - 2.0, vessel["y"] - 60.0, "tap", depth=0.9)
    body["points"] += [tee, tap]
    last = next(r for r in body["runs"] if vessel["id"] in (r["a"]["point"], r["b"]["point"]))
    body["runs"].remove(last)
    for n, (a, b, out, into) in enumerate(
        ((pitless["id"], "J", "out", "line"), ("J", vessel["id"], "line", "line"), ("J", "T", "line", "in"))
    ):
        body["runs"].append(
            {
                "id": f"Q{n}",
                "a": {"id": f"Q{n}a", "point": a, "port": out},
                "b": {"id": f"Q{n}b", "point": b, "port": "" if b == vessel["id"] else into},
            }
        )
    return Plan.model_validate(body)


def roof_drain() -> Plan:
    """Two downpipes of a roof of 180 m² to the street under a drive, on a fall of 1 in 80."""
    spots = [
        point("A", 0, 0, "drain_inlet", ground=1.0, depth=0.6, surface="roof", area=90.0),
        point("B", 12, 0, "drain_inlet", ground=1.0, depth=0.75, surface="roof", area=90.0),
        point("J", 12, -2, "junction", ground=1.0, depth=0.775),
        point("O", 30, -2, "outfall", ground=0.2, depth=0.2),
    ]
    return draw(spots, [("A", "J"), ("B", "J"), ("J", "O")], about="rain")


def cellar_sump() -> Plan:
    """A pit with a pump, and a second on a battery above it, each with its own check valve, led out to the garden."""
    spots = [point("J", 1, 0, "junction", ground=-0.2), point("O", 9, 0, "outfall", ground=-0.2)]
    for n, x, y, more in (
        ("1", 0, 0, {"comes": 4e-4}),
        ("2", 1, 1, {"turn": "stands by", "battery": 27e4, "draws": 8.0}),
    ):
        spots += [
            point(f"S{n}", x, y, "sump", ground=-2.4, level=-2.3 if n == "1" else -2.1, **more),
            point(f"C{n}", x, y, "check_valve", ground=-1.8),
            point(f"U{n}", x, y, "union", ground=-1.4),
            point(f"B{n}", x, y, "bend", ground=-0.2),
        ]
    runs = [(f"{a}{n}", f"{b}{n}") for n in "12" for a, b in ("SC", "CU", "UB")] + [
        ("B1", "J"),
        ("B2", "J"),
        ("J", "O"),
    ]
    pipe = {"series": "pvc40", "size": "2", "situation": "on bracket"}
    return draw(spots, runs, about="sump", runs_more=[pipe] * len(runs))


def bathrooms() -> Plan:
    """Cold water of two storeys in PPR from the mains: three taps below, three above."""
    spots = [
        point("M", 0, 0, "mains", pressure=350e3),
        point("R", 1, 0, "junction"),
        point("S", 1, 3, "bend", ground=3.0),
    ]
    runs, before = [("M", "R")], "R"
    for floor in (0, 1):
        for n in range(3):
            at, up = f"{floor}{n}", 3.0 * floor
            spots += [
                point(f"J{at}", 2 + 2 * n, 3 * floor, "junction", ground=up),
                point(f"T{at}", 2 + 2 * n, 3 * floor + 1, "tap", ground=up, flow=1.5e-4, needs=80e3),
            ]
            runs += [(before, f"J{at}"), (f"J{at}", f"T{at}")]
            before = f"J{at}"
        runs.append(("R", "S")) if floor == 0 else None
        before = "S"
    spots.append(point("E", 8, 0, "cap"))
    spots.append(point("F", 8, 3, "cap", ground=3.0))
    runs += [("J02", "E"), ("J12", "F")]
    pipe = {"series": "ppr-s2.5", "situation": "in wall"}
    return draw(spots, runs, about="house", runs_more=[pipe] * len(runs), conditions={"market": "elsewhere"})


def square() -> Plan:
    """An apprentice's square of four bends."""
    spots = [point(n, x, y, "bend") for n, x, y in (("A", 0, 0), ("B", 0.5, 0), ("C", 0.5, 0.5), ("D", 0, 0.5))]
    runs = [("A", "B"), ("B", "C"), ("C", "D"), ("D", "A")]
    pipe = {"series": "pvc40", "size": "1", "situation": "on bracket"}
    return draw(spots, runs, about="exercise", runs_more=[pipe] * 4)


def building_drain() -> Plan:
    """Copper and bituminized fibre that come out of a wall, led to one line of SDR 35 that falls to a tank."""
    spots = [
        point("A", 0, 0, "drain_inlet", ground=0.5, depth=0.5, flow=5e-4),
        point("B", 0, 4, "drain_inlet", ground=0.5, depth=0.45, flow=5e-4),
        point("C", 1, 0, "junction", ground=0.5, depth=0.52),
        point("D", 1, 4, "junction", ground=0.5, depth=0.47),
        point("J", 5, 0, "junction", ground=0.5, depth=0.6),
        point("O", 15, 0, "outfall", ground=0.3, depth=0.6),
    ]
    old = {"existing": {"known": "seen"}}
    how = [
        {"series": "copper-dwv", "size": "3", **old},
        {"series": "fibre", "size": "4", **old},
        *[{"series": "sewer-sdr35", "size": "4"}] * 3,
    ]
    plan = draw(spots, [("A", "C"), ("B", "D"), ("C", "J"), ("D", "J"), ("J", "O")], about="rain", runs_more=how)
    body = plan.model_dump(mode="json")
    for p in body["points"][:2]:
        p["existing"] = {"known": "seen"}
    return Plan.model_validate(body)


def lead_service() -> Plan:
    """Lead from the street that goes on as 25 mm polyethylene to the house's valve and tap."""
    spots = [
        point("M", 0, 0, "mains", depth=0.75, pressure=350e3),
        point("J", 1, 0, "bend", depth=0.75),
        point("V", 14, 0, "valve", depth=0.75),
        point("T", 15, 0, "tap", depth=0.75),
    ]
    how = [
        {"series": "lead", "size": "1/2", "existing": {"known": "lead"}},
        *[{"series": "pe100-sdr11", "size": "25"}] * 2,
    ]
    plan = draw(
        spots, [("M", "J"), ("J", "V"), ("V", "T")], about="service", runs_more=how, conditions={"market": "elsewhere"}
    )
    body = plan.model_dump(mode="json")
    body["points"][0]["existing"] = {"known": "seen"}
    return Plan.model_validate(body)


def nicked_line() -> Plan:
    """A buried line of 1-in PVC that cannot move, with half a metre of new pipe let in where it was nicked."""
    spots = [point("M", 0, 0, "mains", depth=0.4), point("A", 10, 0, "bend", depth=0.4)]
    spots += [point("B", 10.5, 0, "bend", depth=0.4), point("T", 30, 0, "tap", depth=0.4)]
    old = {"series": "pvc40", "size": "1", "existing": {"known": "PVC"}}
    plan = draw(
        spots, [("M", "A"), ("A", "B"), ("B", "T")], about="repair", runs_more=[old, {**old, "existing": None}, old]
    )
    body = plan.model_dump(mode="json")
    for p in (body["points"][0], body["points"][3]):
        p["existing"] = {"known": "seen"}
    return Plan.model_validate(body)


def _met(plan: Plan, *points: int) -> Plan:
    """The same plan with these of its points as existing work."""
    body = plan.model_dump(mode="json")
    for n in points:
        body["points"][n]["existing"] = {"known": "seen"}
    return Plan.model_validate(body)


def capped_lines() -> Plan:
    """Two old lines in one cold damp trench, each capped where it was cut."""
    spots, runs, how = [], [], []
    for n, series in enumerate(("pvc40", "pvc40")):
        spots += [
            point(f"M{n}", 0, 0.3 * n, "mains", depth=0.5),
            point(f"C{n}", 6, 0.3 * n, "bend", depth=0.5),
            point(f"E{n}", 6.3, 0.3 * n, "cap", depth=0.5),
        ]
        runs += [(f"M{n}", f"C{n}"), (f"C{n}", f"E{n}")]
        how += [{"series": series, "size": "1", "existing": {"known": "PVC"}}, {"series": series, "size": "1"}]
    cold = {"air_temperature": 276.0, "humidity": 0.9}
    return _met(draw(spots, runs, about="repair", runs_more=how, conditions=cold), 0, 3)


def stop_and_waste() -> Plan:
    """A stop valve let into old galvanized pipe under the ground, before a tap."""
    spots = [
        point("M", 0, 0, "mains", depth=0.6),
        point("A", 5, 0, "bend", depth=0.6),
        point("V", 5.3, 0, "valve", depth=0.6),
        point("B", 5.6, 0, "bend", depth=0.6),
        point("T", 9, 0, "tap", depth=0.6),
    ]
    old = {"series": "galv40", "size": "1", "existing": {"known": "galvanized"}}
    new = {"series": "galv40", "size": "1"}
    plan = draw(spots, [("M", "A"), ("A", "V"), ("V", "B"), ("B", "T")], about="repair", runs_more=[old, new, new, old])
    return _met(plan, 0, 4)


def chewed_tubing() -> Plan:
    """Half-inch drip tubing of unknown make on the ground, a chewed piece of it cut out and let in anew."""
    spots = [
        point("M", 0, 0, "mains", pressure=150e3),
        point("A", 10, 0, "bend"),
        point("B", 10.4, 0, "bend"),
        point("R", 20, 0, "drip_row"),
    ]
    old = {"series": "drip-620", "size": "1/2", "situation": "on surface", "existing": {"known": "half-inch"}}
    plan = draw(
        spots, [("M", "A"), ("A", "B"), ("B", "R")], about="repair", runs_more=[old, {**old, "existing": None}, old]
    )
    return _met(plan, 0, 3)


def greywater() -> Plan:
    """A washer's water by a three-way valve to the garden or the drain. Its own pump is drawn as a pit with a pump that
    lifts as high: there is no kind for a washer yet.
    """
    spots = [
        point(
            "W",
            0,
            0,
            "sump",
            ground=0.0,
            level=0.2,
            curve=[{"flow": 0.0, "head": 2.4}, {"flow": 2e-4, "head": 2.0}, {"flow": 4e-4, "head": 1.2}],
        ),
        point("B", 0, 0, "bend", ground=1.0),
        point("X", 0.6, 0, "three_way", ground=1.0),
        point("G", 9, 0, "outfall", ground=-0.2),
        point("D", 0.6, 1, "outfall", ground=0.6),
    ]
    runs = [("W", "B"), ("B", "X:in"), ("X:left", "G"), ("X:right", "D")]
    pipe = {"series": "pvc40", "size": "1", "situation": "on bracket"}
    return draw(spots, runs, about="sump", runs_more=[pipe] * len(runs))
