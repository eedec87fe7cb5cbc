"""The page never loses what was said or drawn: no signal, a refusal, a restart, a reload, others at work, plain HTTP, a
full device.
"""

import json
import re
import time
import uuid
from functools import partial
from typing import Any

from playwright.sync_api import Page, Route, expect

from tests.web.base import Browsing


def problem(status: int, title: str) -> dict[str, Any]:
    """An answer that is a problem document."""
    body: dict[str, Any] = {
        "type": "/problems/invalid" if status in (409, 422) else "/problems/x",
        "title": title,
        "status": status,
        "detail": f"{title}.",
        "mend": "",
        "places": [],
        "extra": {},
    }
    return {"status": status, "content_type": "application/problem+json", "body": json.dumps(body)}


def answered(status: int, title: str, route: Route) -> None:
    """Answer in the server's place."""
    route.fulfill(**problem(status, title))


def in_its_place(status: int, body: str, kind: str, route: Route) -> None:
    """What something on the way answers, which is not the server."""
    route.fulfill(status=status, body=body, content_type=kind)


class PlainHttp(Browsing):
    """As a phone reaches the server of the van: by plain HTTP, where the browser grants less."""

    alone = True

    plain_http = True
    viewport = (390, 844)
    phone = True

    def test_made_is_kept(self) -> None:
        """A joint said made on a phone is with the server, though the page is in no secure context."""
        job = self.fresh_demo()
        self.open(job, "make")
        self.assertFalse(self.page.evaluate("window.isSecureContext"))
        bar = self.page.get_by_role("progressbar", name="Joints made")
        before = int(bar.get_attribute("aria-valuenow") or 0)
        self.said_made()
        expect(bar).to_have_attribute("aria-valuenow", str(before + 1))
        states = [s["state"] for s in self.standing(job)["readiness"]["joints"].values()]
        self.assertEqual(states.count("dry"), 4)

    def test_drawing_is_kept(self) -> None:
        """A job started there is drawn and saved."""
        self.new_job()
        self.page.get_by_label("Name").fill("Trench")
        self.page.get_by_role("button", name=re.compile(r"^Start( empty)?$")).tap()
        self.take("Sources", "Tank or pond")
        self.page.get_by_text("Type it instead").tap()
        self.page.get_by_role("button", name="Add point").tap()
        self.saved(2)


