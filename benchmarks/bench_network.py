"""The network solver against its bare sparse factorisations, and against a general root finder: grids and trees, 10 to
10,000 runs.
"""

import time

import numpy as np
from scipy.optimize import root
from scipy.sparse import csc_array
from scipy.sparse.linalg import splu

from hydrarch.core.hydraulics import incidence as room
from hydrarch.core.hydraulics.links import Emitter, PipeLink
from hydrarch.core.hydraulics.network import Network
from hydrarch.core.hydraulics.regulated import solve_network
from hydrarch.core.hydraulics.water import water


def grid(side: int) -> Network:
    """A square mesh of side² nodes fed at a corner, an emitter at every seventh node."""
    rng = np.random.default_rng(side)
    links = []
    for i in range(side):
        for j in range(side):
            for a, b in ((i + 1, j), (i, j + 1)):
                if a < side and b < side:
                    bore = float(rng.choice([0.0266, 0.0351, 0.0525]))
                    links.append(
                        PipeLink(id=f"{i},{j}-{a},{b}", start=f"{i},{j}", stop=f"{a},{b}", length=12.0, bore=bore)
                    )
    heads = tuple(Emitter(f"e{n}", f"{n // side},{n % side}", 0.0, 2e-5, 0.5) for n in range(7, side * side, 7))
    return Network({"0,0": 60.0}, {}, tuple(links), (), heads)


def tree(count: int) -> Network:
    """A binary tree of pipes with a demand at every node."""
    links = tuple(
        PipeLink(id=f"p{n}", start=f"n{(n - 1) // 2}", stop=f"n{n}", length=12.0, bore=0.0525 if n < 40 else 0.0266)
        for n in range(1, count + 1)
    )
    return Network({"n0": 60.0}, {f"n{n}": 2e-3 / count for n in range(1, count + 1)}, links)


def general(net: Network) -> float | None:
    """Seconds that scipy.optimize.root takes for the same equations of a tree or grid without emitters; None past 500
    runs.
    """
    if len(net.pipes) > 500 or net.emitters:
        return None
    names = list(dict.fromkeys(n for p in net.pipes for n in (p.start, p.stop) if n not in net.heads))
    place = {n: i for i, n in enumerate(names)}
    r = np.array([10.67 * p.length / (p.hazen_williams_c**1.852 * p.bore**4.8704) for p in net.pipes])
    demand = np.array([net.demands.get(n, 0.0) for n in names])
    start = np.array([place.get(p.start, -1) for p in net.pipes])
    stop = np.array([place.get(p.stop, -1) for p in net.pipes])
    fixed = np.array([net.heads.get(p.start, 0.0) for p in net.pipes])

    def wrong(heads: np.ndarray) -> np.ndarray:
        padded = np.append(heads, 0.0)
        drop = padded[start] + np.where(start < 0, fixed, 0.0) - padded[stop]
        q = np.sign(drop) * (np.abs(drop) / r) ** (1 / 1.852)
        out = np.zeros(len(names) + 1)
        np.add.at(out, start, -q)
        np.add.at(out, stop, q)
        return np.asarray(out[:-1] - demand)

    begin = time.perf_counter()
    found = root(wrong, np.linspace(59, 30, len(names)), method="hybr")
    spent = time.perf_counter() - begin
    return spent if found.success else None


def main() -> None:
    """Print runs, steps and the ratio of the whole time to that of the factorisations and solves alone."""
    wet = water(288.15)
    spent = [0.0]
    real = room.factorise

    class Timed:
        def __init__(self, matrix: csc_array) -> None:
            start = time.perf_counter()
            self.found = splu(
                matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True}
            )
            spent[0] += time.perf_counter() - start

        def solve(self, right: np.ndarray) -> np.ndarray:
            start = time.perf_counter()
            found = np.asarray(self.found.solve(right))
            spent[0] += time.perf_counter() - start
            return found

    print("kind   runs   steps  ms      whole / factorisations   general root finder / whole")
    for kind, mesh in [("grid", grid(s)) for s in (3, 8, 23, 71)] + [("tree", tree(n)) for n in (10, 100, 1000, 10000)]:
        solve_network(mesh, wet)
        room.factorise = Timed
        best = (float("inf"), 0.0, 0)
        for _ in range(5):
            spent[0] = 0.0
            start = time.perf_counter()
            found = solve_network(mesh, wet)
            whole = time.perf_counter() - start
            best = min(best, (whole, spent[0], found.steps))
        room.factorise = real
        other = general(mesh)
        against = f"{other / best[0]:.1f}" if other else "-"
        print(f"{kind:<6} {len(mesh.pipes):<6} {best[2]:<6} {best[0] * 1e3:<7.1f} {best[0] / best[1]:<24.2f} {against}")


if __name__ == "__main__":
    main()
