"""The practice ground through the page, as somebody new to a joint uses it."""

import re

from playwright.sync_api import expect

from hydrarch.demo import TUB_ID
from tests.api.test_photos import photo
from tests.web.base import Browsing


class PractisingOnAPhone(Browsing):
    """One exercise from its kit to its sheet."""

    viewport = (390, 844)
    phone = True

    def setUp(self) -> None:
        """Practise under a name that no other test has."""
        super().setUp()
        self.context.add_init_script("localStorage.setItem('hydrarch.person', 'Moss')")

    def test_from_kit_to_sheet(self) -> None:
        """Laid out, measured with one slip that is named, made against the clock, judged, measured, ended, printed."""
        page = self.page
        page.goto("/")
        page.get_by_role("link", name="Practice").click()
        page.get_by_role("link", name="Open Square with one upright").click()
        page.get_by_role("button", name="Begin").click()
        for part in self.api("GET", "/practice/exercises/solvent-square")["kit"][1:]:
            page.get_by_role("button", name=f"{part['name']} is laid out").click()
        expect(page.get_by_text("Not laid out yet: PVC cap 3/4.")).to_be_visible()
        page.get_by_role("button", name="PVC cap 3/4 is laid out").click()
        expect(page.get_by_text("Every part is laid out.")).to_be_visible()

        page.get_by_role("button", name="Next: Measure").click()
        length = page.get_by_label("Cut length, Corner 1 to Corner 2")
        length.fill("16 in")
        length.press("Tab")
        expect(page.get_by_text(re.compile("both take-offs are still to be taken away"))).to_be_visible()
        length.fill("14 13/16 in")
        length.press("Tab")
        expect(page.get_by_text(re.compile("^Right: 1 ft 2-13/16"))).to_be_visible()

        page.get_by_role("link", name="Make", exact=True).click()
        where = page.get_by_role("listitem").filter(has_text="Start, towards")
        where.get_by_role("button", name=re.compile("^Steps")).click()
        expect(where.get_by_text("Fit it dry.")).to_be_visible()
        where.get_by_role("button", name=re.compile("^Cement on")).click()
        expect(where.get_by_role("timer")).to_be_visible()
        where.get_by_role("button", name=re.compile("^Pushed home")).click()
        where.get_by_role("button", name=re.compile("^Let go")).click()
        expect(where.get_by_text(re.compile("Pushed home: .* at the least: the taper pushes"))).to_be_visible()

        page.get_by_role("link", name="Judge", exact=True).click()
        page.get_by_role("group", name="What is wrong").get_by_role("button", name="Nothing").click()
        expect(page.get_by_text(re.compile("^(Right|Not right): "))).to_be_visible()

        page.get_by_role("link", name="Results", exact=True).click()
        bead = page.get_by_role("textbox", name="Pressure lost in 15 minutes")
        bead.fill("10 psi")
        bead.press("Tab")
        expect(page.get_by_text("Beyond what is accepted.")).to_be_visible()
        page.wait_for_timeout(10_000)
        page.reload()
        expect(page.get_by_role("textbox", name="Pressure lost in 15 minutes")).to_have_value("10.0")
        page.get_by_role("button", name="End the exercise").click()
        expect(page.get_by_text(re.compile("^[0-9]+ % of what you tried was right"))).to_be_visible()
        with self.context.expect_page() as opened:
            page.get_by_role("link", name="Print").click()
        expect(opened.value.get_by_role("heading", name="Lay out the kit")).to_be_visible()
        page.get_by_role("link", name="All exercises").click()
        record = page.locator("details").filter(has_text="Your record")
        record.locator("summary").click()
        expect(record.get_by_role("row")).to_have_count(2)

    def test_with_no_signal(self) -> None:
        """What is pressed with no signal is kept here, told so, and sent when the signal is back."""
        page = self.page
        page.goto("/practice/barb-tee")
        page.get_by_role("button", name="Begin").click()
        page.get_by_role("button", name="Insert tee 1 is laid out").click()
        expect(page.get_by_text("Not laid out yet")).to_be_visible()
        self.context.set_offline(True)
        page.get_by_role("button", name="Insert plug 1 is laid out").click()
        expect(page.get_by_text("kept here, not sent yet")).to_be_visible()
        page.wait_for_timeout(6_000)
        self.context.set_offline(False)
        expect(page.get_by_text("kept here, not sent yet")).to_have_count(0, timeout=15_000)
        page.reload()
        expect(page.get_by_role("button", name="Insert plug 1 is laid out")).to_have_attribute("aria-pressed", "true")

    def test_opened_with_no_signal(self) -> None:
        """The list was seen once: an exercise that was never opened opens with no signal, is begun, and is there after
        a reload; with a signal again it is sent, and a photo with it.
        """
        page = self.page
        page.goto("/practice")
        with page.expect_response(lambda r: r.url.endswith("/exercises/drain-wye")):
            page.wait_for_load_state()
        page.evaluate("navigator.serviceWorker.ready")
        page.reload()  # as the worker has it
        expect(page.get_by_role("link", name="Open Drain")).to_be_visible()
        page.wait_for_timeout(3_000)
        self.context.set_offline(True)
        page.get_by_role("link", name="Open Drain").click()
        page.get_by_role("button", name="Begin").click()
        first = page.get_by_role("button", name=re.compile("is laid out")).first
        name = str(first.get_attribute("aria-label"))
        first.click()
        page.reload()
        expect(page.get_by_role("button", name=name)).to_have_attribute("aria-pressed", "true")
        page.get_by_role("link", name="Results", exact=True).click()
        taken = page.get_by_label(re.compile("^Take a photo, ")).first
        taken.set_input_files({"name": "piece.jpg", "mimeType": "image/jpeg", "buffer": photo(640, 480)})
        expect(page.get_by_text(re.compile("^A photo of .* is kept on this device"))).to_be_visible()
        self.context.set_offline(False)
        expect(page.get_by_role("button", name=re.compile("^Photo: "))).to_be_visible(timeout=30_000)
        expect(page.get_by_text("kept here, not sent yet")).to_have_count(0, timeout=30_000)
        page.wait_for_timeout(10_000)
        page.reload()
        expect(page.get_by_role("button", name=re.compile("^Photo: "))).to_be_visible()
        page.on("dialog", lambda d: d.accept())
        page.get_by_role("button", name=re.compile("^Photo: ")).click()
        self.context.set_offline(True)
        page.get_by_role("button", name="Take it out").click()
        expect(page.get_by_role("alert")).to_be_visible()  # a press that came to nothing is told
        self.context.set_offline(False)
        page.get_by_role("button", name="Take it out").click()
        expect(page.get_by_role("button", name=re.compile("^Photo: "))).to_have_count(0)


class ExerciseOfAJob(Browsing):
    """A drawing to practise on."""

    def test_made_in_record(self) -> None:
        """One press makes it; it opens, and stands among the exercises as the crew's own until it is deleted."""
        page = self.page
        job = self.copy(TUB_ID)
        self.open(job, "keep")
        page.get_by_role("button", name="Make an exercise").click()
        expect(page.get_by_role("button", name="Begin")).to_be_visible()
        page.get_by_role("link", name="Practice").click()
        own = page.get_by_role("listitem").filter(has_text="the crew's own")
        expect(own).to_have_count(1)
        own.get_by_role("button", name="Delete").click()
        own.get_by_role("button", name="Delete for everyone").click()
        expect(own).to_have_count(0)
