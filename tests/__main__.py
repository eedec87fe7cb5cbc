"""Run every test and close with a count: python -m tests [pattern of test names]."""

import sys
import unittest
from pathlib import Path


def main() -> int:
    """Discover and run; the exit status is 0 only if tests ran and all passed."""
    here = Path(__file__).parent
    loader = unittest.TestLoader()
    if sys.argv[1:]:
        loader.testNamePatterns = [f"*{p}*" for p in sys.argv[1:]]
    suite = loader.discover(str(here), top_level_dir=str(here.parent))
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    print(f"{result.testsRun - bad - len(result.skipped)} passed, {bad} failed, {len(result.skipped)} skipped")
    return 0 if result.wasSuccessful() and result.testsRun else 1


if __name__ == "__main__":
    sys.exit(main())
