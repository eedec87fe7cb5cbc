"""As laid and to be done again: measured from two marks, proved by the record, and due by what was done last."""

import csv
import io
import json
import re
import unittest
from dataclasses import replace
from html import unescape
from typing import Any

import ezdxf
from icalendar import Calendar

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.commissioning.readiness import Readiness
from hydrarch.core.derivation.chain import Derivation, derive, where_it_stands
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event
from hydrarch.core.record.log import Log
from hydrarch.core.record.spots import drawn_since, drawn_spot, with_spots
from hydrarch.core.record.states import mark_joints
from hydrarch.core.report.as_laid import as_laid
from hydrarch.core.report.reminders import reminders
from hydrarch.demo import JOBS, demo_job
from hydrarch.formats.calendar import reminders_text
from hydrarch.formats.drawing import drawings
from hydrarch.formats.maps import drawing_svg, line_dxf, line_geojson
from hydrarch.formats.pictures import read_picture
from hydrarch.formats.tables import as_laid_csv
from tests.core.plans import draw, point

NOW = 1_790_000_000.0
DAY = 86400.0


def line(marks: list[tuple[str, float, float]], **more: object) -> Plan:
    """Mains, a filter and a preventer in a buried line to a tap 30 m east, with marks beside it."""
    spots = [
        point("M", 0, 0, "mains", pressure=400e3, depth=0.5),
        point("B", 6, 0, "backflow", depth=0.5),
        point("F", 9, 0, "filter", depth=0.5),
        point("T", 30, 0, "tap", height=0.0, depth=0.5),
        *(point(i, x, y, "mark") for i, x, y in marks),
    ]
    pipe = {"series": "pvc40", "size": "1"}
    return draw(spots, [("M", "B"), ("B", "F"), ("F", "T")], runs_more=[pipe] * 3, **more)


def made(plan: Plan, at: float = NOW - 9 * DAY) -> tuple[Derivation, Log, Readiness]:
    """All joints made at a time, by Ash."""
    derived = derive(plan)
    joints = derived.assembly.joints
    log = Log(
        [
            Event(
                id="e1",
                kind="made",
                at=at,
                by="Ash",
                joints=mark_joints(joints, [j.id for j in joints], {}, place=True),
            )
        ]
    )
    return derived, log, where_it_stands(plan, derived, log, NOW)


