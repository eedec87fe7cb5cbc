"""One edit of a plan of 300 runs to the answer of the open stage, at the API: median and 95th percentile against the
layout alone and a spin.

The application is called as a server calls it (ASGI), by this machine and by another device, to which answers go
squeezed; so no client's own unpacking is counted. The edits go the rounds: a point moved, a size fixed and freed, a
flow changed, a branch cut off and put back.
"""

import asyncio
import json
import tempfile
import time
from copy import deepcopy
from itertools import count
from pathlib import Path
from typing import Any

from benchmarks.timing import ends, machine
from hydrarch.api.app import create_app, hold_catalogue
from hydrarch.api.guard import Settings
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.references import named_in
from hydrarch.core.site.layout import layout
from hydrarch.store.database import Store
from hydrarch.store.jobs import add_job
from tests.core.plans import tree

EDITS = 40
LISTENERS = 8
STAGES = ("survey", "size", "join", "cut", "make", "prove", "keep")


def scope(method: str, path: str, client: str, query: str = "") -> dict[str, Any]:
    """A request as a server hands it to the application."""
    headers = [(b"host", b"127.0.0.1"), (b"content-type", b"application/json"), (b"accept-encoding", b"gzip")]
    return {
        "type": "http",
        "asgi": {"version": "3.0"},
        "http_version": "1.1",
        "method": method,
        "scheme": "http",
        "path": path,
        "raw_path": path.encode(),
        "query_string": query.encode(),
        "root_path": "",
        "headers": headers,
        "client": (client, 1),
        "server": ("127.0.0.1", 80),
    }


async def ask(app: Any, asked: dict[str, Any], body: bytes = b"") -> tuple[float, int]:
    """Seconds from a request to the last byte of its answer, and the answer's status."""
    status, ended = 0, 0.0

    async def receive() -> dict[str, Any]:
        return {"type": "http.request", "body": body, "more_body": False}

    async def send(message: dict[str, Any]) -> None:
        nonlocal status, ended
        status = message.get("status", status)
        if message["type"] == "http.response.body" and not message.get("more_body", False):
            ended = time.perf_counter()

    start = time.perf_counter()
    await app(asked, receive, send)
    return ended - start, status


async def listener(app: Any, client: str, stage: str, ready: asyncio.Semaphore) -> None:
    """A phone: it hears the news, and asks for the stage it looks at whenever there is some."""
    heard = asyncio.Queue[bytes]()

    async def receive() -> dict[str, Any]:
        await asyncio.Event().wait()
        return {"type": "http.disconnect"}

    async def send(message: dict[str, Any]) -> None:
        if message["type"] == "http.response.body":
            heard.put_nowait(message["body"])

    stream = asyncio.create_task(app(scope("GET", "/api/live", client), receive, send))
    try:
        while True:
            await heard.get()
            ready.release()
            _, status = await ask(app, scope("GET", f"/api/jobs/bench/stages/{stage}", client))
            assert status == 200, status
    finally:
        stream.cancel()


SERIAL = count(1)


def edited(body: dict[str, Any], n: int) -> dict[str, Any]:
    """The plan with its `n`th edit: each fourth is of one kind, each eighth takes one back; none makes a plan that was
    there before.
    """
    back, other = n % 8 < 4, deepcopy(body)
    other["points"][40]["x"] += 1e-4 * next(SERIAL)
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
            other = tree(150).model_dump(mode="json")
            other["points"][40]["x"] += 1e-4 * next(SERIAL)
    return other


async def timed(
    app: Any, body: dict[str, Any], revision: int, client: str, stage: str, phones: int = 0
) -> tuple[list[float], int]:
    """Seconds of each edit answered with one stage while so many phones listen, and the revision reached."""
    ready = asyncio.Semaphore(0)
    listening = [asyncio.create_task(listener(app, f"192.0.2.{n + 10}", STAGES[n % 7], ready)) for n in range(phones)]
    for _ in listening:
        await ready.acquire()
    spent = []
    for n in range(EDITS):
        before, body = body, edited(body, n)
        back = sorted(named_in(body) - named_in(before))  # the branch that is put back is what it was
        sent = json.dumps({"revision": revision, "plan": body, "back": back}).encode()
        seconds, status = await ask(app, scope("PUT", "/api/jobs/bench/plan", client, f"stage={stage}"), sent)
        assert status == 200, status
        revision += 1
        spent.append(seconds)
        for _ in listening:
            await ready.acquire()  # each has heard of it
        await asyncio.sleep(0.3 if phones else 0)  # as a crew edits: the phones have their answers before the next
    for phone in listening:
        phone.cancel()
    await asyncio.gather(*listening, return_exceptions=True)
    return spent[2:], revision


def main() -> None:
    """Print the edit's median and p95 stage by stage, and with listeners, and ratios to the layout and a spin."""
    plan = tree(150)
    derive(plan).problems()
    hold_catalogue()
    bare = []
    for n in range(EDITS):
        fresh = type(plan).model_validate(edited(plan.model_dump(mode="json"), n))
        start = time.perf_counter()
        layout(fresh)
        bare.append(time.perf_counter() - start)
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder) / "b.sqlite3")
        revision = add_job(store, "bench", plan).revision
        app = create_app(store, None, Settings())
        body = plan.model_dump(mode="json")
        for stage in STAGES:
            spent, revision = asyncio.run(timed(app, body, revision, "127.0.0.1", stage))
            _say(f"{len(plan.runs)} runs, an edit in {stage}", spent, bare)
        for stage in ("size", "make"):
            spent, revision = asyncio.run(timed(app, body, revision, "192.0.2.7", stage, LISTENERS))
            _say(f"the same from another device in {stage}, {LISTENERS} phones listening", spent, bare)
        store.close()


def _say(what: str, spent: list[float], bare: list[float]) -> None:
    (median, p95), spinning = ends(spent), machine()
    print(
        f"{what}: {median * 1e3:.0f} ms median, {p95 * 1e3:.0f} ms p95; "
        f"ratios of the median {median / ends(bare)[0]:.0f} to the layout, {median / spinning:.1f} to a spin "
        f"of {spinning * 1e3:.0f} ms",
        flush=True,
    )


if __name__ == "__main__":
    main()
