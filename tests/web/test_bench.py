"""The bench in the browser."""

import re

from playwright.sync_api import expect

from tests.web.base import Browsing


class AtTheBench(Browsing):
    """Questions asked in a trench, with no job at all."""

    def test_join_by_words(self) -> None:
        """Say it; read the ways, step through the joints, choose another way."""
        page = self.page
        page.goto("/bench")
        page.get_by_label("Say it").fill("32 mm poly to 1 npt female")
        page.get_by_role("button", name="Ask").click()
        way = page.get_by_role("region", name="The way chosen")
        expect(way.get_by_role("heading")).to_have_text("PE100 SDR11 32 pipe to 1 in NPT female")
        expect(way.get_by_role("img")).to_have_attribute("aria-label", re.compile("Exploded section: .*Compression adapter 32"))
        way.get_by_role("button", name="Next joint").click()
        expect(way.locator('[aria-current="true"]')).to_contain_text("thread:")
        ways = page.get_by_role("region", name="Ways")
        ways.get_by_role("button").nth(1).click()
        expect(ways.get_by_role("button").nth(1)).to_have_attribute("aria-pressed", "true")

    def test_join_by_choice_and_limits(self) -> None:
        """Choose both sides; a limit that leaves nothing says so; wrong ways stand below with their gap."""
        page = self.page
        page.goto("/bench/join")
        expect(page.get_by_text("Looks right, leaks").first).to_be_visible()
        page.get_by_label("no heat").check()
        expect(page.get_by_text("No honest way is left under these limits")).to_be_visible()
        page.get_by_label("no heat").uncheck()
        page.get_by_label("Join: what").select_option("end")
        page.get_by_label("Join: end").select_option("npt:male:1/2")
        page.get_by_label("to: what").select_option("end")
        page.get_by_label("to: end").select_option("bsp:female:1/2")
        expect(page.get_by_text("the same threads to the inch")).to_be_visible()

    def test_nonsense_gets_help(self) -> None:
        """Words that are no question are answered with how to ask."""
        self.page.goto("/bench/join")
        self.page.get_by_label("Say it").fill("hello there")
        self.page.get_by_role("button", name="Ask").click()
        expect(self.page.get_by_role("alert")).to_contain_text("say it as 'this to that'")

    def test_life_size(self) -> None:
        """Set against a bank card, the drawing takes its true width: twice the scale is twice the width."""
        page = self.page
        page.goto("/bench/join")
        page.get_by_label("Life size").check()
        slider = page.get_by_label("Width of the card on this screen")
        drawing = page.get_by_role("region", name="The way chosen").get_by_role("img")
        slider.fill("4")
        four = drawing.evaluate("e => e.getBoundingClientRect().width")
        slider.fill("8")
        self.assertAlmostEqual(drawing.evaluate("e => e.getBoundingClientRect().width") / four, 2, delta=0.01)

    def test_identify(self) -> None:
        """One reading leaves several and says what to measure; the simulated caliper's next reading settles it."""
        page = self.page
        page.goto("/bench/identify")
        page.get_by_label("Outside").fill("4.215 in")
        page.get_by_label("Outside").press("Enter")
        found = page.get_by_role("region", name="Candidates")
        expect(found).to_contain_text("Next: measure the")
        page.get_by_label("On", exact=True).select_option("sewer-thin")
        page.get_by_label("Size", exact=True).select_option("4")
        page.get_by_role("button", name="Read wall").click()
        expect(found).to_contain_text("This is PVC thin-wall sewer pipe, 4.")
        page.get_by_label("Bore").fill("200")
        page.get_by_label("Bore").press("Enter")
        expect(found.get_by_role("alert")).to_contain_text("larger than the outside")
