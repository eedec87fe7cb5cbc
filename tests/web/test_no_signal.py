"""In the trench: no signal. What was said reads as said, clocks run, steps are there, a reload opens the page, and all
of it arrives once.
"""

import io
import re
import time

from PIL import Image
from playwright.sync_api import expect

from tests.web.base import Browsing


class NoSignal(Browsing):
    """A phone that opened the job where there was a signal, and went down into the trench with it."""

    alone = True

    viewport = (390, 844)
    phone = True

    def take_along(self, stage: str = "make") -> str:
        """A copy of the demo job, open and kept on the phone whole."""
        job = self.fresh_demo()
        self.open(job, stage)
        self.along()
        return job

    def along(self) -> None:
        """Wait until the phone has all of the job."""
        expect(self.page.get_by_title(re.compile("All of this job is on this device"))).to_be_attached()

    def test_made_in_the_trench(self) -> None:
        """Made with no signal: it reads made, its clock runs, it is not to be touched; the next joint has its steps;
        also after a reload.
        """
        page = self.page
        job = self.take_along()
        title = page.get_by_role("heading", level=2).first.inner_text()
        bar = page.get_by_role("progressbar", name="Joints made")
        before = int(bar.get_attribute("aria-valuenow") or 0)
        self.context.set_offline(True)
        said = time.time()
        self.said_made()
        for again in (False, True):
            if again:
                page.reload()
                page.get_by_label("Show", exact=True).select_option("all")
                page.get_by_role("region", name="Working order").get_by_role("button").filter(
                    has_text="setting"
                ).click()
            expect(page.get_by_role("heading", name=re.compile(f"^{re.escape(title)}$", re.I))).to_be_visible()
            expect(page.get_by_text(re.compile("^Do not touch for|^Handle with care"))).to_be_visible()
            expect(page.get_by_test_id("cure-clock")).to_be_visible()
            expect(page.get_by_role("status").filter(has_text="no signal, 1 kept here")).to_be_visible()
            self.show_head()
            expect(page.get_by_role("link", name="4 dry joints")).to_be_visible()
            expect(bar).to_have_attribute("aria-valuenow", str(before + 1))
            expect(page.get_by_role("button", name="Made, and it looks right")).to_have_count(0)
        page.get_by_role("button", name="Next joint").click()
        expect(page.get_by_text(re.compile(r"^Step 1 of \d+"))).to_be_visible()
        expect(page.get_by_text("At hand:")).to_be_visible()
        self.context.set_offline(False)
        expect(page.get_by_role("status").filter(has_text="kept here")).to_have_count(0)
        made = [s for s in self.standing(job)["readiness"]["joints"].values() if s["at"] and s["at"] > said - 5]
        self.assertEqual(len(made), 1)
        self.assertAlmostEqual(made[0]["at"], said, delta=10)

    def test_a_clock_set_back_in_the_trench(self) -> None:
        """The phone's clock is three hours slow while a joint is made with no signal, and right again before it is
        sent: by its second clock it was made now, and no cure is three hours old.
        """
        page = self.page
        job = self.take_along()
        self.context.set_offline(True)
        page.evaluate(
            "() => { const real = Date.now.bind(Date); window.real = real; Date.now = () => real() - 10800e3 }"
        )
        said = time.time()
        self.said_made()
        expect(page.get_by_role("status").filter(has_text="no signal, 1 kept here")).to_be_visible()
        page.evaluate("() => { Date.now = window.real }")
        self.context.set_offline(False)
        expect(page.get_by_role("status").filter(has_text="kept here")).to_have_count(0)
        (event,) = (e for e in self.api("GET", f"/jobs/{job}/export/job")["events"] if "tick" in e)
        self.assertAlmostEqual(event["at"], said, delta=15)
        (joint,) = event["joints"]
        self.assertEqual(self.standing(job)["readiness"]["joints"][joint]["state"], "setting")

    def test_what_is_read_stays_where_it_is(self) -> None:
        """When the head folds away while a sheet is read on, nothing under the finger moves but by the scroll itself."""
        page = self.page
        self.take_along()
        page.get_by_label("Show", exact=True).select_option("all")
        page.get_by_role("region", name="Worksheet").evaluate("e => e.scrollTo(0, 0)")
        moved = page.evaluate(
            """async () => {
                const sheet = document.querySelector('[aria-label=Worksheet]');
                const row = sheet.querySelector('h2:last-of-type');
                const frames = () => new Promise((ok) => requestAnimationFrame(() => requestAnimationFrame(ok)));
                const before = row.getBoundingClientRect().top;
                sheet.scrollBy(0, 230);
                await frames();
                await frames();
                return before - row.getBoundingClientRect().top;
            }"""
        )
        expect(page.get_by_role("button", name="Stages", exact=True)).to_be_visible()
        self.assertAlmostEqual(moved, 230, delta=2)

    def test_no_gate_opens_by_guess(self) -> None:
        """A section in which something was said with no signal has all its gates shut until the server has judged."""
        page = self.page
        job = self.take_along("prove")
        page.get_by_role("link", name="Make").click()
        first = next(iter(self.shown(job, "make")["work"]))["joint"]
        self.assertIn(self.standing(job)["readiness"]["joints"][first]["state"], ("cured", "proved"))
        page.get_by_label("Show", exact=True).select_option("all")
        page.get_by_role("region", name="Working order").get_by_role("button").filter(has_text="tested").first.click()
        self.context.set_offline(True)
        page.get_by_role("button", name="It went wrong …").click()
        page.get_by_role("button", name="Not made any more").click()
        self.show_head()
        page.get_by_role("link", name="Test").click()
        expect(page.get_by_text(re.compile("said here and not yet with the server")).first).to_be_visible()

    def test_drawn_in_the_trench(self) -> None:
        """What is drawn with no signal is there after a reload with no signal, and is saved when there is one."""
        page = self.page
        job = self.take_along("survey")
        was = self.api("GET", f"/jobs/{job}")["revision"]
        self.context.set_offline(True)
        page.get_by_role("button", name="More", exact=True).click()
        page.get_by_role("button", name=re.compile("^Units:")).click()
        expect(page.get_by_role("status").filter(has_text="the drawing is kept here")).to_be_visible()
        page.reload()
        page.get_by_role("button", name="More", exact=True).click()
        expect(page.get_by_role("button", name="Units: US; switch")).to_be_visible()
        self.context.set_offline(False)
        self.saved(was + 1)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["units"], "us")

    def test_six_tabs_and_a_cleared_shelf(self) -> None:
        """Six tabs of one phone with no signal say a joint each, the browser's shelf is cleared under them: with a
        signal all six are there, once each.
        """
        job = self.take_along()
        tabs = [self.page, *(self.context.new_page() for _ in range(5))]
        for tab in tabs[1:]:
            tab.goto(f"/job/{job}/make")
            expect(tab.get_by_role("button", name="Made, and it looks right")).to_be_visible()
        kept = len(self.api("GET", f"/jobs/{job}/export/job")["events"])
        self.context.set_offline(True)
        for n, tab in enumerate(tabs):
            tab.bring_to_front()  # as a hand does it; one behind others is drawn but once a second
            for _ in range(n):
                tab.get_by_role("button", name="Next joint").click()
            tab.get_by_role("button", name="Made, and it looks right").click()
            tab.get_by_role("button", name="Yes, all of it was done").click()
            expect(
                tab.get_by_role("status").filter(has_text=re.compile(rf"no signal, {n + 1} kept here"))
            ).to_be_visible()
        tabs[2].evaluate("localStorage.clear()")
        self.context.set_offline(False)
        for tab in tabs:
            expect(tab.get_by_role("status").filter(has_text="kept here")).to_have_count(0)
        events = self.api("GET", f"/jobs/{job}/export/job")["events"]
        self.assertEqual(len(events), kept + 6)
        self.assertEqual(len({j for e in events[kept:] for j in e["joints"]}), 6)

    def test_a_job_not_taken_along(self) -> None:
        """A job that was never open here cannot be shown, and that is said in words; the list of jobs is there as it
        was.
        """
        page = self.page
        link = page.locator(f'a[href^="/job/{self.copy("thistledown-herbs")}/"]')
        page.goto("/")
        expect(link).to_be_visible()
        page.evaluate("navigator.serviceWorker.ready")
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(500)  # what was answered is kept a moment later
        self.context.set_offline(True)
        page.reload()
        expect(link).to_be_visible()
        link.click()
        expect(page.get_by_text("The server does not answer.")).to_be_visible()

    def test_taken_along_by_another_page(self) -> None:
        """What a page kept to which answers looked otherwise is not shown as if it were of this one, and breaks
        nothing; the list of jobs asks for the signal.
        """
        page = self.page
        job = self.take_along()
        page.evaluate(
            """id => new Promise((done, failed) => {
                const opened = indexedDB.open("hydrarch");
                opened.onerror = failed;
                opened.onsuccess = () => {
                    const store = opened.result.transaction("jobs", "readwrite").objectStore("jobs");
                    const read = store.get(id);
                    read.onsuccess = () => {
                        delete read.result.derived;
                        store.put({ ...read.result, shapes: "of another page" }).onsuccess = done;
                    };
                };
            }).then(() => undefined)""",
            job,
        )
        self.context.set_offline(True)
        page.reload()
        expect(page.get_by_text("The server does not answer.")).to_be_visible()
        self.context.set_offline(False)
        page.reload()
        expect(page.get_by_role("button", name="Next step")).to_be_enabled()
        self.along()

    def test_a_photo_from_the_trench(self) -> None:
        """Taken with no signal it is kept on the phone, also over a reload, and is with the server once there is one:
        once, small, and by name.
        """
        page = self.page
        job = self.take_along()
        page.get_by_label("Who is working on this device").fill("Rowan")
        page.get_by_label("Who is working on this device").press("Enter")
        self.context.set_offline(True)
        out = io.BytesIO()
        Image.new("RGB", (3000, 2000), (90, 120, 60)).save(out, "JPEG")
        page.get_by_label("Take a photo").set_input_files(
            {"name": "x.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}
        )
        expect(page.get_by_text("is kept on this device until the server has it").first).to_be_visible()
        expect(page.get_by_role("status").filter(has_text="1 photo kept here")).to_be_visible()
        page.reload()
        expect(page.get_by_role("status").filter(has_text="1 photo kept here")).to_be_visible()
        self.assertEqual(self.api("GET", f"/jobs/{job}/photos"), [])
        self.context.set_offline(False)
        expect(page.get_by_role("status").filter(has_text="photo kept here")).to_have_count(0)
        (kept,) = self.api("GET", f"/jobs/{job}/photos")
        self.assertEqual((kept["by"], kept["wide"], kept["high"], kept["north"]), ("Rowan", 1600, 1067, None))
        page.goto(f"/job/{job}/keep")
        page.get_by_role("region", name="All photos").get_by_role("button").click()
        expect(page.get_by_role("button", name="Take it out")).to_be_visible()

    def test_in_the_aisle(self) -> None:
        """In a shop without signal: today's list is there, a part is ticked, the ticks are there after a reload, and
        arrive when there is a signal.
        """
        page = self.page
        job = self.take_along()
        page.goto(f"/job/{job}/shop")
        part = page.get_by_role("button", name=re.compile("^PVC elbow 90° 1: all "))
        expect(part).to_be_visible()
        self.along()
        self.context.set_offline(True)
        part.click()
        expect(part).to_have_attribute("aria-pressed", "true")
        page.reload()
        expect(part).to_have_attribute("aria-pressed", "true")
        page.get_by_role("button", name="PVC elbow 90° 1", exact=False).last.click()
        expect(page.get_by_text("Looks like it: PVC elbow 45° 1.")).to_be_visible()
        expect(page.get_by_role("img", name=re.compile("^Exploded section: PVC elbow 90° 1"))).to_be_visible()
        expect(page.get_by_role("status").filter(has_text="kept here").first).to_be_visible()
        self.context.set_offline(False)
        expect(page.get_by_role("status").filter(has_text="kept here")).to_have_count(0)
        got = {p["name"]: p["got"] for p in self.api("GET", f"/jobs/{job}/shop")["parts"]}
        self.assertEqual(got["PVC elbow 90° 1"], 3)
