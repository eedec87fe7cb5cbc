"""The stages on the demo job: what a crew reads and does in each."""

import json
import re
import time
import uuid

from playwright.sync_api import expect

from tests.web.base import Browsing


class Reading(Browsing):
    """Size to Keep."""

    def test_working_opens_on_focus(self) -> None:
        """Focus on a derived number shows its formula, inputs and source."""
        page = self.page
        self.open("thistledown", "size")
        row = page.get_by_role("region", name="Runs").get_by_role("row").filter(has_text="Pump house valve – Pitch tee")
        row.get_by_role("button").nth(-2).focus()
        page.keyboard.press("Enter")
        note = page.get_by_role("note", name=re.compile("Working of Head lost"))
        expect(note).to_contain_text("10.67 L Q^1.852")
        expect(note).to_contain_text("Crane TP-410")

    def test_switching_units(self) -> None:
        """US units at a click, everywhere; back again, and no stored value has changed."""
        page = self.page
        job = self.fresh_demo()
        before = self.api("GET", f"/jobs/{job}")["plan"]
        self.open(job, "size")
        expect(page.get_by_role("region", name="Outlets").get_by_text("bar").first).to_be_visible()
        page.get_by_role("button", name="Units: metric; switch").click()
        expect(page.get_by_role("region", name="Outlets").get_by_text("psi").first).to_be_visible()
        self.saved(2)
        page.get_by_role("link", name="Cut").click()
        expect(page.get_by_role("region", name="Worksheet")).to_contain_text(re.compile(r"\d+ ft \d+-\d+/\d+ in"))
        page.get_by_role("button", name="Units: US; switch").click()
        self.saved(3)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"], before)

    def test_scenario_changes_what_is_shown(self) -> None:
        """Choosing what is open changes the outlets listed and the profile's name."""
        page = self.page
        self.open("thistledown", "size")
        page.get_by_label("Scenario", exact=True).select_option("taps")
        expect(page.get_by_role("region", name="Outlets").get_by_role("row").filter(has_text="Tap 2")).to_be_visible()
        expect(page.get_by_role("region", name="Long section")).to_contain_text("Both taps")

    def test_measured_fitting(self) -> None:
        """A measure typed once changes every piece at that fitting."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "cut")
        sheet = page.get_by_role("region", name="Worksheet")
        piece = sheet.get_by_role("row").filter(has_text="South-east corner – North-east corner")
        expect(piece).to_contain_text("13976 mm")
        measured = page.get_by_role("region", name="Measured fittings")
        measured.get_by_label("Fitting", exact=True).select_option("pvc-elbow-90-1")
        measured.get_by_label("Centre to stop").fill("31 mm")
        measured.get_by_label("Centre to stop").press("Enter")
        self.saved(2)
        expect(piece).not_to_contain_text("13976 mm")

    def test_another_way_is_chosen_and_stays(self) -> None:
        """At the change of material another way is taken; it stands in the parts, survives a reload, and can be given back."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "join")
        mark = page.locator('[data-place="J7"] circle').first.bounding_box()
        assert mark is not None
        page.mouse.click(mark["x"] + mark["width"] / 2, mark["y"] + mark["height"] / 2)
        leg = page.get_by_role("region", name="Ways at J7, R8")
        leg.get_by_role("button", name=re.compile("other ways")).click()
        way = leg.get_by_role("listitem").filter(has_text="PVC insert adapter 1-1/4 barb × 1-1/4 spigot").first
        way.get_by_role("button", name="Use this way").click()
        self.saved(2)
        page.reload()
        page.get_by_role("region", name="Parts list").wait_for()
        expect(page.get_by_role("region", name="Parts list")).to_contain_text("PVC insert adapter 1-1/4 barb × 1-1/4 spigot")
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["chosen"][0]["point"], "J7")

    def test_every_stage_opens_without_a_fault(self) -> None:
        """All seven stages show their sheet, in both themes."""
        for stage in ("survey", "size", "join", "cut", "make", "prove", "keep"):
            self.open("thistledown", stage)
            expect(self.page.get_by_role("link", name=re.compile(stage, re.I), exact=False).first).to_have_attribute(
                "aria-current", re.compile("step")
            ) if stage == "survey" else None
            expect(self.page.get_by_role("region", name="Worksheet").get_by_role("heading").first).to_be_visible()
        self.page.get_by_role("button", name="Theme: light; switch").click()
        expect(self.page.locator("html")).to_have_attribute("data-theme", "dark")

    def test_what_stands_at_a_corner_is_overruled(self) -> None:
        """Another elbow is used at a bend with joints and price shown, and left to Hydrarch again."""
        job = self.fresh_demo()
        self.open(job, "join")
        mark = self.page.locator('[data-place="B2"] circle').first.bounding_box()
        assert mark is not None
        self.page.mouse.click(mark["x"] + mark["width"] / 2, mark["y"] + mark["height"] / 2)
        here = self.page.get_by_role("region", name="What stands here")
        here.get_by_role("button", name="other choices").click()
        expect(here).to_contain_text("2 joints, +")
        here.get_by_role("button", name="Use this").first.click()
        expect(here).to_contain_text("Here stands PVC 80 elbow 45° 1-1/4")
        here.get_by_role("button", name="Leave it to Hydrarch").click()
        expect(here).to_contain_text("Here stands PVC elbow 45° 1-1/4")

    def test_own_price(self) -> None:
        """A price typed over a starting figure stands in the list; emptied, the starting figure is back."""
        self.open(self.fresh_demo(), "join")
        price = self.page.get_by_role("button", name="Price of PVC elbow 45° 1-1/4: ")
        price.click()
        self.page.get_by_label("Your price of PVC elbow 45° 1-1/4").fill("7.77")
        self.page.keyboard.press("Enter")
        expect(price).to_have_text("7.77")
        price.click()
        self.page.get_by_label("Your price of PVC elbow 45° 1-1/4").fill("")
        self.page.keyboard.press("Enter")
        expect(price).to_contain_text("≈")

    def test_files_can_be_taken_along(self) -> None:
        """The job downloads as JSON that holds the plan; the sheet opens with what is dry first."""
        page = self.page
        self.open("thistledown", "keep")
        with page.expect_download() as download:
            page.get_by_role("link", name="Whole job, JSON").click()
        text = download.value.path().read_text("utf-8")
        self.assertEqual(json.loads(text)["format"], "hydrarch/job/1")
        with page.expect_popup() as popup:
            page.get_by_role("link", name="Sheet to print").click()
        expect(popup.value.locator(".first")).to_contain_text("DRY, not made")


