"""Water that goes round: a day of twenty bodies and fifty runs followed through a night without power, against one
solve of its network.
"""

from __future__ import annotations

import time

from benchmarks.timing import machine
from hydrarch.core.circulation.happens import happens
from hydrarch.core.circulation.standing import WaterStanding
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan

BUDGET = 2.0


def many(bodies: int = 20) -> Plan:
    """Ten tanks over ten sumps, each pair with a standpipe down and a pump up: twenty bodies, fifty runs."""
    points: list[dict[str, object]] = []
    runs: list[dict[str, object]] = []

    def thing(name: str, kind: str, x: float, y: float, level: float, **more: object) -> None:
        points.append({"id": name, "x": x, "y": y, "ground": 0.0, "depth": -level, "what": {"kind": kind, **more}})

    def run(a: str, out: str, b: str, into: str) -> None:
        name = f"L{len(runs)}"
        runs.append(
            {
                "id": name,
                "a": {"id": f"{name}a", "point": a, "port": out},
                "b": {"id": f"{name}b", "point": b, "port": into},
                "situation": "on bracket",
            }
        )

    for n in range(bodies // 2):
        x = 4.0 * n
        thing(f"T{n}", "basin", x, 0, 0, use="show tank", long=1.2, wide=0.6, depth=0.6, rim=1.5, below_rim=0.05)
        thing(f"S{n}", "basin", x, 0, 0, use="sump", long=0.9, wide=0.45, depth=0.45, rim=0.5, below_rim=0.2)
        thing(f"O{n}", "standpipe", x - 0.5, 0.1, 0.9, up=0.53, bore=0.04)
        thing(f"D{n}", "returns", x - 0.4, 0.1, 0.4)
        thing(f"B{n}", "bulkhead", x + 0.45, 0, 0.12)
        curve = [{"flow": 0.0, "head": 3.6}, {"flow": 4e-4, "head": 2.6}, {"flow": 9e-4, "head": 0.6}]
        thing(f"P{n}", "pump", x + 0.9, 0, 0.12, curve=curve)
        thing(f"V{n}", "valve", x + 1.4, 0, 0.6)
        thing(f"E{n}", "bend", x + 1.4, 0, 1.4)
        thing(f"R{n}", "returns", x + 0.55, 0, 1.4, hole=0.02)
        for a, out, b, into in (
            ("O", "out", "D", "in"),
            ("B", "out", "P", "in"),
            ("P", "out", "V", "in"),
            ("V", "out", "E", ""),
            ("E", "", "R", "in"),
        ):
            run(f"{a}{n}", out, f"{b}{n}", into)
    conditions = {"series": "pvc40", "market": "north-american"}
    return Plan.model_validate({"name": "Many", "points": points, "runs": runs, "conditions": conditions})


def main() -> None:
    """Print how long a day takes, and how many solves of its network that is."""
    plan = many()
    d = derive(plan)
    pipes, minor = d.settled.pipes, d.assembly.minor
    standing = WaterStanding(plan, pipes, minor)
    under = standing.under_now()
    start = time.perf_counter()
    for _ in range(20):
        standing.moved(under)
    once = (time.perf_counter() - start) / 20
    for mishap in ("nothing", "power fails"):
        start = time.perf_counter()
        trace = happens(plan, pipes, minor, mishap, hours=24.0)
        took = time.perf_counter() - start
        print(
            f"a day, {mishap}: {len(plan.points)} things, {len(plan.runs)} runs, {trace.steps} steps: "
            f"{took:.2f} s (budget {BUDGET:.0f} s), "
            f"{took / machine():.1f} × the spin, {took / once:.0f} × one solve; "
            f"{86400 / max(trace.steps, 1):.0f} s a step in the mean, books off by {abs(trace.lost):.1e} m³"
        )


if __name__ == "__main__":
    main()
