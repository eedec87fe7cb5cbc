"""A house through the page: a room's fixtures at one press, what runs together, every two at once; and a repair from
the drawing.
"""

import re

from playwright.sync_api import expect

from hydrarch.demo import RISERS_ID
from tests.web.base import Browsing


class House(Browsing):
    """What a fitter does with a bathroom and after a burst."""

    def test_a_room_at_one_press(self) -> None:
        """A mark on the wall, three kinds of fixture ticked: five wall plates, saved, each named."""
        page = self.page
        new = {"name": "Bathroom", "units": "metric", "market": "elsewhere", "about": "house"}
        job: str = self.api("POST", "/jobs", json=new)["id"]
        self.open(job, "survey")
        self.take("Site marks", "Mark to measure from")
        self.click_drawing(0, 0)
        page.get_by_role("application").press("Escape")
        back = page.get_by_role("button", name="Back to the list")
        if back.is_visible():
            back.click()
        page.get_by_role("button", name="Set them down").click()
        expect(page.get_by_text(re.compile(r"^5 wall plates set down"))).to_be_visible()
        self.until(lambda: len(self.api("GET", f"/jobs/{job}")["plan"]["points"]) == 6)
        names = [p["name"] for p in self.api("GET", f"/jobs/{job}")["plan"]["points"]]
        self.assertIn("Wash basin 1 hot", names)

    def test_what_runs_together(self) -> None:
        """The wash block: the expected flow beside everything open, and every two fixtures at once with its count."""
        page = self.page
        self.open(self.copy(RISERS_ID), "size")
        together = page.get_by_role("region", name="What runs together")
        expect(together.get_by_text("fixture units and Hunter's curve")).to_be_visible()
        expect(together.get_by_role("row", name=re.compile(r"Street – Stop valve 12 "))).to_be_visible()
        page.wait_for_timeout(10_000)
        expect(together).to_be_visible()
        page.get_by_role("button", name="Open every two fixtures together").click()
        expect(page.get_by_text("None of 66 pairs is short.")).to_be_visible()
        expect(page.get_by_role("region", name="Wait for hot water").get_by_text("Loft basin hot")).to_be_visible()

    def test_a_repair_from_the_drawing(self) -> None:
        """A run's own pipe goes to the bench with it; the answer follows what is typed there; a question with no pipe
        asks for it.
        """
        page = self.page
        page.goto("/bench/repair")
        answer = page.get_by_role("region", name="How it is mended")
        expect(answer.get_by_text(re.compile("Measure round the pipe"))).to_be_visible()
        job = self.copy(RISERS_ID)
        self.open(job, "survey")
        page.get_by_role("button", name=re.compile("^Street – Stop valve")).first.click()
        page.get_by_role("link", name="It broke: how is it mended?").click()
        expect(page.get_by_label("In what pipe")).to_have_value("ppr-s2.5")
        expect(answer.get_by_text(re.compile(r"Nothing slides over PPR S2\.5"))).to_be_visible()
        page.get_by_label("The pipe on both sides").select_option("aside")
        expect(answer.get_by_text(re.compile(r"PPR coupling")).first).to_be_visible()
        page.reload()
        expect(page.get_by_label("The pipe on both sides")).to_have_value("aside")