class Making(Browsing):
    """Joints made, clocks running, gates shut."""

    def test_made_shows_the_cure_clock(self) -> None:
        """The next joint marked made starts its clock; gone wrong, it is planned again."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "make")
        card = page.get_by_role("region", name="The joint in hand")
        expect(card).to_contain_text("dry, not made")
        card.get_by_role("button", name="Next step").click()
        expect(card).to_contain_text("Step 2 of 9")
        card.get_by_role("button", name="Made, and it looks right").click()
        page.get_by_label("Show", exact=True).select_option("all")
        page.get_by_role("button", name=re.compile("setting: do not touch")).first.click()
        expect(card.get_by_test_id("cure-clock")).to_have_text(re.compile(r"(29|30) min \d\d s"))
        expect(card).to_contain_text("Do not touch for")
        card.get_by_role("button", name="It went wrong").click()
        wrong = card.get_by_role("region", name="It went wrong")
        expect(wrong).to_contain_text("Within a few seconds pull it apart")
        wrong.get_by_role("button", name="Saved: make this joint again").click()
        expect(card).to_contain_text("planned")

    def test_cut_out_puts_parts_on_the_list(self) -> None:
        """A weld cut out is planned again with all that goes with it, and what to buy again stands in the parts list."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "make")
        page.get_by_label("Show", exact=True).select_option("all")
        page.get_by_role("button", name=re.compile("solvent weld.*(curing|setting)", re.S)).first.click()
        card = page.get_by_role("region", name="The joint in hand")
        card.get_by_role("button", name="It went wrong").click()
        card.get_by_role("button", name="Cut out").click()
        expect(card).to_contain_text("planned")
        page.get_by_role("navigation", name="Stages").get_by_role("link", name="Join").click()
        page.get_by_role("button", name="All parts").click()
        expect(page.get_by_role("table", name="Added by hand")).to_contain_text("made again at")

    def test_gate_asks_for_a_reason_and_keeps_it(self) -> None:
        """Burying what is not proved is refused in words; with a reason it is done, and the reason stands there."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "prove")
        section = page.get_by_role("region", name="Section B")
        section.get_by_text("Bury it", exact=True).click()
        section.get_by_role("button", name="Buried").click()
        expect(section.get_by_role("alert")).to_contain_text("not proved by a test")
        section.get_by_label("Reason to bury all the same (kept)").fill("storm coming, trench filling")
        section.get_by_label("Reason to bury all the same (kept)").press("Enter")
        section.get_by_role("button", name="Buried").click()
        expect(section).to_contain_text("Buried without proof")
        expect(section).to_contain_text("Went on all the same: storm coming")
        states = self.api("GET", f"/jobs/{job}/readiness")["joints"]
        self.assertIn("storm coming, trench filling", states["J1.R3.1"]["overrides"])

    def test_a_test_is_entered_and_proves(self) -> None:
        """A proved section shows its test; a failed one on another says so."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "prove")
        section = page.get_by_role("region", name="Section A")
        expect(section).to_contain_text("Proved: may be buried")
        section.get_by_text("Enter a test").click()
        section.get_by_role("button", name="It failed").click()
        expect(section).to_contain_text("Failed")

    def test_no_signal(self) -> None:
        """What is done without signal is kept, shown, and sent when it comes back."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "make")
        card = page.get_by_role("region", name="The joint in hand")
        expect(card.get_by_role("button", name="Next step")).to_be_visible()
        self.context.set_offline(True)
        card.get_by_role("button", name="Made, and it looks right").click()
        expect(page.get_by_text("no signal, 1 kept here")).to_be_visible()
        self.context.set_offline(False)
        expect(page.get_by_text("no signal, 1 kept here")).to_have_count(0)
        states = [s["state"] for s in self.api("GET", f"/jobs/{job}/readiness")["joints"].values()]
        self.assertEqual(states.count("dry"), 4)


class Together(Browsing):
    """Two people on one job."""

    def test_clash_shows_both_sides(self) -> None:
        """Someone else saves in between: both sides are shown; mine is kept on top of theirs."""
        page = self.page
        job = self.fresh_demo()
        page.route("**/live", lambda route: route.abort())
        self.open(job, "keep")
        whole = self.api("GET", f"/jobs/{job}")
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": 1, "plan": {**whole["plan"], "name": "Theirs"}})
        page.get_by_label("Name of the job").fill("Mine")
        page.get_by_label("Name of the job").press("Enter")
        dialog = page.get_by_role("dialog", name="Someone saved before you")
        expect(dialog).to_contain_text("Yours")
        dialog.get_by_role("button", name="Keep mine").click()
        self.saved(3)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["name"], "Mine")

    def test_news_arrives(self) -> None:
        """A joint made on another phone shows here without reloading."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "keep")
        expect(page.get_by_role("link", name="5 dry joints")).to_be_visible()
        ready = self.api("GET", f"/jobs/{job}/readiness")
        joint = next(j for j, s in ready["joints"].items() if s["state"] == "dry")
        told = {
            "id": "0b6a8a7e-2b64-4e0e-9d1b-6c1f6a3a9b10",
            "kind": "made",
            "at": ready["now"],
            "by": "Rowan",
            "joints": [joint],
        }
        self.api("POST", f"/jobs/{job}/events", json=[told])
        expect(page.get_by_role("link", name="4 dry joints")).to_be_visible()


