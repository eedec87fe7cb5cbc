"""The bench in the browser."""

import operator
import re
from functools import partial

from playwright.sync_api import Route, expect

from tests.web.base import Browsing


def asked(held: list[Route], *words: str) -> bool:
    """Whether each of these was asked about."""
    bodies = [route.request.post_data or "" for route in held]
    return all(any(word in body for body in bodies) for word in words)


class AtTheBench(Browsing):
    """Questions asked in a trench, with no job at all."""

    def test_join_by_words(self) -> None:
        """Say it; read the ways, step through the joints, choose another way."""
        page = self.page
        page.goto("/bench")
        page.get_by_label("Your question").fill("32 mm poly to 1 npt female")
        page.get_by_role("button", name="Ask").click()
        way = page.get_by_role("region", name="The way chosen")
        expect(way.get_by_role("heading")).to_have_text("PE100 SDR11 32 pipe to 1 in NPT female")
        expect(way.get_by_role("img")).to_have_attribute(
            "aria-label", re.compile("Exploded section: .*Compression adapter 32")
        )
        way.get_by_role("button", name="Next joint").click()
        expect(way.locator('[aria-current="true"]')).to_contain_text("thread:")
        ways = page.get_by_role("region", name="Ways")
        ways.get_by_role("button").nth(1).click()
        expect(ways.get_by_role("button").nth(1)).to_have_attribute("aria-pressed", "true")

    def test_join_by_choice_and_limits(self) -> None:
        """Choose both sides; a limit that leaves nothing says so; wrong ways stand below with their gap."""
        page = self.page
        page.goto("/bench/join")
        expect(page.get_by_text("Looks right but leaks").first).to_be_visible()
        page.get_by_label("Your question").fill("20 mm ppr to 20 mm ppr")
        page.get_by_label("Your question").press("Enter")
        expect(page.get_by_role("region", name="Ways")).to_contain_text("PPR coupling 20")
        page.get_by_label("no flame or iron").check()
        expect(page.get_by_text("No way to join is left under these limits")).to_be_visible()
        page.get_by_label("no flame or iron").uncheck()
        page.get_by_label("Join: what").select_option("end")
        page.get_by_label("Join: end").select_option("npt:male:1/2")
        page.get_by_label("to: what").select_option("end")
        page.get_by_label("to: end").select_option("bsp:female:1/2")
        expect(page.get_by_text("the same threads to the inch").first).to_be_visible()

    def test_opened_from_a_job(self) -> None:
        """From a job in US units and of one market the bench opens in both, with that job first to send parts to; it
        ranks by the shops of the market that is chosen.
        """
        page = self.page
        job = self.fresh_demo()
        plan = self.api("GET", f"/jobs/{job}?stage=survey")["plan"]
        plan = {**plan, "units": "us", "conditions": {**plan["conditions"], "market": "north-american"}}
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": 1, "plan": plan})
        self.open(job, "survey")
        page.get_by_role("link", name="Bench").click()
        expect(page.get_by_role("button", name="Units: US; switch")).to_be_visible()
        expect(page.get_by_label("Bought in")).to_have_value("north-american")
        page.get_by_label("Your question").fill("1 in poly to 1 in pvc")
        page.get_by_role("button", name="Ask").click()
        expect(page.get_by_label("Add the parts to")).to_have_value(job)
        ways = page.get_by_role("region", name="Ways")
        page.get_by_label("Your question").fill("25 mm PE to 3/4 female thread")
        page.get_by_role("button", name="Ask").click()
        page.get_by_label("Bought in").select_option("elsewhere")
        expect(ways.get_by_role("button").first).to_contain_text("BSP")

    def test_opened_from_what_a_job_begins_with(self) -> None:
        """The question that helps with a new job opens in its market too, with it first to draw into."""
        page = self.page
        self.new_job()
        page.get_by_role("button", name="A well and a house").click()
        page.get_by_label("Name").fill("Hill well")
        page.get_by_label("Fittings sold here").select_option("elsewhere")
        page.get_by_role("button", name=re.compile(r"^Start( empty)?$")).click()
        page.get_by_role("link", name="A bench question helps with it").click()
        expect(page.get_by_label("Bought in")).to_have_value("elsewhere")
        chosen = page.get_by_label("Draw this well into")
        expect(chosen).to_have_value(re.compile("^hill-well"))

    def test_asked_in_a_job(self) -> None:
        """A question typed in a job is answered at the bench in its units and market; its address asks it again, and
        a pick from the lists is another question.
        """
        page = self.page
        job = self.api("POST", "/jobs", json={"name": "Upper well", "units": "us", "market": "north-american"})["id"]
        self.open(job, "size")
        page.get_by_role("button", name="Ask", exact=True).click()
        dialog = page.get_by_role("dialog", name="Ask the bench")
        dialog.get_by_label("A joint, a size, a cut, a wait").fill(
            "8 gpm over 1000 ft of SIDR 15, 60 psi at the foot, 20 psi wanted"
        )
        dialog.get_by_role("button", name="Ask").click()
        expect(page.get_by_label("Bought in")).to_have_value("north-american")
        expect(page.get_by_role("button", name="Units: US; switch")).to_be_visible()
        answer = page.get_by_text(re.compile(r"^Polyethylene SIDR 15 1: the smallest")).first
        expect(answer).to_be_visible()
        self.assertIn("ask=8+gpm", page.url)
        page.reload()
        expect(answer).to_be_visible()
        page.get_by_label("Your question").fill("3/4 in copper to 3/4 in pvc")
        page.get_by_role("button", name="Ask", exact=True).click()
        expect(page.get_by_role("region", name="Ways", exact=True)).to_be_visible()
        page.get_by_label("no solvent").check()
        self.assertIn("ask=3%2F4", page.url)
        page.get_by_label("Join: size").select_option("1")
        page.wait_for_url(re.compile(r"start=.*stop="))
        self.assertNotIn("ask=", page.url)
        title = page.get_by_role("region", name="The way chosen").get_by_role("heading").first
        for _ in range(2):
            expect(title).to_have_text("Copper L 1 pipe to PVC 40 3/4 pipe")
            page.reload()
        expect(title).to_have_text("Copper L 1 pipe to PVC 40 3/4 pipe")

    def test_how_to_make_it(self) -> None:
        """The joint in hand unfolds to its steps, holds and waits; the next joint shows its own."""
        page = self.page
        page.goto("/bench/join")
        page.get_by_label("Your question").fill("1 in pvc to 1 in pvc")
        page.get_by_role("button", name="Ask").click()
        page.get_by_text("How to make joint 1 of 2").click()
        way = page.get_by_role("region", name="The way chosen")
        expect(way).to_contain_text("Tools: saw, reamer, primer, cement")
        expect(way.get_by_text("Push home and turn")).to_be_visible()
        expect(way).to_contain_text("before its test")
        way.get_by_role("button", name="Next joint").click()
        expect(page.get_by_text("How to make joint 2 of 2")).to_be_visible()

    def test_a_size_asked_in_words(self) -> None:
        """A question of figures is answered in the same box, with what was read of it; what is wanting is asked."""
        page = self.page
        page.goto("/bench/join")
        box = page.get_by_label("Your question")
        box.fill("8 gpm over 1000 ft of SIDR 15, 30 ft up, 60 psi at the foot, 20 psi wanted")
        box.press("Enter")
        answer = page.get_by_role("region", name="Answer")
        expect(answer).to_contain_text("Polyethylene SIDR 15 1: the smallest that holds")
        expect(answer).to_contain_text("Read as: 8.0 gpm in Polyethylene SIDR 15")
        expect(page.get_by_role("region", name="Ways")).to_have_count(0)
        expect(answer.get_by_role("link", name="How big a line?")).to_be_visible()
        box.fill("8 gpm over 1000 ft of SIDR 15")
        box.press("Enter")
        expect(page.get_by_role("alert").filter(has_text="say both pressures")).to_be_visible()
        expect(answer).to_have_count(0)
        box.fill("1 in pvc to 1 in poly")
        box.press("Enter")
        expect(page.get_by_role("region", name="Ways")).to_contain_text("fewest joints")

    def test_pick_by_shape_and_branch(self) -> None:
        """Choose an end by its drawing; ask the same two as a branch, and see a saddle among the ways."""
        page = self.page
        page.goto("/bench/join")
        page.get_by_role("button", name="Pick the other end by its shape").click()
        page.get_by_label("Size of end").select_option("3/4")
        page.get_by_role("button", name="3/4 in NPT female").click()
        expect(page.get_by_role("region", name="The way chosen").get_by_role("heading")).to_have_text(
            "PE SIDR7 1 pipe to 3/4 in NPT female"
        )
        page.get_by_label("Join: what").select_option("pvc40")
        page.get_by_role("button", name="Or branch it off").click()
        expect(page.get_by_role("table", name="Ways to branch")).to_contain_text("Saddle 1 × 3/4 female thread")

    def test_parts_go_on_a_jobs_list(self) -> None:
        """A way's parts are added to a job, stand in its parts list with what for, and come off again."""
        job = self.fresh_demo()
        page = self.page
        page.goto("/bench/join")
        page.get_by_label("Add the parts to").select_option(job)
        page.get_by_role("button", name="Add", exact=True).click()
        page.get_by_role("link", name="See it in Join").click()
        added = page.get_by_role("table", name="Added by hand")
        expect(added).to_contain_text("PE SIDR7 1 pipe to PVC 40 1 pipe")
        rows = added.get_by_role("row")
        expect(rows).to_have_count(3)
        added.get_by_role("button", name="Take off the list").first.click()
        expect(rows).to_have_count(2)

    def test_parts_at_hand(self) -> None:
        """With parts named, only they are used; taking them out brings the other ways back."""
        page = self.page
        page.goto("/bench/join")
        for part in ("Insert adapter 1 barb × 1 male thread", "PVC female adapter 1 socket × 1 female thread"):
            page.get_by_label("Only from parts at hand").fill(part)
            page.get_by_role("button", name="Add part").click()
        ways = page.get_by_role("region", name="Ways").get_by_role("button")
        expect(ways).to_have_count(1)
        page.get_by_role("button", name="Take out Insert adapter").click()
        expect(page.get_by_text("lift one of them: without 'parts at hand'")).to_be_visible()

    def test_a_measured_thread_is_joined(self) -> None:
        """Count the threads, measure the crests, and carry the thread over to Join."""
        page = self.page
        page.goto("/bench/identify")
        page.get_by_label("Threads to the inch").fill("11.5")
        page.get_by_label("Outside", exact=True).fill("33.4")
        with page.expect_response(
            lambda r: r.url.endswith("/bench/identify") and "0.0334" in (r.request.post_data or "")
        ):
            page.get_by_label("Outside", exact=True).press("Tab")  # rows move when it is answered
        expect(page.get_by_role("table", name="Candidates")).to_contain_text("1 in NPT male")
        page.get_by_role("button", name="Join 1 in NPT male to something").click()
        expect(page.get_by_role("region", name="The way chosen").get_by_role("heading")).to_have_text(
            "1 in NPT male to PVC 40 1 pipe"
        )

    def test_nonsense_gets_help(self) -> None:
        """Words that are no question are answered with how to ask."""
        self.page.goto("/bench/join")
        self.page.get_by_label("Your question").fill("hello there")
        self.page.get_by_role("button", name="Ask").click()
        expect(self.page.get_by_role("alert")).to_contain_text("say it as 'this to that'")

    def test_life_size(self) -> None:
        """Set against a bank card, the drawing takes its true width: twice the scale is twice the width."""
        page = self.page
        page.goto("/bench/join")
        page.get_by_label("Life size").check()
        slider = page.get_by_label("Width of the card on this screen")
        drawing = page.get_by_role("region", name="The way chosen").get_by_role("img")
        slider.fill("4")
        four = drawing.evaluate("e => e.getBoundingClientRect().width")
        slider.fill("8")
        self.assertAlmostEqual(drawing.evaluate("e => e.getBoundingClientRect().width") / four, 2, delta=0.01)

    def test_identify(self) -> None:
        """One reading leaves several and says what to measure; the simulated caliper's next reading settles it."""
        page = self.page
        page.goto("/bench/identify")
        page.get_by_label("Outside").fill("4.215 in")
        page.get_by_label("Outside").press("Enter")
        found = page.get_by_role("region", name="Candidates")
        expect(found).to_contain_text("Next: measure the")
        page.get_by_label("On", exact=True).select_option("sewer-thin")
        page.get_by_label("Size", exact=True).select_option("4")
        page.get_by_role("button", name="Read wall").click()
        expect(found).to_contain_text("This is PVC thin-wall sewer pipe, 4.")
        page.get_by_label("Bore").fill("200")
        page.get_by_label("Bore").press("Enter")
        expect(found.get_by_role("alert")).to_contain_text("larger than the outside")


