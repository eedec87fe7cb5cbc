"""Two people on one job, and files that are no jobs."""

import json
import os
import re
import subprocess
import sys
import tempfile

import httpx2
from playwright.sync_api import expect

from tests.web.base import ROOT, Browsing


class Together(Browsing):
    """Two people on one job."""

    alone = True

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

    def test_two_words_on_one_joint(self) -> None:
        """Two phones with no signal made one joint: both words stand beside each other in Make, in Keep and on the
        sheet.
        """
        page = self.page
        job = self.fresh_demo()
        ready = self.standing(job)["readiness"]
        joint = next(j for j, s in ready["joints"].items() if s["state"] == "dry")
        for n, (by, ago) in enumerate((("Rowan", 600), ("Sorrel", 300))):
            told = {
                "id": f"0b6a8a7e-2b64-4e0e-9d1b-6c1f6a3a9b2{n}",
                "kind": "made",
                "at": ready["now"] - ago,
                "by": by,
                "joints": [joint],
            }
            self.api("POST", f"/jobs/{job}/events", json=[told])
        self.open(job, "keep")
        words = page.get_by_role("region", name="Conflicting records")
        expect(words).to_contain_text(re.compile("Sorrel made it, .*Rowan made it, "))
        page.get_by_role("listitem").filter(has=words).get_by_role("button").first.click()
        expect(
            page.get_by_role("region", name="The joint in hand").get_by_role("region", name="Conflicting records")
        ).to_be_visible()
        sheet = page.request.get(f"/api/jobs/{job}/export/sheet").text()
        self.assertIn("Conflicting records: look at the joint together", sheet)

    def test_who_is_where_and_who_takes_over(self) -> None:
        """Two phones see each other and where each is; one hands the job over, the other finds that first, and takes it
        by name.
        """
        page, job = self.page, self.fresh_demo()
        page.add_init_script("localStorage.setItem('hydrarch.person', 'Ash')")
        for name in ("Ash", "Rowan"):
            self.api("POST", "/crew", json={"name": name})
        other = self.other_phone("Rowan")
        self.open(job, "keep")
        other.goto(f"/job/{job}/make")
        expect(page.get_by_role("list", name="Also here").get_by_text(re.compile("^Rowan, in Make"))).to_be_attached()
        expect(other.get_by_role("list", name="Also here").get_by_text(re.compile("^Ash, in Keep"))).to_be_attached()
        other.get_by_role("button", name="Next joint").click()
        other.get_by_role("button", name="Next joint").click()
        expect(page.locator("[data-hand=Rowan]")).to_be_attached()
        page.get_by_role("button", name="Hand it over …").click()
        page.get_by_label("What comes next, for whoever takes it").fill("glue the five dry ones")
        page.get_by_role("button", name="Hand it over as it stands").click()
        expect(page.get_by_text("Ash handed it over")).to_be_visible()
        other.goto(f"/job/{job}/keep")
        expect(other.get_by_text("Next: glue the five dry ones")).to_be_visible()
        told = other.get_by_role("region", name="Hand it on").get_by_role("listitem")
        expect(told.filter(has_text="5 dry-fitted only")).to_be_visible()
        other.get_by_role("button", name="I take it over: Rowan").click()
        expect(page.get_by_text(re.compile("; Rowan took it"))).to_be_visible()
        other.close()
        expect(page.get_by_role("list", name="Also here")).to_have_count(0)

    def test_a_dry_joint_is_a_press_from_its_steps(self) -> None:
        """At the hand-over a dry joint is pressed, and is in hand in Make."""
        page = self.page
        self.open(self.fresh_demo(), "keep")
        page.get_by_role("region", name="Hand-over").get_by_role("button").first.click()
        expect(page.get_by_role("region", name="The joint in hand").get_by_text("dry-fitted only")).to_be_visible()


