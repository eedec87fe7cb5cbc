"""Run every test and close with the slowest ten and a count: python -m tests [patterns of test names].

Test modules run in processes of a few each, one more at once than there are processors, since a browser's tests mostly
wait: what they all import, and the demo, take long to make ready. Those that drive the browser share one server and one
browser with others of theirs. What failed is printed when its process ends.
"""

import json
import os
import subprocess
import sys
import time
import unittest
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor, as_completed
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent
TOP = HERE.parent
_COUNTED = "counted: "
_A_FEW = 2
"""Processes of the API's modules for each processor; of the core's twice as many, so that none is left at the end."""
_SLOWEST = 10


@dataclass(frozen=True)
class Counts:
    """What one module's tests came to, with how long it took in all and each test in it (s)."""

    passed: int
    failed: int
    skipped: int
    seconds: float
    each: dict[str, float]

    def __str__(self) -> str:
        return f"{self.passed} passed, {self.failed} failed, {self.skipped} skipped"


def main(patterns: Sequence[str]) -> int:
    """Run all modules; the exit status is 0 only if tests ran and all passed."""
    counts: list[Counts] = []
    broken = []
    with ThreadPoolExecutor((os.cpu_count() or 1) + 1) as pool:
        under_way = {pool.submit(_apart, names, patterns): names for names in _together(os.cpu_count() or 1)}
        for done in as_completed(under_way):
            said, counted = done.result()
            if any(name not in counted or counted[name].failed for name in under_way[done]):
                print(said, flush=True)
            broken += [name for name in under_way[done] if name not in counted]
            counts += counted.values()
            for name, told in counted.items():
                if told.each:
                    print(f"{name}: {told}; {told.seconds:.0f} s", flush=True)
    for name in broken:
        print(f"{name} did not come to its end")
    each = {test: took for told in counts for test, took in told.each.items()}
    for test in sorted(each, key=lambda t: -each[t])[:_SLOWEST]:
        print(f"{each[test]:.0f} s  {test}")
    passed = sum(c.passed for c in counts)
    failed = sum(c.failed for c in counts) + len(broken)
    print(f"{passed} passed, {failed} failed, {sum(c.skipped for c in counts)} skipped")
    return 0 if passed and not failed else 1


def _modules() -> Iterator[str]:
    """The modules of tests, those that drive the browser first: they take longest."""
    found = sorted(HERE.rglob("test_*.py"), key=lambda f: (f.parent.name != "web", -f.stat().st_size))
    for file in found:
        yield ".".join(file.relative_to(TOP).with_suffix("").parts)


def _together(processors: int) -> Iterator[tuple[str, ...]]:
    """The modules by the process they run in: the browser's dealt out over the processors, the others over more."""
    names = list(_modules())
    rooms = (("web", processors), ("api", _A_FEW * processors), ("store", 1), ("core", 2 * _A_FEW * processors))
    for room, many in rooms:
        mine = [n for n in names if n.startswith(f"tests.{room}.")]
        for n in range(min(many, len(mine))):
            yield tuple(mine[n::many])


def _apart(names: tuple[str, ...], patterns: Sequence[str]) -> tuple[str, dict[str, Counts]]:
    """Run modules in a process: what it printed, and the counts of each that came to its end."""
    ran = subprocess.run(
        [sys.executable, "-m", "tests", "--modules", ",".join(names), *patterns],
        cwd=TOP,
        env={**os.environ, "PYTHONDONTWRITEBYTECODE": ""},  # else every process compiles the whole anew
        capture_output=True,
        text=True,
        check=False,
    )
    lines = ran.stdout.splitlines()
    counted: dict[str, Counts] = {}
    for line in lines:
        if line.startswith(_COUNTED):
            name, told = json.loads(line.removeprefix(_COUNTED))
            counted[name] = Counts(**told)
    return "\n".join(line for line in lines if not line.startswith(_COUNTED)) + ran.stderr, counted


class _Timed(unittest.TextTestResult):
    """A result that keeps how long each test took (s)."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.took: dict[str, float] = {}
        self._began = 0.0

    def startTest(self, test: unittest.TestCase) -> None:
        """Look at the clock before it."""
        self._began = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        """Look at the clock after it."""
        super().stopTest(test)
        self.took[test.id()] = time.monotonic() - self._began


def _here(name: str, patterns: Sequence[str]) -> int:
    """Run one module in this process and say the counts last."""
    began = time.monotonic()
    loader = unittest.TestLoader()
    if patterns:
        loader.testNamePatterns = [f"*{p}*" for p in patterns]
    result = unittest.TextTestRunner(verbosity=1, resultclass=_Timed).run(loader.loadTestsFromName(name))
    assert isinstance(result, _Timed)
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    passed = max(0, result.testsRun - bad - skipped)
    counts = Counts(passed, bad, skipped, time.monotonic() - began, result.took)
    print("\n" + _COUNTED + json.dumps([name, asdict(counts)]), flush=True)
    return 1 if bad else 0


if __name__ == "__main__":
    if sys.argv[1:2] == ["--modules"]:
        sys.exit(max(_here(name, sys.argv[3:]) for name in sys.argv[2].split(",")))
    sys.exit(main(sys.argv[1:]))
