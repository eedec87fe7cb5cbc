"""Drawing a line from nothing, by pointer and by keyboard alone."""

import re
from collections import Counter
from typing import Any

from playwright.sync_api import Locator, expect

from hydrarch.core.catalogue.fittings import fitting
from tests.web.base import Browsing


class FromEmpty(Browsing):
    """An empty job becomes a sized, joined, cut line."""

    def start(self, name: str) -> None:
        """Start an empty job from the home page."""
        self.new_job()
        self.page.get_by_label("Name").fill(name)
        self.page.get_by_label("Fittings sold here").select_option("north-american")
        self.page.get_by_role("button", name=re.compile(r"^Start( empty)?$")).click()
        expect(self.page.get_by_role("heading", name="Survey")).to_be_visible()
        expect(self.page.get_by_text("Nothing is drawn yet.")).to_be_visible()

    def test_along_the_pipe_without_a_picture(self) -> None:
        """By the keyboard alone the choice goes from thing to thing along the pipe, and each is said with where its
        pipes lead and how far its joints are.
        """
        page = self.page
        self.open("thistledown", "join")
        page.get_by_role("application").focus()
        said = page.locator("[data-spoken]")
        expect(said).to_have_text("")
        page.keyboard.press("Control+ArrowRight")
        expect(said).to_have_text(re.compile("^Well pump. Pipe to Pump house check, .*2 of 2 joints made"))
        for _ in range(3):
            page.keyboard.press("Control+ArrowRight")
        expect(said).to_have_text(re.compile("^Pitch tee, .*Pipe to Tap 1, 18.04 m, .*4 of 4 joints made"))
        page.keyboard.press("Control+ArrowUp")
        expect(said).to_have_text(re.compile("^Tap 1. Pipe to Pitch tee"))
        expect(page.get_by_role("region", name="Joints here")).to_be_visible()

    def test_source_run_and_three_sprinklers(self) -> None:
        """Set down a well pump, draw a pipe with a corner, put three sprinklers on it, and read the parts list."""
        page = self.page
        self.start("Lawn")
        self.take("Sources", "Well pump")
        self.click_drawing(-240, 96)
        page.get_by_role("button", name="Draw pipe").click()
        self.click_drawing(-240, 96)
        self.click_drawing(0, 96)
        self.click_drawing(0, -96)
        self.click_drawing(240, -96)
        page.get_by_role("button", name="End the pipe").click()
        self.take("Outlets", "Sprinkler")
        for dx, dy in ((-120, 96), (120, -96), (240, -96)):
            self.click_drawing(dx, dy)
        page.get_by_role("link", name="Join").click()
        page.get_by_role("button", name="All parts").click()
        parts = page.get_by_role("region", name="Parts list")
        corner = re.compile("PVC elbow 90° .* socket × 1/2 female thread")
        expect(parts.get_by_role("row").filter(has_text=corner)).to_be_visible()
        expect(page.get_by_text(re.compile("^saved, no"))).to_be_visible()
        text = parts.inner_text()
        self.assertRegex(text, r"PVC cement, medium body")
        risers = re.findall(r"^(\d+)\s+Threaded riser 1/2", text, re.M)
        self.assertEqual(sum(int(n) for n in risers), 3, text)
        tees = re.findall(r"^(\d+)\s+PVC (?:reducing )?tee ", text, re.M)
        self.assertEqual(sum(int(n) for n in tees), 2, text)
        self.assertRegex(text, r"1\s+PVC elbow 90° .* socket × 1/2 female thread")
        page.get_by_role("link", name="Size").click()
        outlets = page.get_by_role("region", name="Outlets")
        expect(outlets.get_by_role("row").filter(has_text="Sprinkler 3")).to_be_visible()
        expect(outlets.get_by_text("The worst placed is")).to_be_visible()

    def test_what_the_grid_brings_to_a_thing_is_that_thing(self) -> None:
        """A pipe drawn to where the grid put a tap ends at the tap, though the press was beside it; no bend is hidden
        under it.
        """
        page = self.page
        self.start("Beside")
        self.take("Sources", "Mains tapping")
        self.click_drawing(-240, 96)
        self.take("Outlets", "Tap")
        self.click_drawing(120, -80)  # the grid brings it elsewhere
        page.get_by_role("button", name="Draw pipe").click()
        self.click_drawing(-240, 96)
        self.click_drawing(122, -82)
        page.keyboard.press("Escape")
        self.saved(4)
        job = page.url.split("/job/")[1].split("/")[0]
        plan = self.api("GET", f"/jobs/{job}")["plan"]
        self.assertEqual([p["what"]["kind"] for p in plan["points"]], ["mains", "tap"])
        self.assertEqual(len(plan["runs"]), 1)

    def test_what_a_press_would_do_is_said_before(self) -> None:
        """Beside the cross: what brought it there; at a pipe and at a thing, what would be joined; beside a corner
        nothing becomes the corner.
        """
        page = self.page
        self.start("Foreseen")
        said = page.locator("[data-foreseen]")
        self.take("Sources", "Mains tapping")
        self.hover(-240, 96)
        expect(said).to_have_text("1 m grid")
        self.click_drawing(-240, 96)
        page.get_by_role("button", name="Draw pipe").click()
        self.hover(-240, 96)
        expect(said).to_have_text("from Mains tapping 1")
        self.click_drawing(-240, 96)
        self.hover(0, 96)
        expect(said).to_have_text("in line with Mains tapping 1, 1 m grid")
        self.click_drawing(0, 96)
        page.keyboard.press("Escape")
        self.take("Valves and equipment", "Valve")
        self.hover(-120, 97)
        expect(said).to_have_text("into the pipe, in its middle")
        self.hover(0, 96)
        expect(said).to_have_text(re.compile("^takes the place of"))
        self.take("Outlets", "Sprinkler")
        self.click_drawing(13, 84)  # a metre from the corner of the line
        self.saved(4)
        job = page.url.split("/job/")[1].split("/")[0]
        plan = self.api("GET", f"/jobs/{job}")["plan"]
        self.assertEqual([p["what"]["kind"] for p in plan["points"]], ["mains", "bend", "sprinkler"])

    def test_undo_and_redo(self) -> None:
        """Three steps go back one by one and come again."""
        page = self.page
        self.start("Undone")
        self.take("Outlets", "Tap")
        for dx in (-120, 0, 120):
            self.click_drawing(dx, 0)
        drawing = page.get_by_role("application")
        expect(drawing).to_have_attribute("aria-label", re.compile("3 points"))
        page.get_by_role("button", name="Undo").click()
        page.keyboard.press("Control+z")
        expect(drawing).to_have_attribute("aria-label", re.compile("1 points"))
        page.keyboard.press("Control+Shift+z")
        page.get_by_role("button", name="Redo").click()
        expect(drawing).to_have_attribute("aria-label", re.compile("3 points"))
        page.get_by_role("button", name="Back to the list").click()
        expect(page.get_by_text("No source reaches Tap 1")).to_be_visible()

    def test_keyboard_alone(self) -> None:
        """With no pointer: a source, a run and a tap; sized, and its joints read."""
        page = self.page
        self.new_job()
        page.get_by_label("Name").focus()
        page.keyboard.type("Keys only")
        page.keyboard.press("Enter")
        tools = page.get_by_role("region", name="Drawing tools")
        expect(tools).to_be_visible()
        drawing = page.get_by_role("application")
        tools.get_by_role("button", name="Tank or pond").focus()
        page.keyboard.press("Enter")
        drawing.focus()
        page.keyboard.press("Enter")
        expect(drawing).to_have_attribute("aria-label", re.compile("1 points"))
        tools.get_by_role("button", name="Outlets").focus()
        page.keyboard.press("Enter")
        tools.get_by_role("button", name="Tap", exact=True).focus()
        page.keyboard.press("Enter")
        drawing.focus()
        for key in ("Shift+ArrowRight", "ArrowRight", "ArrowRight", "Enter"):
            page.keyboard.press(key)
        expect(drawing).to_have_attribute("aria-label", re.compile("2 points"))
        page.keyboard.press("p")
        page.keyboard.press("Enter")
        for key in ("Shift+ArrowLeft", "ArrowLeft", "ArrowLeft", "Enter", "Escape", "Escape"):
            page.keyboard.press(key)
        expect(drawing).to_have_attribute("aria-label", re.compile("2 points, 1 runs"))
        page.keyboard.press("2")
        expect(page.get_by_role("region", name="Outlets").get_by_role("row").filter(has_text="Tap 1")).to_be_visible()
        page.keyboard.press("3")
        expect(page.get_by_role("heading", name="Join", exact=True)).to_be_visible()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)

    def test_typed_coordinates_and_bad_numbers(self) -> None:
        """Points and runs by typing, in any unit; words for a number get help beside the field and change nothing."""
        page = self.page
        self.start("Typed")
        page.get_by_text("Type it instead").click()
        page.get_by_role("button", name="Add point").click()
        page.get_by_label("New point").select_option("tap")
        page.get_by_label("East").fill("30 ft")
        page.get_by_label("East").press("Enter")
        expect(page.get_by_label("East")).to_have_value("9.14")
        page.get_by_role("button", name="Add point").click()
        page.get_by_role("button", name="Add run").click()
        expect(page.get_by_role("table", name="Runs").get_by_role("row").filter(has_text="9.14")).to_be_visible()
        page.get_by_role("table", name="Points").get_by_role("button", name="Tap 1").click()
        page.get_by_label("Ground level").fill("high up")
        page.get_by_label("Ground level").press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("type a number such as 12 m")
        self.saved(4)


