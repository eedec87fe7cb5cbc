"""The list of jobs: one begun by what it is, one from another, put away, brought back, forgotten after a second
word.
"""

import re

from playwright.sync_api import expect

from tests.web.base import Browsing


class Home(Browsing):
    """What is done to jobs in the list."""

    def shelf(self, job: str) -> str | None:
        """Where a job lies; None where it is forgotten."""
        found: dict[str, str] = {j["id"]: j["shelf"] for j in self.api("GET", "/jobs")}
        return found.get(job)

    def more(self, job: str) -> None:
        """Open what is folded away on a job's card."""
        self.page.get_by_role("button", name=f"More: {job}").first.click()

    def unfold(self, title: str) -> None:
        """Open a part that is folded away, and leave one that is open as it is: other tests have jobs in it, too."""
        fold = self.page.locator("details").filter(
            has=self.page.locator("summary").filter(has_text=re.compile(rf"{title}(?! for good)"))
        )
        expect(fold).to_have_count(1)
        if fold.get_attribute("open") is None:
            fold.locator("summary").press("Enter")

    def test_archived_deleted_and_back(self) -> None:
        """Each with its undo; a deleted one is forgotten for good only after a second word, and its record is there
        until then.
        """
        page, job = self.page, self.api("POST", "/jobs", json={"name": "Lower yard"})["id"]
        page.goto("/")
        self.more("Lower yard")
        page.get_by_role("button", name="Archive Lower yard").click()
        expect(page.get_by_text("Lower yard is in the archive.")).to_be_visible()
        expect(page.get_by_role("button", name="Archive Lower yard")).to_have_count(0)
        self.assertEqual(self.shelf(job), "archive")
        page.get_by_role("button", name="Undo", exact=True).click()
        self.more("Lower yard")
        expect(page.get_by_role("button", name="Archive Lower yard")).to_be_visible()
        page.get_by_role("button", name="Delete Lower yard", exact=True).click()
        expect(page.get_by_text("Lower yard was deleted.")).to_be_visible()
        self.assertEqual(self.shelf(job), "deleted")
        page.reload()
        self.unfold("Deleted")
        page.get_by_role("button", name="Bring back Lower yard").click()
        self.more("Lower yard")
        expect(page.get_by_role("button", name="Delete Lower yard", exact=True)).to_be_visible()
        page.get_by_role("button", name="Delete Lower yard", exact=True).click()
        expect(page.get_by_text("Lower yard was deleted.")).to_be_visible()
        self.unfold("Deleted")
        page.get_by_role("button", name="Delete for good: Lower yard").click()
        self.assertEqual(self.shelf(job), "deleted", "one press deletes nothing for good")
        sure = page.get_by_role("button", name="Delete for good", exact=True)
        expect(sure).to_be_disabled()
        page.get_by_label("Type the job's name").fill("Lower yard")
        sure.click()
        expect(page.get_by_label("Type the job's name")).to_have_count(0)
        self.assertIsNone(self.shelf(job))
        self.unfold("Deleted for good")
        page.get_by_role("button", name="Restore Lower yard").first.click()
        self.more("Lower yard")
        expect(page.get_by_role("button", name="Delete Lower yard", exact=True)).to_be_visible()
        self.assertEqual(self.shelf(job), "list")

    def test_one_from_another(self) -> None:
        """The same drawing under a name of its own, and none of what was made."""
        page, job = self.page, self.fresh_demo()
        old = self.api("GET", f"/jobs/{job}")["plan"]
        page.goto("/")
        self.more(old["name"])
        page.get_by_role("button", name=f"Duplicate {old['name']}").first.click()
        expect(page.get_by_role("heading", name="Survey")).to_be_visible()
        made = page.url.split("/job/")[1].split("/")[0]
        new = self.api("GET", f"/jobs/{made}")["plan"]
        self.assertEqual({**new, "name": ""}, {**old, "name": ""})
        self.assertNotEqual(new["name"], old["name"])
        states = {s["state"] for s in self.standing(made)["readiness"]["joints"].values()}
        self.assertEqual(states, set(), "nothing was done in it yet")
        self.assertTrue(self.standing(job)["readiness"]["joints"], "and something in the first")

    def test_begun_with_a_small_drawing(self) -> None:
        """A buried service begins with mains, a valve and a tap, all seven stages answered; it is drawn to be changed."""
        page = self.page
        self.new_job()
        page.get_by_role("group", name="What the job is").get_by_role("button", name="A buried service").click()
        page.get_by_role("button", name="Start with a small drawing").click()
        expect(page.get_by_role("application")).to_have_accessible_name(re.compile("3 points, 2 runs"))
        stages = page.get_by_role("navigation", name="Stages")
        for stage, says in (
            ("Size", "1 outlet has enough pressure"),
            ("Join", "joints with"),
            ("Cut", "2 pieces|3 pieces"),
            ("Make", "Joint 1 of"),
            ("Test", "Section A|A: "),
            ("Record", "not made"),
        ):
            stages.get_by_role("link", name=stage).click()
            expect(page.get_by_role("region", name="Worksheet")).to_contain_text(re.compile(says))

    def test_begun_by_what_it_is(self) -> None:
        """Rain drains: nothing laid out, drain things at hand and in their order, what to find out first; put away, it
        is gone.
        """
        page = self.page
        self.new_job()
        page.get_by_role("group", name="What the job is").get_by_role("button", name="Rain and yard drains").click()
        page.get_by_role("button", name=re.compile(r"^Start( empty)?$")).click()
        expect(page.get_by_text("Nothing is drawn yet.")).to_be_visible()
        tools = page.get_by_role("region", name="Drawing tools")
        for thing in ("Drain inlet", "Junction", "Outfall of a drain"):
            expect(tools.get_by_role("button", name=thing, exact=True)).to_be_visible()
        expect(tools.get_by_role("button", name="Sprinkler", exact=True)).to_have_count(0)
        first = page.get_by_role("region", name="To find out first")
        expect(first.get_by_text("How large is the roof or yard")).to_be_visible()
        first.get_by_label("Yard drain").select_option("dwv")
        self.saved(2)
        first.get_by_role("button", name="Dismiss").click()
        expect(first).to_have_count(0)
        expect(tools.get_by_role("button", name="Well pump", exact=True)).to_be_visible()
        self.take("Outlets", "Sprinkler")
