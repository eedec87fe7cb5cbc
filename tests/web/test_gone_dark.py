"""What was said with no signal outlives the phone: its battery taken out, or all the browser keeps cleared under the
open page.
"""

import io
import re
import tempfile
from pathlib import Path

import httpx2
from PIL import Image
from playwright.sync_api import Page, expect

from tests.web.base import Browsing, killable


class GoneDark(Browsing):
    """A phone in the trench, and what befalls it."""

    alone = True

    def along(self, page: Page) -> None:
        """Wait until the phone has all of the job."""
        expect(page.get_by_title(re.compile("All of this job is on this device"))).to_be_attached()

    def made_dark(self, page: Page) -> None:
        """Say a joint made with no signal."""
        page.context.set_offline(True)
        page.get_by_role("button", name="Made, and it looks right").click()
        page.get_by_role("button", name="Yes, all of it was done").click()
        expect(page.get_by_role("status").filter(has_text="no signal, 1 kept here")).to_be_visible()

    def test_the_battery_taken_out(self) -> None:
        """The browser is killed, with nothing but its database left of what it kept: opened again with no signal the
        joint reads made; with one it arrives, once.
        """
        job = self.fresh_demo()
        kept = len(self.api("GET", f"/jobs/{job}/export/job")["events"])
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self.addCleanup(folder.cleanup)
        process, browser = killable(folder.name)
        try:
            page = browser.contexts[0].pages[0]
            page.goto(f"{self.address}/job/{job}/make")
            self.along(page)
            self.made_dark(page)
            page.wait_for_timeout(300)  # the disk has it a moment later
        finally:
            process.kill()
            process.wait(10)
        for file in (Path(folder.name) / "Default" / "Local Storage" / "leveldb").iterdir():
            file.unlink()
        process, browser = killable(folder.name)
        try:
            page = browser.contexts[0].pages[0]
            page.context.set_offline(True)
            page.goto(f"{self.address}/job/{job}/make")
            expect(page.get_by_role("status").filter(has_text="no signal, 1 kept here")).to_be_visible()
            expect(page.get_by_role("link", name="4 dry joints")).to_be_visible()
            page.context.set_offline(False)
            expect(page.get_by_role("status").filter(has_text="kept here")).to_have_count(0)
        finally:
            process.kill()
            process.wait(10)
        self.assertEqual(len(self.api("GET", f"/jobs/{job}/export/job")["events"]), kept + 1)

    def test_all_cleared_under_the_page(self) -> None:
        """Somebody clears all that the browser keeps while a joint, a change of the drawing and a photo wait: the page
        keeps them anew, and all arrive.
        """
        page = self.page
        job = self.fresh_demo()
        was = self.api("GET", f"/jobs/{job}")["revision"]
        kept = len(self.api("GET", f"/jobs/{job}/export/job")["events"])
        self.open(job, "make")
        self.along(page)
        self.made_dark(page)
        out = io.BytesIO()
        Image.new("RGB", (40, 30), (90, 120, 60)).save(out, "JPEG")
        page.get_by_label("Take a photo").set_input_files(
            {"name": "x.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}
        )
        expect(page.get_by_role("status").filter(has_text="1 photo kept here")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Units:")).click()
        expect(page.get_by_role("status").filter(has_text="the drawing is kept here")).to_be_visible()
        self.context.new_cdp_session(page).send(
            "Storage.clearDataForOrigin", {"origin": self.address, "storageTypes": "all"}
        )
        self.context.set_offline(False)
        expect(page.get_by_role("status").filter(has_text="kept here")).to_have_count(0)
        self.saved(was + 1)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["units"], "us")
        self.assertEqual(len(self.api("GET", f"/jobs/{job}/export/job")["events"]), kept + 1)
        self.assertEqual(len(self.api("GET", f"/jobs/{job}/photos")), 1)

    def test_drawn_in_another_job(self) -> None:
        """A drawing that was changed with no signal is sent when there is one, whatever job is open by then; until then
        the header tells of it, by name.
        """
        page = self.page
        job, other = self.fresh_demo(), self.copy("thistledown-yard")
        was = self.api("GET", f"/jobs/{job}")["revision"]
        self.open(other, "survey")
        self.along(page)
        self.open(job, "survey")
        self.along(page)
        self.context.set_offline(True)
        page.get_by_role("button", name=re.compile("^Units:")).click()
        expect(page.get_by_role("status").filter(has_text="the drawing is kept here")).to_be_visible()
        page.goto(f"/job/{other}/survey")
        expect(page.get_by_role("status").filter(has_text="the drawing of another job is kept here")).to_be_visible()
        page.get_by_role("button", name="What waits").click()
        expect(page.get_by_role("dialog")).to_contain_text("The changed drawing waits")
        expect(page.get_by_role("dialog").get_by_role("region", name="Thistledown Camp, meadow line")).to_be_visible()
        page.get_by_role("button", name="Close").click()
        page.get_by_role("link", name="Hydrarch").click()
        expect(page.locator(f'a[href^="/job/{job}/"]').first).to_be_visible()  # the list of jobs came along
        page.goto(f"/job/{other}/survey")
        expect(page.get_by_role("status").filter(has_text="the drawing of another job is kept here")).to_be_visible()
        self.context.set_offline(False)
        expect(page.get_by_role("status").filter(has_text="kept here")).to_have_count(0)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["units"], "us")
        self.assertEqual(self.api("GET", f"/jobs/{job}")["revision"], was + 1)

    def test_drawn_in_a_job_that_was_deleted(self) -> None:
        """What was drawn with no signal in a job that somebody deleted for good is not lost: it is told, and kept as a
        job of its own.
        """
        page = self.page
        job = self.copy("thistledown-yard")
        self.open(job, "survey")
        self.along(page)
        self.context.set_offline(True)
        page.get_by_role("button", name=re.compile("^Units:")).click()
        expect(page.get_by_role("status").filter(has_text="the drawing is kept here")).to_be_visible()
        name = self.api("GET", f"/jobs/{job}")["plan"]["name"]
        httpx2.delete(f"{self.server}/api/jobs/{job}", params={"name": name}, timeout=30)
        self.context.set_offline(False)
        page.goto("/")
        expect(page.get_by_text("One thing waits on this device for the server.")).to_be_visible()
        page.get_by_role("button", name="What waits").click()
        expect(page.get_by_role("dialog")).to_contain_text("is of a job that was deleted")
        page.get_by_role("button", name="Keep it as a new job").click()
        expect(page.get_by_role("navigation", name="Stages")).to_be_visible()
        made = page.url.split("/job/")[1].split("/")[0]
        self.assertEqual(self.api("GET", f"/jobs/{made}")["plan"]["units"], "us")
        expect(page.get_by_role("button", name="What waits")).to_have_count(0)
