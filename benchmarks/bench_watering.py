"""Where the water of 196 heads lands on 100 × 100 m at a quarter of a metre, and 1,200 heads put into 60 zones.

Budgets: 200 ms for where it lands after a head is moved, 2 s for the zones. Set beside a fixed spin of the same run.
"""

import time
from math import pi

from benchmarks.timing import machine
from hydrarch.core.coverage.landing import Head, coverages
from hydrarch.core.coverage.zoning import grouped
from hydrarch.core.hydraulics.flow import Flow, OutletFlow
from tests.core.plans import draw, point


def landed() -> float:
    """Seconds for the coverage of 14 × 14 heads 7.1 m apart, from the pressures that were solved."""
    spots = [(f"H{i}x{j}", 7.1 * i, 7.1 * j) for i in range(14) for j in range(14)]
    plan = draw([point(n, x, y, "sprinkler", radius=7.0) for n, x, y in spots], [])
    out = {n: OutletFlow(n, 2e-4, 210e3, 200e3, 10e3, False) for n, *_ in spots}
    flow = Flow(
        scenario="s", name="All", runs={}, points={}, outlets=out, worst=None, steps=1, residual=0.0, problems=()
    )
    spent = []
    for _ in range(5):
        start = time.perf_counter()
        found = coverages(plan, {"s": flow})["s"]
        spent.append(time.perf_counter() - start)
        assert isinstance(found.heads[0], Head) and abs(found.heads[0].arc - 2 * pi) < 1e-9
    return sorted(spent)[2]


def zoned() -> tuple[float, str]:
    """Seconds for the zones of 40 × 30 heads, twenty to a zone, and what is said of them."""
    plan = draw(
        [point(f"H{i}x{j}", 10.0 * i, 10.0 * j, "sprinkler", radius=10.0) for i in range(40) for j in range(30)], []
    )
    start = time.perf_counter()
    found = grouped(plan, 20 * 1.4e-4)
    return time.perf_counter() - start, found.says


def main() -> None:
    """Print the figures."""
    spin = machine()
    lands, (zones, says) = landed(), zoned()
    print(f"where the water of 196 heads lands: {1e3 * lands:.0f} ms, {lands / spin:.2f} spins (budget 200 ms)")
    print(f"1,200 heads into zones: {zones:.2f} s, {zones / spin:.1f} spins (budget 2 s): {says}")


if __name__ == "__main__":
    main()
