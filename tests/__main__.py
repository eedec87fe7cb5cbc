"""Run every test and close with a count: python -m tests [patterns of test names].

Test modules run in processes of a few each, one more at once than there are processors, since a browser's tests mostly wait: what they all
import, and the demo, take long to make ready. Those that drive the browser share one server and one browser with others of theirs. What failed is printed when its process ends.
"""

import json
import os
import subprocess
import sys
import time
import unittest
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor, as_completed
from pathlib import Path

HERE = Path(__file__).parent
TOP = HERE.parent
_COUNTED = "counted: "
_A_FEW = 2
"""Processes of the API's modules for each processor; of the core's there are twice as many, so that none is left with much at the end."""
Counts = tuple[int, int, int, float]
"""Passed, failed, skipped, and seconds."""


def main(patterns: Sequence[str]) -> int:
    """Run all modules; the exit status is 0 only if tests ran and all passed."""
    passed = failed = skipped = 0
    broken = []
    with ThreadPoolExecutor((os.cpu_count() or 1) + 1) as pool:
        under_way = {pool.submit(_apart, names, patterns): names for names in _together(os.cpu_count() or 1)}
        for done in as_completed(under_way):
            said, counted = done.result()
            told = {name: counted.get(name) for name in under_way[done]}
            if any(counts is None or counts[1] for counts in told.values()):
                print(said, flush=True)
            for name, counts in told.items():
                if counts is None:  # it ended before it could count
                    broken.append(name)
                    failed += 1
                    continue
                passed, failed, skipped = passed + counts[0], failed + counts[1], skipped + counts[2]
                if sum(counts[:3]):
                    took = f"{counts[3]:.0f} s"
                    print(f"{name}: {counts[0]} passed, {counts[1]} failed, {counts[2]} skipped; {took}", flush=True)
    for name in broken:
        print(f"{name} did not come to its end")
    print(f"{passed} passed, {failed} failed, {skipped} skipped")
    return 0 if passed and not failed else 1


def _modules() -> Iterator[str]:
    """The modules of tests, those that drive the browser first: they take longest."""
    found = sorted(HERE.rglob("test_*.py"), key=lambda f: (f.parent.name != "web", -f.stat().st_size))
    for file in found:
        yield ".".join(file.relative_to(TOP).with_suffix("").parts)


def _together(processors: int) -> Iterator[tuple[str, ...]]:
    """The modules by the process they run in: those of the browser dealt out over as many as there are processors, the others over more."""
    names = list(_modules())
    for room, many in (("web", processors), ("api", _A_FEW * processors), ("store", 1), ("core", 2 * _A_FEW * processors)):
        mine = [n for n in names if n.startswith(f"tests.{room}.")]
        for n in range(min(many, len(mine))):
            yield tuple(mine[n::many])


def _apart(names: tuple[str, ...], patterns: Sequence[str]) -> tuple[str, dict[str, Counts]]:
    """Run modules in a process: what it printed, and of each how many passed, failed and were skipped, and how long it took (s)."""
    setting = {**os.environ, "PYTHONDONTWRITEBYTECODE": ""}  # else every process compiles the whole anew
    ran = subprocess.run(
        [sys.executable, "-m", "tests", "--modules", ",".join(names), *patterns],
        cwd=TOP, env=setting, capture_output=True, text=True, check=False,
    )  # fmt: skip
    lines = ran.stdout.splitlines()
    counted: dict[str, Counts] = {}
    for line in lines:
        if line.startswith(_COUNTED):
            name, *counts = json.loads(line.removeprefix(_COUNTED))
            counted[name] = (counts[0], counts[1], counts[2], counts[3])
    return "\n".join(line for line in lines if not line.startswith(_COUNTED)) + ran.stderr, counted


def _here(name: str, patterns: Sequence[str]) -> int:
    """Run one module in this process and say the counts last."""
    began = time.monotonic()
    loader = unittest.TestLoader()
    if patterns:
        loader.testNamePatterns = [f"*{p}*" for p in patterns]
    result = unittest.TextTestRunner(verbosity=1).run(loader.loadTestsFromName(name))
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    passed = max(0, result.testsRun - bad - skipped)
    print("\n" + _COUNTED + json.dumps([name, passed, bad, skipped, time.monotonic() - began]), flush=True)
    return 1 if bad else 0


if __name__ == "__main__":
    if sys.argv[1:2] == ["--modules"]:
        sys.exit(max(_here(name, sys.argv[3:]) for name in sys.argv[2].split(",")))
    sys.exit(main(sys.argv[1:]))
