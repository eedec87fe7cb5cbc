"""What benchmarks share: a fixed piece of work to set times against, and the middle and the upper end of what was
measured.
"""

import time
from collections.abc import Sequence


def spin() -> float:
    """Seconds this machine takes for a fixed piece of Python."""
    start = time.perf_counter()
    total = 0
    for i in range(1_000_000):
        total += i * i
    return time.perf_counter() - start


def machine() -> float:
    """The middle of five spins (s)."""
    return sorted(spin() for _ in range(5))[2]


def ends(spent: Sequence[float]) -> tuple[float, float]:
    """Median and 95th percentile."""
    ordered = sorted(spent)
    return ordered[len(ordered) // 2], ordered[int(len(ordered) * 0.95)]
