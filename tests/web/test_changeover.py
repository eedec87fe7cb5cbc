"""A changeover through the page: new pipe in an old one's place, a loop, the steps ticked, an order that stops."""

import re

from playwright.sync_api import expect

from hydrarch.demo import GATE_ID
from tests.web.base import Browsing


class ChangingOver(Browsing):
    """What a crew does at the gate."""

    def test_a_service_is_replaced_at_one_press(self) -> None:
        """The old pipe stays in use, new pipe lies along it, and without a loop the house is dry for so long."""
        page = self.page
        file = self.api("GET", f"/jobs/{GATE_ID}")["plan"]
        job = self.copy(GATE_ID)
        self.open(job, "survey")
        sheet = page.get_by_role("region", name="Worksheet")
        sheet.get_by_role("button", name="Do without this loop").click()
        sheet.get_by_role("button", name="It is not there").click()
        self.until(lambda: self.api("GET", f"/jobs/{job}")["plan"]["leaving"] == [])
        laid = {r["id"] for r in file["runs"] if r["existing"] is None}
        page.get_by_role("button", name=re.compile("^Lane valve – Bend")).first.click()
        page.get_by_label(re.compile("^Existing: this pipe")).check()
        page.get_by_role("button", name="New pipe takes its place").click()
        expect(page.get_by_text(re.compile(r"^The old pipe stays in use"))).to_be_visible()
        self.until(lambda: len(self.api("GET", f"/jobs/{job}")["plan"]["leaving"]) == 1)
        plan = self.api("GET", f"/jobs/{job}")["plan"]
        fresh = {r["id"] for r in plan["runs"] if r["existing"] is None}
        self.assertEqual(len(fresh), len(laid))
        self.assertEqual(len(laid - fresh), 1, "the new pipe is another pipe than the old")

    def test_steps_are_ticked_and_moved(self) -> None:
        """A tick is an event with its person; a step too early stops the order, with why; the worked out one comes
        back.
        """
        page = self.page
        job = self.copy(GATE_ID)
        self.open(job, "make")
        sheet = page.get_by_role("region", name="Worksheet")
        expect(sheet.get_by_text("A supply is joined to each tap of the house at every step.")).to_be_visible()
        page.wait_for_timeout(10_000)
        sheet.get_by_role("button", name="Shut Lane valve.", exact=True).click()
        self.until(lambda: len(self.standing(job)["readiness"]["stepped"]) == 4)
        expect(sheet.get_by_role("button", name="Shut Lane valve.", exact=True)).to_have_attribute(
            "aria-pressed", "true"
        )
        sheet.get_by_role("button", name="Earlier: Cut the old pipe off at Lane valve.").click()
        expect(sheet.get_by_text(re.compile(r"^It stops here: the line is under pressure"))).to_be_visible()
        expect(sheet.get_by_text(re.compile("The changeover stops at step"))).to_be_visible()
        sheet.get_by_role("button", name="Go by the order worked out").click()
        expect(sheet.get_by_text(re.compile(r"^It stops here"))).to_have_count(0)
