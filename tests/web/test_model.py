"""The model in the page: turned, cut, measured, picked in, and the build played back."""

import re

from playwright.sync_api import Page, expect

from hydrarch.core.plan.document import Plan
from hydrarch.demo import MEADOW_ID, TUB_ID
from hydrarch.formats.jobfile import write_job_file
from tests.core.plans import draw, point
from tests.web.base import Browsing


def two_metres() -> Plan:
    """One straight pipe of two metres between two caps, from west to east."""
    return draw([point("A", 0, 0, "cap"), point("B", 2, 0, "cap")], [("A", "B")], name="Two metres")


class InTheModel(Browsing):
    """On a desk."""

    def modelled(self, job: str, stage: str = "join") -> Page:
        """A job with its model open."""
        page = self.page
        self.open(job, stage)
        page.get_by_role("button", name="Model", exact=True).click()
        expect(page.locator("[data-model=ready] canvas")).to_be_visible()
        page.wait_for_timeout(1500)  # the first frame of a software renderer
        return page

    def one_pipe(self) -> str:
        """A job of one pipe, known to the millimetre."""
        made: str = self.api("POST", "/import", content=write_job_file(two_metres(), ()))["id"]
        return made

    def press(self, across: float, down: float) -> None:
        """Press at a share of the canvas."""
        box = self.page.locator("[data-model] canvas").bounding_box()
        assert box is not None
        self.page.mouse.click(box["x"] + across * box["width"], box["y"] + down * box["height"])
        self.page.wait_for_timeout(300)

    def test_picked_at_known_places(self) -> None:
        """From above a pipe lies across the middle: pressed there it is chosen, beside it nothing is."""
        page = self.modelled(self.one_pipe())
        page.get_by_label("Look", exact=True).select_option("above")
        page.wait_for_timeout(600)
        self.press(0.5, 0.1)
        expect(page.get_by_text(re.compile("cut .*mm"))).to_have_count(0)
        self.press(0.5, 0.5)
        expect(page.get_by_text(re.compile(r"cut 1996 mm|cut 1 996 mm|cut 199\d mm"))).to_be_visible()

    def test_measured_between_stops(self) -> None:
        """Two picks near the caps go to the pipe's own stops: the length between them is the piece's."""
        job = self.one_pipe()
        page = self.modelled(job)
        page.get_by_label("Look", exact=True).select_option("above")
        page.get_by_role("button", name="Measure").click()
        page.wait_for_timeout(600)
        self.press(0.5 - 0.86 / 2 + 0.006, 0.5)
        expect(page.get_by_text("Pick the second place.")).to_be_visible()
        self.press(0.5 + 0.86 / 2 - 0.006, 0.5)
        told = page.get_by_text(re.compile("Between the two picks"))
        expect(told).to_be_visible()
        length = float(re.sub(r"[^0-9]", "", told.inner_text().split(":")[1]))
        self.assertAlmostEqual(length, 2000, delta=40)

    def test_cut_away(self) -> None:
        """What is cut away is not picked; brought back it is."""
        page = self.modelled(self.one_pipe())
        page.get_by_label("Look", exact=True).select_option("above")
        page.get_by_label("Cut away").select_option("east")
        page.get_by_label("Where it is cut").fill("0.2")
        page.wait_for_timeout(600)
        self.press(0.5, 0.5)
        expect(page.get_by_text(re.compile("cut .*mm"))).to_have_count(0)
        page.get_by_label("Where it is cut").fill("0.9")
        page.wait_for_timeout(600)
        self.press(0.5, 0.5)
        expect(page.get_by_text(re.compile("cut .*mm"))).to_be_visible()

    def test_the_build_is_played(self) -> None:
        """Joint by joint in the order of work, dragged and played; back as built at the end."""
        page = self.modelled(self.copy(TUB_ID), "make")
        page.get_by_role("button", name="Play the build").click()
        line = page.get_by_label("Joint in the order of work")
        line.fill("12")
        expect(page.get_by_text(re.compile("^13 of "))).to_be_visible()
        page.get_by_label("How far apart").fill("0.5")
        page.get_by_role("button", name="One joint on").click()
        expect(page.get_by_text(re.compile("^14 of "))).to_be_visible()
        page.get_by_role("button", name="Play", exact=True).click()
        expect(page.get_by_text(re.compile("^(1[6-9]|2[0-9]) of "))).to_be_visible(timeout=20_000)
        page.get_by_role("button", name="Pause").click()
        page.get_by_role("button", name="As built").click()
        expect(line).to_have_count(0)

    def test_the_drawing_stays(self) -> None:
        """What is chosen in one is chosen in the other, and the drawing is one press away; nothing of it is edited."""
        job = self.copy(TUB_ID)
        page = self.modelled(job)
        with page.expect_download() as saved:
            page.get_by_role("button", name="Save picture").click()
        self.assertTrue(saved.value.suggested_filename.endswith(".png"))
        shown = page.locator("[data-layer=labels] > span:visible")
        self.assertGreater(shown.count(), 5)
        page.get_by_role("button", name="Labels").click()
        expect(shown).to_have_count(0)
        page.get_by_role("button", name="Standing", exact=True).click()
        expect(page.locator("[data-model]")).to_have_count(0)
        expect(page.get_by_label(re.compile("^Drawing of"))).to_be_visible()
        self.assertEqual(self.api("GET", f"/jobs/{job}")["revision"], 1)

    def test_what_a_stage_shows_in_it(self) -> None:
        """In Test where pump, air and caps go; in Record how a hidden joint is found from two marks; in Cut each length."""
        page = self.modelled(self.copy(MEADOW_ID), "prove")
        shown = page.locator("[data-layer=labels] > span:visible")
        expect(shown.filter(has_text="Camp main · test pump A")).to_have_count(1)
        expect(shown.filter(has_text=re.compile("^Head 1 · cap B$"))).to_have_count(1)
        page.get_by_role("link", name=re.compile("^Record ,")).click()
        row = page.get_by_role("region", name="As laid").get_by_role("button").first
        tapes = re.compile("3.16 m from Controller")
        expect(row).to_contain_text(tapes)
        row.click()
        expect(shown.filter(has_text=tapes)).to_have_count(1)
        page.get_by_role("link", name=re.compile("^Cut ,")).click()
        expect(shown.filter(has_text=re.compile("^[0-9].* mm?$")).first).to_be_visible()

    def test_with_no_webgl(self) -> None:
        """A browser that draws nothing in three dimensions says so, and leads back to the drawing."""
        self.page.add_init_script(
            "const own = HTMLCanvasElement.prototype.getContext;"
            "HTMLCanvasElement.prototype.getContext = function (kind, ...more) {"
            " return /webgl/.test(kind) ? null : own.call(this, kind, ...more); };"
        )
        self.open(self.copy(TUB_ID), "join")
        self.page.get_by_role("button", name="Model", exact=True).click()
        expect(self.page.get_by_text("No model here.")).to_be_visible()
        self.page.get_by_role("button", name="Back to the drawing").click()
        expect(self.page.get_by_label(re.compile("^Drawing of"))).to_be_visible()
