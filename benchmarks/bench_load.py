"""Fifty phones on one server with a job of 300 runs: 20 records and 5 edits a second, each phone listening for news.

A real server in a process of its own; the phones are connections of one other process, each from an address of its own.
Printed are the middle and the 95th percentile of edits, records and the list of jobs, what of the rates was kept, and
the server's memory. By itself it runs half a minute; `python -m benchmarks.bench_load 600` runs the ten minutes of the
budget.
"""

import asyncio
import json
import subprocess
import sys
import tempfile
import time
import uuid
from contextlib import AsyncExitStack
from pathlib import Path
from typing import Any

import httpx2

from benchmarks.timing import ends, machine
from hydrarch.store.database import Store
from hydrarch.store.folder import FILE
from hydrarch.store.jobs import add_job
from tests.core.plans import tree

PHONES = 50
RECORDS, EDITS = 20.0, 5.0
"""A second, all phones together."""


class Rates:
    """What was asked, how long it took (s), and what was not answered as it should be."""

    def __init__(self) -> None:
        self.spent: dict[str, list[float]] = {"edit": [], "record": [], "list of jobs": []}
        self.other: dict[str, int] = {}
        self.heard = 0

    async def ask(self, what: str, asked: Any) -> Any:
        """Await a request and keep how long it took; `None` where it was not answered with 200."""
        start = time.perf_counter()
        answer = await asked
        self.spent[what].append(time.perf_counter() - start)
        if answer.status_code not in (200, 409):
            self.other[f"{what} {answer.status_code}"] = self.other.get(f"{what} {answer.status_code}", 0) + 1
        return answer


async def listening(client: Any, rates: Rates) -> None:
    """A phone that hears the news."""
    async with client.stream("GET", "/api/live", timeout=None) as stream:
        async for line in stream.aiter_lines():
            rates.heard += line.startswith("data:")


async def recording(client: Any, rates: Rates, joints: list[str], until: float, after: float) -> None:
    """One of the phones that say joints dry-fitted, in its turn: the first so long (s) after the others began."""
    n = 0
    await asyncio.sleep(after)
    while time.monotonic() < until:
        due = time.monotonic() + PHONES / RECORDS
        said = {
            "id": str(uuid.uuid4()),
            "kind": "dry_fitted",
            "at": time.time(),
            "by": "Ash",
            "joints": [joints[n % len(joints)]],
        }
        await rates.ask("record", client.post("/api/jobs/bench/events", json=[said]))
        n += 7
        await asyncio.sleep(max(0.0, due - time.monotonic()))


async def editing(client: Any, rates: Rates, until: float) -> None:
    """One who draws: the newest plan, a point moved, saved; where another was first it is made anew on that."""
    view = (await client.get("/api/jobs/bench?stage=survey")).json()
    plan, revision, n = view["plan"], view["revision"], 0
    while time.monotonic() < until:
        due = time.monotonic() + 1 / EDITS
        plan["points"][5]["x"] += 0.01 * (-1) ** n
        plan["points"][40]["x"] += 1e-4
        n += 1
        sent = {"revision": revision, "plan": plan}
        answer = await rates.ask("edit", client.put("/api/jobs/bench/plan?stage=survey", json=sent))
        if answer.status_code == 200:
            revision = answer.json()["revision"]
        elif answer.status_code == 409:
            view = (await client.get("/api/jobs/bench?stage=survey")).json()
            plan, revision = view["plan"], view["revision"]
        await asyncio.sleep(max(0.0, due - time.monotonic()))


async def looking(client: Any, rates: Rates, until: float) -> None:
    """Somebody at the list of jobs, twice a second."""
    while time.monotonic() < until:
        await rates.ask("list of jobs", client.get("/api/jobs"))
        await asyncio.sleep(0.5)


def phone(address: str, number: int) -> Any:
    """The connections of one phone, which come from an address of its own."""
    way = httpx2.AsyncHTTPTransport(local_address=f"127.0.1.{number + 1}")
    return httpx2.AsyncClient(base_url=address, transport=way, timeout=60)


async def crowd(address: str, seconds: float) -> Rates:
    """All of them at once for so many seconds."""
    rates = Rates()
    async with AsyncExitStack() as held:
        phones = [await held.enter_async_context(phone(address, n)) for n in range(PHONES)]
        first, last = phones[0], phones[-1]
        joints = [j["id"] for j in (await first.get("/api/jobs/bench/stages/make")).json()["joints"]]
        until = time.monotonic() + seconds
        ears = [asyncio.create_task(listening(p, rates)) for p in phones]
        await asyncio.gather(
            *(recording(p, rates, joints[n:], until, n / RECORDS) for n, p in enumerate(phones)),
            editing(first, rates, until),
            looking(last, rates, until),
        )
        for ear in ears:
            ear.cancel()
        await asyncio.gather(*ears, return_exceptions=True)
    return rates


def memory(process: int) -> float:
    """The most memory (MB) a process took."""
    told = Path(f"/proc/{process}/status").read_text(encoding="ascii")
    return int(next(x for x in told.splitlines() if x.startswith("VmHWM")).split()[1]) / 1024


def main() -> None:
    """Print the table."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 30.0
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder) / FILE)
        plan = tree(150)
        add_job(store, "bench", plan)
        store.close()
        command = [sys.executable, "-m", "hydrarch", "serve", "--port", "0", "--data", folder]
        server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        try:
            assert server.stdout is not None
            address = next(w for w in server.stdout.readline().split() if w.startswith("http://")).rstrip("/")
            rates = asyncio.run(crowd(address, seconds))
            took, spinning = memory(server.pid), machine()
        finally:
            server.terminate()
            server.wait(20)
    print(f"{PHONES} phones, {len(plan.runs)} runs, {seconds:.0f} s; a spin takes {spinning * 1e3:.0f} ms")
    for what, spent in rates.spent.items():
        median, p95 = ends(spent)
        print(
            f"  {what:13} {len(spent) / seconds:5.1f}/s   median {median * 1e3:5.0f} ms   p95 {p95 * 1e3:5.0f} ms   "
            f"{p95 / spinning:.1f} spins"
        )
    print(f"  news heard {rates.heard}; memory at the most {took:.0f} MB; other answers {json.dumps(rates.other)}")


if __name__ == "__main__":
    main()
