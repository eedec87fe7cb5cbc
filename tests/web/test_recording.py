"""Every button that writes to the record: what it writes is read back from the API and from an exported job file."""

import io
import re
import struct
import time
import uuid
import zipfile
import zlib
from typing import Any

from playwright.sync_api import FilePayload, Locator, expect

from tests.web.base import Browsing


class Recording(Browsing):
    """One copy of the demo, pressed through."""

    def kept(self, job: str, kind: str, count: int) -> list[dict[str, Any]]:
        """The events of a kind in the job's file, once there are so many; the file is taken in again with all
        of them.
        """
        until = time.monotonic() + 20
        while True:
            whole = self.api("GET", f"/jobs/{job}/export/job")
            found: list[dict[str, Any]] = [e for e in whole["events"] if e["kind"] == kind]
            if len(found) >= count or time.monotonic() > until:
                break
            self.page.wait_for_timeout(100)
        self.assertEqual(len(found), count, kind)
        again = self.api("POST", "/import", json=whole)["id"]
        self.assertEqual(self.api("GET", f"/jobs/{again}/export/job")["events"], whole["events"])
        return found

    def made_all(self, job: str, ago: float = 5 * 86400) -> None:
        """Everything is made, long enough ago."""
        joints = [j["id"] for j in self.shown(job, "make")["joints"]]
        event = {"id": str(uuid.uuid4()), "kind": "made", "at": time.time() - ago, "by": "Rowan", "joints": joints}
        self.api("POST", f"/jobs/{job}/events", json=[event])

    def section(self, letter: str) -> Locator:
        """The card of a section."""
        return self.page.get_by_role("region", name=f"Section {letter}", exact=True)

    def test_joints(self) -> None:
        """Dry-fitted, left dry with why, made, taken apart."""
        page, job = self.page, self.fresh_demo()
        had = {
            k: len([e for e in self.api("GET", f"/jobs/{job}/export/job")["events"] if e["kind"] == k])
            for k in ("made", "dry_fitted", "left_dry", "undone")
        }
        self.open(job, "make")
        hand = page.get_by_role("region", name="The joint in hand")
        while not hand.get_by_role("button", name="Only dry-fitted").is_visible():
            hand.get_by_role("button", name="Next joint").click()
        hand.get_by_role("button", name="Only dry-fitted").click()
        (told,) = self.kept(job, "dry_fitted", had["dry_fitted"] + 1)[-1:]
        self.assertEqual(len(told["joints"]), 1)
        while not hand.get_by_role("button", name=re.compile("^Leave it dry")).is_visible():
            hand.get_by_role("button", name="Next joint").click()
        hand.get_by_role("button", name=re.compile("^Leave it dry")).click()
        hand.get_by_role("textbox").first.fill("until the wall is plastered")
        hand.get_by_role("button", name="Left dry", exact=True).click()
        self.assertEqual(self.kept(job, "left_dry", had["left_dry"] + 1)[-1]["note"], "until the wall is plastered")
        self.said_made()
        self.kept(job, "made", had["made"] + 1)

    def test_an_invert(self) -> None:
        """What a joint of a drain is laid to is shown, what was read is kept with the joint, and told as how far off it
        is; what is typed last before the press is what is recorded. One far off is asked about before it is taken.
        """
        page, job = self.page, self.copy("thistledown-yard")
        self.open(job, "make")
        hand = page.get_by_role("region", name="Invert")
        wanted = self.shown(job, "make")["inverts"]
        expect(hand).to_contain_text("under the lower end of a 1.2 m level")
        joint = self.api("GET", f"/jobs/{job}/stages/make")["work"][0]["joint"]
        read = wanted[joint]["invert"] - 0.012
        hand.get_by_label("Invert read with staff or level").fill(f"{read - 5:.3f}")
        hand.get_by_role("button", name="Record it").click()
        expect(hand.get_by_role("alert")).to_contain_text(f"you typed {read - 5:.3f} m. Was it read so")
        hand.get_by_label("Invert read with staff or level").fill(f"{read:.3f}")
        hand.get_by_role("button", name="Record it").click()
        expect(hand).to_contain_text("12 mm low")
        expect(hand.get_by_role("alert")).to_have_count(0)
        (told,) = self.kept(job, "levelled", 1)
        self.assertAlmostEqual(told["level"], read, places=3)
        self.assertEqual(list(told["joints"]), [joint])
        (drain,) = self.api("GET", f"/jobs/{job}/standing")["laid"]
        self.assertEqual([r["off"] for r in drain["reads"]], ["12 mm low"])

    def test_a_measured_test(self) -> None:
        """Readings of a logger are judged and kept with their instrument; a stand-in's are marked wherever they are,
        and prove nothing.
        """
        job = self.fresh_demo()
        had = len([e for e in self.api("GET", f"/jobs/{job}/export/job")["events"] if e["kind"] == "tested"])
        self.made_all(job)
        self.open(job, "prove")
        card = self.section("B")
        section = self.shown(job, "prove")["sections"][1]
        card.get_by_role("button", name="Flush it, and judge readings").click()
        card.get_by_label("Read with").select_option("logger")
        card.get_by_label("Its number or make-up").fill("no. 7")
        bar = section["test"] / 1e5 + 0.02
        lines = "\n".join(f"{n},{bar:.3f}" for n in range(0, int(section["hold"] / 60) + 2))
        card.get_by_label(re.compile("^Readings as CSV")).fill("minutes,bar\n" + lines)
        card.get_by_role("button", name="Judge these").click()
        card.get_by_role("button", name="Keep this as the section's test").click()
        expect(card.get_by_text("Kept with the section's tests.")).to_be_visible()
        told = self.kept(job, "tested", had + 1)[-1]
        self.assertEqual(told["instrument"], {"kind": "logger", "name": "no. 7", "error": 2000.0, "thermometer": 0.5})
        self.assertGreater(len(told["readings"]), 10)
        state = self.standing(job, "prove")["readiness"]["sections"][section["id"]]
        record = state["tests"][-1]
        self.assertEqual((record["simulated"], record["instrument"]["name"]), (False, "no. 7"), record)
        expect(card.get_by_text("Logger, no. 7.")).to_be_visible()
        card.get_by_role("button", name="Simulated gauge, tight").click()
        expect(card.get_by_text("Simulated readings: for practice, they do not count as a test.")).to_be_visible(
            timeout=60_000
        )
        card.get_by_role("button", name="Keep as practice").click()
        told = self.kept(job, "tested", had + 2)[-1]
        self.assertEqual(told["instrument"]["kind"], "simulated")
        self.assertTrue(all(r["simulated"] for r in told["readings"]))
        records = self.standing(job, "prove")["readiness"]["sections"][section["id"]]["tests"]
        self.assertEqual([r["proves"] for r in records if r["simulated"]], [False])
        expect(card.get_by_text("Simulated gauge: not a test.")).to_be_visible()

    def test_typed_tests_burying_and_withdrawing(self) -> None:
        """It held, it failed, buried with a reason; a test that was entered wrong is withdrawn with why, and both stay
        in the record.
        """
        job = self.fresh_demo()
        had = len([e for e in self.api("GET", f"/jobs/{job}/export/job")["events"] if e["kind"] == "tested"])
        self.made_all(job)
        self.open(job, "prove")
        card = self.section("B")
        card.get_by_text("Enter a test").click()
        self.enter_test(card)
        card.get_by_role("button", name="It failed").click()
        self.kept(job, "tested", had + 1)
        card.get_by_role("button", name="It held").click()
        tests = self.kept(job, "tested", had + 2)
        clashing = card.get_by_text(re.compile("recorded a test of the same time"))
        expect(clashing.first).to_be_visible()
        name = self.shown(job, "prove")["sections"][1]["id"]
        self.assertFalse(self.standing(job, "prove")["readiness"]["sections"][name]["proved"])
        failed = next(e for e in tests if e["section"] == name and e["passed"] is False)
        card.get_by_text("Withdraw this record").first.click()
        card.get_by_label(re.compile("^Why this test is wrong")).first.fill("the gauge was shut off")
        card.get_by_role("button", name="Withdraw", exact=True).first.click()
        gone = self.kept(job, "withdrawn", 1)[0]
        self.assertEqual(gone["note"], "the gauge was shut off")
        self.assertIn(gone["of"], [e["id"] for e in tests])
        expect(clashing).to_have_count(0)
        self.assertEqual(len(self.kept(job, "tested", had + 2)), had + 2, "what was withdrawn stays in the record")
        self.assertTrue(failed)
        card.get_by_text(re.compile("^(Bury it|Close it in)$")).click()
        reason = card.get_by_label(re.compile("^Reason to (bury|close)"))
        if reason.is_visible():
            reason.fill("rain is coming")
        card.get_by_role("button", name=re.compile("^(Buried|Closed in)$")).click()
        self.assertEqual(self.kept(job, "buried", 1)[0]["section"], name)

    def test_hand_over_and_the_walk(self) -> None:
        """Handed over and taken; a zone is run, and a joint on its walk said dry."""
        page, job = self.page, self.fresh_demo()
        self.made_all(job)
        self.open(job, "keep")
        page.get_by_role("button", name="Hand it over …").click()
        page.get_by_label("What comes next, for whoever takes it").fill("test the meadow")
        page.get_by_role("button", name="Hand it over as it stands").click()
        self.assertEqual(self.kept(job, "handed_over", 1)[0]["note"], "test the meadow")
        page.get_by_role("button", name=re.compile("^I take it over")).click()
        self.kept(job, "taken_over", 1)
        had = len([e for e in self.api("GET", f"/jobs/{job}/export/job")["events"] if e["kind"] == "looked"])
        page.get_by_role("link", name="Test").click()
        walk = page.get_by_role("region", name="Leak walk")
        expect(walk.get_by_role("button", name=re.compile("^Run "))).to_be_visible()
        gate = self.standing(job, "prove")["zones"][0]["gate"]
        if not gate["open"]:
            walk.get_by_label("Reason to run it all the same").fill("to look at the main")
        walk.get_by_role("button", name=re.compile("^Run ")).click()
        expect(walk.get_by_role("status")).to_be_visible()
        walk.get_by_role("button", name=re.compile("^Dry: ")).first.click()
        self.kept(job, "looked", had + 1)
        walk.get_by_role("button", name="Shut it").click()

    def in_hand(self, job: str, joint: str) -> Locator:
        """A joint's card in Make."""
        self.page.goto(f"/job/{job}/make?at={joint}")
        return self.page.get_by_role("region", name="The joint in hand")

    def test_it_went_wrong(self) -> None:
        """Saved, a joint is not made any more; cut out, it is taken back with all that goes, and what is to be bought
        again is on the list.
        """
        page, job = self.page, self.fresh_demo()
        self.made_all(job, ago=3600)
        joints = self.shown(job, "make")["joints"]
        first = joints[0]["id"]
        hand = self.in_hand(job, first)
        hand.get_by_role("button", name="It went wrong …").click()
        hand.get_by_role("button", name="Saved: make this joint again").click()
        self.assertEqual(list(self.kept(job, "undone", 1)[0]["joints"]), [first])
        weld = next(j for j in joints if j["method"] == "solvent weld" and j["id"] != first)
        wrong = self.api("GET", f"/jobs/{job}/joints/{weld['id']}/wrong")
        self.assertTrue(wrong["buy"], wrong)
        hand = self.in_hand(job, weld["id"])
        hand.get_by_role("button", name="It went wrong …").click()
        hand.get_by_role("button", name=re.compile("^Cut out: ")).click()
        self.assertEqual(set(self.kept(job, "undone", 2)[-1]["joints"]), set(wrong["again"]))
        states = self.standing(job)["readiness"]["joints"]
        self.assertTrue(all(states[j]["state"] == "planned" for j in (first, *wrong["again"])))
        expect(page.get_by_text(re.compile("^saved, no"))).to_be_visible()
        added = self.api("GET", f"/jobs/{job}")["plan"]["extras"]
        self.assertEqual(
            {e["fitting"] for e in added if e["note"].startswith("made again")}, {i for i, _ in wrong["buy"]}
        )

    def test_a_lost_joint_is_seen_to(self) -> None:
        """What was made and is on the drawing no more is told until somebody says that it was seen to."""
        page, job = self.page, self.fresh_demo()
        self.made_all(job)
        found = self.api("GET", f"/jobs/{job}")
        plan, gone = found["plan"], found["plan"]["runs"][-1]
        plan["runs"] = [r for r in plan["runs"] if r["id"] != gone["id"]]
        self.api("PUT", f"/jobs/{job}/plan", json={"revision": found["revision"], "plan": plan})
        self.open(job, "keep")
        told = page.get_by_role("note", name="Made, and no longer on the drawing")
        seen = told.get_by_role("button", name="Seen to")
        expect(seen.first).to_be_visible()
        count = seen.count()
        seen.first.click()
        undone = self.kept(job, "undone", 1)[0]
        self.assertEqual(len(undone["joints"]), 1)
        expect(seen).to_have_count(count - 1)
        lost = {x["joint"] for x in self.standing(job)["readiness"]["lost"]}
        self.assertNotIn(next(iter(undone["joints"])), lost)

    def test_done_again(self) -> None:
        """What is to be done every year is said done, and by whom."""
        page, job = self.page, self.fresh_demo()
        self.open(job, "keep")
        page.get_by_text("To be done again").click()
        page.get_by_role("button", name="Done", exact=True).first.click()
        done = self.kept(job, "tended", 1)[0]
        reminders = {r["id"]: r for r in self.api("GET", f"/jobs/{job}/reminders")}
        self.assertEqual(reminders[done["of"]]["done_by"], done["by"])
        expect(page.get_by_text(re.compile(f"{done['by']} did it"))).to_be_visible()

    def test_the_basket(self) -> None:
        """Got, one by one and at a tick; a set laid out, and taken back."""
        page, job = self.page, self.copy(self.fresh_demo())
        had = {
            k: len([e for e in self.api("GET", f"/jobs/{job}/export/job")["events"] if e["kind"] == k])
            for k in ("got", "laid_out")
        }
        page.goto(f"/job/{job}/shop")
        first = page.get_by_role("button", name=re.compile("in the basket$")).first.get_attribute("aria-label")
        tick = page.get_by_role("button", name=first, exact=True)  # what is in the basket goes to the end of its shelf
        tick.click()
        got = self.kept(job, "got", had["got"] + 1)[-1]
        expect(tick).to_have_attribute("aria-pressed", "true")
        self.assertGreater(got["count"], 0)
        tick.click()
        back = self.kept(job, "got", had["got"] + 2)[-1]
        self.assertEqual((back["of"], back["count"]), (got["of"], 0))
        page.get_by_role("button", name="Lay out", exact=True).click()
        whole = page.get_by_role("button", name=re.compile("lies there whole$")).first
        whole.click()
        self.assertEqual(self.kept(job, "laid_out", had["laid_out"] + 1)[-1]["count"], 1)
        whole.click()
        self.assertEqual(self.kept(job, "laid_out", had["laid_out"] + 2)[-1]["count"], 0)

    def test_a_photo(self) -> None:
        """A photo of a joint is kept as it was taken, and comes with the job's archive."""
        page, job = self.page, self.fresh_demo()
        joint = self.shown(job, "make")["joints"][0]["id"]
        hand = self.in_hand(job, joint)
        picture = struct.pack(">I", 13) + b"IHDR" + struct.pack(">IIBBBBB", 2, 2, 8, 0, 0, 0, 0)
        picture = picture + struct.pack(">I", zlib.crc32(picture[4:]))
        rows = zlib.compress(bytes((0, 9, 200, 0, 90, 30)))
        for kind, body in ((b"IDAT", rows), (b"IEND", b"")):
            picture += struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        file: FilePayload = {"name": "joint.png", "mimeType": "image/png", "buffer": b"\x89PNG\r\n\x1a\n" + picture}
        hand.locator("input[type=file]").set_input_files([file])
        expect(hand.locator("img").first).to_be_visible()
        (photo,) = self.api("GET", f"/jobs/{job}/photos")
        self.assertEqual(photo["about"], joint)
        archive = page.request.get(f"{self.address}/api/jobs/{job}/export/archive").body()
        with zipfile.ZipFile(io.BytesIO(archive)) as zipped:
            self.assertTrue(any(photo["id"] in n for n in zipped.namelist()), zipped.namelist())
