"""Over a link that stalls, cuts, doubles and answers for itself nothing that is said is lost, doubled or misdated,
though the browser is killed on the way.
"""

import io
import re
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager

from PIL import Image
from playwright.sync_api import FilePayload, Locator, expect

from tests.bad_link import BadLink
from tests.web.base import Browsing, killable

SAYINGS = 60


class OverABadLink(Browsing):
    """A phone in a harbour: each press says one thing, and the link spoils every other sending of it."""

    alone = True
    viewport = (390, 844)
    phone = True
    sayings = SAYINGS
    things, pictures = 8, 5
    rounds, ticks = 1, 6
    pause = 0.0  # ms between two, where there are so many that the server would refuse them for their number

    def whole_job(self) -> None:
        """Show all parts of the job, bought or not."""
        self.page.get_by_role("button", name="Whole job", exact=True).click()
        expect(self.page.get_by_role("button", name=re.compile(": all ")).first).to_be_visible()

    def set_down(self, n: int) -> None:
        """Set down a bend, each at a place of its own."""
        page = self.page
        page.get_by_role("button", name="Sheet", exact=True).click()
        bend = page.get_by_role("region", name="Drawing tools").get_by_role("button", name="Bend", exact=True)
        if not bend.is_visible() or bend.get_attribute("aria-pressed") != "true":
            self.take("Line", "Bend")
        page.get_by_role("button", name="Drawing", exact=True).click()
        self.click_drawing(-140 + 40 * n, -100)

    def photograph(self, n: int) -> None:
        """Take a photo of the joint in hand, known by its width."""
        picture = io.BytesIO()
        Image.effect_noise((60 + n % 100, 50), 60).save(picture, "JPEG")
        file: FilePayload = {"name": f"{n}.jpg", "mimeType": "image/jpeg", "buffer": picture.getvalue()}
        self.page.get_by_role("region", name="The joint in hand").locator("input[type=file]").set_input_files([file])

    def photos(self) -> Locator:
        """Photos of the joint in hand, sent or still kept here."""
        hand = self.page.get_by_role("region", name="The joint in hand")
        return hand.locator("img").or_(hand.get_by_text("is kept on this device"))

    def test_all_arrives_once(self) -> None:
        """So many ticks in the shop, with reloads, a cleared shelf and a clock that is set back on the way: the server
        has as many, each once and each dated when it was said.
        """
        link = BadLink(int(self.server.rsplit(":", 1)[1]), seed=1)
        self.addCleanup(link.close)
        job = self.fresh_demo()
        page = self.page
        page.goto(f"{link.address}/job/{job}/shop")
        ticks = page.get_by_role("button", name=re.compile(": all "))
        self.whole_job()
        shown = {t.get_attribute("aria-label") or "": t.get_attribute("aria-pressed") or "" for t in ticks.all()}
        names, said = list(shown), list[float]()
        for n in range(self.sayings):
            if n % 25 == 20:
                page.reload()
                self.whole_job()
            if n % 40 == 30:
                page.evaluate("() => localStorage.clear()")
            if n % 30 == 12:
                page.evaluate("() => { window.real ??= Date.now.bind(Date); Date.now = () => window.real() - 7200e3 }")
            if n % 30 == 16:
                page.evaluate("() => { if (window.real) Date.now = window.real }")
            page.wait_for_timeout(self.pause)
            name = names[n % len(names)]
            one = page.get_by_role("button", name=name, exact=True)
            expect(one).to_have_attribute("aria-pressed", shown[name])  # as it was said, after a reload too
            one.click()
            said.append(time.time())
            shown[name] = "false" if shown[name] == "true" else "true"
            expect(one).to_have_attribute("aria-pressed", shown[name])
        link.share = 0.0
        waiting = page.get_by_role("status").filter(has_text=re.compile("kept here"))
        expect(waiting).to_have_count(0, timeout=120_000)
        events = self.api("GET", f"/jobs/{job}/export/job")["events"]
        got = [e for e in events if e["kind"] == "got" and e["at"] > said[0] - 60]
        self.assertEqual(len(got), self.sayings, link.done)
        self.assertEqual(len({e["id"] for e in got}), self.sayings)
        wrong = [
            (round(e["at"] - s, 1), e)
            for e, s in zip(sorted(got, key=lambda e: e["at"]), said, strict=True)
            if not -20 - e.get("doubt", 0.0) <= e["at"] - s <= 20 + e.get("doubt", 0.0)
        ]
        self.assertEqual(wrong, [])
        self.assertGreaterEqual(sum(n for what, n in link.done.items() if what != "pass"), self.sayings // 6, link.done)

    def test_drawings_and_photos_arrive_once(self) -> None:
        """So many things set down and photos taken, with reloads and a cleared shelf on the way: the server has each
        once, where it was set down.
        """
        link = BadLink(int(self.server.rsplit(":", 1)[1]), seed=2)
        self.addCleanup(link.close)
        job = self.fresh_demo()
        page = self.page
        joint = self.shown(job, "make")["joints"][0]["id"]
        before = {p["id"] for p in self.api("GET", f"/jobs/{job}")["plan"]["points"]}
        page.goto(f"{link.address}/job/{job}/survey")
        expect(page.get_by_role("region", name="Drawing tools")).to_be_visible()
        for n in range(self.things):
            self.set_down(n)
            expect(page.get_by_role("application")).to_have_accessible_name(re.compile(f"{len(before) + n + 1} points"))
            if n % 5 == 3:
                page.reload()
            if n % 8 == 6:
                page.evaluate("() => localStorage.clear()")
        page.goto(f"{link.address}/job/{job}/make?at={joint}")
        hand = page.get_by_role("region", name="The joint in hand")
        for n in range(self.pictures):
            self.photograph(n)
            expect(self.photos()).to_have_count(n + 1)
            if n == 2:
                page.reload()
        link.share = 0.0
        expect(page.get_by_role("status").filter(has_text=re.compile("kept here"))).to_have_count(0, timeout=120_000)
        expect(hand.locator("img")).to_have_count(self.pictures, timeout=60_000)
        page.goto(f"{link.address}/job/{job}/survey")
        expect(page.get_by_text(re.compile("^saved, no"))).to_be_visible(timeout=60_000)
        new = [p for p in self.api("GET", f"/jobs/{job}")["plan"]["points"] if p["id"] not in before]
        self.assertEqual(len(new), self.things, link.done)
        self.assertEqual(len({(p["x"], p["y"]) for p in new}), self.things)
        photos = self.api("GET", f"/jobs/{job}/photos")
        self.assertEqual(sorted(p["wide"] for p in photos), [60 + n for n in range(self.pictures)], link.done)

    def test_killed_on_the_way(self) -> None:
        """Ticks, things set down and photos, and after each round of them the browser is killed: opened again it shows
        and sends what was said, and the server has each once.
        """
        link = BadLink(int(self.server.rsplit(":", 1)[1]), seed=3)
        self.addCleanup(link.close)
        folder = self.enterContext(tempfile.TemporaryDirectory(ignore_cleanup_errors=True))
        job = self.fresh_demo()
        joint = self.shown(job, "make")["joints"][0]["id"]
        before = {p["id"] for p in self.api("GET", f"/jobs/{job}")["plan"]["points"]}
        shown, ticked = dict[str, str](), 0
        for n in range(self.rounds):
            with self.browser(folder):
                self.page.goto(f"{link.address}/job/{job}/shop")
                ticked += self.tick(shown)
                self.page.goto(f"{link.address}/job/{job}/survey")
                self.set_down(n)
                expect(self.page.get_by_role("application")).to_have_accessible_name(
                    re.compile(f"{len(before) + n + 1} points")
                )
                self.page.goto(f"{link.address}/job/{job}/make?at={joint}")
                self.photograph(n)
                expect(self.photos()).to_have_count(n + 1)
                self.page.wait_for_timeout(300)  # the disk has it a moment later
        link.share = 0.0
        with self.browser(folder):
            self.page.goto(f"{link.address}/job/{job}/make?at={joint}")
            expect(self.page.get_by_role("status").filter(has_text=re.compile("kept here"))).to_have_count(
                0, timeout=120_000
            )
            expect(self.page.get_by_role("region", name="The joint in hand").locator("img")).to_have_count(
                self.rounds, timeout=60_000
            )
            self.page.goto(f"{link.address}/job/{job}/survey")
            expect(self.page.get_by_text(re.compile("^saved, no"))).to_be_visible(timeout=60_000)
        got = [e for e in self.api("GET", f"/jobs/{job}/export/job")["events"] if e["kind"] == "got"]
        fresh = [e for e in got if e["at"] > time.time() - 86400]
        self.assertEqual((len(fresh), len({e["id"] for e in fresh})), (ticked, ticked), link.done)
        new = [p for p in self.api("GET", f"/jobs/{job}")["plan"]["points"] if p["id"] not in before]
        self.assertEqual(len({(p["x"], p["y"]) for p in new}), self.rounds)
        self.assertEqual(len(new), self.rounds, link.done)
        wide = sorted(p["wide"] for p in self.api("GET", f"/jobs/{job}/photos"))
        self.assertEqual(wide, sorted(60 + n % 100 for n in range(self.rounds)), link.done)

    @contextmanager
    def browser(self, folder: str) -> Iterator[None]:
        """A browser on that folder, with its page as `page`, killed at the end."""
        process, browser = killable(folder)
        phone = self.page
        try:
            self.page = browser.contexts[0].pages[0]
            self.page.set_viewport_size({"width": self.viewport[0], "height": self.viewport[1]})
            yield
        finally:
            self.page = phone
            process.kill()
            process.wait(10)

    def tick(self, shown: dict[str, str]) -> int:
        """Press so many ticks; each shows what was said of it last (`shown`, by its name), and is kept there."""
        self.whole_job()
        ticks = self.page.get_by_role("button", name=re.compile(": all "))
        if not shown:
            shown |= {t.get_attribute("aria-label") or "": t.get_attribute("aria-pressed") or "" for t in ticks.all()}
        for name in [list(shown)[n % len(shown)] for n in range(self.ticks)]:
            self.page.wait_for_timeout(self.pause)
            one = self.page.get_by_role("button", name=name, exact=True)
            expect(one).to_have_attribute("aria-pressed", shown[name])
            one.click()
            shown[name] = "false" if shown[name] == "true" else "true"
            expect(one).to_have_attribute("aria-pressed", shown[name])
        return self.ticks