class Sums(Browsing):
    """Lines, wells and sources at the bench."""

    def test_a_line(self) -> None:
        """The size to take stands out; more flow takes a larger one; the table of friction opens; numbers stand behind
        the chart.
        """
        page = self.page
        page.goto("/bench/line")
        sizes = page.get_by_role("region", name="Sizes")
        expect(sizes).to_contain_text("Take 1.")
        page.get_by_label("Flow", exact=True).fill("90")
        page.get_by_label("Flow", exact=True).press("Tab")
        expect(sizes).to_contain_text("Take 1-1/2.")
        sizes.get_by_role("button", name="Friction table of this series").click()
        expect(page.get_by_role("table", name="Friction table")).to_contain_text("1-1/4")
        sizes.get_by_role("button", name="The numbers").click()
        expect(page.get_by_role("table", name="Loss over the whole length, numbers")).to_be_visible()
        with page.expect_download() as taken:
            sizes.get_by_role("button", name="Loss over the whole length as CSV").click()
        self.assertEqual(taken.value.suggested_filename, "loss-over-the-whole-length.csv")

    def test_a_drain(self) -> None:
        """A drain without fall, or one that cannot be read, has no answer and says why; "1 in 60" is read; with fall it
        keeps itself clean.
        """
        page = self.page
        page.goto("/bench/line")
        expect(page.get_by_role("table", name="Drain sizes")).to_contain_text("it keeps itself clean")
        fall, sizes = page.get_by_label("Fall: % (1 in 100)"), page.get_by_role("table", name="Drain sizes")
        for said in ("0", "abc"):
            fall.fill(said)
            expect(page.get_by_role("alert")).to_contain_text("Type the fall in per cent")
            expect(sizes).to_have_count(0)
        fall.fill("1 in 60")
        expect(sizes).to_be_visible()

    def test_an_answer_belongs_to_its_entries(self) -> None:
        """While an entry cannot be read there is no answer, and once it is mended there is; what is refused leaves none
        standing.
        """
        page = self.page
        page.goto("/bench/line")
        sizes = page.get_by_role("region", name="Sizes")
        expect(sizes).to_contain_text("Take ")
        page.get_by_label("Flow", exact=True).fill("much")
        page.get_by_label("Flow", exact=True).press("Enter")
        expect(sizes.get_by_text("Take ")).to_be_hidden()
        page.get_by_label("Flow", exact=True).fill("60 L/min")
        page.get_by_label("Flow", exact=True).press("Enter")
        expect(sizes.get_by_text("Take ")).to_be_visible()
        page.get_by_label("Length", exact=True).fill("0 m")
        page.get_by_label("Length", exact=True).press("Enter")
        expect(page.get_by_role("alert")).to_be_visible()
        expect(sizes.get_by_text("Take ")).to_have_count(0)

    def test_a_well(self) -> None:
        """Polyethylene at 45 m is ruled out by the school that pulls pumps, and let in by the other; a deep pump is
        refused.
        """
        page = self.page
        page.goto("/bench/well")
        judged = page.get_by_role("region", name="Drop pipe")
        expect(judged).to_contain_text("the cheapest a year")
        judged.get_by_role("button", name="All").click()
        expect(judged.get_by_role("listitem").filter(has_text="cannot be unstacked").first).to_be_visible()
        page.get_by_label("Polyethylene in a well").select_option("strength")
        expect(judged.get_by_role("table")).to_contain_text("Polyethylene SIDR 7")
        page.get_by_label("Pump set at").fill("70")
        page.get_by_label("Pump set at").press("Tab")
        expect(page.get_by_role("alert")).to_contain_text("below the bottom")

    def test_a_source(self) -> None:
        """A second reading that disagrees is reported."""
        page = self.page
        page.goto("/bench/source")
        source = page.get_by_role("region", name="The source")
        expect(source).to_contain_text("take a second at another flow")
        page.get_by_role("button", name="Another reading").click()
        expect(source).to_contain_text("the readings do not agree")

    def test_a_fused_joint(self) -> None:
        """Pushed too deep, the verdict turns and the bore left shrinks."""
        page = self.page
        page.goto("/bench/fused")
        joint = page.get_by_role("region", name="The joint")
        expect(joint).to_contain_text("A small even double lip", ignore_case=True)
        slider = page.get_by_label("Pushed in")
        slider.focus()
        for _ in range(12):
            slider.press("ArrowRight")
        expect(joint).to_contain_text("cut it out")

    def test_a_cut(self) -> None:
        """From centre to centre to a length; a fitting measured longer shortens it; an offset is worked out; no room is
        told.
        """
        page = self.page
        page.goto("/bench/cut")
        cut = page.get_by_role("region", name="The cut")
        expect(cut).to_contain_text("Cut it 1163 mm")
        expect(cut.get_by_role("img")).to_have_attribute("aria-label", re.compile("marks 22 mm and 22 mm"))
        page.get_by_label("Centre to stop").first.fill("28.3 mm")
        page.get_by_label("Centre to stop").first.press("Enter")
        expect(cut).to_contain_text("Cut it 1153 mm")
        page.get_by_label("Measured").select_option("offset")
        for end in ("On the one end", "On the other end"):
            page.get_by_role("combobox", name=end).select_option("pvc-elbow-45-1 0")
        page.get_by_label("To the side").fill("8 in")
        page.get_by_label("To the side").press("Enter")
        expect(cut).to_contain_text("roll the elbows 34 ° from upright")
        page.get_by_label("Up or down").fill("0")
        page.get_by_label("Up or down").press("Enter")
        page.get_by_label("To the side").fill("10 mm")
        page.get_by_label("To the side").press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("overlap")

    def test_two_fields_over_a_slow_link(self) -> None:
        """What is typed in one field while another is still being read is kept, as is what was read late; the same
        field's last word counts.
        """
        page = self.page
        page.goto("/bench/cut")
        page.get_by_label("Measured").select_option("offset")
        expect(page.get_by_role("region", name="The cut")).to_be_visible()
        held: list[Route] = []
        # a method of its own cannot be wrapped
        page.route("**/api/read", lambda route: held.append(route))  # noqa: PLW0108
        page.get_by_label("Up or down").fill("0.5 m")
        page.get_by_label("Up or down").press("Enter")
        page.get_by_label("To the side").fill("0.7 m")
        page.get_by_label("To the side").press("Enter")
        self.until(lambda: asked(held, "0.5", "0.7"))
        # the first asked is answered last
        self.let_go(sorted(held, key=lambda r: "0.5" in (r.request.post_data or "")))
        expect(page.get_by_label("To the side")).to_have_value("700")
        expect(page.get_by_label("Up or down")).to_have_value("500")
        held.clear()
        for said in ("0.4 m", "0.3 m"):
            page.get_by_label("Up or down").fill(said)
            page.get_by_label("Up or down").press("Enter")
        self.until(lambda: asked(held, "0.4", "0.3"))
        self.let_go(sorted(held, key=lambda r: "0.4" in (r.request.post_data or "")))
        expect(page.get_by_label("Up or down")).to_have_value("300")

    def let_go(self, held: list[Route]) -> None:
        """Let what is held back be answered one after another, and wait until the page has done with each."""
        for route in held:
            with self.page.expect_request_finished(partial(operator.is_, route.request)):
                route.continue_()
            self.page.evaluate("new Promise((done) => requestIdleCallback(() => requestIdleCallback(done)))")

    def test_two_answers_at_once(self) -> None:
        """Two fields whose readings come back in one breath both stay: neither puts the other back."""
        page = self.page
        page.add_init_script("""
            const really = window.fetch, held = [];
            window.fetch = async (...asked) => {
                const answer = await really(...asked);
                if (!String(asked[0].url ?? asked[0]).endsWith("/api/read")) return answer;
                const read = await answer.json();
                answer.json = async () => read;
                answer.text = async () => JSON.stringify(read);
                await new Promise((go) => { held.push(go); if (held.length === 2) for (const one of held) one(); });
                return answer;
            };
        """)
        page.goto("/bench/cut")
        page.get_by_label("Measured").select_option("offset")
        expect(page.get_by_role("region", name="The cut")).to_be_visible()
        page.get_by_label("Up or down").fill("0.5 m")
        page.get_by_label("To the side").fill("0.7 m")  # leaving the first asks for it
        page.get_by_label("To the side").press("Enter")
        expect(page.get_by_label("To the side")).to_have_value("700")
        expect(page.get_by_label("Up or down")).to_have_value("500")
        expect(page.get_by_role("region", name="The cut")).to_contain_text("roll the elbows 54")

    def test_a_wait(self) -> None:
        """The table is the usual school; in the cold it waits longer; a thread needs no wait."""
        page = self.page
        page.goto("/bench/wait")
        waits = page.get_by_role("region", name="The waits")
        expect(waits).to_contain_text("Fill it slowly in 20 min, at")
        expect(waits.get_by_role("row").filter(has_text="24 hours")).to_contain_text("24 h 00 min, at")
        page.get_by_label("Coldest until then").fill("35 F")
        page.get_by_label("Coldest until then").press("Enter")
        expect(waits).not_to_contain_text("Fill it slowly in 20 min")
        expect(waits).to_contain_text("2 °C")
        page.get_by_label("Joint").select_option("thread")
        expect(waits).to_contain_text("Water may come in")


