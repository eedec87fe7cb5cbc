"""How many presses a job takes from an empty list to its parts list: clicks, keys, and a typed word or sentence as
one.
"""

import re

from playwright.sync_api import Locator, expect

from tests.web.base import Browsing


class Presses(Browsing):
    """Jobs as a new user begins them, through the page alone."""

    def setUp(self) -> None:
        """Count from nothing."""
        super().setUp()
        self.presses = 0

    def press(self, what: Locator) -> None:
        """Press something."""
        what.click()
        self.presses += 1

    def give(self, field: Locator, text: str) -> None:
        """Type a word or a sentence and send it."""
        field.fill(text)
        field.press("Enter")
        self.presses += 1

    def begin(self, kind: str, name: str, units: str, market: str) -> None:
        """A new job of a kind, named, in its units, bought in a market."""
        page = self.page
        page.goto("/")
        self.press(page.get_by_role("button", name="New job"))
        self.press(page.get_by_role("button", name=kind))
        page.get_by_label("Name").fill(name)
        page.get_by_label("Units", exact=True).select_option(units)
        page.get_by_label("Fittings sold here").select_option(market)
        self.presses += 3
        self.press(page.get_by_role("button", name=re.compile(r"^Start( empty)?$")))
        expect(page.get_by_role("application")).to_be_visible()

    def set_down(self, thing: str, dx: float, dy: float) -> None:
        """Take a thing in hand and set it on the drawing."""
        page = self.page
        self.press(page.get_by_role("region", name="Drawing tools").get_by_role("button", name=thing, exact=True))
        self.click_drawing(dx, dy)
        self.presses += 1
        expect(page.get_by_role("region", name=re.compile("^Point "))).to_be_visible()

    def line(self, words: str) -> None:
        """Say a line, read back before it is drawn."""
        page = self.page
        form = page.get_by_role("form", name="Draw by measure")
        if not form.is_visible():
            self.press(page.get_by_role("button", name="Draw by measure"))
        box = form.get_by_role("textbox")
        box.fill(words)
        self.presses += 1
        expect(form.get_by_role("status")).to_contain_text("reads:")
        self.press(form.get_by_role("button", name="Draw it"))
        expect(box).to_have_value("")

    def parts(self) -> Locator:
        """The whole parts list, of what is drawn and saved: what is chosen comes before it as soon as that is worked
        out.
        """
        page = self.page
        expect(page.get_by_text(re.compile("^saved, no[.]"))).to_be_visible()
        self.press(page.get_by_role("navigation", name="Stages").get_by_role("link", name="Join"))
        everything, found = page.get_by_role("button", name="All parts"), page.get_by_role("region", name="Parts list")
        expect(everything.or_(found).first).to_be_visible()
        if everything.count():
            self.press(everything)
        expect(found).to_be_visible()
        return found

    def test_a_pond_pump_and_its_lawn(self) -> None:
        """A 2-in main to a tee, a ring of six heads behind a valve, two hydrants behind another, in US units."""
        self.begin("A line of sprinklers", "Pond lawn", "us", "north-american")
        self.set_down("Tank or pond", -250, 100)
        self.line(
            "10 ft e, pump, 2 in pipe, 100 ft e, tee, 1-1/2 pipe, 20 ft n, valve, 10 ft n, tee called Loop, three heads "
            "every 30 ft n, 30 ft n, 30 ft e, 30 ft s, 3 heads every 30 ft s, 30 ft s, to Loop, at tee 1: 1-1/2 pipe, "
            "20 ft s, valve, 60 ft s, yard hydrant called South, 60 ft s, yard hydrant called Far"
        )
        parts = self.parts()
        for line in ("PVC ball valve 1-1/2 socket", "PVC reducing tee 2 × 1-1/2 × 2", "Sprinkler 1, Sprinkler 2"):
            expect(parts).to_contain_text(line)
        self.assertLessEqual(self.presses, 40)

    def test_a_herb_garden(self) -> None:
        """A tap, the head of a drip line, 180 ft of tubing and fifteen feeders of 1 gal/h, in US units."""
        page = self.page
        self.begin("Drip from a tap", "Herb garden", "us", "north-american")
        self.set_down("Mains tapping", -250, 100)
        self.press(page.get_by_role("button", name="Lay out a drip line's head here"))
        expect(page.get_by_role("application")).to_have_attribute("aria-label", re.compile("5 points"))
        self.line("60 ft e, 60 ft n, 60 ft e, row")
        row = page.get_by_role("region", name="Point Drip row 1")
        self.give(row.get_by_label("Emitters apart by"), "12 ft")
        self.give(row.get_by_label("Flow of each"), "1 gal/h")
        row.get_by_label("Emitters sit").select_option(label="on feeders")
        self.presses += 1
        parts = self.parts()
        expect(parts.get_by_role("row").filter(has_text="Emitter 1.00 gal/h")).to_contain_text("15")
        expect(parts).to_contain_text("Quarter-inch feeder tubing")
        self.assertLessEqual(self.presses, 30)

    def test_a_garden_pond(self) -> None:
        """A pond with a skimmer, a bottom drain, a pump, a filter and two returns in its wall, in metric."""
        page = self.page
        self.begin("A pond", "Frog pond", "metric", "elsewhere")
        self.set_down("Body of water", -150, 0)
        self.set_down("Suction or drain", -150, -25)
        self.set_down("Skimmer", 0, 60)
        skimmer = page.get_by_role("region", name=re.compile("^Point Skimmer"))
        self.give(skimmer.get_by_label("East", exact=True), "4")
        self.give(skimmer.get_by_label("North", exact=True), "3.5")
        self.line(
            "1 e, valve, 0.7 e, tee called Suction, 0.7 e, pump, 1 e, filter, 1 e, valve, 0.7 e, tee, 0.7 n, 4 w, return, "
            "at tee 1: 0.7 s, 4 w, return, at Suction: 0.8 s, 3 w, to Suction or drain 1"
        )
        parts = self.parts()
        for line in ("Skimmer 1", "Suction or drain 1", "Return 1, Return 2", "Pump in the line"):
            expect(parts).to_contain_text(line)
        self.assertLessEqual(self.presses, 35)