class BadFiles(Browsing):
    """Files that are no jobs."""

    def test_broken_file_says_where(self) -> None:
        """A broken job file is refused on the page with the place and the mend, and no job appears."""
        page = self.page
        page.goto("/")
        expect(page.get_by_role("link", name=re.compile("Thistledown Camp")).first).to_be_visible()
        jobs = page.get_by_role("link", name=re.compile("points"))
        count = jobs.count()
        whole = self.api("GET", "/jobs/thistledown/export")
        whole["plan"]["runs"][2]["b"] = "Nowhere"
        files = {
            "broken.json": (json.dumps(whole), "which is not on the drawing"),
            "notes.json": ("milk, eggs", "not a JSON file"),
            "other.json": ('{"format": "shopping"}', "not a Hydrarch job"),
        }
        for name, (text, says) in files.items():
            page.get_by_label("Job file").set_input_files({"name": name, "mimeType": "application/json", "buffer": text.encode()})
            expect(page.get_by_role("alert")).to_contain_text(says)
        self.assertEqual(jobs.count(), count)

    def test_ten_megabytes(self) -> None:
        """A file no job can be is turned away in words, with nothing saved."""
        self.page.goto("/")
        big = b'{"format": "' + b"x" * 10_000_000 + b'"}'
        self.page.get_by_label("Job file").set_input_files({"name": "big.json", "mimeType": "application/json", "buffer": big})
        expect(self.page.get_by_role("alert")).to_contain_text("more than 5 MB")
        expect(self.page.get_by_role("alert")).to_contain_text("nothing was saved")

    def test_unknown_addresses(self) -> None:
        """A job that is not there, and a page that is not there, lead back to the list."""
        self.page.goto("/job/nothing/survey")
        expect(self.page.get_by_role("alert")).to_contain_text("there is no job nothing")
        self.page.goto("/somewhere/else")
        self.page.get_by_role("link", name="Go to the list of jobs").click()
        expect(self.page.get_by_role("heading", name="Hydrarch")).to_be_visible()


