"""One edit of a plan of about 300 runs to all answers, against laying the same plan out: what the chain costs."""

import time

from hydrarch.core.chain import derive
from hydrarch.core.layout import layout
from tests.core.plans import tree


def main() -> None:
    """Print the median and worst time of derive, and their ratio to the layout alone."""
    plan = tree(150)
    derive(plan)
    whole, bare = [], []
    for _ in range(5):
        start = time.perf_counter()
        layout(plan)
        bare.append(time.perf_counter() - start)
        start = time.perf_counter()
        derive(plan)
        whole.append(time.perf_counter() - start)
    whole.sort()
    print(
        f"{len(plan.runs)} runs: all answers {whole[2] * 1e3:.0f} ms median, {whole[-1] * 1e3:.0f} ms worst; ratio to the layout {whole[2] / sorted(bare)[2]:.0f}"
    )


if __name__ == "__main__":
    main()