class Laid(unittest.TestCase):
    """Where hidden joints lie."""

    def test_what_is_in_the_ground_stays_where_it_was_made(self) -> None:
        """The drawing is moved after the joints were made: each lies where it was, and how it is drawn now is said, in
        the crew's units; a joint made again lies where it is drawn then; one without a recorded place says so.
        """
        plan = line([("K", 0, 5), ("L", 12, 5)])
        derived = derive(plan)
        joints = derived.assembly.joints
        marks = with_spots(plan, joints, mark_joints(joints, [j.id for j in joints], {}, place=True))
        log = Log([Event(id="e1", kind="made", at=NOW - 9 * DAY, by="Ash", joints=marks)])
        moved = plan.model_copy(
            update={
                "points": tuple(
                    p.model_copy(update={"depth": p.depth - 0.05, "x": p.x + 0.2}) if p.id == "F" else p
                    for p in plan.points
                )
            }
        )
        then = {j.joint: j for j in as_laid(plan, derived, where_it_stands(plan, derived, log, NOW))}
        self.assertTrue(all(not j.since and not j.as_drawn for j in then.values()))
        later = derive(moved)
        stands = where_it_stands(moved, later, log, NOW)
        now = {j.joint: j for j in as_laid(moved, later, stands)}
        told = {j.since for n, j in now.items() if later.assembly.named[n].point == "F"}
        self.assertEqual(told, {"drawn 200 mm aside and 50 mm higher since"})
        for name, j in now.items():
            self.assertEqual(
                (j.x, j.y, j.level, j.depth), tuple(getattr(then[name], f) for f in ("x", "y", "level", "depth"))
            )
        self.assertIn("drawn 200 mm aside and 50 mm higher since", as_laid_csv(now.values()))
        again = with_spots(
            moved, later.assembly.joints, mark_joints(later.assembly.joints, list(now), log.joints, place=True)
        )
        both = Log([*log.events, Event(id="e2", kind="made", at=NOW - DAY, by="Ash", joints=again)])
        self.assertEqual({j.since for j in as_laid(moved, later, where_it_stands(moved, later, both, NOW))}, {""})
        old = made(plan)
        self.assertTrue(all(j.as_drawn for j in as_laid(plan, old[0], old[2])))

    def test_less_than_a_tape_shows_is_not_said(self) -> None:
        """4 mm is nothing, 6 mm is said; lower is said as lower, in inches for a crew that measures so."""
        spot = drawn_spot(line([]), derive(line([])).assembly.joints[0])
        self.assertEqual(drawn_since(spot, replace(spot, level=spot.level + 0.004), "metric"), "")
        self.assertEqual(drawn_since(spot, replace(spot, level=spot.level - 0.006), "metric"), "drawn 6 mm lower since")
        self.assertEqual(drawn_since(spot, replace(spot, level=spot.level - 0.0508), "us"), "drawn 2 in lower since")

    def test_what_is_screwed_together_above_ground_is_in_sight(self) -> None:
        """A timer and its preventer on a tap are in sight, as the test of their section says; in a box in the ground
        they are not.
        """
        for depth, hidden in ((0.0, False), (0.4, True)):
            spots = [
                point("M", 0, 0, "mains", depth=depth),
                point("V", 0, 0, "backflow", depth=depth),
                point("F", 0, 0, "filter", depth=depth),
                point("T", 30, 0, "tap", depth=0.5),
            ]
            more: list[dict[str, object]] = [{"coupled": True}, {"coupled": True}, {"series": "pvc40", "size": "1"}]
            plan = draw(spots, [("M", "V"), ("V", "F"), ("F", "T")], runs_more=more)
            derived, _, ready = made(plan)
            bare = {r.id for r in plan.runs if r.coupled}
            screwed = {j.id for j in derived.assembly.joints if j.run in bare}
            self.assertTrue(screwed)
            laid = {a.joint for a in as_laid(plan, derived, ready)}
            self.assertEqual(bool(screwed & laid), hidden)

    def test_from_the_two_marks_that_cross_sharply(self) -> None:
        """Of three marks the nearest pair that crosses at more than 30° is taken: 3-4-5 triangles by hand; a pair in
        line with the joint is not.
        """
        plan = line([("A", 6, 3), ("C", 10, 3), ("D", 6, 9)])
        derived, _, ready = made(plan)
        laid = as_laid(plan, derived, ready)
        here = next(j for j in laid if j.x == 6)
        self.assertEqual([(t.name, round(t.distance, 6)) for t in here.tapes], [("mark A", 3.0), ("mark C", 5.0)])
        self.assertTrue(here.sharp)
        self.assertEqual((here.depth, here.by, here.at, here.proved_at), (0.5, "Ash", NOW - 9 * DAY, None))
        in_line = line([("A", 6, 3), ("D", 6, 9)])
        derived, _, ready = made(in_line)
        self.assertFalse(next(j for j in as_laid(in_line, derived, ready) if j.x == 6).sharp)

    def test_what_is_seen_is_not_told(self) -> None:
        """A line on the surface hides nothing; what is not made is nowhere yet; without two marks nothing is
        measured.
        """
        plan = line([("A", 6, 3)])
        derived, _, ready = made(plan)
        self.assertTrue(all(j.tapes == () for j in as_laid(plan, derived, ready)))
        self.assertEqual(as_laid(plan, derived, where_it_stands(plan, derived, Log(), NOW)), ())
        bare = plan.model_copy(
            update={"runs": tuple(r.model_copy(update={"situation": "on surface"}) for r in plan.runs)}
        )
        derived, _, ready = made(bare)
        self.assertEqual(as_laid(bare, derived, ready), ())

    def test_proved_by_its_test(self) -> None:
        """The day of proof is that of the test that proves it, and of no other; what no test holds is proved the day it
        is seen dry at work.
        """
        plan = line([("A", 6, 3), ("C", 10, 3)])
        derived, log, _ = made(plan)
        (section,) = derived.sections[:1]
        for n, passed in enumerate((True, False, True)):
            at = NOW - (5 - n) * DAY
            log.add(
                [
                    Event(
                        id=f"t{n}",
                        kind="tested",
                        at=at,
                        by="Ash",
                        joints=mark_joints(derived.assembly.joints, section.joints, log.joints, place=False),
                        section=section.id,
                        pressure=section.test,
                        ended=at + section.hold + 60,
                        passed=passed,
                    )
                ]
            )
        laid = as_laid(plan, derived, where_it_stands(plan, derived, log, NOW))
        held = {j.joint: j.proved_at for j in laid if j.joint in section.joints}
        self.assertEqual({at for j, at in held.items() if j not in section.later}, {NOW - 3 * DAY})
        self.assertEqual({at for j, at in held.items() if j in section.later}, {None})
        log.add(
            [
                Event(
                    id="l",
                    kind="looked",
                    at=NOW - DAY,
                    by="Ash",
                    joints=mark_joints(derived.assembly.joints, section.later, log.joints, place=False),
                )
            ]
        )
        laid = as_laid(plan, derived, where_it_stands(plan, derived, log, NOW))
        self.assertEqual({j.proved_at for j in laid if j.joint in section.later}, {NOW - DAY})

    def test_for_other_programs(self) -> None:
        """CSV, DXF (read back by its library) and GeoJSON (read back by our own reading of maps) hold the same
        places.
        """
        plan = line([("A", 6, 3), ("C", 10, 3)])
        derived, _, ready = made(plan)
        laid = as_laid(plan, derived, ready)
        rows = list(csv.reader(io.StringIO(as_laid_csv(laid))))
        self.assertEqual(len(rows), len(laid) + 1)
        self.assertEqual({float(r[5]) for r in rows[1:]}, {round(j.x, 2) for j in laid})
        document = ezdxf.read(io.StringIO(line_dxf(plan, derived, laid)))  # type: ignore[attr-defined]
        lines = [e for e in document.modelspace() if e.dxftype() == "LINE"]
        self.assertEqual(sorted(round(e.dxf.end.x, 3) for e in lines), [6.0, 9.0, 30.0])
        self.assertEqual({round(e.dxf.start.z, 3) for e in lines}, {-0.5})
        joints = [e for e in document.modelspace() if e.dxftype() == "INSERT" and e.dxf.name == "JOINT"]
        self.assertEqual(len(joints), len(laid))
        text = line_geojson(plan, derived, laid)
        whole = json.loads(text)
        self.assertEqual(len(whole["features"]), len(plan.runs) + len(plan.points) + len(laid))
        for feature in whole["features"]:
            for spot in (
                [feature["geometry"]["coordinates"]]
                if feature["geometry"]["type"] == "Point"
                else feature["geometry"]["coordinates"]
            ):
                self.assertLess(max(abs(spot[0]), abs(spot[1])), 1e-3)
        runs = json.dumps({**whole, "features": [f for f in whole["features"] if f["properties"]["kind"] == "run"]})
        read = read_picture(runs.encode())
        self.assertAlmostEqual(read.wide * read.metre, 30.0, delta=0.05)

    def test_nothing_is_left_out_in_silence(self) -> None:
        """Over the demo: each thing of a drawing of the whole is named in it, or said not to be; a file by itself says
        which job it is, its scale and its day.
        """
        for name in JOBS:
            plan = demo_job(name).plan
            derived = derive(plan)
            (sheet, *_) = drawings(plan, derived)
            words = " ".join(unescape(w) for w in re.findall(r">([^<>]+)</text>", sheet.svg))
            with self.subTest(job=name):
                self.assertEqual([p.label for p in plan.points if not p.kind.plain and p.label not in words], [])
                alone = drawing_svg(plan, derived, NOW)
                told = unescape(re.findall(r">([^<>]+)</text>", alone)[-1])
                self.assertIn(plan.name, told)
                self.assertRegex(told, r"1 : \d+\. 2026-09-21$")
                tall = float(re.findall(r'height="([\d.]+)mm"', alone)[0])
                self.assertLess(max(float(y) for y in re.findall(r'<text[^>]* y="([\d.]+)"', alone)), tall)

    def test_the_bar_is_true(self) -> None:
        """The drawing's bar is as long as the drawing's scale makes it."""
        for units, unit in (("metric", 1.0), ("us", 0.3048)):
            plan = line([], units=units)
            (sheet,) = drawings(plan, derive(plan))
            scale = int(sheet.title.rpartition(": ")[2])
            ends = re.search(r'd="M([\d.]+) [\d.]+L\1 [\d.]+L([\d.]+) ', sheet.svg)
            assert ends is not None
            bar = float(ends.group(2)) - float(ends.group(1))
            told = sheet.svg.split("</text>")[-2].rpartition(">")[2]
            self.assertAlmostEqual(
                bar / 1e3 * scale, float(told.split()[0]) * unit, delta=0.02 * unit * float(told.split()[0])
            )


