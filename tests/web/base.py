"""A real server and a real browser, started once for all browser tests."""

import atexit
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

import httpx2
from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright

ROOT = Path(__file__).resolve().parents[2]
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1",
]  # fmt: skip
_shared: dict[str, Any] = {}

expect.set_options(timeout=30_000)


def _start() -> None:
    if _shared:
        return
    folder = tempfile.TemporaryDirectory()
    command = [sys.executable, "-m", "hydrarch", "demo", "--port", "0", "--data", folder.name]
    server = subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, text=True)
    assert server.stdout is not None
    address = server.stdout.readline().split()[3].rstrip("/")
    playwright: Playwright = sync_playwright().start()
    browser: Browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
    _shared.update(address=address, browser=browser)

    def stop() -> None:
        browser.close()
        playwright.stop()
        server.terminate()
        server.wait(10)
        assert server.stdout is not None
        server.stdout.close()
        folder.cleanup()

    atexit.register(stop)


class Browsing(unittest.TestCase):
    """A page of its own for each test; a fault in the page's console fails it."""

    viewport = (1280, 800)
    phone = False

    def setUp(self) -> None:
        """Open a fresh page."""
        _start()
        self.address: str = _shared["address"]
        width, height = self.viewport
        context = _shared["browser"].new_context(
            viewport={"width": width, "height": height},
            has_touch=self.phone,
            is_mobile=self.phone,
            locale="en-GB",
            base_url=self.address,
        )
        self.context = context
        self.addCleanup(context.close)
        self.page: Page = context.new_page()
        self.faults: list[str] = []
        self.page.on("pageerror", lambda e: self.faults.append(str(e)))
        self.addCleanup(lambda: self.assertEqual(self.faults, []))

    def api(self, method: str, path: str, **more: Any) -> Any:
        """Ask the API beside the page."""
        return httpx2.request(method, f"{self.address}/api{path}", timeout=30, **more).json()

    def fresh_demo(self) -> str:
        """A copy of the demo job, so that tests do not meet."""
        whole = self.api("GET", "/jobs/thistledown/export")
        made: str = self.api("POST", "/import", json=whole)["id"]
        return made

    def open(self, job: str, stage: str) -> None:
        """Open a stage of a job and wait until it is shown."""
        self.page.goto(f"/job/{job}/{stage}")
        expect(self.page.get_by_role("navigation", name="Stages")).to_be_visible()

    def saved(self, revision: int) -> None:
        """Wait until a revision is saved."""
        expect(self.page.get_by_text(f"saved, no. {revision}", exact=True)).to_be_visible()

    def click_drawing(self, dx: float, dy: float) -> None:
        """Click on the drawing, so many pixels from its middle."""
        box = self.page.get_by_role("application").bounding_box()
        assert box is not None
        self.page.mouse.click(box["x"] + box["width"] / 2 + dx, box["y"] + box["height"] / 2 + dy)
