"""Takes the pictures of docs/screenshots from the demo job: python -m tests.web.take_screenshots."""

import sys

from playwright.sync_api import expect

from tests.web.base import ROOT, Browsing

VIEWS = [
    ("survey", "survey", "light", (1280, 800)),
    ("size", "size", "light", (1280, 800)),
    ("join", "join", "light", (1280, 800)),
    ("cut", "cut", "light", (1280, 800)),
    ("prove", "prove", "light", (1280, 800)),
    ("keep", "keep", "light", (1280, 800)),
    ("make-phone-dark", "make", "dark", (390, 844)),
]


class Pictures(Browsing):
    """Not a test: the same browser and server, looking instead of checking."""

    def shoot(self, name: str) -> None:
        """Write one picture."""
        self.page.get_by_text("Loading profile").wait_for(state="hidden")
        self.page.wait_for_timeout(700)  # a picture, not a test: let fonts and labels settle
        self.page.screenshot(path=ROOT / "docs" / "screenshots" / f"{name}.png")

    def take_all(self) -> None:
        """Write every picture."""
        for name, stage, theme, (width, height) in VIEWS:
            self.page.set_viewport_size({"width": width, "height": height})
            self.page.goto("/")
            self.page.evaluate("theme => localStorage.setItem('hydrarch.theme', theme)", theme)
            self.open("thistledown-meadow" if stage == "size" else "thistledown", stage)
            if stage == "join":
                mark = self.page.locator('[data-place="J7"] circle').first.bounding_box()
                assert mark is not None
                self.page.mouse.click(mark["x"] + mark["width"] / 2, mark["y"] + mark["height"] / 2)
            self.shoot(name)
        self.page.evaluate("localStorage.setItem('hydrarch.theme', 'light')")
        self.page.set_viewport_size({"width": 1280, "height": 800})
        self.page.goto("/")
        self.page.get_by_text("5 dry-fitted only").wait_for()
        expect(self.page.get_by_text("Checking status")).to_have_count(0, timeout=60_000)
        self.shoot("home")
        self.open("thistledown-beds", "size")
        self.page.get_by_role("region", name="Drip row output").wait_for()
        self.shoot("drip")
        self.open("thistledown-wash", "size")
        self.page.get_by_role("button", name="Compare drain pipe for this job").click()
        self.page.get_by_role("region", name="Drains", exact=True).scroll_into_view_if_needed()
        self.page.get_by_role("region", name="corrugated polyethylene").wait_for()
        self.shoot("drains")
        self.open("thistledown-risers", "size")
        self.page.get_by_role("region", name="What runs together").scroll_into_view_if_needed()
        self.shoot("house")
        self.open("thistledown-gate", "make")
        self.page.get_by_text("Shut Lane valve.").first.scroll_into_view_if_needed()
        self.shoot("changeover")
        self.open("thistledown-meadow", "prove")
        self.page.get_by_role("button", name="Something is wrong: find the fault").click()
        told = self.page.get_by_role("region", name="What would explain it")
        told.scroll_into_view_if_needed()
        self.page.get_by_text("Next: read").wait_for()
        self.shoot("fault")
        self.open("thistledown-tank", "size")
        self.page.get_by_role("button", name="Standing").click()
        what = self.page.get_by_role("region", name="What-if")
        what.get_by_label("This happens").select_option("power fails")
        what.get_by_role("button", name="Run simulation").click()
        what.get_by_role("list", name="What mattered").get_by_role("button").nth(1).click()
        what.get_by_role("list", name="What mattered").scroll_into_view_if_needed()
        self.shoot("standing")
        self.page.goto("/bench/repair?series=%22pvc40%22&size=%221%22")
        self.page.get_by_text("2 × PVC slip coupling 1, no stop, with a piece between").wait_for()
        self.shoot("bench-repair")
        self.page.set_viewport_size({"width": 390, "height": 844})
        self.page.goto("/job/thistledown/shop")
        self.page.get_by_role("button", name="PVC elbow 90° 1: all 3 in the basket").click()
        self.page.get_by_role("button", name="PVC tee 1 × 1 × 1/2 female thread").last.click()
        self.shoot("shop-phone")
        self.page.set_viewport_size({"width": 1280, "height": 800})
        self.open("thistledown-tub", "join")
        self.page.get_by_role("button", name="Model", exact=True).click()
        self.page.locator("[data-model=ready] canvas").wait_for()
        self.page.wait_for_timeout(3000)  # a software renderer's first frames
        self.shoot("model")
        self.page.get_by_role("button", name="Play the build").click()
        self.page.get_by_label("Joint in the order of work").fill("70")
        self.page.get_by_label("How far apart").fill("1")
        self.page.wait_for_timeout(1500)
        self.shoot("playback")
        self.page.get_by_role("button", name="Above", exact=True).click()
        self.page.goto("/practice/solvent-square/judge")
        self.page.get_by_role("group", name="What is wrong").get_by_role("button", name="Nothing").click()
        self.page.get_by_text("What can be saved").or_(self.page.get_by_text("Nothing beyond")).first.wait_for()
        self.shoot("practice")


def main() -> int:
    """Take them all."""
    pictures = Pictures()
    pictures.setUp()
    pictures.take_all()
    pictures.doCleanups()
    return 0


if __name__ == "__main__":
    sys.exit(main())
