"""Bodies of water with what is let into their walls, for tests: short ways to draw them."""

from typing import Any

from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from tests.core.plans import draw, point

Things = list[dict[str, Any]]


def thing(at: str, kind: str, x: float, y: float, level: float, **more: Any) -> dict[str, Any]:
    """A thing at a level (m) over ground at zero."""
    return {**point(at, x, y, kind, depth=-level), "what": {"kind": kind, **more}}


def tub(*covers: dict[str, Any], **body: Any) -> Plan:
    """A round tub with these suctions to one pump, and one return."""
    spots: Things = [
        thing(
            "W",
            "basin",
            0,
            0,
            0,
            **{"use": "hot tub", "shape": "round", "long": 2.0, "depth": 1.0, "rim": 1.0, "below_rim": 0.2, **body},
        ),
        thing("J", "junction", -2, 0, 0.1),
        thing("P", "pump", -3, 0, 0.1),
        thing("R", "returns", 1, 0, 0.5),
    ]
    return draw(
        [*spots, *covers], [*((c["id"], "J") for c in covers), ("J", "P"), ("P", "R")], conditions={"series": "pvc40"}
    )


def cover(at: str, y: float, rated: float = 9e-3, **more: Any) -> dict[str, Any]:
    """A suction in the tub's wall."""
    return thing(at, "suction_cover", -0.9, y, 0.1, rated=rated, **more)


def over_sump(hole_: float = 0.0, check: bool = False, **sump: Any) -> Plan:
    """A tank over a sump: a standpipe down, a pump up; the return well under the tank's water unless it has a hole near
    the top.
    """
    spots: Things = [
        thing("T", "basin", 0, 0, 0, use="show tank", long=1.2, wide=0.6, depth=0.6, rim=1.5, below_rim=0.05),
        thing(
            "S",
            "basin",
            0,
            0,
            0,
            **{"use": "sump", "long": 0.9, "wide": 0.45, "depth": 0.45, "rim": 0.5, "below_rim": 0.2, **sump},
        ),
        thing("O", "standpipe", -0.5, 0.1, 0.9, up=0.53, bore=0.04),
        thing("O2", "standpipe", -0.5, -0.1, 0.9, up=0.545, bore=0.04, works="in need"),
        thing("D", "returns", -0.4, 0.1, 0.4),
        thing("D2", "returns", -0.4, -0.1, 0.4),
        thing("B", "bulkhead", 0.4, 0, 0.12),
        thing(
            "P",
            "pump",
            0.9,
            0,
            0.12,
            curve=[{"flow": 0.0, "head": 3.6}, {"flow": 4e-4, "head": 2.6}, {"flow": 9e-4, "head": 0.6}],
        ),
        thing("R", "returns", 0.55, 0, 1.0, hole=hole_),
    ]
    ways = [("O", "D"), ("O2", "D2"), ("B", "P")]
    if check:
        spots.append(thing("C", "check_valve", 1.4, 0, 0.5))
        ways += [("P", "C"), ("C", "R")]
    else:
        ways.append(("P", "R"))
    return draw(spots, ways, conditions={"series": "pvc40", "water_temperature": 293.15})


def told(plan: Plan) -> dict[str, str]:
    """What is wrong with a plan, by code."""
    return {p.code: p.says for p in derive(plan, strict=True).problems()}
