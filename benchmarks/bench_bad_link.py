"""Two thousand sayings over a link that stalls, cuts, doubles and answers for itself, half of them by a browser that is
killed again and again: what arrived, against what was said.

.venv/bin/python -m benchmarks.bench_bad_link [sayings]
"""

import sys
import time
import unittest

from tests.web.test_bad_link import OverABadLink


def main() -> int:
    """Run the browser test with so many sayings; 0 where all arrived once, and none was misdated."""
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    OverABadLink.pictures = min(24, many // 20)
    OverABadLink.rounds = min(8, many // 40)  # there is free ground for eight things on a phone's drawing
    OverABadLink.sayings = many // 2
    OverABadLink.ticks = (many - OverABadLink.sayings) // OverABadLink.rounds
    OverABadLink.pause = 250.0
    began = time.monotonic()
    suite = unittest.defaultTestLoader.loadTestsFromTestCase(OverABadLink)
    done = unittest.TextTestRunner(verbosity=0).run(suite)
    print(
        f"{many} ticks, {OverABadLink.things + OverABadLink.pictures + 2 * OverABadLink.rounds} things and photos, {OverABadLink.rounds} kills in {time.monotonic() - began:.0f} s: {'none' if done.wasSuccessful() else 'some'} lost"
    )
    return 0 if done.wasSuccessful() else 1


if __name__ == "__main__":
    sys.exit(main())