class Again(unittest.TestCase):
    """What is to be done again."""

    def test_by_what_is_there(self) -> None:
        """A filter each quarter, a preventer's test each year, drained before the first of October; after it was done
        it is due an interval later.
        """
        plan = line([])
        _, log, _ = made(plan, NOW - 100 * DAY)
        found = {r.id: r for r in reminders(plan, log, NOW)}
        self.assertEqual(set(found), {"filter F", "preventer B", "frost"})
        self.assertEqual((found["filter F"].due, found["preventer B"].due), (NOW - 10 * DAY, NOW + 265 * DAY))
        self.assertEqual(found["filter F"].title, "Clean filter F")
        log.add([Event(id="c1", kind="tended", at=NOW - 2 * DAY, by="Rowan", of="filter F")])
        again = {r.id: r for r in reminders(plan, log, NOW)}["filter F"]
        self.assertEqual((again.due, again.done_by, again.done_at), (NOW + 88 * DAY, "Rowan", NOW - 2 * DAY))

    def test_frost_comes_every_year(self) -> None:
        """Drained in September it is due in October of the next year, not again in three weeks; not drained, it stays
        due.
        """
        plan = line([])
        september = 1_789_000_000.0  # 10 September 2026
        log = Log([Event(id="c1", kind="tended", at=september, by="Ash", of="frost")])
        due = {r.id: r for r in reminders(plan, log, september)}["frost"].due
        self.assertAlmostEqual((due - september) / DAY, 386, delta=1)

    def test_as_a_calendar(self) -> None:
        """An event each with its interval, in lines of 75 octets (RFC 5545)."""
        plan = line([])
        _, log, _ = made(plan)
        text = reminders_text(plan, "job", reminders(plan, log, NOW), NOW)
        self.assertEqual(text.count("BEGIN:VEVENT"), 3)
        self.assertIn("RRULE:FREQ=DAILY;INTERVAL=90", text)
        self.assertEqual(text.count("RRULE:FREQ=YEARLY"), 2)
        self.assertLessEqual(max(len(x.encode()) for x in text.split("\r\n")), 75)

    def test_taken_again_it_says_the_same_days(self) -> None:
        """A month later, with nothing done, each entry has the day and the name it had, and a later version (RFC 5545);
        a calendar with nothing in it is refused.
        """
        plan = line([])
        _, log, _ = made(plan)
        first, later = (
            Calendar.from_ical(reminders_text(plan, "job", reminders(plan, log, NOW), stamp))
            for stamp in (NOW, NOW + 30 * DAY)
        )
        walked: list[tuple[Any, Any]] = list(zip(first.walk("VEVENT"), later.walk("VEVENT"), strict=True))
        for one, two in walked:
            self.assertEqual((one["uid"], one["dtstart"].dt), (two["uid"], two["dtstart"].dt))
            self.assertLess(one["sequence"], two["sequence"])
        with self.assertRaisesRegex(HydrarchError, "nothing to put into a calendar"):
            reminders_text(plan, "job", (), NOW)


if __name__ == "__main__":
    unittest.main()
