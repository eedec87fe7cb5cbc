"""Two people on one job, and files that are no jobs."""

import json
import re

from playwright.sync_api import expect

from tests.web.base import Browsing


class Together(Browsing):
    """Two people on one job."""

    def test_clash_shows_both_sides(self) -> None:
        """Someone else saves in between: both sides are shown; mine is kept on top of theirs."""
        page = self.page
        job = self.fresh_demo()
        page.route("**/api/live", lambda route: route.abort())
        self.open(job, "keep")
        whole = self.api("GET", f"/jobs/{job}")
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": 1, "plan": {**whole["plan"], "name": "Theirs"}})
        page.get_by_label("Name of the job").fill("Mine")
        page.get_by_label("Name of the job").press("Enter")
        dialog = page.get_by_role("dialog", name="Someone changed the same")
        expect(dialog).to_contain_text("Yours")
        dialog.get_by_role("button", name="Keep mine").click()
        self.saved(3)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["name"], "Mine")

    def test_news_arrives(self) -> None:
        """A joint made on another phone shows here without reloading."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "keep")
        expect(page.get_by_role("link", name="5 dry joints")).to_be_visible()
        ready = self.standing(job)["readiness"]
        joint = next(j for j, s in ready["joints"].items() if s["state"] == "dry")
        told = {
            "id": "0b6a8a7e-2b64-4e0e-9d1b-6c1f6a3a9b10",
            "kind": "made",
            "at": ready["now"],
            "by": "Rowan",
            "joints": [joint],
        }
        self.api("POST", f"/jobs/{job}/events", json=[told])
        expect(page.get_by_role("link", name="4 dry joints")).to_be_visible()


class BadFiles(Browsing):
    """Files that are no jobs."""

    def test_broken_file_says_where(self) -> None:
        """A broken job file is refused on the page with the place and the mend, and no job appears."""
        page = self.page
        page.goto("/")
        expect(page.get_by_role("link", name=re.compile("Thistledown Camp")).first).to_be_visible()
        jobs = page.get_by_role("link", name=re.compile("points"))
        count = jobs.count()
        whole = self.api("GET", "/jobs/thistledown/export/job")
        whole["plan"]["runs"][2]["b"]["point"] = "Nowhere"
        files = {
            "broken.json": (json.dumps(whole), "which is not on the drawing"),
            "notes.json": ("milk, eggs", "not a JSON file"),
            "other.json": ('{"format": "shopping"}', "not a Hydrarch job"),
        }
        for name, (text, says) in files.items():
            page.get_by_label("Job file").set_input_files({"name": name, "mimeType": "application/json", "buffer": text.encode()})
            expect(page.get_by_role("alert")).to_contain_text(says)
        self.assertEqual(jobs.count(), count)

    def test_ten_megabytes(self) -> None:
        """A file no job can be is turned away in words, with nothing saved."""
        self.page.goto("/")
        big = b'{"format": "' + b"x" * 10_000_000 + b'"}'
        self.page.get_by_label("Job file").set_input_files({"name": "big.json", "mimeType": "application/json", "buffer": big})
        expect(self.page.get_by_role("alert")).to_contain_text("more than 5 MB")
        expect(self.page.get_by_role("alert")).to_contain_text("nothing was saved")

    def test_unknown_addresses(self) -> None:
        """A job that is not there, and a page that is not there, lead back to the list."""
        self.page.goto("/job/nothing/survey")
        expect(self.page.get_by_role("alert")).to_contain_text("there is no job nothing")
        self.page.goto("/somewhere/else")
        self.page.get_by_role("link", name="Go to the list of jobs").click()
        expect(self.page.get_by_role("heading", name="Hydrarch")).to_be_visible()
