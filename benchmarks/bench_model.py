"""The model in three dimensions: the cedar tub, and a plan of 1,000 runs; what is left to do after one point is moved.

Budgets: the tub in 300 ms and 1 MB (first time, nothing remembered); 1,000 runs in 3 s and 200 draw calls, a shape and
material each; after a move 150 ms.
"""

import time

from benchmarks.bench_scale import grid, tapped
from benchmarks.timing import machine
from hydrarch.core.derivation.chain import derive
from hydrarch.core.model import scene, solids
from hydrarch.core.model.scene import LineModel, build_model
from hydrarch.core.plan.document import Plan
from hydrarch.demo import TUB_ID, demo_job
from hydrarch.formats.gltf import model_glb


def measured(name: str, plan: Plan) -> None:
    """Build and write a plan's model; print what it took."""
    derived = derive(plan)
    derived.problems()
    build_model(derive(Plan(name="Nothing")))  # libraries loaded
    for remembered in (scene._fitting_mesh, solids.tube_mesh, solids.arc_mesh, solids.drum_mesh, solids.block_mesh):
        remembered.cache_clear()
    start = time.perf_counter()
    model = build_model(derived)
    built = time.perf_counter()
    written = model_glb(model)
    done = time.perf_counter()
    again = _moved(plan)
    print(
        f"{name}: built {1e3 * (built - start):.0f} ms, written {1e3 * (done - built):.0f} ms, {len(written) / 1e6:.2f} MB, "
        f"{_draws(model)} draw calls, {len(model.nodes)} nodes; after a point is moved {again * 1e3:.0f} ms"
    )


def _draws(model: LineModel) -> int:
    return len({(n.mesh, n.material) for n in model.nodes})


def _moved(plan: Plan) -> float:
    points = (plan.points[0].model_copy(update={"x": plan.points[0].x - 0.1}), *plan.points[1:])
    derived = derive(plan.model_copy(update={"points": points}))
    derived.problems()
    start = time.perf_counter()
    build_model(derived)
    return time.perf_counter() - start


def main() -> None:
    """Measure all three."""
    print(machine())
    measured("cedar tub", demo_job(TUB_ID).plan)
    measured("tapped line, 1,000 runs", tapped(1000))
    measured("grid, 1,000 runs", grid(520))


if __name__ == "__main__":
    main()