class Sent(Browsing):
    """A bench answer goes into a job as an edit, and a joint of a job is opened at the bench."""

    def test_a_size_a_curve_and_conditions(self) -> None:
        """The size picked goes to a run, what the source gives to the mains, the weather of a wait to the job; each on
        its newest revision.
        """
        points = [
            {"id": "M", "x": 0.0, "y": 0.0, "what": {"kind": "mains"}, "name": "Meter"},
            {"id": "T", "x": 9.0, "y": 0.0, "what": {"kind": "tap"}, "name": "Yard"},
        ]
        run = {
            "id": "R1",
            "a": {"id": "R1a", "point": "M", "port": "out"},
            "b": {"id": "R1b", "point": "T", "port": "in"},
        }
        job = self.api("POST", "/jobs", json={"name": "Zz bench"})["id"]
        plan = self.api("GET", f"/jobs/{job}")["plan"] | {"points": points, "runs": [run]}
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": 1, "plan": plan})
        page = self.page
        page.goto("/bench/line")
        sizes = page.get_by_role("region", name="Sizes")
        picked = sizes.get_by_text("Take ").first
        expect(picked).to_be_visible()
        size = picked.inner_text().removeprefix("Take ").removesuffix(".")
        sizes.get_by_label(f"Give {size} to a run of").select_option(job)
        expect(sizes.get_by_label("for", exact=True)).to_have_value("R1")
        sizes.get_by_role("button", name="Give it").click()
        expect(sizes.get_by_text("It has that size.")).to_be_visible()
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["runs"][0]["size"], size)
        page.goto("/bench/source")
        page.get_by_label("Send it to").select_option(job)
        page.get_by_role("button", name="Send it", exact=True).click()
        expect(page.get_by_text("The mains has it.")).to_be_visible()
        mains = self.api("GET", f"/jobs/{job}")["plan"]["points"][0]["what"]
        self.assertGreater(mains["flowing"], 0)
        self.assertLess(mains["flowing_pressure"], mains["pressure"])
        page.goto("/bench/wait")
        page.get_by_label("These conditions to").select_option(job)
        page.get_by_role("button", name="Send them").click()
        expect(page.get_by_text("It cures by them.")).to_be_visible()
        self.assertAlmostEqual(self.api("GET", f"/jobs/{job}")["plan"]["conditions"]["air_temperature"], 288.15)
        page.get_by_role("link", name="See it in Make").click()
        page.get_by_role("link", name="This joint at the bench").click()
        expect(page.get_by_role("region", name="The way chosen")).to_be_visible()
        self.assertIn("start=", page.url)

    def test_ends_are_told_apart(self) -> None:
        """Of one size there are as many forms as there are kinds of end to the eye: threads out and in, barb, tube,
        socket, pipe, nut, and more.
        """
        page = self.page
        page.goto("/bench/join")
        page.get_by_role("button", name="Pick the first end by its shape").click()
        forms = page.locator("svg[data-form]")
        expect(forms.first).to_be_visible()
        seen = {forms.nth(n).get_attribute("data-form") for n in range(forms.count())}
        self.assertLessEqual(
            {"male thread", "female thread", "barb", "tube", "socket", "pipe", "nut", "flange", "saddle", "wall"}, seen
        )


class InSight(Browsing):
    """On a phone."""

    viewport = (390, 480)
    phone = True

    def test_the_answer_stays_in_sight(self) -> None:
        """While choosing above it the answer stands in a line at the foot; pressed it comes into view, and the line
        goes.
        """
        page = self.page
        page.goto("/bench/line")
        line = page.get_by_role("button", name="See it")
        expect(line).to_contain_text("Take ")
        line.click()
        expect(line).to_have_count(0)
        expect(page.get_by_role("region", name="Sizes")).to_be_in_viewport()
