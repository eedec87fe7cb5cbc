"""One edit of a plan of 300 runs to all answers, at the API: median and 95th percentile against the layout alone and a spin of the machine."""

import tempfile
import time
from pathlib import Path

from fastapi.testclient import TestClient

from hydrarch.api.app import create_app, hold_catalogue
from hydrarch.api.guard import Settings
from hydrarch.core.chain import derive
from hydrarch.core.layout import layout
from hydrarch.store.database import Store
from hydrarch.store.jobs import add_job
from tests.core.plans import tree

EDITS = 25


def spin() -> float:
    """Seconds this machine takes for a fixed piece of Python, to set the others against."""
    start = time.perf_counter()
    total = 0
    for i in range(1_000_000):
        total += i * i
    return time.perf_counter() - start


def main() -> None:
    """Print the edit's median and p95, the core's share, and ratios to the layout and the spin."""
    plan = tree(150)
    derive(plan)
    hold_catalogue()
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder) / "b.sqlite3")
        add_job(store, "bench", plan)
        with TestClient(create_app(store, None, Settings())) as client:
            revision = client.get("/api/jobs/bench").json()["revision"]
            body = plan.model_dump(mode="json")
            spent, core, bare = [], [], []
            for n in range(EDITS):
                body["points"][5]["x"] += 0.1 * (-1) ** n
                start = time.perf_counter()
                saved = client.put("/api/jobs/bench/plan", json={"revision": revision, "plan": body})
                spent.append(time.perf_counter() - start)
                revision = saved.json()["revision"]
                start = time.perf_counter()
                layout(plan)
                bare.append(time.perf_counter() - start)
                start = time.perf_counter()
                derive(plan)
                core.append(time.perf_counter() - start)
        store.close()
    spent.sort()
    core.sort()
    bare.sort()
    machine = min(spin() for _ in range(3))
    median, p95 = spent[EDITS // 2], spent[int(EDITS * 0.95)]
    print(
        f"{len(plan.runs)} runs: an edit takes {median * 1e3:.0f} ms median, {p95 * 1e3:.0f} ms p95; the core {core[EDITS // 2] * 1e3:.0f} ms"
    )
    print(
        f"ratios of the median: {median / bare[EDITS // 2]:.0f} to the layout, {median / machine:.1f} to a spin of {machine * 1e3:.0f} ms"
    )


if __name__ == "__main__":
    main()
