"""Over a link that stalls, cuts, doubles and answers for itself nothing that is said is lost, doubled or misdated."""

import io
import re
import time

from PIL import Image
from playwright.sync_api import FilePayload, expect

from tests.bad_link import BadLink
from tests.web.base import Browsing

SAYINGS = 60


class OverABadLink(Browsing):
    """A phone in a harbour: each press says one thing, and the link spoils every other sending of it."""

    alone = True
    viewport = (390, 844)
    phone = True
    sayings = SAYINGS
    things, pictures = 8, 5
    pause = 0.0  # ms between two, where there are so many that the server would refuse them for their number

    def whole_job(self) -> None:
        """Show all parts of the job, bought or not."""
        self.page.get_by_role("button", name="Whole job", exact=True).click()
        expect(self.page.get_by_role("button", name=re.compile(": all ")).first).to_be_visible()

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
            page.get_by_role("button", name="Sheet", exact=True).click()
            bend = page.get_by_role("region", name="Drawing tools").get_by_role("button", name="Bend", exact=True)
            if not bend.is_visible() or bend.get_attribute("aria-pressed") != "true":
                self.take("Line", "Bend")
            page.get_by_role("button", name="Drawing", exact=True).click()
            self.click_drawing(-140 + 40 * n, -100)
            expect(page.get_by_role("application")).to_have_accessible_name(re.compile(f"{len(before) + n + 1} points"))
            if n % 5 == 3:
                page.reload()
            if n % 8 == 6:
                page.evaluate("() => localStorage.clear()")
        page.goto(f"{link.address}/job/{job}/make?at={joint}")
        hand = page.get_by_role("region", name="The joint in hand")
        for n in range(self.pictures):
            picture = io.BytesIO()
            Image.effect_noise((60 + n, 50), 60).save(picture, "JPEG")
            file: FilePayload = {"name": f"{n}.jpg", "mimeType": "image/jpeg", "buffer": picture.getvalue()}
            hand.locator("input[type=file]").set_input_files([file])
            expect(hand.locator("img").or_(hand.get_by_text("is kept on this device"))).to_have_count(n + 1)
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
