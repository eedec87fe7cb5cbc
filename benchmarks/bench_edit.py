"""One edit of a plan of 300 runs to all answers, at the API: median and 95th percentile against the layout alone and a spin.

The application is called as a server calls it (ASGI), gzip asked for, so that no client's own unpacking is counted.
"""

import asyncio
import json
import tempfile
import time
from pathlib import Path
from typing import Any

from hydrarch.api.app import create_app, hold_catalogue
from hydrarch.api.guard import Settings
from hydrarch.core.chain import derive
from hydrarch.core.layout import layout
from hydrarch.store.database import Store
from hydrarch.store.jobs import add_job
from tests.core.plans import tree

EDITS = 40


def spin() -> float:
    """Seconds this machine takes for a fixed piece of Python, to set the others against."""
    start = time.perf_counter()
    total = 0
    for i in range(1_000_000):
        total += i * i
    return time.perf_counter() - start


async def put(app: Any, body: bytes) -> tuple[float, int]:
    """Seconds from a request with this body to the last byte of its answer, and the answer's status."""
    status, ended = 0, 0.0
    headers = [(b"host", b"testserver"), (b"content-type", b"application/json"), (b"accept-encoding", b"gzip")]
    scope = {
        "type": "http", "asgi": {"version": "3.0"}, "http_version": "1.1", "method": "PUT", "scheme": "http", "path": "/api/jobs/bench/plan",
        "raw_path": b"/api/jobs/bench/plan", "query_string": b"", "root_path": "", "headers": headers, "client": ("127.0.0.1", 1), "server": ("testserver", 80),
    }  # fmt: skip

    async def receive() -> dict[str, Any]:
        return {"type": "http.request", "body": body, "more_body": False}

    async def send(message: dict[str, Any]) -> None:
        nonlocal status, ended
        status = message.get("status", status)
        if message["type"] == "http.response.body" and not message.get("more_body", False):
            ended = time.perf_counter()

    start = time.perf_counter()
    await app(scope, receive, send)
    return ended - start, status


def main() -> None:
    """Print the edit's median and p95, the core's share, and ratios to the layout and the spin."""
    plan = tree(150)
    derive(plan)
    hold_catalogue()
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder) / "b.sqlite3")
        revision = add_job(store, "bench", plan).revision
        app = create_app(store, None, Settings())
        body = plan.model_dump(mode="json")
        spent, core, bare = [], [], []
        for n in range(EDITS):
            body["points"][5]["x"] += 0.1 * (-1) ** n
            seconds, status = asyncio.run(put(app, json.dumps({"revision": revision, "plan": body}).encode()))
            assert status == 200, status
            revision += 1
            spent.append(seconds)
            start = time.perf_counter()
            layout(plan)
            bare.append(time.perf_counter() - start)
            start = time.perf_counter()
            derive(plan)
            core.append(time.perf_counter() - start)
        store.close()
    spent, core, bare = sorted(spent[2:]), sorted(core), sorted(bare)
    machine = sorted(spin() for _ in range(5))[2]
    median, p95 = spent[len(spent) // 2], spent[int(len(spent) * 0.95)]
    print(
        f"{len(plan.runs)} runs: an edit takes {median * 1e3:.0f} ms median, {p95 * 1e3:.0f} ms p95; the core {core[EDITS // 2] * 1e3:.0f} ms"
    )
    print(
        f"ratios of the median: {median / bare[EDITS // 2]:.0f} to the layout, {median / machine:.1f} to a spin of {machine * 1e3:.0f} ms"
    )


if __name__ == "__main__":
    main()
