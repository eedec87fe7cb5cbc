"""Find the fault through the page: readings typed in, faults ranked, the repair at the bench."""

import re

from playwright.sync_api import expect

from hydrarch.demo import MEADOW_ID
from tests.web.base import Browsing


class FindingAFault(Browsing):
    """A weak head on the meadow."""

    def test_from_three_readings_to_a_repair(self) -> None:
        """Two readings are there; a third is typed where it asks for one, ranks anew, and its pipe goes to the bench."""
        page = self.page
        job = self.copy(MEADOW_ID)
        self.open(job, "prove")
        page.get_by_role("button", name="Something is wrong: find the fault").click()
        told = page.get_by_role("region", name="What would explain it")
        expect(told.get_by_text(re.compile("^1 Valve partly shut"))).to_be_visible()
        expect(page.get_by_text(re.compile("^Next: read the pressure at"))).to_be_visible()
        expect(page.locator("[data-layer=fault] rect")).to_have_count(2)
        page.get_by_label("It shows").fill("3.7")
        page.get_by_label("It shows").press("Tab")
        page.get_by_role("button", name="Enter the reading").click()
        expect(page.locator("[data-layer=fault] rect")).to_have_count(3)
        page.wait_for_timeout(10_000)
        expect(told.get_by_text(re.compile("^1 Valve partly shut"))).to_be_visible()
        told.get_by_role("link", name="It is there: mend it").first.click()
        expect(page.get_by_role("region", name="How it is mended")).to_be_visible()

    def test_from_a_sign_to_what_was_found(self) -> None:
        """What is seen is said in three presses beside what was read; what is found closes the search."""
        page = self.page
        job = self.copy(MEADOW_ID)
        self.open(job, "prove")
        page.get_by_role("button", name="Something is wrong: find the fault").click()
        seen = page.get_by_role("region", name="What is seen")
        seen.get_by_label("What do you see?").select_option("Wet ground or a drip")
        seen.get_by_label("Where").select_option(index=3)
        where = seen.get_by_label("Where").locator("option:checked").inner_text()
        seen.get_by_role("button", name="Enter what is seen").click()
        expect(seen.get_by_text(f"Wet ground or a drip: {where}")).to_be_visible()
        told = page.get_by_role("region", name="What would explain it")
        first = told.get_by_role("listitem").first
        expect(first).to_contain_text("Valve partly shut")
        first.get_by_role("button", name="Found it here").click()
        first.get_by_role("button", name=re.compile("^Yes, found at")).click()
        expect(page.get_by_text(re.compile("^valve partly shut found at", re.I))).to_be_visible()
        expect(page.get_by_text("3 earlier readings and signs count no more.")).to_be_visible()
        found = page.locator("[data-tone=proved]").filter(has_text="count no more")
        found.get_by_text("Withdraw this record").click()
        found.get_by_label("Why this find is wrong (kept)").fill("another valve")
        found.get_by_role("button", name="Withdraw", exact=True).click()
        expect(page.get_by_text("count no more")).to_have_count(0)
        expect(told.get_by_role("listitem").first).to_contain_text("Valve partly shut")