class Said(Browsing):
    """What was done and said."""

    alone = True

    def made(self) -> None:
        """Say the joint in hand made."""
        self.said_made()

    def test_one_request_for_one_event(self) -> None:
        """A joint said made asks the server once, and its own news asks nothing more."""
        with self.page.expect_response(re.compile("/procedures$")):  # the last of what the page asks when it opens
            self.open(self.fresh_demo(), "make")
        expect(self.page.get_by_role("button", name="Next step")).to_be_enabled()
        self.page.wait_for_timeout(500)
        asked: list[str] = []
        self.page.on("request", lambda r: asked.append(f"{r.method} {r.url}") if "/api/" in r.url else None)
        self.made()
        expect(self.page.get_by_role("link", name="4 dry joints")).to_be_visible()
        self.page.wait_for_timeout(1500)
        self.assertEqual(
            [a for a in asked if "/procedure" not in a and "/here" not in a],
            [a for a in asked if a.startswith("POST") and "/events" in a],
        )
        self.assertEqual(sum("/events" in a for a in asked), 1)

    def test_refused_later_is_in_sight(self) -> None:
        """Said without signal and refused when it comes back: in sight with why, in nobody's way, also after a reload;
        then discarded.
        """
        page, job = self.page, self.fresh_demo()
        self.open(job, "prove")
        section = page.get_by_role("region", name="Section A")
        section.get_by_text("Bury it", exact=True).click()
        self.context.set_offline(True)
        section.get_by_role("button", name="Buried").click()
        expect(page.get_by_text("no signal, 1 kept here")).to_be_visible()
        page.get_by_role("link", name="Make").click()  # the person goes on, and is not looking when the answer comes
        ready = self.standing(job, "prove")["readiness"]
        joint = next(j for j, s in ready["joints"].items() if s["state"] == "proved")
        self.say(job, "undone", [joint])
        self.context.set_offline(False)
        note = page.get_by_role("alert").filter(has_text="One thing you said was not accepted")
        expect(note).to_be_visible()
        expect(page.get_by_text("kept here")).to_have_count(0)
        page.reload()
        expect(note).to_be_visible()
        bar = page.get_by_role("progressbar", name="Joints made")
        before = int(bar.get_attribute("aria-valuenow") or 0)
        self.made()
        expect(bar).to_have_attribute("aria-valuenow", str(before + 1))
        note.get_by_role("button", name="See to it").click()
        dialog = page.get_by_role("dialog", name="Not accepted")
        expect(dialog).to_contain_text("Buried")
        expect(dialog).to_contain_text("1 joint is not made and cured then")
        dialog.get_by_role("button", name="Discard").click()
        expect(note).to_have_count(0)

    def test_refused_is_aimed_at_another_joint(self) -> None:
        """What was refused can be said about another joint, and is taken."""
        page, job = self.page, self.fresh_demo()
        self.open(job, "make")
        expect(page.get_by_role("button", name="Made, and it looks right")).to_be_visible()
        event = {"id": str(uuid.uuid4()), "kind": "made", "at": time.time(), "by": "Ash", "joints": ["R99z~1"]}
        page.evaluate(
            "e => localStorage.setItem('hydrarch.said.' + e.event.id, JSON.stringify(e))",
            {
                "job": job,
                "event": {**event, "override": "", "note": ""},
                "refused": json.loads(problem(422, "No such joint")["body"]),
            },
        )
        page.reload()
        page.get_by_role("button", name="See to it").click()
        dialog = page.get_by_role("dialog", name="Not accepted")
        dry = next(j for j, s in self.standing(job)["readiness"]["joints"].items() if s["state"] == "dry")
        dialog.get_by_label("It was another joint").select_option(dry)
        dialog.get_by_role("button", name="Send it about that one").click()
        expect(page.get_by_role("link", name="4 dry joints")).to_be_visible()
        self.assertNotEqual(self.standing(job)["readiness"]["joints"][dry]["state"], "dry")
        page.route("**/events*", partial(answered, 422, "That will not do"))
        self.made()  # and what is refused while the person looks is told at the joint
        in_hand = page.get_by_role("region", name="The joint in hand")
        expect(in_hand.get_by_role("alert")).to_contain_text("That will not do")

    def test_it_is_asked_though_the_steps_have_not_come(self) -> None:
        """On a link so slow that no step is shown yet, a joint is not said made by one press; it is asked first, and
        nothing is kept.
        """
        page, job = self.page, self.fresh_demo()
        page.route("**/procedure*", lambda route: None)  # it never comes
        self.open(job, "make")
        page.get_by_role("button", name="Made, and it looks right").click()
        expect(page.get_by_text("Its steps have not come yet.")).to_be_visible()
        expect(page.get_by_text("kept here")).to_have_count(0)
        self.assertTrue(self.dried(job, 5))

    def dried(self, job: str, many: int) -> bool:
        """Whether so many joints stand dry-fitted at the server."""
        return [s["state"] for s in self.standing(job)["readiness"]["joints"].values()].count("dry") == many

    def test_each_trouble_in_true_words(self) -> None:
        """A restarted, a busy and a failing server keep the event, and none is told as no signal."""
        for status, says in (
            (401, "the server asks for the crew's passphrase again"),
            (429, "the server is busy"),
            (503, "the server failed"),
        ):
            with self.subTest(status=status):
                page, job = self.page, self.fresh_demo()
                page.route("**/events*", partial(answered, status, "Not now"))
                self.open(job, "make")
                self.made()
                expect(page.get_by_text(f"{says}, 1 kept here")).to_be_visible()
                expect(page.get_by_text("no signal")).to_have_count(0)
                page.unroute("**/events*")
                page.goto("/")  # it is sent from anywhere in the app
                expect(page.get_by_role("heading", name="Hydrarch")).to_be_visible()
                self.until(partial(self.dried, job, 4))

    def waits_for_the_server(self, status: int, body: str, kind: str) -> None:
        """What is said waits while something on the way answers so in the server's place, and is sent after it."""
        page, job = self.page, self.fresh_demo()

        def made() -> int:
            events = self.api("GET", f"/jobs/{job}/export/job")["events"]
            return sum(e["kind"] == "made" for e in events)

        before = made()
        page.route("**/events*", partial(in_its_place, status, body, kind))
        self.open(job, "make")
        self.made()
        expect(page.get_by_text("1 kept here")).to_be_visible()
        self.assertEqual(made(), before)
        page.unroute("**/events*")
        page.reload()
        expect(page.get_by_role("status").filter(has_text="kept here")).to_have_count(0)
        self.assertEqual(made(), before + 1)

    def test_an_empty_success_of_somebody_else(self) -> None:
        """204 from a network that wants a log-in says nothing of what was sent."""
        self.waits_for_the_server(204, "", "text/html")

    def test_a_page_of_somebody_else(self) -> None:
        """Nor does its page to log in, with 200."""
        self.waits_for_the_server(200, "<html>Log in</html>", "text/html")

    def test_json_of_somebody_else(self) -> None:
        """Nor does JSON that looks like an answer, and does not carry the server's mark."""
        self.waits_for_the_server(201, '{"events": [], "clock": 0}', "application/json")

    def test_a_full_shelf(self) -> None:
        """Where the browser's shelf is full its database has room: nothing is called full, and what was said outlives
        the page.
        """
        page, job = self.page, self.fresh_demo()
        page.add_init_script(
            "Storage.prototype.setItem = () => { throw new DOMException('full', 'QuotaExceededError') }"
        )
        self.context.route("**/events?*", lambda route: route.abort())
        self.open(job, "make")
        expect(page.get_by_role("button", name="Next step")).to_be_enabled()
        self.made()
        expect(page.get_by_text(re.compile("1 kept here"))).to_be_visible()
        expect(page.get_by_text("this device is full")).to_have_count(0)
        page.close()
        self.context.unroute("**/events?*")
        self.page = self.context.new_page()
        self.open(job, "make")
        expect(self.page.get_by_role("link", name="4 dry joints")).to_be_visible()

    def test_a_full_device(self) -> None:
        """A browser that will not keep the event says so, and sends it all the same."""
        page, job = self.page, self.fresh_demo()
        page.add_init_script("IDBFactory.prototype.open = () => { throw new DOMException('full', 'UnknownError') }")
        page.add_init_script(
            "Storage.prototype.setItem = () => { throw new DOMException('full', 'QuotaExceededError') }"
        )
        self.open(job, "make")
        expect(page.get_by_role("button", name="Next step")).to_be_enabled()
        self.context.set_offline(True)
        self.made()
        expect(page.get_by_text("this device is full: do not close the page until it is saved")).to_be_visible()
        self.context.set_offline(False)
        expect(page.get_by_role("link", name="4 dry joints")).to_be_visible()
        expect(page.get_by_text("this device is full")).to_have_count(0)


