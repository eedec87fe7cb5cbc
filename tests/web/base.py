"""A real server and a real browser, started once for all browser tests."""

import atexit
import subprocess
import sys
import tempfile
import time
import unittest
import uuid
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any, Literal

import httpx2
from playwright.sync_api import Browser, BrowserContext, Locator, Page, Playwright, expect, sync_playwright

ROOT = Path(__file__).resolve().parents[2]
_UNSEEN = (
    "AimEnabled,AvoidCorsURLLoaderRestartOnRedirect,AvoidUnnecessaryBeforeUnloadCheckSync,DestroyProfileOnBrowserClose,"
    "HttpsFirstBalancedModeAutoEnable,HttpsUpgrades,InitialWebUI,LensOverlay,MediaRouter,NetworkTimeServiceQuerying,"
    "OptimizationHints,PaintHolding,PreconnectToSearch,PreloadTopChromeWebUI,SidePanel,TabHoverCardImages,TabSearch,"
    "ThirdPartyStoragePartitioning,WebUIReloadButton,WebUITabStrip"
)
"""What the driver turns off by itself, and pages of the browser's own frame, which nobody sees here and each new window
makes ready in a process of its own.
"""
CHROMIUM = next(p for p in ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium") if Path(p).exists())
"""The shell without a frame of its own where it is there: the whole browser draws one for nobody to see, in processes
of their own.
"""
WHOLE = next(p for p in ("/usr/bin/chromium", CHROMIUM) if Path(p).exists())
"""The browser as people have it, for what it keeps on a disk when it is killed."""
FLAGS = [
    f"--disable-features={_UNSEEN}",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--host-resolver-rules=MAP trench.test 127.0.0.1 , MAP * ~NOTFOUND , EXCLUDE 127.0.0.1",
]
_shared: dict[str, Any] = {}

expect.set_options(timeout=30_000)


def _serve(*command: str) -> subprocess.Popen[str]:
    return subprocess.Popen([sys.executable, "-m", *command], cwd=ROOT, stdout=subprocess.PIPE, text=True)


def _line(server: subprocess.Popen[str]) -> str:
    assert server.stdout is not None
    return server.stdout.readline()


def _address(server: subprocess.Popen[str]) -> str:
    return next(w for w in _line(server).split() if w.startswith("http://")).rstrip("/")


def _start() -> None:
    if _shared:
        return
    folder = tempfile.TemporaryDirectory()
    servers = [_serve("hydrarch", "demo", "--port", "0", "--data", f"{folder.name}/near")]
    near = _address(servers[0])

    def far() -> str:
        """One beside it over plain HTTP, by a name of the network, started when the first asks."""
        servers.append(_serve("tests.web.plain_http", f"{folder.name}/far"))
        return _address(servers[-1])

    driver: Playwright = sync_playwright().start()
    browser: Browser = driver.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    _shared.update(near=near, far=cache(far), browser=browser, playwright=driver)

    def stop() -> None:
        browser.close()
        driver.stop()
        for server in servers:
            server.terminate()
            server.wait(10)
            assert server.stdout is not None
            server.stdout.close()
        folder.cleanup()

    atexit.register(stop)


def playwright() -> Playwright:
    """What drives the browsers, started once."""
    _start()
    found: Playwright = _shared["playwright"]
    return found


def killable(folder: str) -> tuple[subprocess.Popen[bytes], Browser]:
    """A browser in a process of its own, to be killed, that keeps what it keeps in a folder."""
    told = Path(folder) / "DevToolsActivePort"
    told.unlink(missing_ok=True)
    command = [
        WHOLE,
        "--headless=new",
        *FLAGS,
        "--remote-debugging-port=0",
        f"--user-data-dir={folder}",
        "about:blank",
    ]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    for _ in range(300):
        if told.exists() and len(lines := told.read_text("utf-8").splitlines()) > 1:
            return process, playwright().chromium.connect_over_cdp(f"http://127.0.0.1:{lines[0]}")
        time.sleep(0.1)
    process.kill()
    process.wait(10)
    raise AssertionError("the browser did not start")


class Browsing(unittest.TestCase):
    """A page of its own for each test; a fault in the page's console fails it."""

    viewport = (1280, 800)
    phone = False
    workers: Literal["allow", "block"] = "allow"
    """Whether the page may be kept by a service worker, to open with no signal: as users have it."""
    alone = False
    """Whether each test has a browser of its own that was never here before: those of what is kept on a device."""
    plain_http = False
    """Over plain HTTP by a name of the network, where a page has no secure context, as a phone reaches a shared server.
    """

    def setUp(self) -> None:
        """Open a fresh page."""
        _start()
        self.address: str = _shared["far"]() if self.plain_http else _shared["near"]
        self.server = self.address.replace("trench.test", "127.0.0.1")
        self.context = self._new_context() if self.alone else self._shared_context()
        self.page: Page = self.context.new_page()
        self.faults: list[str] = []
        self.page.on("pageerror", lambda e: self.faults.append(str(e)))
        self.addCleanup(lambda: self.assertEqual(self.faults, []))

    def _new_context(self) -> BrowserContext:
        """A browser that knows nothing yet, gone after the test."""
        context = self._device()
        self.addCleanup(context.close)
        return context

    def _shared_context(self) -> BrowserContext:
        """One that earlier tests of the same kind of device had, with all that they kept on it taken away but the files
        of the program: what takes longest at a first look at a page is to fetch and read those.
        """
        key = f"{self.address} {self.viewport} {self.phone} {self.workers}"
        if key not in _shared:
            _shared[key] = self._device()
        context: BrowserContext = _shared[key]
        wiper = context.new_page()
        wiper.goto("about:blank")
        origin = {"origin": self.address, "storageTypes": "all"}
        context.new_cdp_session(wiper).send("Storage.clearDataForOrigin", origin)
        wiper.close()
        context.clear_cookies()
        self.addCleanup(self._close_pages)
        return context

    def _close_pages(self) -> None:
        for page in self.context.pages:
            page.close()
        self.context.unroute_all()
        self.context.set_offline(False)

    def _device(self) -> BrowserContext:
        width, height = self.viewport
        context: BrowserContext = _shared["browser"].new_context(
            viewport={"width": width, "height": height},
            has_touch=self.phone,
            is_mobile=self.phone,
            locale="en-GB",
            base_url=self.address,
            service_workers=self.workers,
        )
        return context

    def other_phone(self, name: str) -> Page:
        """A page on another device, of somebody else."""
        context = _shared["browser"].new_context(base_url=self.address, locale="en-GB", service_workers=self.workers)
        self.addCleanup(context.close)
        context.add_init_script(f"localStorage.setItem('hydrarch.person', {name!r})")
        page: Page = context.new_page()
        return page

    def api(self, method: str, path: str, **more: Any) -> Any:
        """Ask the API beside the page."""
        return httpx2.request(method, f"{self.server}/api{path}", timeout=30, **more).json()

    def shown(self, job: str, stage: str) -> Any:
        """What the API shows in a stage of a job."""
        return self.api("GET", f"/jobs/{job}/stages/{stage}")

    def standing(self, job: str, stage: str = "make") -> Any:
        """Where a job stands."""
        return self.api("GET", f"/jobs/{job}/standing?stage={stage}")

    def say(self, job: str, kind: str, joints: list[str], by: str = "Rowan") -> None:
        """Say something on another phone, and see that it is kept."""
        event = {"id": str(uuid.uuid4()), "kind": kind, "at": time.time() - 1, "by": by, "joints": joints}
        answer = self.api("POST", f"/jobs/{job}/events", json=[event])
        self.assertEqual([e["kept"] for e in answer["events"]], [True], answer)

    def said_made(self) -> None:
        """Say the joint in hand made, though its steps were not all looked at."""
        self.page.get_by_role("button", name="Made, and it looks right").click()
        self.page.get_by_role("button", name="Yes, all of it was done").click()

    def enter_test(self, section: Locator, pressure: str = "8") -> None:
        """Type what a gauge showed, and half an hour that ends now."""
        section.get_by_label("Pressure read").fill(pressure)
        section.get_by_label("Pressure read").press("Enter")
        began = time.strftime("%Y-%m-%dT%H:%M", time.localtime(time.time() - 1800))
        section.get_by_label("Start", exact=True).fill(began)
        section.get_by_role("button", name="End: now").click()

    def copy(self, name: str) -> str:
        """A copy of a job, so that tests do not meet."""
        made: str = self.api("POST", "/import", json=self.api("GET", f"/jobs/{name}/export/job"))["id"]
        return made

    def fresh_demo(self) -> str:
        """A copy of the demo job, so that tests do not meet."""
        return self.copy("thistledown")

    def new_job(self) -> None:
        """The list of jobs, and the dialog of a new one."""
        self.page.goto("/")
        self.page.get_by_role("button", name="New job").click()

    def open(self, job: str, stage: str) -> None:
        """Open a stage of a job and wait until it is shown."""
        self.page.goto(f"/job/{job}/{stage}")
        expect(self.page.get_by_role("navigation", name="Stages")).to_be_visible()

    def show_head(self) -> None:
        """Bring the head of a phone's page back, which goes while a joint is worked on."""
        stages = self.page.get_by_role("button", name="Stages", exact=True)
        if stages.is_visible():
            stages.click()

    def saved(self, revision: int) -> None:
        """Wait until a revision is saved."""
        self.show_head()
        expect(self.page.get_by_text(f"saved, no. {revision}", exact=True)).to_be_visible()

    def until(self, so: Callable[[], bool]) -> None:
        """Go on when something is so."""
        ends = time.monotonic() + 20
        while not so() and time.monotonic() < ends:
            self.page.wait_for_timeout(20)
        self.assertTrue(so())

    def take(self, group: str, kind: str) -> None:
        """Take a kind of thing in hand, to set it down."""
        self.page.get_by_role("group", name="What to set down").get_by_role("button", name=group, exact=True).click()
        self.page.get_by_role("region", name="Drawing tools").get_by_role("button", name=kind, exact=True).click()

    def hover(self, dx: float, dy: float) -> None:
        """Hold the pointer over the drawing, so many pixels from its middle."""
        box = self.page.get_by_role("application").bounding_box()
        assert box is not None
        self.page.mouse.move(box["x"] + box["width"] / 2 + dx, box["y"] + box["height"] / 2 + dy)

    def click_drawing(self, dx: float, dy: float) -> None:
        """Click on the drawing, so many pixels from its middle."""
        box = self.page.get_by_role("application").bounding_box()
        assert box is not None
        self.page.mouse.click(box["x"] + box["width"] / 2 + dx, box["y"] + box["height"] / 2 + dy)