class Editing(Browsing):
    """Moving, splitting and deleting on the demo."""

    def test_split_move_and_delete(self) -> None:
        """A run splits in the middle, the new point moves by keys, and deleting it makes one run again."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_role("table", name="Runs").get_by_role("button", name="Pump house valve – Pitch tee").click()
        page.get_by_role("button", name="Split in the middle").click()
        self.saved(2)
        plan = self.api("GET", f"/jobs/{job}")["plan"]
        self.assertEqual((len(plan["points"]), len(plan["runs"])), (21, 21))
        page.get_by_role("application").focus()
        page.keyboard.press("Alt+ArrowUp")
        self.saved(3)
        page.keyboard.press("Delete")
        self.saved(4)
        plan = self.api("GET", f"/jobs/{job}")["plan"]
        self.assertEqual((len(plan["points"]), len(plan["runs"])), (20, 20))

    def test_dragging_a_point(self) -> None:
        """A point pulled by the pointer lands on the grid, and its runs follow."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        mark = page.locator('[data-point="T2"]').bounding_box()
        assert mark is not None
        x, y = mark["x"] + mark["width"] / 2, mark["y"] + mark["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 5, y + 30, steps=4)
        page.mouse.up()
        self.saved(2)
        moved = next(p for p in self.api("GET", f"/jobs/{job}")["plan"]["points"] if p["id"] == "T2")
        self.assertLess(moved["y"], 3)
        self.assertEqual(moved["y"], round(moved["y"]))

    def middle(self, name: str) -> tuple[float, float]:
        """Where a point's glyph is on the screen."""
        mark = self.page.locator(f'[data-point="{name}"]').bounding_box()
        assert mark is not None
        return mark["x"] + mark["width"] / 2, mark["y"] + mark["height"] / 2

    def test_dragging_the_plan(self) -> None:
        """The plan follows the hand and stays where it is let go, however far; the scale bar stays, and a click there
        picks the point.
        """
        page = self.page
        self.open(self.fresh_demo(), "size")
        bar = page.locator("svg").get_by_text("20 m", exact=True).bounding_box()
        before = self.middle("T2")
        for across, down, steps in ((90, 30, 6), (-700, 20, 40), (600, -40, 40)):
            x, y = self.middle("T2")
            page.mouse.move(700 if across < 0 else 60, 540)
            page.mouse.down()
            page.mouse.move((700 if across < 0 else 60) + across, 540 + down, steps=steps)
            self.near((x + across, y + down), self.middle("T2"))
            page.mouse.up()
            self.near((x + across, y + down), self.middle("T2"))
        self.near((before[0] - 10, before[1] + 10), self.middle("T2"))
        self.assertEqual(page.locator("svg").get_by_text("20 m", exact=True).bounding_box(), bar)
        page.mouse.click(*self.middle("T2"))
        expect(page.get_by_role("heading", name="What if, at Tap 2")).to_be_visible()

    def near(self, wanted: tuple[float, float], got: tuple[float, float]) -> None:
        """Within two pixels."""
        self.assertLess(max(abs(a - b) for a, b in zip(wanted, got, strict=True)), 2, (wanted, got))


class ByMeasure(Browsing):
    """Drawn by measure alone, and looked at three ways."""

    def tapped(self, name: str) -> None:
        """An empty job with a tapping of the mains, chosen."""
        self.new_job()
        self.page.get_by_label("Name").fill(name)
        self.page.get_by_label("Fittings sold here").select_option("north-american")
        self.page.get_by_role("button", name=re.compile(r"^Start( empty)?$")).click()
        self.take("Sources", "Mains tapping")
        self.click_drawing(0, 0)
        self.saved(2)
        self.page.get_by_role("button", name="Draw by measure").click()

    def measure(self, line: str, reads: str = "reads:") -> None:
        """Type a line of measures, see it read back, and draw it."""
        bar = self.page.get_by_role("form", name="Draw by measure")
        bar.get_by_role("textbox").fill(line)
        expect(bar.get_by_role("status")).to_contain_text(reads)
        bar.get_by_role("button", name="Draw it").click()
        expect(bar.get_by_role("textbox")).to_have_value("")

    def mark_of(self, kind: str, nth: int) -> Locator:
        """The mark on the drawing of a thing of a kind, in the order they were drawn."""
        points: Any = self.plan()["points"]
        return self.page.locator(f'[data-point="{[p["id"] for p in points if p["what"]["kind"] == kind][nth]}"]')

    def plan(self) -> dict[str, object]:
        """The plan as it is kept."""
        job = self.page.url.split("/job/")[1].split("/")[0]
        answer: dict[str, object] = self.api("GET", f"/jobs/{job}")["plan"]
        return answer

    def test_a_riser_with_two_branches_in_a_wall(self) -> None:
        """Measured up a wall: both taps stand where they were measured to, at 0.3 and 1.5 m; one press of undo takes a
        whole line back.
        """
        self.tapped("Wall")
        self.measure("1 e, 0.9 up, tee, 1.2 up, 0.4 n, tap", "900 mm up · junction · 1.20 m up")
        self.saved(3)
        self.page.get_by_role("button", name="Standing", exact=True).click()
        box = self.mark_of("junction", 0).bounding_box()
        assert box is not None
        self.page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.measure("0.4 n, tap")
        self.saved(4)
        plan = self.plan()
        taps = [p for p in plan["points"] if p["what"]["kind"] == "tap"]  # type: ignore[attr-defined]
        self.assertEqual(sorted(round(p["ground"] - p["depth"], 3) for p in taps), [0.3, 1.5])
        self.page.get_by_role("button", name="Undo").click()
        self.saved(5)
        self.assertEqual(len(self.plan()["runs"]), 4)  # type: ignore[arg-type]

    def test_a_pump_between_two_unions(self) -> None:
        """Unions a hand's breadth either side of a pump are drawn in one line, and all face the way they were drawn."""
        self.tapped("Pump")
        self.measure(
            "0.5 up, 0.3 e, union, 0.15 e, pump, 0.15 e, union, 0.5 e, tap", "union · 150 mm east · pump in the line"
        )
        self.saved(3)
        self.page.get_by_role("link", name="Join").click()
        self.page.get_by_role("button", name="All parts").click()
        parts = self.page.get_by_role("region", name="Parts list")
        expect(
            parts.get_by_role("row").filter(has_text=re.compile("union 3/4|union 1|union 1/2")).first
        ).to_be_visible()
        kinds = [p["what"]["kind"] for p in self.plan()["points"]]  # type: ignore[attr-defined]
        self.assertEqual(kinds, ["mains", "bend", "union", "pump", "union", "tap"])

    def choose(self, point: str) -> None:
        """Choose a point where it is drawn."""
        box = self.page.locator(f"[data-point={point}]").bounding_box()
        assert box is not None
        self.page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)

    def pieces(self) -> list[float]:
        """The lengths (m) of all pieces to cut."""
        job = self.page.url.split("/job/")[1].split("/")[0]
        return [p["length"] for p in self.shown(job, "cut")["cuts"]["pieces"]]

    def in_one_inch(self) -> None:
        """Take 1 in pipe throughout, as the API is told by another phone."""
        job = self.page.url.split("/job/")[1].split("/")[0]
        now = self.api("GET", f"/jobs/{job}")
        for run in now["plan"]["runs"]:
            run |= {"series": "pvc40", "size": "1", "situation": "on bracket"}
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": now["revision"], "plan": now["plan"]})

    def parts(self) -> dict[str, int]:
        """How many there are of each fitting."""
        job = self.page.url.split("/job/")[1].split("/")[0]
        return Counter(p["name"] for p in self.shown(job, "join")["parts"])

    def test_a_manifold_of_three_valves_under_a_tank(self) -> None:
        """Two tees and an elbow 160 mm apart, a valve and a cap under each: between the tees is cut 160 mm less both
        tees' stops.
        """
        self.tapped("Manifold")
        self.measure("1 w, tee, 160 mm w, tee, 160 mm w, 240 mm down, valve, 300 mm down, cap")
        self.saved(3)
        self.page.get_by_role("button", name="Standing", exact=True).click()
        tees = [p["id"] for p in self.plan()["points"] if p["what"]["kind"] == "junction"]  # type: ignore[attr-defined]
        for revision, branch in zip((4, 5), tees, strict=True):
            self.page.get_by_role("button", name="All", exact=True).click()
            self.choose(branch)
            self.measure("240 mm down, valve, 300 mm down, cap")
            self.saved(revision)
        self.in_one_inch()
        names = self.parts()
        self.assertEqual(
            [names[n] for n in ("PVC tee 1", "PVC elbow 90° 1", "PVC ball valve 1 socket", "PVC cap 1")], [2, 1, 3, 3]
        )
        tee, elbow = fitting("pvc-tee-1").ports[0].stop, fitting("pvc-elbow-90-1").ports[0].stop
        lengths = self.pieces()
        for by_hand in (0.160 - 2 * tee, 0.160 - tee - elbow):
            self.assertTrue([x for x in lengths if abs(x - by_hand) < 1e-6], (by_hand, lengths))

    def test_an_offset_round_a_conduit(self) -> None:
        """200 mm up and 200 mm aside by two 45s is 400 mm of travel: its piece is that less both elbows' stops."""
        self.tapped("Offset")
        self.measure("1 e, 0.4 30 up 35.2644 left, 1 e, tap", "400 mm 30° up 35.2644° left")
        self.saved(3)
        self.in_one_inch()
        self.assertEqual(self.parts()["PVC elbow 45° 1"], 2)
        by_hand = 0.4 - 2 * fitting("pvc-elbow-45-1").ports[0].stop
        self.assertTrue([x for x in self.pieces() if abs(x - by_hand) < 1e-4], (by_hand, self.pieces()))

    def test_what_is_not_understood_is_not_drawn(self) -> None:
        """A slip is named with its part, and nothing is drawn; the pad writes the ways."""
        self.tapped("Slip")
        bar = self.page.get_by_role("form", name="Draw by measure")
        bar.get_by_role("textbox").fill("2 e, 45 lft 3")
        expect(bar.get_by_role("status")).to_contain_text("part 2, '45 lft 3'")
        expect(bar.get_by_role("button", name="Draw it")).to_be_disabled()
        bar.get_by_role("textbox").fill("1.5")
        bar.get_by_role("button", name="up", exact=True).click()
        expect(bar.get_by_role("textbox")).to_have_value("1.5 up")
        expect(bar.get_by_role("status")).to_contain_text("reads: 1.50 m up")

    def test_looked_at_three_ways(self) -> None:
        """What is above one another is one spot from above, is offered in a list there, and stands apart from a side;
        the job remembers.
        """
        page = self.page
        self.tapped("Upright")
        self.measure("2 up, 1 up, cap")
        self.saved(3)
        page.get_by_role("button", name="Close").click()
        mark = self.mark_of("bend", 0).bounding_box()
        assert mark is not None
        page.mouse.click(mark["x"] + mark["width"] / 2, mark["y"] + mark["height"] / 2)
        heap = page.get_by_role("region", name="What lies here")
        expect(heap.get_by_role("button")).to_have_count(4)
        expect(heap.get_by_role("button").first).to_contain_text("Cap 1")
        heap.get_by_role("button", name=re.compile("Mains")).click()
        expect(page.get_by_role("heading", name="Mains tapping 1")).to_be_visible()
        page.get_by_role("button", name="Side", exact=True).click()
        page.get_by_role("button", name="All", exact=True).click()
        marks = (self.mark_of("cap", 0), self.mark_of("bend", 0), self.mark_of("mains", 0))
        tops = [m.bounding_box() for m in marks]
        ys = [b["y"] for b in tops if b is not None]
        self.assertEqual((len(ys), ys), (3, sorted(ys)))
        page.reload()
        expect(page.get_by_role("button", name="Side", exact=True)).to_have_attribute("aria-pressed", "true")
        page.get_by_role("application").focus()
        page.keyboard.press("v")
        expect(page.get_by_role("button", name="Standing", exact=True)).to_have_attribute("aria-pressed", "true")
