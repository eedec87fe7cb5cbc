"""The survey's sheet: conditions, practice, scenarios, pump curves, problems, and jobs coming and going."""

import re

from playwright.sync_api import Route, expect

from tests.web.base import Browsing


class Sheet(Browsing):
    """What is typed and chosen beside the drawing."""

    def test_conditions_change_the_answers(self) -> None:
        """A lower velocity limit takes larger pipe; colder and damper air lengthens the cure."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_label("Velocity limit").fill("0.9 m/s")
        page.get_by_label("Velocity limit").press("Enter")
        self.saved(2)
        sizes = self.shown(job, "size")["sizes"]["choices"]
        self.assertEqual(sizes["R3"]["size"], "1-1/2")
        page.get_by_label("Lowest air temperature while curing").fill("-5 C")
        page.get_by_label("Lowest air temperature while curing").press("Enter")
        self.saved(3)
        found = self.api("GET", f"/jobs/{job}/joints/R9b~1/procedure")
        self.assertEqual(
            found["cure"]["cure"], 90 * 60
        )  # 1-1/2 in now: 60 min below 40 °F, half as long again when damp

    def test_house_practice_shows_its_reason(self) -> None:
        """Another school is taken with a click; its reason and floor stand below, and the steps follow."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_label("Preparing PVC").select_option("abrade")
        expect(page.get_by_text("works on weathered pipe")).to_be_visible()
        self.saved(2)
        page.get_by_label("Cure before water").select_option("day")
        self.saved(3)
        found = self.api("GET", f"/jobs/{job}/joints/R9b~1/procedure")
        self.assertIn("Abrade", [s["title"] for s in found["steps"]])
        self.assertEqual(found["cure"]["cure"], 86400)

    def test_scenarios(self) -> None:
        """A scenario is added, named, an outlet shut in it, and solved; removed it is gone."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_role("button", name="Add a scenario").click()
        self.saved(2)
        group = page.get_by_role("group", name="Scenario 4")
        group.get_by_label("Head 3").uncheck()
        self.saved(3)
        flows = {f["name"]: f["outlets"] for f in self.shown(job, "size")["sizes"]["flows"].values()}
        self.assertNotIn("S3", flows["Scenario 4"])
        self.assertIn("S4", flows["Scenario 4"])
        group.get_by_role("button", name="Remove").click()
        expect(group).to_have_count(0)

    def test_pump_curve(self) -> None:
        """A curve that would rise is refused with words and put back; a good change is kept."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_role("table", name="Points").get_by_role("button", name="Well pump").click()
        curve = page.get_by_role("region", name="Pump curve")
        curve.get_by_label("Head").nth(1).fill("90 m")
        curve.get_by_label("Head").nth(1).press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("the heads of a pump curve must fall")
        expect(curve.get_by_label("Head").nth(1)).to_have_value("71.00")
        curve.get_by_label("Head").nth(1).fill("72 m")
        curve.get_by_label("Head").nth(1).press("Enter")
        self.saved(2)
        curve.get_by_role("button", name="Paste a curve").click()
        curve.get_by_role("textbox", name=re.compile("a point a line")).fill("0 90\n60\n120 60")
        curve.get_by_role("button", name="Use this curve").click()
        expect(curve.get_by_role("alert")).to_contain_text("line 2")
        curve.get_by_role("textbox", name=re.compile("a point a line")).fill("0 90\n60 80,5\n120 60")
        curve.get_by_role("button", name="Use this curve").click()
        self.saved(3)
        expect(curve.get_by_label("Head").nth(1)).to_have_value("80.50")

    def test_problems_lead_to_their_place(self) -> None:
        """A point cut off from the source is listed with what to do, and Show me opens it."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_role("table", name="Runs").get_by_role("button", name="Pitch tee – Tap 1").click()
        page.get_by_role("button", name="Delete this run").click()
        problem = page.get_by_role("region", name="Problems").locator("div", has_text="No source reaches Tap 1").last
        expect(problem).to_contain_text("Draw runs to it from a source.")
        problem.get_by_role("button", name="Show me").click()
        expect(page.get_by_role("region", name="Point Tap 1")).to_be_visible()
        page.keyboard.press("Control+z")
        self.saved(3)

    def test_a_plain_mend_is_a_button(self) -> None:
        """What it would change is shown first, done with a press, the problem is gone, and one undo takes it back."""
        page = self.page
        job = self.fresh_demo()
        plan = self.api("GET", f"/jobs/{job}")["plan"]
        lain = next(r for r in plan["runs"] if r["id"] == "R10")
        for p in plan["points"]:
            if p["id"] in {lain["a"]["point"], lain["b"]["point"]}:
                p["depth"] = 0.0
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": 1, "plan": plan})
        self.open(job, "survey")
        problems = page.get_by_role("region", name="Problems")
        offer = problems.get_by_role("button", name="Say that it lies on the surface").first
        expect(offer).to_be_visible()
        many = problems.get_by_role("button", name="Say that it lies on the surface").count()
        offer.click()
        expect(problems.get_by_text(re.compile("^Goes: "))).to_be_visible()
        self.assertEqual(self.api("GET", f"/jobs/{job}")["revision"], 2)  # nothing is saved by asking
        problems.get_by_role("button", name="Do it").click()
        self.saved(3)
        after = self.api("GET", f"/jobs/{job}")["plan"]["runs"]
        self.assertEqual(len([r for r in after if r not in plan["runs"]]), 1)
        expect(problems.get_by_role("button", name="Say that it lies on the surface")).to_have_count(many - 1)
        page.keyboard.press("Control+z")
        self.saved(4)
        expect(problems.get_by_role("button", name="Say that it lies on the surface")).to_have_count(many)

    def test_a_thing_is_found_by_its_name(self) -> None:
        """What is at hand narrows to what was typed, from every group; what is nothing is said, and a group shows all
        of its own again.
        """
        page = self.page
        self.open(self.fresh_demo(), "survey")
        tools = page.get_by_role("region", name="Drawing tools")
        find = tools.get_by_label("Find a thing to set down")
        find.fill("three-way")
        expect(tools.get_by_role("button", name="Three-way valve")).to_be_visible()
        expect(tools.get_by_role("button", name="Tap", exact=True)).to_have_count(0)
        find.fill("straw")
        expect(tools.get_by_text("Nothing to set down is called that.")).to_be_visible()
        tools.get_by_role("button", name="Outlets").click()
        expect(tools.get_by_role("button", name="Tap", exact=True)).to_be_visible()
        expect(find).to_have_value("")

    def test_levels_of_a_whole_line(self) -> None:
        """The yard's drain is laid at 1 in 50 in one edit; a slope that is none is answered with how to write one."""
        page = self.page
        job = self.copy("thistledown-yard")
        self.open(job, "survey")
        page.get_by_text("Levels of a whole line").click()
        page.get_by_label("Line from").select_option("J1")
        page.get_by_label("Line to").select_option("O1")
        page.get_by_label("Laid", exact=True).select_option("slope")
        page.get_by_label("Falling").fill("steep")
        page.get_by_role("button", name="Set the levels").click()
        expect(page.get_by_text("'steep' is no slope: write it as")).to_be_visible()
        page.get_by_label("Falling").fill("1 in 50")
        page.get_by_role("button", name="Set the levels").click()
        self.saved(2)
        points = {p["id"]: p for p in self.api("GET", f"/jobs/{job}")["plan"]["points"]}
        levels = [points[p]["ground"] - points[p]["depth"] for p in ("J1", "J2", "B1", "O1")]
        for level, fallen in zip(levels, (0, 16 / 50, 32 / 50, (32 + 8 * 2**0.5) / 50), strict=True):
            self.assertAlmostEqual(levels[0] - level, fallen, places=5)
        kept = page.get_by_role("list", name="Lines that keep a rule")
        expect(kept).to_contain_text("Yard wye to Ditch: falls 1 in 50")
        kept.get_by_role("button", name="Let the rule go").click()
        self.saved(3)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["rules"], [])
        page.keyboard.press("Control+z")
        self.saved(4)
        page.keyboard.press("Control+z")
        self.saved(5)

    def test_a_run_gets_another_pipe(self) -> None:
        """Series, size, place and a taped length are set on a run; a pipe unfit for the place says so."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_role("table", name="Runs").get_by_role("button", name="Meadow valve – Meadow bend").click()
        run = page.get_by_role("region", name="Run R10")
        run.get_by_label("Pipe", exact=True).select_option("pvc-sdr21")
        run.get_by_label("Lies").select_option("on surface")
        expect(run.get_by_text("is not for a run on surface")).to_be_visible()
        run.get_by_label("Length by the tape").fill("5.9")
        run.get_by_label("Length by the tape").press("Enter")
        expect(run.get_by_label("Length by the tape")).to_have_value("5.90")
        expect(page.get_by_text(re.compile("^saved, no"))).to_be_visible()
        kept = next(r for r in self.api("GET", f"/jobs/{job}")["plan"]["runs"] if r["id"] == "R10")
        self.assertEqual((kept["series"], kept["situation"], kept["measured_length"]), ("pvc-sdr21", "on surface", 5.9))
        run.get_by_label("Length by the tape").fill("-3")
        run.get_by_label("Length by the tape").press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("a run is at least 1 mm long")

    def test_a_point_becomes_something_else(self) -> None:
        """A bend turned into a valve makes another section."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_role("table", name="Points").get_by_role("button", name="Loop tee").click()
        page.get_by_role("region", name="Point Loop tee").get_by_label("Name").fill("Loop junction")
        page.get_by_role("region", name="Point Loop tee").get_by_label("Name").press("Enter")
        expect(page.get_by_role("region", name="Point Loop junction")).to_be_visible()
        self.saved(2)


