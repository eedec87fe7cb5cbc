"""The network solver against the bare sparse factorisations it needs: grids of pipes with emitters, 10 to 10,000 runs."""

import time

import numpy as np
from scipy.sparse import csc_array
from scipy.sparse.linalg import splu

from hydrarch.core.hydraulics import network as room
from hydrarch.core.hydraulics.network import Emitter, Network, PipeLink, solve_network
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
                    links.append(PipeLink(f"{i},{j}-{a},{b}", f"{i},{j}", f"{a},{b}", 12.0, bore))
    heads = tuple(Emitter(f"e{n}", f"{n // side},{n % side}", 0.0, 2e-5, 0.5) for n in range(7, side * side, 7))
    return Network({"0,0": 60.0}, {}, tuple(links), (), heads)


def main() -> None:
    """Print runs, steps and the ratio of the whole time to that of the factorisations and solves alone."""
    wet = water(288.15)
    spent = [0.0]
    real = room._factor

    class Timed:
        def __init__(self, matrix: csc_array) -> None:
            start = time.perf_counter()
            self.found = splu(matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})
            spent[0] += time.perf_counter() - start

        def solve(self, right: np.ndarray) -> np.ndarray:
            start = time.perf_counter()
            found = np.asarray(self.found.solve(right))
            spent[0] += time.perf_counter() - start
            return found

    print("runs   steps  whole / factorisations")
    for side in (3, 8, 23, 71):
        mesh = grid(side)
        solve_network(mesh, wet)
        room._factor = Timed
        best = (float("inf"), 0.0, 0)
        for _ in range(5):
            spent[0] = 0.0
            start = time.perf_counter()
            found = solve_network(mesh, wet)
            whole = time.perf_counter() - start
            best = min(best, (whole, spent[0], found.steps))
        room._factor = real
        print(f"{len(mesh.pipes):<6} {best[2]:<6} {best[0] / best[1]:.2f}")


if __name__ == "__main__":
    main()
