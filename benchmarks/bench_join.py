"""Any end to any end, five best stacks, cold: the median over all pairs against the slowest and the quickest tenth."""

import time
from itertools import product

from hydrarch.core.catalogue.fittings import ends
from hydrarch.core.joining.way_search import find_stacks


def main() -> None:
    """Print the median, the worst, their ratio, and how many pairs have no way."""
    names = sorted(ends())
    find_stacks(names[0], names[1])
    spent, none = [], 0
    for start, stop in product(names, names):
        begin = time.perf_counter()
        found = find_stacks.__wrapped__(*sorted((start, stop)))  # a question asked backwards is the same one turned
        spent.append(time.perf_counter() - begin)
        none += not found
    spent.sort()
    median = spent[len(spent) // 2]
    print(
        f"{len(spent)} pairs: median {median * 1e3:.2f} ms, worst {spent[-1] * 1e3:.0f} ms, worst tenth from "
        f"{spent[len(spent) * 9 // 10] * 1e3:.1f} ms"
    )
    print(f"pairs with no way: {none} ({none / len(spent):.0%}); worst to median {spent[-1] / max(median, 1e-9):.0f}")


if __name__ == "__main__":
    main()
