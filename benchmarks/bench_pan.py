"""A drawing of 1,001 runs dragged by hand in headless Chromium: frames a second against those of the same page at rest.

Chromium draws in software here, so a screen with a graphics chip does better. Budget: 50 frames a second or more.
"""

import time

from playwright.sync_api import Page

from tests.core.plans import tree
from tests.web.base import Browsing

MOVES = 60
COUNT = "window.frames_at = []; (f => requestAnimationFrame(function g(t) { f.push(t); requestAnimationFrame(g); }))(window.frames_at)"


def frames(page: Page, move: bool) -> float:
    """Frames a second while the drawing is dragged, or while the page rests for a second."""
    page.mouse.move(300, 150)
    page.mouse.down()
    page.evaluate("window.frames_at.length = 0")
    start = time.perf_counter()
    if move:
        for n in range(MOVES):
            page.mouse.move(300 + 3 * n, 150 + n)
    else:
        page.wait_for_timeout(1000)
    spent = time.perf_counter() - start
    count = int(page.evaluate("window.frames_at.length"))
    page.mouse.up()
    return count / spent


class Pan(Browsing):
    """Run by `main`: it has a server and a browser."""

    def runTest(self) -> None:
        """Print the frames of the whole plan and of a part of it, dragged and at rest."""
        plan = tree(500).model_dump(mode="json")
        made = self.api("POST", "/jobs", json={"name": "Large", "units": "metric"})
        self.api("PUT", f"/jobs/{made['id']}/plan", json={"revision": made["revision"], "plan": plan})
        self.page.goto(f"/job/{made['id']}/size")
        self.page.wait_for_selector("[data-label]")
        self.page.evaluate(COUNT)
        for says, closer in (("the whole of it in view", 0), ("a part of it in view", 6)):
            self.page.mouse.move(420, 330)
            for _ in range(closer):
                self.page.mouse.wheel(0, -200)
            self.page.wait_for_timeout(500)
            rest, dragged = frames(self.page, False), frames(self.page, True)
            print(
                f"{len(plan['runs'])} runs, {says}: {dragged:.0f} frames a second dragged, {dragged / rest:.2f} of those at rest"
            )


def main() -> None:
    """Print the figures."""
    Pan().debug()


if __name__ == "__main__":
    main()