class Phone(Browsing):
    """A phone in the trench."""

    viewport = (390, 844)
    phone = True

    def test_one_joint_at_a_time(self) -> None:
        """The sheet leads, the drawing is a tap away, targets are 44 px or more, nothing scrolls sideways."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "make")
        card = page.get_by_role("region", name="The joint in hand")
        for button in card.get_by_role("button").all():
            box = button.bounding_box()
            assert box is not None
            self.assertGreaterEqual(box["height"], 44)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        page.get_by_role("button", name="Drawing", exact=True).tap()
        expect(page.get_by_role("application")).to_be_visible()
        page.get_by_role("button", name="Sheet", exact=True).tap()
        bar = page.get_by_role("progressbar", name="Joints made")
        before = int(bar.get_attribute("aria-valuenow") or 0)
        card.get_by_role("button", name="Made, and it looks right").tap()
        expect(bar).to_have_attribute("aria-valuenow", str(before + 1))


class Yard(Browsing):
    """A job of drains."""

    def test_a_drain_is_sized_by_its_fall(self) -> None:
        """Size tells fall, depth and speed of every drain; laid deeper at its head it stops, and says how much."""
        job = self.api("POST", "/import", json=self.api("GET", "/jobs/thistledown-yard/export"))["id"]
        self.open(job, "size")
        row = self.page.get_by_role("table", name="Drains").get_by_role("row").filter(has_text="Gate bend – Ditch")
        expect(row).to_contain_text("1 in 45")
        expect(row).to_contain_text("it keeps itself clean")
        plan = self.api("GET", f"/jobs/{job}")["plan"]
        next(p for p in plan["points"] if p["id"] == "O1")["depth"] = -0.4
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": 1, "plan": plan})
        self.page.reload()
        expect(self.page.get_by_role("region", name="Worksheet")).to_contain_text("does not fall")
        expect(row).to_contain_text("none")

    def test_a_drains_pipe_is_offered_for_it(self) -> None:
        """A drain's run offers drain pipes only, the crew's yard drain first; the kinds to set down have their own row."""
        job = self.api("POST", "/import", json=self.api("GET", "/jobs/thistledown-yard/export"))["id"]
        self.open(job, "survey")
        expect(self.page.get_by_role("button", name="Drain inlet")).to_be_visible()
        self.open(job, "size")
        self.page.get_by_role("button", name="Gate bend – Ditch").click()
        pipes = self.page.get_by_label("Pipe", exact=True)
        expect(pipes).to_contain_text("the crew's yard drain: PVC sewer pipe SDR 35")
        expect(pipes).not_to_contain_text("schedule 80")
        pipes.select_option("dwv40")
        self.saved(2)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["derived"]["drains"][-1]["series"], "dwv40")


class GoneFromTheDrawing(Browsing):
    """What was made and is drawn no longer."""

    def test_told_until_seen_to(self) -> None:
        """Deleting a made run tells of its joints where work goes on and at the hand-over; each is seen to and said so."""
        job = self.fresh_demo()
        kept = self.api("GET", f"/jobs/{job}")
        joints = [j["id"] for j in kept["derived"]["assembly"]["joints"] if j["id"].startswith("T2.R6")]
        event = {"id": str(uuid.uuid4()), "kind": "made", "at": time.time() - 60, "by": "Ash", "joints": joints}
        self.api("POST", f"/jobs/{job}/events", json=[event])
        self.open(job, "survey")
        self.page.get_by_role("table", name="Points").get_by_role("button", name="Tap 2").click()
        self.page.get_by_role("button", name="Delete this point").click()
        self.saved(2)
        self.page.get_by_role("link", name="Make").click()
        note = self.page.get_by_role("note", name="Made, and no longer on the drawing")
        expect(note).to_contain_text("joints were made that the drawing no longer has")
        self.page.get_by_role("link", name="Keep").click()
        count = note.get_by_role("button", name="Seen to").count()
        self.assertGreaterEqual(count, len(joints))
        for left in range(count - 1, -1, -1):
            note.get_by_role("button", name="Seen to").first.click()
            expect(note.get_by_role("button", name="Seen to")).to_have_count(left)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["readiness"]["lost"], [])


class SizingWays(Browsing):
    """Size: three ways, what if, the pump's chart, scenarios."""

    def test_three_ways_and_taking_one(self) -> None:
        """The least cost is proved for the herb bank, and its sizes can be taken."""
        whole = self.api("GET", "/jobs/thistledown-herbs/export")
        job = self.api("POST", "/import", json=whole)["id"]
        self.open(job, "size")
        ways = self.page.get_by_role("region", name="Three ways to size")
        ways.get_by_role("button", name="Compare rule").click()
        expect(ways).to_contain_text("proved over all scenarios together")
        expect(ways.get_by_role("figure", name="What head is worth")).to_be_visible()
        ways.get_by_role("button", name="Take the sizes of Least cost").click()
        self.saved(2)
        sizes = {r["size"] for r in self.api("GET", f"/jobs/{job}")["plan"]["runs"]}
        self.assertNotIn(None, sizes)

    def test_what_if(self) -> None:
        """A number dragged shows what would change; put back it is gone; kept it is saved."""
        job = self.fresh_demo()
        self.open(job, "size")
        mark = self.page.locator('[data-point="W"]').bounding_box()
        assert mark is not None
        self.page.mouse.click(mark["x"] + mark["width"] / 2, mark["y"] + mark["height"] / 2)
        tried = self.page.get_by_role("region", name="What if")
        slider = tried.get_by_label("Speed, share of rated")
        slider.focus()
        for _ in range(10):
            slider.press("ArrowLeft")
        expect(tried.get_by_role("table", name="What would change")).to_contain_text("Meadow watering")
        tried.get_by_role("button", name="Put it back").click()
        expect(tried.get_by_role("table")).to_have_count(0)
        slider.press("ArrowRight")
        tried.get_by_role("button", name="Keep it").click()
        self.saved(2)

    def test_what_if_of_a_size(self) -> None:
        """A run's size dragged down shows what starves; put back nothing is kept, and kept it is the run's own size."""
        job = self.fresh_demo()
        self.open(job, "size")
        self.page.get_by_role("region", name="Runs").get_by_role("button", name="Pump house valve – Pitch tee").click()
        tried = self.page.get_by_role("region", name="What if")
        slider = tried.get_by_label("Try")
        slider.focus()
        slider.press("ArrowLeft")
        expect(tried.get_by_role("table", name="What would change")).to_contain_text("Meadow watering")
        expect(tried).to_contain_text("over the limit")
        tried.get_by_role("button", name="Put it back").click()
        expect(tried.get_by_role("table")).to_have_count(0)
        slider.press("ArrowRight")
        expect(tried).to_contain_text("Nothing new goes wrong.")
        tried.get_by_role("button", name="Keep it").click()
        self.saved(2)
        sizes = {r["id"]: r["size"] for r in self.api("GET", f"/jobs/{job}")["plan"]["runs"]}
        self.assertEqual(sizes["R3"], "1-1/2")

    def test_pump_chart_and_scenarios(self) -> None:
        """Where the pump settles is told for each scenario, and the scenarios stand in a row."""
        self.open("thistledown", "size")
        expect(self.page.get_by_role("region", name="Pump and system")).to_contain_text("Meadow watering: ")
        expect(self.page.get_by_role("table", name="Scenarios")).to_contain_text("Watering and one tap")


