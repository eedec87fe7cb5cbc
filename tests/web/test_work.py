"""At the saw, at the joint, at the gauge."""

import re
import time
import uuid

from playwright.sync_api import expect

from tests.web.base import Browsing


class Making(Browsing):
    """Joints made, clocks running, gates shut."""

    def test_made_shows_the_cure_clock(self) -> None:
        """The next joint marked made starts its clock; gone wrong, it is planned again."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "make")
        card = page.get_by_role("region", name="The joint in hand")
        expect(card).to_contain_text("dry-fitted only")
        card.get_by_role("button", name="Next step").click()
        expect(card).to_contain_text("Step 2 of 9")
        page.get_by_role("button", name="Made, and it looks right").click()
        expect(card.get_by_role("alert")).to_contain_text("You are at step 2 of 9. Was all of it done?")
        page.get_by_role("button", name="Yes, all of it was done").click()
        expect(card.get_by_test_id("cure-clock")).to_have_text(re.compile(r"(29|30) min \d\d s"))
        expect(card).to_contain_text("Do not touch for")
        card.get_by_role("button", name="It went wrong").click()
        wrong = card.get_by_role("region", name="It went wrong")
        expect(wrong).to_contain_text("Within a few seconds pull it apart")
        wrong.get_by_role("button", name="Saved: make this joint again").click()
        expect(card).to_contain_text("planned")

    def test_cut_out_puts_parts_on_the_list(self) -> None:
        """A weld cut out is planned again with all that goes with it, and what to buy again stands in the parts
        list.
        """
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
        expect(section.get_by_role("alert")).to_contain_text("not covered by a passed test")
        section.get_by_label("Reason to bury all the same (kept)").fill("storm coming, trench filling")
        section.get_by_label("Reason to bury all the same (kept)").press("Enter")
        section.get_by_role("button", name="Buried").click()
        expect(section).to_contain_text("Buried without proof")
        expect(section).to_contain_text("Went on all the same: storm coming")
        states = self.standing(job)["readiness"]["joints"]
        self.assertIn("storm coming, trench filling", states["R3a~1"]["overrides"])

    def test_a_test_is_entered_and_proves(self) -> None:
        """A proved section shows its test; a failed one on another says so."""
        page = self.page
        job = self.fresh_demo()
        self.open(job, "prove")
        section = page.get_by_role("region", name="Section A")
        expect(section).to_contain_text("Tested: may be buried")
        section.get_by_text("Enter a test").click()
        expect(section.get_by_role("button", name="It failed")).to_be_disabled()
        self.enter_test(section)
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
        self.said_made()
        expect(page.get_by_text("no signal, 1 kept here")).to_be_visible()
        self.context.set_offline(False)
        expect(page.get_by_text("no signal, 1 kept here")).to_have_count(0)
        states = [s["state"] for s in self.standing(job)["readiness"]["joints"].values()]
        self.assertEqual(states.count("dry"), 4)


class SawAndTrench(Browsing):
    """Cut and Prove: stock, price book, tins, readings, clocks."""

    def test_stock_saves_sticks(self) -> None:
        """Offcuts put in stock are cut first; taken out, they are not."""
        job = self.fresh_demo()
        self.open(job, "cut")
        stock = self.page.get_by_role("region", name="In stock")
        stock.get_by_label("Part or pipe").select_option("pvc40 1")
        stock.get_by_label("How many").fill("a few")
        stock.get_by_label("How many").press("Tab")
        expect(stock.get_by_role("alert")).to_contain_text("a few is no whole number from 1 to 10000")
        expect(stock.get_by_role("button", name="Put in")).to_be_disabled()
        stock.get_by_label("How many").fill("3")
        stock.get_by_label("Each long").fill("6 m")
        stock.get_by_label("Each long").press("Tab")
        stock.get_by_role("button", name="Put in").click()
        expect(self.page.get_by_text(re.compile("^Offcut of ")).first).to_be_visible()
        stock.get_by_role("button", name="Take out").click()
        expect(self.page.get_by_text(re.compile("^Offcut of "))).to_have_count(0)

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
        file["buffer"] = b"item,price\npvc-elbow-90-1,0.01\npvc40 1,2\n"
        book.get_by_label("Another shop's price book").set_input_files(file)  # type: ignore[arg-type]
        expect(book.get_by_role("status").last).to_contain_text("1 row has a price in both")
        expect(book.get_by_role("status").last).to_contain_text("names no currency")
        expect(book).to_contain_text("1 prices of your own")  # nothing of the other book is kept

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
            "Least leak that shows0.052 L/h",
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
        section.get_by_label("Readings as CSV").fill(
            "minutes,bar,celsius\n0,7.4,12\n5,7.4,12\n10,7.4,12\n20,7.39,12\n30,7.39,12\n"
        )
        section.get_by_role("button", name="Judge these").click()
        expect(section).to_contain_text("take a finer one")
        section.get_by_label("The thermometer to within").fill("0.1")
        section.get_by_label("The thermometer to within").press("Tab")
        section.get_by_role("button", name="Judge these").click()
        expect(section).to_contain_text("Tight: what it fell is within what was allowed", ignore_case=True)

    def test_leak_walk(self) -> None:
        """A zone that is not ready asks for a reason, runs, is walked joint by joint; one that leaks shuts it and leads
        to that joint.
        """
        job = self.fresh_demo()
        self.open(job, "prove")
        walk = self.page.get_by_role("region", name="Leak walk")
        walk.get_by_label("Zone", exact=True).select_option("taps")
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
        second.get_by_role("button", name=re.compile("^Leaks")).click()
        expect(self.page.get_by_role("region", name="The joint in hand")).to_be_visible()
        self.assertFalse(any(z["until"] for z in self.standing(job, "prove")["zones"]))

    def test_glueups(self) -> None:
        """The working order is in glue-ups with whose they are, what to mark dry and how many joints to coat; a card
        tells of its angle.
        """
        self.open("thistledown-herbs", "make")
        order = self.page.get_by_role("region", name="Working order")
        expect(order).to_contain_text(re.compile(r"mark the angle of \d+ joints"))
        booster = order.get_by_role("region", name="Booster", exact=True)
        expect(booster).to_contain_text("person 1")
        expect(booster).to_contain_text("coat no more than 2 before it")
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
        self.page.get_by_role("button", name="Take the coldest hour").click()
        expect(self.page.get_by_text("Simulated feed: down to")).to_be_visible()


class GoneFromTheDrawing(Browsing):
    """What was made and is drawn no longer."""

    def test_told_until_seen_to(self) -> None:
        """Deleting a made run tells of its joints where work goes on and at the hand-over; each is seen to and
        said so.
        """
        job = self.fresh_demo()
        joints = [j["id"] for j in self.shown(job, "make")["joints"] if j["point"] == "T2" and j["end"] == "R6b"]
        self.assertTrue(joints)
        event = {"id": str(uuid.uuid4()), "kind": "made", "at": time.time() - 60, "by": "Ash", "joints": joints}
        self.api("POST", f"/jobs/{job}/events", json=[event])
        self.open(job, "survey")
        self.page.get_by_role("table", name="Points").get_by_role("button", name="Tap 2").click()
        self.page.get_by_role("button", name="Delete this point").click()
        self.saved(2)
        self.page.get_by_role("link", name="Make").click()
        note = self.page.get_by_role("note", name="Made, and no longer on the drawing")
        expect(note).to_contain_text("joints were made that the drawing no longer has")
        self.page.get_by_role("link", name="Record").click()
        expect(note.get_by_role("button", name="Seen to").first).to_be_visible()
        count = note.get_by_role("button", name="Seen to").count()
        self.assertGreaterEqual(count, len(joints))
        for left in range(count - 1, -1, -1):
            note.get_by_role("button", name="Seen to").first.click()
            expect(note.get_by_role("button", name="Seen to")).to_have_count(left)
        self.assertEqual(self.standing(job)["readiness"]["lost"], [])


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
        self.said_made()
        expect(bar).to_have_attribute("aria-valuenow", str(before + 1))
