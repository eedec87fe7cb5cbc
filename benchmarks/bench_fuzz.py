"""Twenty thousand requests of nonsense at a real server, while somebody asks for the list of jobs every 50 ms.

Printed are what was answered by kind of status (none may be 500 or more), and the middle and the 99th percentile of the
list. By itself it sends 2,000; `python -m benchmarks.bench_fuzz 20000` sends those of the budget.
"""

import asyncio
import json
import random
import subprocess
import sys
import tempfile
import time
from collections import Counter
from typing import Any

import httpx2

from benchmarks.timing import machine
from tests.api.test_fuzz import bodies

_PLACES = {
    "{job_id}": "thistledown",
    "{section}": "sec-R4",
    "{joint}": "R3b~1",
    "{point}": "J1",
    "{run}": "R3",
}
_VALUES: tuple[Any, ...] = (
    *(None, True, 0, -1, 7, 10**6, 1e-12, 0.5, 33.4, 1e12, 1e308, 5e-324, 10**400, -(10**400)),
    *("", "1", "3/4", "pvc40", "npt:male:1", "a\x00b", "NaN", "1e999", "\u202e", "9" * 400, "é" * 50),
    *([], [1, 2, 3], {}, {"series": "pvc40", "size": "1"}, {"end": 2}),
)
_AT_ONCE = 8


async def nonsense(client: Any, luck: random.Random, many: int, told: Counter[str]) -> None:
    """Send so many, one after the other."""
    routes = bodies()
    for _ in range(many):
        method, path, fields = luck.choice(routes)
        for name, value in _PLACES.items():
            path = path.replace(name, value)
        body = {f: luck.choice(_VALUES) for f in luck.sample(fields, luck.randint(0, len(fields)))}
        answer = await client.request(method, path, content=json.dumps(body).encode())
        told[f"{answer.status_code // 100}xx"] += 1
        if answer.status_code >= 500:
            told[f"{method} {path} {answer.status_code}"] += 1


async def looking(client: Any, spent: list[float]) -> None:
    """The list of jobs every 50 ms."""
    while True:
        start = time.perf_counter()
        answer = await client.get("/api/jobs")
        assert answer.status_code == 200, answer.status_code
        spent.append(time.perf_counter() - start)
        await asyncio.sleep(max(0.0, 0.05 - spent[-1]))


async def both(address: str, many: int) -> tuple[Counter[str], list[float]]:
    """The nonsense and the list, at once."""
    told, spent = Counter[str](), list[float]()
    headers = {"content-type": "application/json"}
    async with httpx2.AsyncClient(base_url=address, headers=headers, timeout=120) as client:
        look = asyncio.create_task(looking(client, spent))
        await asyncio.gather(*(nonsense(client, random.Random(n), many // _AT_ONCE, told) for n in range(_AT_ONCE)))
        look.cancel()
        await asyncio.gather(look, return_exceptions=True)
    return told, spent


def main() -> None:
    """Print the table."""
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "hydrarch", "demo", "--port", "0", "--data", folder]
        server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        try:
            assert server.stdout is not None
            address = next(w for w in server.stdout.readline().split() if w.startswith("http://")).rstrip("/")
            told, spent = asyncio.run(both(address, many))
            spinning = machine()
        finally:
            server.terminate()
            server.wait(20)
    ordered = sorted(spent)
    p50, p99 = ordered[len(ordered) // 2], ordered[int(len(ordered) * 0.99)]
    print(f"{many} requests of nonsense: {dict(told)}")
    print(
        f"the list of jobs meanwhile, {len(spent)} times: {p50 * 1e3:.0f} ms median, {p99 * 1e3:.0f} ms p99, "
        f"{p99 / spinning:.1f} spins of {spinning * 1e3:.0f} ms"
    )


if __name__ == "__main__":
    main()
