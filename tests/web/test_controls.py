"""Edges that can be seen, targets for a thumb, keys that rest behind a dialog, and a head that leaves room for work."""

import re
import unittest

from playwright.sync_api import expect

from tests.web.base import ROOT, Browsing


def luminance(colour: str) -> float:
    """Relative luminance of a colour as "#rrggbb" (WCAG 2.2)."""
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(one: str, two: str) -> float:
    """Contrast of two colours, 1 to 21 (WCAG 2.2)."""
    low, high = sorted((luminance(one), luminance(two)))
    return (high + 0.05) / (low + 0.05)


class Colours(unittest.TestCase):
    """As the theme's file has them."""

    def test_edges_of_controls(self) -> None:
        """A field's or a button's edge stands out from what is within and about it at 3 : 1 (WCAG 2.2, 1.4.11)."""
        self.assertAlmostEqual(contrast("#ffffff", "#000000"), 21.0)
        css = (ROOT / "web" / "src" / "app" / "theme.css").read_text("utf-8")
        light, dark = css.split('[data-theme="dark"] {')[:2]
        for theme in (light, dark):
            colours = dict(re.findall(r"--color-(edge|panel|paper): (#[0-9a-f]{6})", theme))
            for ground in ("panel", "paper"):
                self.assertGreaterEqual(contrast(colours["edge"], colours[ground]), 3.0, (colours, ground))


class Shortcuts(Browsing):
    """Keys that act without Ctrl."""

    def test_they_rest_behind_a_dialog_and_can_be_switched_off(self) -> None:
        """A digit goes to a stage; not behind a dialog; not where a person switched letters off, also after a reload;
        Ctrl K goes on.
        """
        page = self.page
        self.open("thistledown", "survey")
        page.keyboard.press("2")
        expect(page).to_have_url(re.compile("/size$"))
        page.keyboard.press("?")
        dialog = page.get_by_role("dialog", name="Keys")
        expect(dialog).to_be_visible()
        page.keyboard.press("3")
        expect(page).to_have_url(re.compile("/size$"))
        dialog.get_by_role("checkbox").uncheck()
        page.keyboard.press("Escape")
        expect(dialog).to_have_count(0)
        page.keyboard.press("3")
        page.reload()
        expect(page.get_by_role("navigation", name="Stages")).to_be_visible()
        page.keyboard.press("3")
        page.keyboard.press("Control+k")
        expect(page.get_by_role("combobox", name="What to find")).to_be_focused()
        expect(page).to_have_url(re.compile("/size$"))


class Focus(Browsing):
    """Where the focus is after what had it went away."""

    def at(self) -> str:
        """What has the focus, and whether it is in the worksheet."""
        found: str = self.page.evaluate(
            """() => { const e = document.activeElement;
            return (e.closest('[aria-label="Worksheet"]') ? 'sheet: ' : 'elsewhere: ') + e.tagName + ' ' + e.textContent }"""
        )
        return found

    def test_it_goes_to_what_came_in_its_place(self) -> None:
        """Made, the next joint, a row chosen and deleted: each leaves the focus in the sheet, at the heading of what is
        there now, and not at the top of the page.
        """
        page = self.page
        self.open(self.fresh_demo(), "make")
        self.said_made()
        expect(page.get_by_role("button", name="Made, and it looks right")).to_have_count(0)
        self.until(lambda: self.at().startswith("sheet: "))
        page.get_by_role("button", name="Next joint").press("Enter")
        expect(page.get_by_role("button", name="Made, and it looks right")).to_be_visible()
        self.until(lambda: self.at().startswith("sheet: "))
        self.open(self.fresh_demo(), "survey")
        page.get_by_role("table", name="Points").get_by_role("button").first.press("Enter")
        self.until(lambda: self.at().startswith("sheet: H2 Well pump"))
        page.get_by_role("button", name="Delete this point").press("Enter")
        self.until(lambda: self.at().startswith("sheet: H"))


class Low(Browsing):
    """Screens that are low, narrow, or a desk's at 200 %."""

    phone = True

    def test_work_keeps_half_of_the_height(self) -> None:
        """In Survey, Size and Make, on 360×640, 844×390 and 640×400, drawing or sheet has at least half of the height;
        on a phone on its side both are seen side by side.
        """
        page = self.page
        for width, height in ((360, 640), (844, 390), (640, 400)):
            page.set_viewport_size({"width": width, "height": height})
            for stage in ("survey", "size", "make"):
                self.open("thistledown", stage)
                expect(page.get_by_role("region", name="Worksheet")).not_to_contain_text("Calculating …")
                main = page.locator("main").bounding_box()
                assert main is not None
                self.assertGreaterEqual(main["height"], height / 2, (width, height, stage))
                if width > height and width >= 768:
                    expect(page.get_by_role("application")).to_be_visible()
                    sheet = page.get_by_role("region", name="Worksheet").bounding_box()
                    drawing = page.get_by_role("application").bounding_box()
                    assert sheet is not None and drawing is not None
                    self.assertLess(drawing["x"] + drawing["width"], sheet["x"] + 1)

    def test_big_buttons_are_bigger_for_a_thumb(self) -> None:
        """What records a joint is at least 64 px high under a thumb."""
        page = self.page
        page.set_viewport_size({"width": 390, "height": 844})
        self.open("thistledown", "make")
        for name in ("Made, and it looks right", "Next step"):
            box = page.get_by_role("button", name=name).bounding_box()
            assert box is not None
            self.assertGreaterEqual(box["height"], 64, name)


class OwnTextSize(Browsing):
    """A person's own size of letters, twice the usual, on a phone."""

    viewport = (390, 844)
    phone = True

    def test_letters_grow_and_nothing_runs_off_sideways(self) -> None:
        """In every stage the words are twice as large, and none needs a scroll sideways."""
        page = self.page
        page.add_init_script(
            "new MutationObserver(() => { document.documentElement.style.fontSize = '32px'; })"
            ".observe(document, { childList: true, subtree: true })"
        )
        for stage in ("survey", "size", "join", "cut", "make", "prove", "keep"):
            with self.subTest(stage):
                self.open("thistledown", stage)
                page.wait_for_function("parseFloat(getComputedStyle(document.body).fontSize) === 30")
                page.wait_for_load_state("networkidle")
                wide = page.evaluate("[document.documentElement.scrollWidth, innerWidth]")
                self.assertLessEqual(wide[0], wide[1])


class HeapOfThings(Browsing):
    """Several things at one place, near the edge of a phone."""

    viewport = (360, 640)
    phone = True

    def test_the_list_stays_on_the_screen(self) -> None:
        """What lies at a press is listed within the drawing."""
        page = self.page
        self.open("thistledown-tank", "survey")
        page.get_by_role("button", name="Drawing", exact=True).click()
        found = False
        for mark in page.locator("[data-point]").all():
            box = mark.bounding_box()
            if box is None:
                continue
            page.touchscreen.tap(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
            heap = page.get_by_role("region", name="What lies here")
            if heap.count():
                within, room = heap.bounding_box(), page.locator("[data-tool]").first.bounding_box()
                assert within is not None and room is not None
                self.assertGreaterEqual(within["x"], room["x"])
                self.assertLessEqual(within["x"] + within["width"], room["x"] + room["width"] + 1)
                self.assertLessEqual(within["y"] + within["height"], room["y"] + room["height"] + 1)
                heap.get_by_role("button", name="Close").click()
                found = True
        self.assertTrue(found)


if __name__ == "__main__":
    unittest.main()