class Shared(Browsing):
    """A server that others can reach, behind the crew's passphrase."""

    alone = True

    def setUp(self) -> None:
        """Start one, with a page that knows nothing yet."""
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        command = [
            sys.executable,
            "-m",
            "hydrarch",
            "demo",
            "--port",
            "0",
            "--data",
            folder.name,
            "--share",
            "127.0.0.1",
            "--plain",
        ]
        server = subprocess.Popen(
            command,
            cwd=ROOT,
            stdout=subprocess.PIPE,
            text=True,
            env={**os.environ, "HYDRARCH_PASSPHRASE": "blue garden gate"},
        )
        assert server.stdout is not None
        line = next(x for x in server.stdout if "http://" in x)
        self.addCleanup(server.stdout.close)
        self.addCleanup(server.wait, 20)
        self.addCleanup(server.terminate)
        self.there = next(w for w in line.split() if w.startswith("http://")).rstrip("/")

    def come_in(self, words: str) -> None:
        """Type the passphrase, and a name where none stands yet."""
        form = self.page.get_by_role("form", name="Join the crew")
        form.get_by_label("The crew's passphrase").fill(words)
        if not form.get_by_label("Your name").input_value():
            form.get_by_label("Your name").fill("Rowan")
        form.get_by_role("button", name="Join").click()

    def test_a_label_is_scanned_before_joining(self) -> None:
        """A link to a job, opened by somebody who has not joined: the passphrase is asked there, and it goes on."""
        page = self.page
        page.goto(f"{self.there}/job/thistledown/make")
        expect(page.get_by_text("Join, and it opens here")).to_be_visible()
        self.come_in("blue garden gate")
        expect(page.get_by_role("progressbar", name="Joints made")).to_be_visible()
        self.assertTrue(page.url.endswith("/job/thistledown/make"))

    def test_put_out_and_let_in_again(self) -> None:
        """Let in by the words; put out from the list while at work, asked again in place, and what was said meanwhile
        is there. The name is typed once.
        """
        page = self.page
        page.goto(self.there)
        self.come_in("red garden gate")
        expect(page.get_by_text("That is not the crew's passphrase.")).to_be_visible()
        self.come_in("blue garden gate")
        page.get_by_role("link", name="Thistledown Camp, meadow line").click()
        page.get_by_role("link", name="Make").click()
        expect(page.get_by_label("Who is working on this device")).to_have_value("Rowan")
        cookie = {c["name"]: c["value"] for c in self.context.cookies(self.there)}
        for device in httpx2.get(f"{self.there}/api/sessions", cookies=cookie, timeout=30).json():
            httpx2.delete(f"{self.there}/api/sessions/{device['id']}", cookies=cookie)
        bar = page.get_by_role("progressbar", name="Joints made")
        before = int(bar.get_attribute("aria-valuenow") or 0)
        self.said_made()
        expect(page.get_by_role("region", name="Sign in again")).to_be_visible()
        expect(bar).to_have_attribute("aria-valuenow", str(before + 1))
        self.come_in("blue garden gate")
        expect(page.get_by_role("region", name="Sign in again")).to_have_count(0)
        expect(page.get_by_text("kept here")).to_have_count(0)
        expect(bar).to_have_attribute("aria-valuenow", str(before + 1))
        page.goto(self.there)
        devices = page.get_by_role("region", name="Devices that were let in")
        expect(devices.get_by_text("Rowan, computer (this one)")).to_be_visible()


class BadFiles(Browsing):
    """Files that are no jobs."""

    alone = True

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
        page.get_by_role("button", name="New job").click()
        for name, (text, says) in files.items():
            page.get_by_label("Job file").set_input_files(
                {"name": name, "mimeType": "application/json", "buffer": text.encode()}
            )
            expect(page.get_by_role("alert")).to_contain_text(says)
        page.get_by_role("button", name="Cancel").click()
        self.assertEqual(jobs.count(), count)

    def test_ten_megabytes(self) -> None:
        """A file no job can be is turned away in words, with nothing saved."""
        self.new_job()
        big = b'{"format": "' + b"x" * 10_000_000 + b'"}'
        self.page.get_by_label("Job file").set_input_files(
            {"name": "big.json", "mimeType": "application/json", "buffer": big}
        )
        expect(self.page.get_by_role("alert")).to_contain_text("more than 5 MB")
        expect(self.page.get_by_role("alert")).to_contain_text("nothing was saved")

    def test_unknown_addresses(self) -> None:
        """A job that is not there, and a page that is not there, lead back to the list."""
        self.page.goto("/job/nothing/survey")
        expect(self.page.get_by_role("alert")).to_contain_text("there is no job nothing")
        self.page.goto("/somewhere/else")
        self.page.get_by_role("link", name="Go to the list of jobs").click()
        expect(self.page.get_by_role("heading", name="Hydrarch")).to_be_visible()