class OnAPhone(Browsing):
    """The survey on a phone is folded: its answer, its tools and what to see to first."""

    phone = True
    viewport = (390, 844)

    def test_tables_and_conditions_are_folded(self) -> None:
        """What is long is a line with its count until it is pressed; the sheet is no longer than two and a half
        screens.
        """
        page = self.page
        self.open(self.fresh_demo(), "survey")
        expect(page.get_by_text("20 runs, 198.68 m of pipe, 6 outlets.")).to_be_visible()
        expect(page.get_by_role("table", name="Points")).to_be_hidden()
        expect(page.get_by_label("Velocity limit")).to_be_hidden()
        height = page.get_by_role("heading", name="Conditions and crew standards").bounding_box()
        assert height is not None
        self.assertLess(height["y"], 2.5 * self.viewport[1])
        page.get_by_role("heading", name="Conditions and crew standards").tap()
        expect(page.get_by_label("Velocity limit")).to_be_visible()


class Jobs(Browsing):
    """The list of jobs."""

    def test_each_is_a_small_drawing_with_what_waits(self) -> None:
        """The demo tells its dry joints and last hand, and opens in Make where they wait; a search leaves what was
        asked for.
        """
        page = self.page
        job = self.fresh_demo()
        for _ in range(3):
            self.copy("thistledown-yard")
            self.copy("thistledown-herbs")
        page.goto("/")
        dry = self.api("GET", f"/jobs/{job}/progress")["dry"]
        card = page.locator(f'a[href="/job/{job}/make"]')
        expect(card.get_by_text(f"{dry} dry-fitted only")).to_be_visible()
        expect(card.get_by_text(re.compile("^(Rowan|Sorrel|Juniper|[A-Z][a-z]+), "))).to_be_visible()
        runs = len(self.api("GET", f"/jobs/{job}")["plan"]["runs"])
        self.assertEqual((card.locator("path").get_attribute("d") or "").count("M"), runs)
        page.get_by_label("Find a job").fill("no such thing")
        expect(page.get_by_text("No job has no such thing in its name.")).to_be_visible()
        page.get_by_label("Find a job").fill("Thistledown")
        card.click()
        expect(page.get_by_text("Working order", exact=True)).to_be_visible()

    def test_nothing_moves_from_under_a_thumb(self) -> None:
        """What waits on the jobs comes late over a slow link: what lies below the list stays where it was."""
        page = self.page
        self.fresh_demo()
        held: list[Route] = []
        # a method of its own cannot be wrapped
        page.route("**/glance", lambda route: held.append(route))  # noqa: PLW0108
        page.goto("/")
        below = page.get_by_text("Daily copies")
        expect(below).to_be_visible()
        self.until(lambda: bool(held))
        before = below.bounding_box()
        self.assertTrue(held)
        for route in held:
            route.continue_()
        expect(page.get_by_text("Checking status")).to_have_count(0)
        self.assertEqual(below.bounding_box(), before)

    def test_a_press_waits_for_what_was_typed(self) -> None:
        """Over a slow link a point typed at East 3, North 7 stands there however fast the button is pressed; what
        cannot be read sets nothing down.
        """
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_text("Type it instead").click()
        held: list[Route] = []
        # a method of its own cannot be wrapped
        page.route("**/api/read", lambda route: held.append(route))  # noqa: PLW0108
        for field, value in (("East", "3"), ("North", "7")):
            page.get_by_role("textbox", name=field, exact=True).fill(value)
        first = self.api("GET", f"/jobs/{job}")
        before = len(first["plan"]["points"])
        page.get_by_role("button", name="Add point").click()
        page.wait_for_timeout(300)
        self.assertEqual(len(self.api("GET", f"/jobs/{job}")["plan"]["points"]), before)
        for route in held:
            route.continue_()
        page.unroute("**/api/read")
        self.saved(first["revision"] + 1)
        added = self.api("GET", f"/jobs/{job}")["plan"]["points"][-1]
        self.assertEqual((added["x"], added["y"]), (3.0, 7.0))
        page.get_by_role("textbox", name="East", exact=True).fill("three")
        page.get_by_role("button", name="Add point").click()
        expect(page.get_by_text("type a number such as")).to_be_visible()
        page.wait_for_timeout(300)
        self.assertEqual(len(self.api("GET", f"/jobs/{job}")["plan"]["points"]), before + 1)

    def test_a_form_waits_for_what_was_typed(self) -> None:
        """A whole form is sent, too, once what was typed beside it is read: the press is not lost."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "survey")
        page.get_by_text("Type it instead").click()
        page.get_by_text("Levels of a whole line").click()
        first = self.api("GET", f"/jobs/{job}")
        held: list[Route] = []
        # a method of its own cannot be wrapped
        page.route("**/api/read", lambda route: held.append(route))  # noqa: PLW0108
        page.get_by_role("textbox", name="East", exact=True).fill("3")
        page.get_by_role("button", name="Set the levels").click()
        self.until(lambda: bool(held))
        self.assertEqual(self.api("GET", f"/jobs/{job}")["revision"], first["revision"])
        for route in held:
            route.continue_()
        page.unroute("**/api/read")
        self.saved(first["revision"] + 1)

    def test_deleting_asks_first(self) -> None:
        """A job is deleted only after a yes; then it is off the list, and can be brought back."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "keep")
        says = iter((False, True))  # one listener: a second one may be asked of the first question too
        page.on("dialog", lambda d: d.accept() if next(says) else d.dismiss())
        page.get_by_role("button", name="Delete this job").click()
        self.assertEqual({j["id"]: j["shelf"] for j in self.api("GET", "/jobs")}[job], "list")
        page.get_by_role("button", name="Delete this job").click()
        expect(page.get_by_role("heading", name="Hydrarch")).to_be_visible()
        expect(page.locator("summary").filter(has_text="Deleted")).to_be_visible()
        self.assertEqual({j["id"]: j["shelf"] for j in self.api("GET", "/jobs")}[job], "deleted")

    def test_import_opens_the_job(self) -> None:
        """An exported file brought in opens as a job of its own, record and all."""
        page = self.page
        self.new_job()
        text = self.page.request.get(f"{self.address}/api/jobs/thistledown/export/job").body()
        page.get_by_label("Job file").set_input_files(
            {"name": "job.json", "mimeType": "application/json", "buffer": text}
        )
        expect(page.get_by_role("link", name=re.compile("dry joints"))).to_be_visible()
        self.assertNotIn("/job/thistledown/", page.url)
