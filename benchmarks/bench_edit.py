"""One edit of a plan of 300 runs to all answers, at the API: median and 95th percentile against the layout alone and a spin.

The application is called as a server calls it (ASGI), by this machine and by another device, to which answers go squeezed; so no client's
own unpacking is counted. The edits go the rounds: a point moved, a size fixed and freed, a flow changed, a branch cut off and put back.
"""

import asyncio
import json
import tempfile
import time
from copy import deepcopy
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


async def put(app: Any, body: bytes, client: str) -> tuple[float, int]:
    """Seconds from a request with this body to the last byte of its answer, and the answer's status."""
    status, ended = 0, 0.0
    headers = [(b"host", b"testserver"), (b"content-type", b"application/json"), (b"accept-encoding", b"gzip")]
    scope = {
        "type": "http", "asgi": {"version": "3.0"}, "http_version": "1.1", "method": "PUT", "scheme": "http", "path": "/api/jobs/bench/plan",
        "raw_path": b"/api/jobs/bench/plan", "query_string": b"", "root_path": "", "headers": headers, "client": (client, 1), "server": ("testserver", 80),
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


def edited(body: dict[str, Any], n: int) -> dict[str, Any]:
    """The plan with its `n`th edit: each fourth is of one kind, each eighth takes one back."""
    back, other = n % 8 < 4, deepcopy(body)
    match n % 4:
        case 0:
            other["points"][5]["x"] += 0.1 * (-1) ** back
        case 1:
            other["runs"][20 + n]["size"] = None if back else "2"
        case 2:
            other["points"][8]["what"]["flow"] *= 0.8 if back else 1.25
        case 3 if back:
            other["points"], other["runs"] = other["points"][:-1], other["runs"][:-1]
        case _:
            other = deepcopy(tree(150).model_dump(mode="json"))
    return other


def timed(app: Any, body: dict[str, Any], revision: int, client: str) -> tuple[list[float], int]:
    """Seconds of each edit, sorted, and the revision reached."""
    spent = []
    for n in range(EDITS):
        body = edited(body, n)
        seconds, status = asyncio.run(put(app, json.dumps({"revision": revision, "plan": body}).encode(), client))
        assert status == 200, status
        revision += 1
        spent.append(seconds)
    return sorted(spent[2:]), revision


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
        here, revision = timed(app, body, revision, "127.0.0.1")
        there, revision = timed(app, body, revision, "192.0.2.7")
        core, bare = [], []
        for n in range(EDITS):
            fresh = type(plan).model_validate(edited(body, n))
            start = time.perf_counter()
            layout(fresh)
            bare.append(time.perf_counter() - start)
            start = time.perf_counter()
            derive(fresh)
            core.append(time.perf_counter() - start)
        store.close()
    core, bare = sorted(core), sorted(bare)
    machine = sorted(spin() for _ in range(5))[2]
    for who, spent in (("this machine", here), ("another device", there)):
        median, p95 = spent[len(spent) // 2], spent[int(len(spent) * 0.95)]
        print(
            f"{len(plan.runs)} runs, an edit from {who}: {median * 1e3:.0f} ms median, {p95 * 1e3:.0f} ms p95; "
            f"ratios of the median {median / bare[EDITS // 2]:.0f} to the layout, {median / machine:.1f} to a spin of {machine * 1e3:.0f} ms"
        )
    print(f"the core alone: {core[EDITS // 2] * 1e3:.0f} ms median")


if __name__ == "__main__":
    main()
