"""Takes the pictures of docs/screenshots from the demo job: python -m tests.web.take_screenshots."""

import sys

from tests.web.base import ROOT, Browsing

VIEWS = [
    ("survey", "survey", "light", (1280, 800)), ("size", "size", "light", (1280, 800)), ("join", "join", "light", (1280, 800)),
    ("cut", "cut", "light", (1280, 800)), ("make", "make", "light", (1280, 800)), ("prove", "prove", "light", (1280, 800)),
    ("keep", "keep", "light", (1280, 800)), ("size-dark", "size", "dark", (1280, 800)), ("make-phone", "make", "light", (390, 844)),
    ("make-phone-dark", "make", "dark", (390, 844)),
]  # fmt: skip


class Pictures(Browsing):
    """Not a test: the same browser and server, looking instead of checking."""

    def take(self) -> None:
        """Write every picture."""
        for name, stage, theme, (width, height) in VIEWS:
            self.page.set_viewport_size({"width": width, "height": height})
            self.page.goto("/")
            self.page.evaluate("theme => localStorage.setItem('hydrarch.theme', theme)", theme)
            self.open("thistledown", stage)
            if stage == "join":
                mark = self.page.locator('[data-place="J7"]').bounding_box()
                assert mark is not None
                self.page.mouse.click(mark["x"] + 10, mark["y"] + 10)
            self.page.wait_for_timeout(700)  # a picture, not a test: let fonts and labels settle
            self.page.screenshot(path=ROOT / "docs" / "screenshots" / f"{name}.png")


def main() -> int:
    """Take them all."""
    pictures = Pictures()
    pictures.setUp()
    pictures.take()
    pictures.doCleanups()
    return 0


if __name__ == "__main__":
    sys.exit(main())