class SawAndTrench(Browsing):
    """Cut and Prove: stock, price book, tins, readings, clocks."""

    def test_stock_saves_sticks(self) -> None:
        """Offcuts put in stock are cut first; taken out, they are not."""
        job = self.fresh_demo()
        self.open(job, "cut")
        stock = self.page.get_by_role("region", name="In stock")
        stock.get_by_label("Part or pipe").select_option("pvc40 1")
        stock.get_by_label("How many").fill("3")
        stock.get_by_label("Each long").fill("6 m")
        stock.get_by_label("Each long").press("Tab")
        stock.get_by_role("button", name="Put in").click()
        expect(self.page.get_by_title("offcut of").first).to_be_visible()
        stock.get_by_role("button", name="Take out").click()
        expect(self.page.get_by_title("offcut of")).to_have_count(0)

    def test_price_book_comes_back(self) -> None:
        """A filled-in book gives own prices; a broken one says its line and changes nothing."""
        self.open(self.fresh_demo(), "cut")
        book = self.page.get_by_role("region", name="Price book")
        file = {"name": "prices.csv", "mimeType": "text/csv", "buffer": b"item,price,own\npvc-elbow-90-1,0.4,own\n"}
        book.get_by_label("Price book file").set_input_files(file)  # type: ignore[arg-type]
        expect(book).to_contain_text("1 prices of your own")
        file["buffer"] = b"item,price\npvc-elbow-90-1,dear\n"
        book.get_by_label("Price book file").set_input_files(file)  # type: ignore[arg-type]
        expect(book.get_by_role("alert")).to_contain_text("line 2")
        expect(book).to_contain_text("1 prices of your own")

    def test_an_old_tin(self) -> None:
        """A tin dated years ago is told to be stirred or thrown away."""
        self.open(self.fresh_demo(), "cut")
        tins = self.page.get_by_role("region", name="Tins")
        tins.get_by_label("Made or opened").fill("2020-03")
        tins.get_by_role("button", name="Date it").click()
        expect(tins).to_contain_text("stringy or lumpy")

    def test_readings_are_judged(self) -> None:
        """The simulated gauge leaks and is found out; typed readings that hold are tight; the flush names its ends."""
        self.open("thistledown", "prove")
        section = self.page.get_by_role("region", name="Section B")
        section.get_by_role("button", name="Flush it, and judge readings").click()
        expect(section).to_contain_text("In turn: Tap 1, Tap 2")
        for line in (
            "Hold for15 min",
            "A fall that passes0.22 bar",
            "Least leak that shows0.053 L/h",
            "Weakest: PVC female adapter",
        ):
            expect(section).to_contain_text(line)
        section.get_by_role("button", name="Simulated gauge, leaking").click()
        expect(section.get_by_role("status", name="Gauge")).to_contain_text("bar")
        expect(section).to_contain_text("water is getting out")
        section.get_by_role("button", name="Simulated gauge, tight").click()
        expect(section.get_by_role("status", name="Gauge")).to_contain_text(re.compile(r"after [4-9] min"))
        section.get_by_role("button", name="Stop here and judge").click()
        expect(section.get_by_role("status", name="Gauge")).to_have_count(0)
        expect(section).to_contain_text(re.compile(r"In \d+ min"))
        section.get_by_label("Readings as CSV").fill("minutes,bar\n0,7.4\n5,7.4\n10,7.4\n20,7.39\n30,7.39\n")
        section.get_by_role("button", name="Judge these").click()
        expect(section).to_contain_text("Tight: what it fell is within what was allowed", ignore_case=True)

    def test_leak_walk(self) -> None:
        """A zone that is not ready asks for a reason, runs, is walked joint by joint; one that leaks shuts it and leads to that joint."""
        job = self.fresh_demo()
        self.open(job, "prove")
        walk = self.page.get_by_role("region", name="Leak walk")
        walk.get_by_label("Zone").select_option("taps")
        walk.get_by_role("button", name="Run Both taps").click()
        expect(walk.get_by_role("alert")).to_contain_text("Do not run Both taps yet")
        walk.get_by_label("Reason to run it all the same").fill("the pump is not set")
        walk.get_by_role("button", name="Run Both taps").click()
        expect(walk.get_by_role("status")).to_contain_text("Both taps runs")
        count = walk.get_by_text("still to look at")
        expect(count).to_be_visible()
        first, second = (walk.get_by_role("listitem").nth(n) for n in (0, 1))
        first.get_by_role("button", name="Dry").click()
        expect(first).to_contain_text(re.compile(r"dry, \d\d:\d\d"))
        second.get_by_role("button", name="Leaks").click()
        expect(self.page.get_by_role("region", name="The joint in hand")).to_be_visible()
        self.assertFalse(any(z["until"] for z in self.api("GET", f"/jobs/{job}/zones")))

    def test_glueups(self) -> None:
        """The working order is in glue-ups with whose they are, what to mark dry and how many joints to coat; a card tells of its angle."""
        self.open("thistledown-herbs", "make")
        order = self.page.get_by_role("region", name="Working order")
        expect(order).to_contain_text(re.compile(r"mark the angle of \d+ joints"))
        booster = order.get_by_role("region", name="Booster", exact=True)
        expect(booster).to_contain_text("person 1")
        expect(booster).to_contain_text("Coat no more than 3 joints")
        booster.get_by_role("button").filter(has_text="angle").first.click()
        expect(self.page.get_by_role("region", name="The joint in hand")).to_contain_text("It sets an angle")

    def test_bends_in_the_cut_list(self) -> None:
        """A corner the coil takes by itself stands in the cut list with how far the trench opens."""
        self.open("thistledown", "cut")
        row = self.page.get_by_role("table", name="Bends").get_by_role("row").filter(has_text="Track bend")
        expect(row).to_contain_text("901 mm")
        expect(row).to_contain_text("74 mm")

    def test_weather_sets_the_cure(self) -> None:
        """The coldest hour to come is taken into the conditions."""
        self.open(self.fresh_demo(), "survey")
        self.page.get_by_text("Conditions").first.click()
        self.page.get_by_role("button", name="Take the coldest hour").click()
        expect(self.page.get_by_text("Simulated feed: down to")).to_be_visible()
