"""Least cost of random trees of 100 runs and 8 sizes, exact, against one bare pass over all runs and sizes, and against
HiGHS.
"""

import random
import time

from hydrarch.core.sizing.least_cost import Path, SizeOption, TreeRun, cheapest_programme, cheapest_tree
from tests.core.test_least_cost import every, grown


def paths(branch: TreeRun, way: tuple[str, ...], head: float) -> list[Path]:
    """Every place of a tree as a path from its source."""
    here = (*way, branch.run)
    return [Path(0, here, head - branch.need), *(p for c in branch.children for p in paths(c, here, head))]


def main() -> None:
    """Print time for the whole curve, its steps, and how much longer the integer programme takes for one head."""
    for runs in (10, 30, 100):
        spent, steps = [], 0
        for seed in range(7):
            branch = grown(runs, 8, random.Random(seed))
            start = time.perf_counter()
            found = cheapest_tree([branch])
            spent.append(time.perf_counter() - start)
            steps = max(steps, len(found.steps))
        spent.sort()
        options = {b.run: tuple(SizeOption(o.name, o.cost, (o.loss,)) for o in b.options) for b in every(branch)}
        head = found.steps[len(found.steps) // 2].head
        start = time.perf_counter()
        other = cheapest_programme(options, paths(branch, (), head), seconds=30)
        ratio = (time.perf_counter() - start) / spent[3]
        row = found.within(head)
        agree = row is not None and abs(found.steps[row].cost - other.cost) < 1e-3
        print(
            f"{runs:<4} runs: {spent[3] * 1e3:.0f} ms median, {spent[-1] * 1e3:.0f} worst, up to {steps} steps; "
            f"HiGHS for one head takes {ratio:.0f} times that, {'agrees' if agree else 'differs'}, "
            f"{'proved' if other.proved else 'not proved'}"
        )


if __name__ == "__main__":
    main()
