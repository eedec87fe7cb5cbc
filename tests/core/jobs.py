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
