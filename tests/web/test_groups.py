"""Several things at once, through the page: a frame, a repeat at a spacing, a part carried to another job, an assembly
kept.
"""

from playwright.sync_api import expect

from tests.core.test_pictures import png
from tests.web.base import Browsing


class Several(Browsing):
    """A row of heads from one."""

    def begin(self) -> str:
        """A job with a mains, a tee on its line, and a head on the tee."""
        points = [
            {"id": "M", "x": 0.0, "y": 0.0, "what": {"kind": "mains"}, "name": "Meter"},
            {"id": "J", "x": 8.0, "y": 0.0, "what": {"kind": "junction"}},
            {"id": "H", "x": 8.0, "y": 3.0, "what": {"kind": "sprinkler"}, "name": "Head 1"},
        ]
        ends = (("M", "out", "J", "line"), ("J", "line", "H", "in"))
        runs = [
            {"id": f"R{n}", "a": {"id": f"R{n}a", "point": a, "port": p}, "b": {"id": f"R{n}b", "point": b, "port": q}}
            for n, (a, p, b, q) in enumerate(ends, 1)
        ]
        job: str = self.api("POST", "/jobs", json={"name": "Row of heads"})["id"]
        plan = self.api("GET", f"/jobs/{job}")["plan"] | {"points": points, "runs": runs}
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": 1, "plan": plan})
        return job

    def plan(self, job: str) -> dict[str, list[dict[str, object]]]:
        """What the job holds now."""
        found: dict[str, list[dict[str, object]]] = self.api("GET", f"/jobs/{job}")["plan"]
        return found

    def frame(self, *ids: str) -> None:
        """Drag a frame round the marks of some points."""
        boxes = [self.page.locator(f"g[data-point='{i}']").bounding_box() for i in ids]
        xs = [x for b in boxes if b for x in (b["x"], b["x"] + b["width"])]
        ys = [y for b in boxes if b for y in (b["y"], b["y"] + b["height"])]
        mouse = self.page.mouse
        mouse.move(min(xs) - 9, min(ys) - 9)
        mouse.down()
        mouse.move((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2)
        mouse.move(max(xs) + 9, max(ys) + 9)
        mouse.up()

    def test_a_row_of_six_heads_and_back(self) -> None:
        """Framed, repeated every 12 m with pipe between, all given a depth, undone in two steps, and a second lot taken
        away.
        """
        page, job = self.page, self.begin()
        self.open(job, "survey")
        page.get_by_role("button", name="Choose several").click()
        self.frame("J", "H")
        form = page.get_by_role("region", name="Several things")
        expect(form.get_by_text("2 things and 1 pipe chosen")).to_be_visible()
        form.get_by_label("How far and which way").fill("12 m east")
        form.get_by_role("button", name="Repeat, each").click()
        expect(form.get_by_text("6 in all, each 12.00 m east of the last, joined by pipe.")).to_be_visible()
        self.saved(3)
        heads = [p for p in self.plan(job)["points"] if p["what"] == {**p["what"], "kind": "sprinkler"}]  # type: ignore[dict-item]
        self.assertEqual([h["x"] for h in heads], [8, 20, 32, 44, 56, 68])
        self.assertEqual(len(self.plan(job)["runs"]), 2 + 2 * 5)
        form.get_by_label("All of a kind").select_option("sprinkler")
        form.get_by_label("Depth of pipe below ground").fill("450 mm")
        form.get_by_role("button", name="Give it to them").click()
        expect(form.get_by_text("11 things 450 mm below ground.")).to_be_visible()
        self.saved(4)
        self.assertEqual({p["depth"] for p in self.plan(job)["points"] if p["id"] != "J" and p["id"] != "M"}, {0.45})
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("button", name="Undo").click()
        self.saved(6)
        self.assertEqual(len(self.plan(job)["points"]), 3)
        form.get_by_label("How far and which way").fill("2 sideways")
        form.get_by_role("button", name="Copy", exact=True).click()
        expect(form.get_by_text("part 1, '2 sideways'")).to_be_visible()

    def test_a_part_is_carried_to_another_job_and_kept(self) -> None:
        """The tee with its head is taken in hand, set down in another job, kept as an assembly, found among our own,
        and taken out.
        """
        page, job = self.page, self.begin()
        other: str = self.api("POST", "/jobs", json={"name": "Next door"})["id"]
        self.open(job, "survey")
        page.get_by_role("button", name="Choose several").click()
        self.frame("J", "H")
        form = page.get_by_role("region", name="Several things")
        form.get_by_label("Keep it as an assembly called").fill("Tee with a head")
        form.get_by_role("button", name="Keep it").click()
        expect(form.get_by_text("Tee with a head is saved")).to_be_visible()
        form.get_by_role("button", name="Take it in hand").click()
        page.get_by_role("link", name="Hydrarch").click()
        page.get_by_role("link", name="Next door").click()
        tools = page.get_by_role("region", name="Drawing tools")
        tools.get_by_role("button", name="Part in hand: 2 things").click()
        self.click_drawing(0, 0)
        self.saved(2)
        self.assertEqual(sorted(p["what"]["kind"] for p in self.plan(other)["points"]), ["junction", "sprinkler"])  # type: ignore[index]
        tools.get_by_role("button", name="Crew parts").click()
        tools.get_by_role("button", name="Tee with a head: 2 things").click()
        self.click_drawing(200, 120)
        self.saved(3)
        names = [p["name"] for p in self.plan(other)["points"] if p["name"]]
        self.assertEqual(names, ["Head 1", "Head 2"])
        page.goto("/book")
        page.get_by_role("button", name="Take out Tee with a head").click()
        expect(page.get_by_role("button", name="Take out Tee with a head")).to_have_count(0)

    def test_a_detail_is_made_shown_and_printed(self) -> None:
        """Round the tee and its head, seen from the south: only they are shown, it is reached from the head, listed,
        and on the sheet.
        """
        page, job = self.page, self.begin()
        self.open(job, "survey")
        page.get_by_role("button", name="Side").click()
        page.get_by_role("button", name="Choose several").click()
        form = page.get_by_role("region", name="Several things")
        form.get_by_label("All of a kind").select_option("sprinkler")
        form.locator("summary").filter(has_text="A detail of the drawing").click()
        form.get_by_label("Detail called").fill("At the head")
        form.get_by_role("button", name="Make the detail").click()
        self.saved(3)
        marks = page.locator("g[data-point]")
        expect(marks).to_have_count(2)  # the head, and where its pipe comes from
        page.get_by_label("Detail", exact=True).select_option("")
        expect(marks).to_have_count(3)
        form.get_by_role("button", name="Back to the list").click()
        page.get_by_role("button", name="Above").click()
        box = page.locator("g[data-point='H']").bounding_box()
        assert box
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.get_by_role("button", name="Show its detail: At the head").click()
        expect(marks).to_have_count(2)
        sheet = self.page.request.get(f"{self.address}/api/jobs/{job}/export/sheet").text()
        self.assertIn("Detail: At the head, 1 : ", sheet)
        self.assertIn("The line, from above, 1 : ", sheet)
        page.get_by_role("button", name="Back to the list").click()
        page.get_by_role("button", name="Take out the detail At the head").click()
        expect(marks).to_have_count(3)

    def test_a_plan_beneath_is_scaled_by_a_length_that_is_known(self) -> None:
        """A picture 400 px wide, laid down 40 m wide: 100 px of it are said to be 8 m, so that it is 32 m wide; dimmed,
        and taken away.
        """
        page, job = self.page, self.begin()
        self.open(job, "survey")
        page.locator("summary").filter(has_text="Background picture or plan").click()
        page.get_by_label("Picture or plan", exact=True).set_input_files(
            {"name": "site.png", "mimeType": "image/png", "buffer": png(400, 200)}
        )
        expect(page.get_by_text("It has no scale yet")).to_be_visible()
        self.saved(3)
        picture = page.locator("svg image")
        for _ in range(6):
            page.get_by_role("button", name="Zoom out").click()
        box = picture.bounding_box()
        assert box
        page.get_by_role("button", name="Take its scale").click()
        for share in (0.25, 0.5):
            page.mouse.click(box["x"] + box["width"] * share, box["y"] + box["height"] * 0.9)
        page.get_by_label("They are apart by").fill("8 m")
        page.get_by_role("button", name="Set the scale").click()
        self.saved(4)
        under = self.api("GET", f"/jobs/{job}")["plan"]["underlay"]
        self.assertAlmostEqual(under["scale"] * under["wide"], 32.0, delta=0.4)
        self.assertLess(abs(under["x"] - 2.0), 0.2, "the first place stays where it was")
        page.get_by_role("button", name="Take it away").click()
        self.saved(5)
        expect(picture).to_have_count(0)

    def test_by_key_and_by_press(self) -> None:
        """G takes the tool, a press chooses one more or one less, Delete takes them away, Esc lets go."""
        page, job = self.page, self.begin()
        self.open(job, "survey")
        page.get_by_role("application").focus()
        page.keyboard.press("g")
        form = page.get_by_role("region", name="Several things")
        for mark in ("J", "H", "J"):
            box = page.locator(f"g[data-point='{mark}']").bounding_box()
            assert box
            page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        expect(form.get_by_text("1 thing and 0 pipes chosen")).to_be_visible()
        page.keyboard.press("Delete")
        self.saved(3)
        self.assertEqual([p["id"] for p in self.plan(job)["points"]], ["M", "J"])
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
        expect(form).to_have_count(0)
