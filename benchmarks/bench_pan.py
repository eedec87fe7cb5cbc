"""A drawing of 1,001 runs in headless Chromium, in each view: frames a second while it is dragged and at rest, and how
long a press takes.

Chromium draws in software here, so a screen with a graphics chip does better. Budgets: 50 frames a second or more, 100
ms a press.
"""

import time

from playwright.sync_api import Page

from tests.core.plans import tree
from tests.web.base import Browsing

MOVES = 60
COUNT = (
    "window.frames_at = []; (f => requestAnimationFrame(function g(t) { f.push(t); requestAnimationFrame(g); "
    "}))(window.frames_at)"
)


SPOT = """() => { const g = [...document.querySelectorAll("g[data-point]")].find(g => { const b = g.getBoundingClientRect();
    return b.x > 120 && b.x < 780 && b.y > 150 && b.y < 560; });
    const b = g.getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2]; }"""
"""A thing that is in view, by its place on the screen."""
PRESS = """([x, y]) => new Promise(done => { const svg = document.querySelector("svg[role=application]"); const began = performance.now();
    const tell = kind => svg.dispatchEvent(new PointerEvent(kind, { clientX: x, clientY: y, pointerId: 1, button: 0, bubbles: true }));
    svg.setPointerCapture = () => {}; tell("pointerdown"); tell("pointerup");
    requestAnimationFrame(() => setTimeout(() => done(performance.now() - began))); })"""
"""Press there, and the time (ms) until the frame after it is drawn."""


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
        self.page.wait_for_timeout(20_000)  # what is worked out beside it has come to its end
        for view in ("Above", "Side", "Standing"):
            self.page.get_by_role("button", name=view, exact=True).click()
            self.page.get_by_role("button", name="All", exact=True).click()
            self.page.wait_for_timeout(800)
            self.in_view(view, len(plan["runs"]))

    def in_view(self, view: str, runs: int) -> None:
        """Print the frames in one view, and how long a press there takes until it is shown."""
        for says, closer in (("the whole of it in view", 0), ("a part of it in view", 6)):
            self.page.mouse.move(420, 330)
            for _ in range(closer):
                self.page.mouse.wheel(0, -200)
            self.page.wait_for_timeout(500)
            rest, dragged = frames(self.page, False), frames(self.page, True)
            print(
                f"{view}, {runs} runs, {says}: {dragged:.0f} frames a second dragged, {dragged / rest:.2f} of "
                "those at rest"
            )
        self.page.get_by_role("button", name="All", exact=True).click()
        self.page.wait_for_timeout(500)
        spot = self.page.evaluate(SPOT)
        took = self.page.evaluate(PRESS, spot)
        print(f"{view}: a press on a thing is shown after {took:.0f} ms")


def main() -> None:
    """Print the figures."""
    Pan().debug()


if __name__ == "__main__":
    main()
