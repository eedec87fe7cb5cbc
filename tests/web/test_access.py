"""Read by machine as by hand: nothing serious for a screen reader or a weak eye, and nothing too small for a
wet thumb.
"""

from pathlib import Path
from typing import Any

from playwright.sync_api import expect

from tests.web.base import ROOT, Browsing

AXE = Path(ROOT) / "web" / "node_modules" / "axe-core" / "axe.min.js"
STAGES = ["survey", "size", "join", "cut", "make", "prove", "keep"]
QUESTIONS = ["join", "identify", "line", "well", "source", "cut", "wait", "fused"]
VIEWS = [
    "/",
    "/book",
    "/job/thistledown/shop",
    *(f"/job/thistledown/{s}" for s in STAGES),
    *(f"/bench/{q}" for q in QUESTIONS),
]
SMALL = """() => [...document.querySelectorAll('button, select, input, a[href], [role=tab], summary')]
  .map(e => [e, (e.type === 'checkbox' || e.type === 'radio' ? e.closest('label') ?? e : e).getBoundingClientRect()])
  .filter(([e, r]) => r.width > 1 && r.height > 0 && !e.closest('svg') && getComputedStyle(e).visibility === 'visible')
  .filter(([e, r]) => r.height < 43.5 && getComputedStyle(e).display !== 'inline')
  .map(([e, r]) => `${e.tagName.toLowerCase()} ${(e.textContent || e.ariaLabel || e.id).trim().slice(0, 40)} ${Math.round(r.height)}`)"""

CUT_SHORT = """() => [...document.querySelectorAll('input')]
  .filter(e => /^[-\u2212]?\\d/.test(e.value) && e.offsetParent && !['checkbox', 'radio', 'range'].includes(e.type))
  .filter(e => e.scrollWidth > e.clientWidth + 1)
  .map(e => `${e.labels?.[0]?.textContent ?? e.ariaLabel}: ${e.value}, ${e.scrollWidth} in ${e.clientWidth}`)"""


class Access(Browsing):
    """Every main view in both themes under axe-core's rules."""

    def serious(self, rules: str) -> list[str]:
        """What axe-core finds serious or critical on the page as it stands, by all rules or those named."""
        found: dict[str, Any] = self.page.evaluate(f"axe.run(document, {{resultTypes: ['violations'], {rules}}})")
        return [
            f"{v['id']}: {n['html'][:140]} {n['failureSummary'][:200]}"
            for v in found["violations"]
            if v["impact"] in ("serious", "critical")
            for n in v["nodes"][:3]
        ]

    def test_nothing_serious(self) -> None:
        """No main view has a serious fault, by day or by night; by night only the colours differ, so only they are
        looked at again.
        """
        for address in VIEWS:
            self.page.goto(address)
            self.page.wait_for_load_state("networkidle" if address.startswith("/bench") or address == "/" else "load")
            self.page.get_by_role("heading").first.wait_for()
            self.page.evaluate(f"() => {{ {AXE.read_text()} }}")  # not a script tag: pages allow none but their own
            for theme, rules in (("light", ""), ("dark", "runOnly: ['color-contrast']")):
                with self.subTest(address=address, theme=theme):
                    self.page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme)
                    self.assertEqual(self.serious(rules), [])

    def test_named_and_skipped(self) -> None:
        """Each page says in its title what is open; the first thing the keyboard meets leads past the head of it."""
        page = self.page
        for address, title in (
            ("/", "Hydrarch"),
            ("/book", "Crew parts · Hydrarch"),
            ("/bench/line", "How big a line? · Bench · Hydrarch"),
            ("/job/thistledown/shop", "Shop · Thistledown Camp, meadow line · Hydrarch"),
            ("/job/thistledown/prove", "Test · Thistledown Camp, meadow line · Hydrarch"),
        ):
            page.goto(address)
            expect(page).to_have_title(title)
        expect(page.get_by_role("region", name="Worksheet")).to_be_visible()
        page.keyboard.press("Tab")
        expect(page.get_by_role("button", name="Skip to the worksheet")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.get_by_role("region", name="Worksheet")).to_be_focused()


class Thumb(Browsing):
    """A phone in a wet hand."""

    viewport = (390, 844)
    phone = True

    def test_targets(self) -> None:
        """What can be tapped is 44 pixels high or more, nothing runs over the edge, and no figure is wider than its
        field, also in what is folded, on every stage and bench question.
        """
        for address in VIEWS:
            with self.subTest(address=address):
                self.page.goto(address)
                self.page.get_by_role("heading").first.wait_for()
                if address == "/":
                    self.page.get_by_text("drawing saved").last.wait_for()
                    self.page.wait_for_load_state("networkidle")
                self.assertEqual(self.page.evaluate(SMALL), [])
                self.page.evaluate("document.querySelectorAll('details').forEach((d) => { d.open = true })")
                self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), self.viewport[0])
                self.assertEqual(self.page.evaluate(CUT_SHORT), [])
