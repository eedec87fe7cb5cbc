"""Heads and drip through the page, each from an empty job: laid, worked out, put into zones, watered by a
controller.
"""

import math
import re
from itertools import pairwise

from playwright.sync_api import FilePayload, Route, expect

from tests.web.base import Browsing


class Watering(Browsing):
    """What a crew does with heads and with drip."""

    def start(self, name: str, units: str = "metric") -> str:
        """An empty job, open; its id."""
        job: str = self.api("POST", "/jobs", json={"name": name, "units": units, "market": "north-american"})["id"]
        self.open(job, "survey")
        expect(self.page.get_by_text("Nothing is drawn yet.")).to_be_visible()
        return job

    def measure(self, text: str) -> None:
        """Draw a line of measures from what is chosen."""
        page = self.page
        opener = page.get_by_role("button", name="Draw by measure", exact=True)
        if opener.is_visible():
            opener.click()
        form = page.get_by_role("form", name="Draw by measure")
        form.get_by_role("textbox").fill(text)
        form.get_by_role("button", name="Draw it").click()
        expect(form.get_by_role("textbox")).to_have_value("")

    def test_drip_from_a_hose_tap(self) -> None:
        """US units: the head of the line at one press with washers and no tape; a row of 50 ft at a foot is 50
        emitters, each told in gal/h.
        """
        page = self.page
        self.start("Herb row", "us")
        self.take("Sources", "Mains tapping")
        self.click_drawing(-240, 0)
        page.get_by_role("button", name="Back to the list").or_(page.get_by_label("Name")).first.wait_for()
        page.get_by_role("button", name="Lay out a drip line's head here").click()
        expect(page.get_by_role("application")).to_have_attribute("aria-label", re.compile("5 points, 4 runs"))
        self.measure("50 ft e, row")
        row = page.get_by_role("region", name="Point Drip row 1")
        row.get_by_label("Emitters apart by").fill("12 in")
        row.get_by_label("Emitters apart by").press("Enter")
        row.get_by_label("Flow of each").fill("0.5 gal/h")
        row.get_by_label("Flow of each").press("Enter")
        page.get_by_role("link", name="Size").click()
        told = page.get_by_role("region", name="Drip row output")
        expect(told.get_by_text(re.compile(r"^50 emitters on 50\.0 ft: [\d.]+ gal/h in all"))).to_be_visible()
        expect(
            told.get_by_text(
                re.compile(r"^The rule of thumb gives 1/2 in tubing 200\.0 ft and 200\.00 gal/h: this is within it")
            )
        ).to_be_visible()
        self.assertIsNotNone(page.locator("[data-emitters]").first.get_attribute("d"))
        page.get_by_role("link", name="Join").click()
        page.get_by_role("button", name="All parts").click()
        parts = page.get_by_role("region", name="Parts list")
        for part in (
            "Hose backflow preventer 3/4 hose female × male",
            "Mesh filter 3/4 hose female × male",
            "Drip end plug for 0.620 in bore",
        ):
            expect(parts.get_by_text(part)).to_be_visible()
        expect(parts.get_by_text(re.compile("tape", re.I))).to_have_count(0)
        expect(parts.get_by_text("Stake for tubing")).to_be_visible()

    def test_heads_in_zones(self) -> None:
        """A lawn filled with heads of one nozzle, put into zones by what there is, and a watering day given to the
        controller with a reason.
        """
        page = self.page
        job = self.start("Lawn")
        self.take("Sources", "Mains tapping")
        self.click_drawing(-300, 100)
        self.take("Site marks", "Mark to measure from")
        for dx, dy in ((-160, 90), (80, 90), (80, -70), (-160, -70)):
            self.click_drawing(dx, dy)
        page.get_by_role("button", name="Choose several").click()
        form = page.get_by_role("region", name="Several things")
        form.get_by_label("All of a kind").select_option("mark")
        form.get_by_text("Fill the area between them with heads").click()
        form.get_by_label("Heads apart by").fill("8 m")
        form.get_by_role("button", name="Fill it").click()
        expect(form.get_by_text(re.compile(r"^\d+ heads, square, 8\.00 m apart"))).to_be_visible()
        form.get_by_label("Nozzle, by its table").select_option("R-1")
        expect(form.get_by_text(re.compile(r"heads have nozzle R-1: 4\.2 L/min"))).to_be_visible()
        plan = self.api("GET", f"/jobs/{job}")["plan"]
        heads = [p["id"] for p in plan["points"] if p["what"]["kind"] == "sprinkler"]
        mains = next(p["id"] for p in plan["points"] if p["what"]["kind"] == "mains")
        ends = [(mains, "out", heads[0], "in"), *((a, "in", b, "in") for a, b in pairwise(heads))]
        plan["runs"] = [
            {"id": f"R{n}", "a": {"id": f"R{n}a", "point": a, "port": p}, "b": {"id": f"R{n}b", "point": b, "port": q}}
            for n, (a, p, b, q) in enumerate(ends)
        ]
        now = self.api("GET", f"/jobs/{job}")["revision"]
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": now, "plan": plan})
        self.open(job, "size")
        zones = page.get_by_text("Zones of the controller")
        zones.click()
        page.get_by_label("Water there is for one zone").fill("nothing")
        page.get_by_role("button", name="Propose zones").click()
        expect(page.get_by_role("alert").filter(has_text="nothing")).to_be_visible()
        page.get_by_label("Water there is for one zone").fill("20 L/min")
        page.get_by_role("button", name="Propose zones").click()
        offer = page.get_by_role("region", name="By what each draws and who is near")
        expect(offer.get_by_text(re.compile(r"zones.* at the least by what they draw|no fewer can do"))).to_be_visible()
        offer.get_by_role("button", name="Take these").click()
        expect(page.get_by_role("button", name="Take out Zone 1")).to_be_visible()
        self.saved(now + 2)
        kept = self.api("GET", f"/jobs/{job}")["plan"]["zones"]
        self.assertEqual(sorted(h for z in kept for h in z["heads"]), sorted(heads))
        page.get_by_role("heading", name="When to water").click()
        page.get_by_label("It begins at").fill("half past")
        page.get_by_label("It begins at").press("Enter")
        expect(page.get_by_text("half past is no time of the day; type one such as 4:30.")).to_be_visible()
        page.get_by_label("It begins at").fill("5:15")
        page.get_by_label("It begins at").press("Enter")
        page.get_by_role("button", name="Work out when").click()
        day = page.get_by_role("region", name="A watering day")
        expect(day.get_by_text(re.compile(r"^From 5:15 to"))).to_be_visible()
        expect(day.get_by_text(re.compile(r"^Lawn, cool season needs"))).to_be_visible()
        day.get_by_role("button", name="Give it to the controller").click()
        expect(day.get_by_text(re.compile(r"^Do not water Zone 1 yet"))).to_be_visible()
        day.get_by_label("Water all the same, because").fill("old line, in use")
        day.get_by_role("button", name="Give it all the same").click()
        expect(day.get_by_text(re.compile(r"openings for (today|tomorrow), the first at 5:15"))).to_be_visible()

    def test_a_broken_nozzle_table(self) -> None:
        """A table with a gap is refused with its line; a whole one is read, and is there to choose."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "size")
        page.get_by_role("heading", name="Nozzle tables").click()
        head = "nozzle,form,arc_deg,pressure_psi,flow_gpm,radius_ft\n"
        take = page.get_by_label("Nozzle tables file")
        gap = FilePayload(
            name="gap.csv", mimeType="text/csv", buffer=(head + "Own,rotor,,30,1.0,30\nOwn,rotor,,40,,34\n").encode()
        )
        take.set_input_files(gap)
        expect(page.get_by_text(re.compile(r"line 3.*flow is blank"))).to_be_visible()
        rows = head + "Own,rotor,,30,1.0,30\nOwn,rotor,,40,1.2,34\n"
        whole = FilePayload(name="own.csv", mimeType="text/csv", buffer=rows.encode())
        take.set_input_files(whole)
        expect(page.get_by_text("1 table read: give them to heads in Survey.")).to_be_visible()
        page.goto(f"/job/{job}/survey")
        page.get_by_role("button", name="Choose several").click()
        form = page.get_by_role("region", name="Several things")
        form.get_by_label("All of a kind").select_option("sprinkler")
        form.get_by_label("Nozzle, by its table").select_option("Own")
        expect(form.get_by_text(re.compile("heads have nozzle Own"))).to_be_visible()

    def test_an_arc_is_turned(self) -> None:
        """A head is set to a quarter, and its arc turned to the left and back to the right of where it began."""
        page = self.page
        job = self.start("Corner")
        self.take("Outlets", "Sprinkler")
        self.click_drawing(0, 0)
        arc = page.get_by_role("group", name="Its arc")
        expect(arc.get_by_role("button", name="Turn left")).to_be_disabled()
        arc.get_by_role("button", name="90°").click()
        drawn = page.locator("[data-throw]")
        before = drawn.get_attribute("d")
        for _ in range(3):
            arc.get_by_role("button", name="Turn left").click()
        expect(drawn).not_to_have_attribute("d", before or "")
        arc.get_by_role("button", name="Turn right").click()
        self.until(lambda: self.arc_of(job) == (30, 90))

    def test_a_press_counts_though_another_edit_comes_between(self) -> None:
        """A turn whose answer is slow, while the arc is widened by another press: both are in the drawing."""
        page = self.page
        job = self.start("Between")
        self.take("Outlets", "Sprinkler")
        self.click_drawing(0, 0)
        arc = page.get_by_role("group", name="Its arc")
        arc.get_by_role("button", name="90°").click()
        self.until(lambda: self.arc_of(job)[1] == 90)
        held: list[Route] = []
        page.route("**/groups/turn*", lambda route: held.append(route), times=1)  # noqa: PLW0108
        arc.get_by_role("button", name="Turn left").click()
        self.until(lambda: bool(held))
        arc.get_by_role("button", name="180°").click()
        held[0].continue_()
        self.until(lambda: self.arc_of(job) == (15, 180))

    def test_an_arc_by_its_handles(self) -> None:
        """The two sides of a chosen head's arc are taken hold of: one turns it, the other widens it, each in steps of
        5°.
        """
        page = self.page
        job = self.start("Handles")
        self.take("Outlets", "Sprinkler")
        self.click_drawing(0, 0)
        page.get_by_role("group", name="Its arc").get_by_role("button", name="90°").click()
        page.get_by_role("application").press("Escape")
        turned, wide = 45, 180
        for side, to in (("turn", turned), ("widen", turned + wide)):
            handle = page.locator(f"[data-arc={side}] circle").first
            box, middle = handle.bounding_box(), page.locator("[data-point] circle").first.bounding_box()
            assert box is not None
            assert middle is not None
            self.assertGreaterEqual(box["width"], 44)
            page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
            page.mouse.down()
            way = math.radians(to + 1.5)
            x, y = middle["x"] + middle["width"] / 2, middle["y"] + middle["height"] / 2
            page.mouse.move(x + 80 * math.cos(way), y - 80 * math.sin(way), steps=4)
            page.mouse.up()
        self.until(lambda: self.arc_of(job) == (turned, wide))

    def arc_of(self, job: str) -> tuple[float, float]:
        """Where the arc of the one head that is saved begins, and how wide it is (°, to a millionth)."""
        (head,) = self.api("GET", f"/jobs/{job}")["plan"]["points"]
        return round(math.degrees(head["what"]["begins"]), 6), round(math.degrees(head["what"]["arc"]), 6)