class Drawn(Browsing):
    """What was drawn."""

    alone = True

    def name(self, page: Page, name: str) -> None:
        """Name the job."""
        page.get_by_label("Name of the job").fill(name)
        page.get_by_label("Name of the job").press("Enter")

    def test_survives_a_reload(self) -> None:
        """An edit the server has not taken is there after a reload, and is saved then."""
        page, job = self.page, self.fresh_demo()
        self.open(job, "keep")
        page.route("**/plan*", lambda r: r.abort())
        self.name(page, "Not yet taken")
        expect(page.get_by_text("no signal, the drawing is kept here")).to_be_visible()
        page.unroute("**/plan*")
        page.reload()
        expect(page.get_by_label("Name of the job")).to_have_value("Not yet taken")
        self.saved(2)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["name"], "Not yet taken")

    def test_a_refused_drawing_is_kept_beside_the_saved_one(self) -> None:
        """Drawn with no signal, the page opened again, and the server will not take it: it is not thrown away, but kept
        with why until a person restores or discards it.
        """
        page, job = self.page, self.fresh_demo()
        self.open(job, "keep")
        page.route("**/plan*", lambda r: r.abort())
        self.name(page, "Drawn in the trench")
        expect(page.get_by_text("no signal, the drawing is kept here")).to_be_visible()
        page.unroute("**/plan*")
        answer = problem(422, "Its pump is in nobody's crew parts now")
        page.route("**/plan*", lambda r: r.fulfill(**answer))
        page.reload()
        page.get_by_role("button", name="What waits").click()
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("was not accepted: Its pump is in nobody's crew parts now")
        self.assertNotEqual(self.api("GET", f"/jobs/{job}")["plan"]["name"], "Drawn in the trench")
        page.reload()
        page.unroute("**/plan*")
        page.get_by_role("button", name="What waits").click()
        dialog.get_by_role("button", name="Restore it").click()
        expect(page.get_by_label("Name of the job")).to_have_value("Drawn in the trench")
        self.saved(2)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["name"], "Drawn in the trench")
        expect(page.get_by_role("button", name="What waits")).to_have_count(0)

    def test_a_lost_answer_is_no_clash(self) -> None:
        """A save whose answer is lost on the way is no clash with oneself, though one goes on drawing."""
        page, job = self.page, self.fresh_demo()
        self.open(job, "keep")

        def lose(route: Route) -> None:
            route.fetch()
            route.abort()

        page.route("**/plan*", lose, times=1)
        self.name(page, "First")
        expect(page.get_by_text("no signal, the drawing is kept here")).to_be_visible()
        self.name(page, "Second")
        self.saved(3)
        expect(page.get_by_role("dialog")).to_have_count(0)
        self.assertEqual(self.api("GET", f"/jobs/{job}")["plan"]["name"], "Second")

    def others(self, job: str, change: dict[str, Any]) -> None:
        """Someone else changes a point and saves."""
        now = self.api("GET", f"/jobs/{job}")
        plan = now["plan"]
        for p in plan["points"]:
            p.update(change.get(p["id"], {}))
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": now["revision"], "plan": plan})

    def test_undo_leaves_others_work_alone(self) -> None:
        """Undo takes back one's own change on top of what others did since; where they changed the same it asks."""
        page, job = self.page, self.fresh_demo()
        self.open(job, "survey")
        page.get_by_role("table", name="Points").get_by_role("button", name="Tap 1").click()
        form = page.get_by_role("region", name="Point Tap 1")
        form.get_by_label("Depth of pipe below ground").fill("900 mm")
        form.get_by_label("Depth of pipe below ground").press("Enter")
        self.saved(2)
        self.others(job, {"T2": {"depth": 1.1}})
        expect(page.get_by_text("saved, no. 3")).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        self.saved(4)
        depths = {p["id"]: p["depth"] for p in self.api("GET", f"/jobs/{job}")["plan"]["points"]}
        self.assertEqual((depths["T1"], depths["T2"]), (0.6, 1.1))
        page.get_by_role("button", name="Redo").click()
        self.saved(5)
        self.others(job, {"T1": {"depth": 1.4}})
        expect(page.get_by_text("saved, no. 6")).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        asked = page.get_by_role("dialog", name="Others have been here since")
        expect(asked).to_contain_text("Tap 1")
        asked.get_by_role("button", name="Leave it as it is").click()
        self.assertEqual({p["id"]: p["depth"] for p in self.api("GET", f"/jobs/{job}")["plan"]["points"]}["T1"], 1.4)
        page.get_by_role("button", name="Undo").click()
        asked.get_by_role("button", name="Go on all the same").click()
        self.saved(7)
        self.assertEqual({p["id"]: p["depth"] for p in self.api("GET", f"/jobs/{job}")["plan"]["points"]}["T1"], 0.6)

    def test_two_draw_at_once(self) -> None:
        """What two people changed at different places comes together without a word, whoever saved first."""
        page, job = self.page, self.fresh_demo()
        page.route("**/api/live", lambda r: r.abort())
        self.open(job, "keep")
        self.others(job, {"T2": {"depth": 1.1}})
        self.name(page, "Mine")
        self.saved(3)
        expect(page.get_by_role("dialog")).to_have_count(0)
        plan = self.api("GET", f"/jobs/{job}")["plan"]
        self.assertEqual((plan["name"], next(p["depth"] for p in plan["points"] if p["id"] == "T2")), ("Mine", 1.1))

    def test_going_back_to_an_earlier_revision(self) -> None:
        """An earlier revision is gone back to from the page, and what came between is still there."""
        page, job = self.page, self.fresh_demo()
        self.open(job, "keep")
        self.name(page, "Too far")
        self.saved(2)
        page.get_by_role("button", name="Go back to an earlier one").click()
        page.get_by_role("button", name="Go back to no. 1", exact=True).click()
        self.saved(3)
        expect(page.get_by_label("Name of the job")).to_have_value("Thistledown Camp, meadow line")
        expect(page.get_by_role("table", name="Revisions").get_by_role("button")).to_have_count(2)


class Tabs(Browsing):
    """Many tabs of one browser."""

    alone = True

    def test_seven_tabs_share_a_stream(self) -> None:
        """A seventh tab opens as the first did, one stream serves them all, and each hears the news."""
        streams: list[str] = []
        self.context.on("request", lambda r: streams.append(r.url) if r.url.endswith("/api/live") else None)
        job = self.fresh_demo()
        pages = [self.page, *(self.context.new_page() for _ in range(6))]
        for page in pages:
            page.goto(f"/job/{job}/keep")
            expect(page.get_by_role("link", name="5 dry joints")).to_be_visible()
        self.assertEqual(len(streams), 1)
        ready = self.standing(job)["readiness"]
        joint = next(j for j, s in ready["joints"].items() if s["state"] == "dry")
        self.say(job, "made", [joint])
        for page in pages:
            expect(page.get_by_role("link", name="4 dry joints")).to_be_visible()
        pages[0].close()
        self.say(job, "undone", [joint])
        for page in pages[1:]:
            expect(page.get_by_role("region", name="Worksheet")).to_contain_text(re.compile("4 dry"))


if __name__ == "__main__":
    import unittest

    unittest.main()
