"""Anything of a job is found by its name or another of its names, and done by a key."""

import re

from playwright.sync_api import Locator, expect

from tests.web.base import Browsing


class FindAnything(Browsing):
    """By keyboard alone."""

    def setUp(self) -> None:
        """The demo's job, open at Size."""
        super().setUp()
        self.job = self.fresh_demo()
        self.open(self.job, "size")
        expect(self.page.get_by_role("region", name="Worksheet")).not_to_contain_text("Calculating …")

    def find(self, words: str) -> Locator:
        """The list of what is found by some words."""
        self.page.keyboard.press("/")
        box = self.page.get_by_role("combobox", name="What to find")
        expect(box).to_be_focused()
        box.fill(words)
        return self.page.get_by_role("listbox", name="Found").get_by_role("option")

    def test_each_sort(self) -> None:
        """A stage by what is done in it, a component by a name of the other market, a thing drawn, a bench question, a
        job: each by Enter alone.
        """
        page = self.page
        expect(self.find("cut list").first).to_contain_text("Cut")
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("/cut$"))
        expect(self.find("faucet").first).to_contain_text("set down")
        page.keyboard.press("Enter")
        expect(page.locator('[data-tool="place"]').first).to_be_visible()
        page.keyboard.press("Escape")
        self.find("tap 2")
        page.keyboard.press("Enter")
        expect(page.get_by_role("region", name=re.compile("^Point Tap 2"))).to_be_visible()
        page.keyboard.press("b")
        expect(page.get_by_role("form", name="Draw by measure")).to_be_visible()
        page.get_by_role("button", name="Move", exact=True).focus()
        self.find("drop pipe")
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("/bench/well$"))

    def test_the_second_of_them(self) -> None:
        """The arrows go through what is found; what nothing is called is said, and goes to the bench as a question."""
        page = self.page
        options = self.find("valve")
        expect(options.nth(0)).to_have_attribute("aria-selected", "true")
        page.keyboard.press("ArrowDown")
        expect(options.nth(1)).to_have_attribute("aria-selected", "true")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        expect(self.find("1 in pvc to 3/4 pvc")).to_have_count(0)
        expect(page.get_by_text("Nothing here is called that.")).to_be_visible()
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile(r"/bench/join\?"))
        expect(page.get_by_text("Ways to join")).to_be_visible()
