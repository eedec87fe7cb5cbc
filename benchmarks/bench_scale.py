"""Whole derivations of lines, trees, grids, stars and drains of 1,000 and 3,000 points, and 10,000 events folded in.

Budgets: a line of 1,000 at most 1 s, of 3,000 at most 4 s, growing no faster than points^1.2, the others the same;
10,000 events in 50 ms.
"""

import time
from collections.abc import Callable
from itertools import pairwise
from math import log

from benchmarks.timing import machine
from hydrarch.core.derivation.chain import Derivation, derive, where_it_stands
from hydrarch.core.making.steps import procedure
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event, EventKind, JointMark
from hydrarch.core.record.log import Log
from hydrarch.formats.sheet import sheet_html
from tests.core.plans import draw, point

Runs = list[tuple[str, str]]


def line(count: int) -> Plan:
    """A tank, bends in a row, a tap."""
    points = [point("K", 0, 0, "tank", water_level=40.0)]
    points += [point(f"J{i}", 5.0 * i, 0, "bend") for i in range(1, count)]
    points.append(point("T", 5.0 * count, 0, "tap", height=0.0))
    names = [p["id"] for p in points]
    return draw(points, list(pairwise(names)))


def tapped(count: int) -> Plan:
    """A line with a tap at every tee."""
    points, runs, before = [point("K", 0, 0, "tank", water_level=60.0)], Runs(), "K"
    for i in range(1, count // 2):
        points += [point(f"J{i}", 5.0 * i, 0, "junction"), point(f"T{i}", 5.0 * i, 3, "tap", height=0.0, flow=5e-6)]
        runs += [(before, f"J{i}"), (f"J{i}", f"T{i}")]
        before = f"J{i}"
    points.append(point("E", 2.5 * count, 0, "tap", height=0.0, flow=5e-6))
    return draw(points, [*runs, (before, "E")])


def star(count: int) -> Plan:
    """Long arms off a header, with sprinklers along each."""
    points, runs, before = [point("K", 0, 0, "tank", water_level=60.0)], Runs(), "K"
    arms = int(count**0.5)
    for a in range(arms):
        points.append(point(f"H{a}", 10.0 * (a + 1), 0, "junction"))
        runs.append((before, f"H{a}"))
        before = last = f"H{a}"
        for i in range(1, count // arms):
            name, x, y = f"A{a}x{i}", 10.0 * (a + 1), 4.0 * i
            points.append(point(name, x, y, "bend") if i % 2 else point(name, x, y, "sprinkler", height=0.0, flow=2e-5))
            runs.append((last, name))
            last = name
    points.append(point("E", 10.0 * (arms + 1), 0, "cap"))
    return draw(points, [*runs, (before, "E")])


def grid(count: int) -> Plan:
    """A square mesh with taps along one side."""
    side = int(count**0.5)
    points, runs = [point("K", -10, 0, "tank", water_level=60.0)], Runs()
    for y in range(side):
        for x in range(side):
            points.append(point(f"G{x}x{y}", 12.0 * x, 12.0 * y, "junction"))
            runs += [(f"G{x - 1}x{y}", f"G{x}x{y}")] * (x > 0) + [(f"G{x}x{y - 1}", f"G{x}x{y}")] * (y > 0)
    runs.append(("K", "G0x0"))
    for i in range(1, side - 1, 2):
        points.append(point(f"T{i}", 12.0 * i, 12.0 * side + 4, "tap", height=0.0, flow=5e-5))
        runs.append((f"G{i}x{side - 1}", f"T{i}"))
    return draw(points, runs)


def drains(count: int) -> Plan:
    """A drain with a gully at every junction, falling to its outfall."""
    points, runs, before = [point("O", -5.0, 0, "outfall", depth=3.1)], Runs(), "O"
    for i in range(count // 2):
        points.append(point(f"J{i}", 4.0 * i, 0, "junction", depth=3.0 - 0.0032 * i))
        points.append(point(f"G{i}", 4.0 * i, 5.0, "drain_inlet", depth=2.0 - 0.0032 * i, flow=2e-5))
        runs += [(f"J{i}", before), (f"G{i}:out", f"J{i}")]
        before = f"J{i}"
    return draw(points, runs)


def whole(plan: Plan) -> float:
    """Seconds to work out every room of a plan."""
    start = time.perf_counter()
    done = derive(plan)
    for name in Derivation.ROOMS:
        getattr(done, name)
    return time.perf_counter() - start


def told(plan: Plan) -> float:
    """Seconds to tell how every joint of a plan is made, as a page does that goes along where there is no signal."""
    done = derive(plan)
    pressures = {j: s.test for s in done.sections for j in s.joints}
    start = time.perf_counter()
    for name, joint in done.assembly.named.items():
        procedure(plan, joint, pressures.get(name, 0.0))
    return time.perf_counter() - start


def printed(plan: Plan) -> float:
    """Seconds to set the sheet of a plan that is worked out, its drawings with all that is named on them."""
    done = derive(plan)
    stands = where_it_stands(plan, done, Log(), 1e9)
    start = time.perf_counter()
    sheet_html(plan, done, stands)
    return time.perf_counter() - start


def folded(count: int) -> float:
    """Seconds to fold so many events into where the joints of a job stand."""
    kinds: tuple[EventKind, ...] = ("dry_fitted", "made", "undone", "made")
    mark = JointMark("solvent:socket:1 solvent:spigot:1")
    events = [
        Event(id=str(n), kind=kinds[n % 4], at=1000.0 + n, by="a hand", joints={f"J{n // 4}": mark})
        for n in range(count)
    ]
    start = time.perf_counter()
    Log(events)
    return time.perf_counter() - start


def main() -> None:
    """Print seconds, the growth from 1,000 to 3,000 as a power of the points, and ratios to a spin."""
    whole(tapped(400))  # the catalogue's own searches are made once
    spinning = machine()
    kinds: dict[str, Callable[[int], Plan]] = {
        "line": line,
        "tapped": tapped,
        "star": star,
        "grid": grid,
        "drains": drains,
    }
    print(f"points 1,000 and 3,000; a spin takes {spinning * 1e3:.0f} ms")
    for name, make in kinds.items():
        small, large = (min(whole(make(n)) for _ in range(2)) for n in (1000, 3000))
        print(
            f"{name:<7} {small:.2f} s  {large:.2f} s  growing as points^{log(large / small) / log(3):.2f}; "
            f"{small / spinning:.0f} and {large / spinning:.0f} spins"
        )
    small, large = (told(tapped(n)) for n in (1000, 3000))
    print(
        f"how every joint is made, with a tap at every tee: {small:.2f} s  {large:.2f} s  growing as "
        f"points^{log(large / small) / log(3):.2f}"
    )
    small, large = (printed(tapped(n)) for n in (1000, 3000))
    print(f"the sheet to print: {small:.2f} s  {large:.2f} s  growing as points^{log(large / small) / log(3):.2f}")
    fold = min(folded(10_000) for _ in range(5))
    print(f"10,000 events folded in {fold * 1e3:.0f} ms, {fold / spinning:.2f} spins")


if __name__ == "__main__":
    main()
