"""Run every test and close with a count: python -m tests [patterns of test names].

Each test module runs in a process of its own, as many at once as there are processors. What failed is printed when its
module ends.
"""

import json
import os
import resource
import subprocess
import sys
import unittest
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor, as_completed
from pathlib import Path

HERE = Path(__file__).parent
TOP = HERE.parent
_COUNTED = "counted: "


def main(patterns: Sequence[str]) -> int:
    """Run all modules; the exit status is 0 only if tests ran and all passed."""
    passed = failed = skipped = 0
    broken = []
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        under_way = {pool.submit(_apart, name, patterns): name for name in _modules()}
        for done in as_completed(under_way):
            said, counts = done.result()
            if counts is None:  # it ended before it could count
                broken.append(under_way[done])
                counts = (0, 1, 0, 0.0)
            passed, failed, skipped = passed + counts[0], failed + counts[1], skipped + counts[2]
            if counts[1]:
                print(said, flush=True)
            if sum(counts[:3]):
                took = f"{counts[3]:.0f} s of a processor"
                print(f"{under_way[done]}: {counts[0]} passed, {counts[1]} failed, {counts[2]} skipped; {took}", flush=True)
    for name in broken:
        print(f"{name} did not come to its end")
    print(f"{passed} passed, {failed} failed, {skipped} skipped")
    return 0 if passed and not failed else 1


def _modules() -> Iterator[str]:
    """The modules of tests, those that drive the browser first: they take longest."""
    found = sorted(HERE.rglob("test_*.py"), key=lambda f: (f.parent.name != "web", -f.stat().st_size))
    for file in found:
        yield ".".join(file.relative_to(TOP).with_suffix("").parts)


def _apart(name: str, patterns: Sequence[str]) -> tuple[str, tuple[int, int, int, float] | None]:
    """Run a module in a process of its own: what it printed, how many passed, failed and were skipped, and the seconds it cost."""
    ran = subprocess.run(
        [sys.executable, "-m", "tests", "--module", name, *patterns], cwd=TOP, capture_output=True, text=True, check=False
    )
    said, counted, counts = ran.stdout.rpartition(_COUNTED)
    if not counted:
        return ran.stdout + ran.stderr, None
    passed, failed, skipped, seconds = json.loads(counts)
    return said + ran.stderr, (passed, failed, skipped, seconds)


def _here(name: str, patterns: Sequence[str]) -> int:
    """Run one module in this process and say the counts last."""
    loader = unittest.TestLoader()
    if patterns:
        loader.testNamePatterns = [f"*{p}*" for p in patterns]
    result = unittest.TextTestRunner(verbosity=1).run(loader.loadTestsFromName(name))
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    mine, theirs = (resource.getrusage(who) for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN))
    seconds = mine.ru_utime + mine.ru_stime + theirs.ru_utime + theirs.ru_stime
    print(_COUNTED + json.dumps([max(0, result.testsRun - bad - skipped), bad, skipped, seconds]))
    return 1 if bad else 0


if __name__ == "__main__":
    if sys.argv[1:2] == ["--module"]:
        sys.exit(_here(sys.argv[2], sys.argv[3:]))
    sys.exit(main(sys.argv[1:]))
