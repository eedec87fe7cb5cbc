"""What proves a section and what does not: tests that fall short, sections that cannot be tested, and what is handed
over.
"""

import unittest
from dataclasses import replace
from itertools import pairwise
from typing import Any

from hydrarch.core.commissioning.readiness import Gate, Readiness, SectionState, looked_gate
from hydrarch.core.commissioning.sections import Section
from hydrarch.core.commissioning.walk import leak_walk
from hydrarch.core.derivation.chain import Derivation, derive, where_it_stands
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event, Reading
from hydrarch.core.record.log import Log
from hydrarch.core.record.states import mark_joints, spoken_state
from hydrarch.demo import cedar_tub, herb_bank, herb_beds, show_tank, swimming_pond, tent_meadow, thistledown
from hydrarch.formats.sheet import sheet_html
from tests.core.plans import draw, point, tank_to_tap

DAY = 86400.0


class Job:
    """A small job with what was done to it."""

    def __init__(self, plan: Plan) -> None:
        self.plan, self.done = plan, derive(plan)
        self.events: list[Event] = []

    def say(self, kind: Any, at: float, joints: Any = None, **more: Any) -> "Job":
        """Add an event about those joints, or all."""
        known = self.done.assembly.joints
        marks = mark_joints(known, [j.id for j in known] if joints is None else joints, {}, True)
        self.events.append(Event(id=f"{len(self.events):04}", kind=kind, at=at, by="Ash", joints=marks, **more))
        return self

    def test(self, at: float, **more: Any) -> "Job":
        """Add a test of the first section that comes to all it must, but for what is said."""
        section = self.section
        body = {"pressure": section.test, "ended": at + section.hold, "passed": True, **more}
        return self.say("tested", at, section.joints, section=section.id, **body)

    @property
    def section(self) -> Section:
        """Its first section."""
        return self.done.sections[0]

    def stands(self, now: float = 30 * DAY) -> Readiness:
        """Where it stands."""
        return where_it_stands(self.plan, self.done, Log(self.events), now)


def made() -> Job:
    """A tank, a run and a tap, all made at zero."""
    return Job(tank_to_tap()).say("made", 0.0)


class Proof(unittest.TestCase):
    """What a test must come to."""

    def test_all_of_it_proves(self) -> None:
        """At its pressure, for its time, all cured: proved, and the bury gate opens."""
        ready = made().test(DAY).stands()
        (section,) = ready.sections.values()
        self.assertTrue(section.proved and section.bury.open and section.tests[0].proves)
        self.assertTrue(ready.hand_over.done)

    def test_what_falls_short_proves_nothing(self) -> None:
        """Too little pressure, too short, too early, above what the weakest carries, failed after it: kept, told, no
        proof.
        """
        hold, test, limit = made().section.hold, made().section.test, made().section.limit
        for more, at, words in (
            ({"pressure": 1.0}, DAY, "and it is to be tested at"),
            ({"pressure": 0.9 * test}, DAY, "and it is to be tested at"),
            ({"ended": DAY + 1.0}, DAY, "held 0 min of 15 min"),
            ({"ended": DAY + hold - 60}, DAY, "held 14 min of 15 min"),
            ({"ended": 100.0 + hold}, 100.0, "not made and cured then"),
            ({"pressure": 1.2 * limit}, DAY, "it may be strained"),
        ):
            with self.subTest(words=words, more=more):
                ready = made().test(at, **more).stands()
                (section,) = ready.sections.values()
                self.assertFalse(section.proved or section.bury.open or section.tests[0].proves)
                self.assertTrue(section.tests[0].passed)
                self.assertIn(words, "; ".join(section.tests[0].short))
                self.assertIn("does not count", section.bury.why)
                self.assertFalse(ready.hand_over.done)
                self.assertGreater(ready.hand_over.unproved, 0)

    def test_a_leak_takes_the_proof_away_until_it_is_mended_and_tested(self) -> None:
        """Tested, then seen leaking: nothing says tested or seen dry any more, no gate opens and the hand-over tells
        it. A mend takes the leak away and brings no proof back; a test after the mend does. What was buried was dug up
        for the mend. A leak that was withdrawn was none.
        """
        job = made().test(DAY)
        one = job.section.joints[0]
        job.say("buried", 2 * DAY, job.section.joints, section=job.section.id)
        self.assertTrue(job.stands().sections[job.section.id].buried)
        job.say("leaked", 3 * DAY, [one])
        leaks = job.stands()
        section, joint = leaks.sections[job.section.id], leaks.joints[one]
        self.assertEqual((joint.state, joint.proved, joint.covered), ("leaks", False, True))
        self.assertTrue(section.buried)
        self.assertFalse(section.proved or section.bury.open or section.pressurise.open or section.tests[0].proves)
        self.assertIn("1 joint is leaking, seen by Ash", section.pressurise.why)
        self.assertEqual((leaks.hand_over.leaking, leaks.hand_over.done, leaks.first[0]), (1, False, one))
        self.assertIn("1 seen leaking and not mended", leaks.hand_over.says)
        self.assertEqual(spoken_state(joint), "LEAKS, not mended, buried")
        job.say("looked", 3.5 * DAY, [one])
        self.assertEqual(job.stands().joints[one].state, "leaks")
        job.say("mended", 4 * DAY, [one], of="0003", note="drawn up again", count=0)
        mended = job.stands()
        section, joint = mended.sections[job.section.id], mended.joints[one]
        self.assertFalse(section.proved or section.bury.open or section.tests[0].proves or section.buried)
        self.assertEqual(spoken_state(joint), "mended, not tested since")
        self.assertTrue(section.pressurise.open)
        again = job.test(5 * DAY).stands()
        self.assertTrue(again.sections[job.section.id].proved and again.hand_over.done)
        job.events = [e for e in job.events if e.kind in ("made", "tested", "leaked") and e.at < 4 * DAY]
        (leak,) = (e for e in job.events if e.kind == "leaked")
        job.say("withdrawn", 6 * DAY, [], of=leak.id, note="it was rain")
        self.assertTrue(job.stands().sections[job.section.id].proved)

    def test_a_mend_waits_before_pressure(self) -> None:
        """Pipe that was opened may have been cemented: no gate opens, and no test counts, until that would have set;
        what was only drawn up again waits for nothing.
        """
        for opened, waits in ((1, True), (0, False)):
            with self.subTest(opened=opened):
                job = made().test(DAY)
                one = job.section.joints[0]
                job.say("leaked", 3 * DAY, [one]).say("mended", 4 * DAY, [one], of="x", note="so", count=opened)
                soon = job.stands(4 * DAY + 60).sections[job.section.id]
                self.assertEqual((soon.pressurise.open, soon.fill.open), (not waits, not waits))
                job.test(4 * DAY + 120)
                self.assertEqual(job.stands().sections[job.section.id].proved, not waits)
                self.assertTrue(job.test(8 * DAY).stands().sections[job.section.id].proved)
                self.assertFalse(job.stands().joints[one].rushed)

    def test_a_test_before_it_was_cured_is_remembered(self) -> None:
        """It makes the joint suspected later, until it is made anew."""
        job = made().test(100.0)
        self.assertTrue(all(s.rushed for s in job.stands().joints.values() if s.cured_at and s.cured_at > 100.0))
        job.say("made", 2 * DAY).test(4 * DAY)
        self.assertFalse(any(s.rushed for s in job.stands().joints.values()))
        self.assertEqual({s.times for s in job.stands().joints.values()}, {2})

    def test_a_reason_is_no_proof(self) -> None:
        """Passing the gate with a reason keeps the test and proves nothing more."""
        ready = made().test(100.0, override="in a hurry").stands()
        self.assertFalse(next(iter(ready.sections.values())).proved)
        self.assertGreater(ready.hand_over.overridden, 0)

    def test_nothing_is_whole_while_something_stops_it(self) -> None:
        """All made and tested, but a tap stands where no pipe comes to it: the hand-over tells that first, and says of
        nothing that it is whole.
        """
        spots = [
            point("A", 0, 0, "tank", water_level=20.0),
            point("B", 30, 0, "tap", height=0.0),
            point("U", 9, 9, "tap"),
        ]
        counts = Job(draw(spots, [("A:out", "B")])).say("made", 0.0).test(DAY).stands().hand_over
        self.assertEqual((counts.proved, counts.done, counts.whole), (counts.joints, False, ""))
        self.assertEqual(counts.says[0], "1 thing of the drawing stops it: No source reaches tap U")

    def test_readings_speak(self) -> None:
        """Readings that fall prove nothing, whatever was said; steady ones over the time do."""
        test = made().section.test
        steady = tuple(Reading(60.0 * n, test, 285.15) for n in range(31))
        falling = tuple(Reading(60.0 * n, test - 5e3 * n, 285.15) for n in range(31))
        for readings, proves in ((steady, True), (falling, False), (steady[:4], False)):
            section = next(iter(made().test(DAY, readings=readings, ended=DAY + 1800).stands().sections.values()))
            self.assertEqual((section.proved, section.tests[0].proves), (proves, proves))
        self.assertIn("15 min: read on", section.tests[0].short[0])

    def test_a_failure_takes_it_back_and_a_weak_pass_gives_nothing(self) -> None:
        """A failed test after a good one unproves; a pass at half the pressure does not bring it back, a good
        one does.
        """
        job = made().test(DAY).test(2 * DAY, passed=False)
        self.assertFalse(next(iter(job.stands().sections.values())).proved)
        job.test(3 * DAY, pressure=0.5 * job.section.test)
        self.assertFalse(next(iter(job.stands().sections.values())).proved)
        job.test(4 * DAY)
        self.assertTrue(next(iter(job.stands().sections.values())).proved)

    def test_a_stronger_source_asks_for_another_test(self) -> None:
        """What was proved for a tank at 20 m is not proved for one at 40 m."""
        job = made().test(DAY)
        higher = job.plan.model_copy(deep=True)
        points = [
            p.model_copy(update={"what": p.what.model_copy(update={"water_level": 40.0})}) if p.id == "A" else p
            for p in higher.points
        ]
        job.plan = higher.model_copy(update={"points": tuple(points)})
        job.done = derive(job.plan)
        section = next(iter(job.stands().sections.values()))
        self.assertFalse(section.proved)
        self.assertIn("is to be tested at", section.tests[0].short[0])


class RunAndLookedAt(unittest.TestCase):
    """What is run instead of tested is proved by the leak walk: every joint seen dry while it runs."""

    def test_by_the_leak_walk(self) -> None:
        """A drip line: not by being made, nor by all but one; by the last it is, and that it is run is said. A joint
        made anew takes it back.
        """
        plan = herb_beds()
        done = derive(plan)
        section = next(s for s in done.sections if s.sort == "run")
        joints = [j for j in section.joints if j not in section.later]
        self.assertGreater(len(joints), 1)

        def said(kind: Any, names: list[str], at: float) -> Event:
            marks = mark_joints(done.assembly.joints, names, {}, place=kind == "made")
            return Event(id=f"{kind}{at}{len(names)}", kind=kind, at=at, by="Ash", joints=marks)

        def stands(*events: Event) -> SectionState:
            return where_it_stands(plan, done, list(events), 5 * DAY).sections[section.id]

        made = said("made", list(section.joints), 0.0)
        on = Event(id="on", kind="ran", at=2 * DAY - 14.0, by="Ash", section=section.id)
        some = said("looked", joints[:-1], 2 * DAY)
        rest = said("looked", joints[-1:], 3 * DAY)
        self.assertFalse(stands(made).proved)
        self.assertFalse(stands(made, some).proved)
        self.assertIn("not seen dry while it runs", stands(made, some).bury.why)
        self.assertFalse(stands(made, some, rest).proved, "it never ran")
        told = where_it_stands(plan, done, [made, some, rest], 5 * DAY).hand_over
        self.assertEqual((told.looked, told.done), (0, False), "nor does the hand-over say so")
        self.assertFalse(stands(made, some, rest, replace(on, at=4 * DAY)).proved, "it ran after all was looked at")
        self.assertTrue(stands(made, on, some, rest).proved)
        self.assertAlmostEqual(stands(made, on, some, rest).looked_after or 0.0, 14.0)
        counted = where_it_stands(plan, done, [made, on, some, rest], 5 * DAY).hand_over
        self.assertEqual(counted.looked, len(joints), "the hand-over tells them as seen dry")
        self.assertNotIn("0 of them", " ".join((counted.whole, *counted.says)))
        self.assertEqual(stands(made, on, some, rest).bury.why, "every joint was seen dry while it ran")
        self.assertFalse(stands(made, on, some, rest, said("made", joints[:1], 4 * DAY)).proved)
        passed_by = replace(rest, override="the valve is locked")  # said with its gate shut: nobody saw water in it
        self.assertFalse(stands(made, on, some, passed_by).proved)

        def gate(*events: Event) -> Gate:
            now = where_it_stands(plan, done, list(events), 5 * DAY)
            return looked_gate(done.sections, now, joints, 5 * DAY)

        self.assertIn("has not run since", gate(made).why)
        self.assertTrue(gate(made, on).open)
        self.assertFalse(gate(on, said("made", list(section.joints), 4 * DAY)).open)


class TestPlans(unittest.TestCase):
    """What a section is tested at, and how it is made ready."""

    def planned(self, middle: list[tuple[str, dict[str, Any]]], **more: Any) -> Derivation:
        """A mains, things in a row, and a tap."""
        spots = [point("M", 0, 0, "mains", pressure=more.pop("pressure", 500e3))]
        spots += [point(f"X{n}", 10.0 * n, 0, kind, **fields) for n, (kind, fields) in enumerate(middle, 1)]
        spots.append(point("T", 10.0 * len(middle) + 10, 0, "tap", height=0.0))
        ids = [p["id"] for p in spots]
        return derive(draw(spots, list(pairwise(ids)), **more))

    def test_never_below_work(self) -> None:
        """A test pressure below what it sees at rest is raised to that, and said; a part too weak for it stops the
        test.
        """
        low = self.planned([], conditions={"test_pressure": 100e3}).sections[0]
        self.assertAlmostEqual(low.test, 500e3, delta=1)
        self.assertIn("below that, so it would be no test", low.says)
        weak = self.planned([], pressure=2.5e6)
        section = weak.sections[0]
        self.assertGreaterEqual(section.test, section.working)
        self.assertIn("change that part first", section.fault)
        gate = where_it_stands(weak.plan, weak, [], 0.0).sections[section.id].pressurise
        self.assertFalse(gate.open)
        self.assertIn("change that part first", gate.why)

    def test_a_weak_pipe_high_up(self) -> None:
        """Thin pipe 60 m above the gauge sees 5.88 bar (by hand: 60 m × 9.80 kPa) less than that reads, and the test
        may go so much higher; at the foot it stops any test.
        """

        def stacked(foot: str, top: str) -> Section:
            spots = [
                point("M", 0, 0, "mains", pressure=9e5),
                point("J", 10, 0, "bend"),
                point("U", 10, 0, "bend", depth=-60.0),
                point("T", 14, 0, "tap", depth=-60.0, height=0.0),
            ]
            pipes = [{"series": s, "size": "1"} for s in (foot, "pe-sidr7", top)]
            (section,) = derive(draw(spots, [("M", "J"), ("J", "U"), ("U", "T")], runs_more=pipes)).sections
            return section

        high = stacked("pe-sidr7", "pe-sidr19")
        self.assertEqual((high.fault, high.weakest, high.pump_at), ("", "PE SIDR19 1 pipe", "mains M"))
        self.assertAlmostEqual(high.test, 6.895e5 + 5.88e5, delta=0.01e5)
        low = stacked("pe-sidr19", "pe-sidr7")
        self.assertIn("PE SIDR19 1 pipe sees 9.00 bar at rest, and carries 6.89 bar", low.fault)

    def test_beyond_a_regulator(self) -> None:
        """Beyond a regulator the line is a section of its own, tested for what the regulator holds; it is taken out and
        plugged.
        """
        before, beyond = self.planned([("regulator", {"pressure": 170e3})]).sections
        self.assertAlmostEqual(before.test, 750e3, delta=2e3)
        self.assertAlmostEqual(beyond.working, 170e3, delta=2e3)
        self.assertAlmostEqual(beyond.test, 255e3, delta=3e3)
        self.assertIn("take regulator X1 out and plug both sides", beyond.isolate)

    def test_what_is_taken_off(self) -> None:
        """The mains, the pump and the vessel are named with what is done to them, and taps are capped."""
        (section,) = self.planned([("junction", {})], conditions={}).sections
        self.assertTrue(any("no test pressure goes back into the mains" in s for s in section.isolate))
        self.assertEqual(section.caps, ("tap T",))
        spots = [
            point("W", 0, 0, "well_pump"),
            point("J", 10, 0, "junction"),
            point("V", 10, 5, "vessel"),
            point("T", 30, 0, "tap", height=0.0),
        ]
        vessel = derive(draw(spots, [("W", "J"), ("J", "V"), ("J", "T")])).sections[0]
        told = " ".join(vessel.isolate)
        self.assertIn("part the line from well pump W", told)
        self.assertIn("take vessel V off and plug its branch: left in, it hides a leak", told)

    def test_a_drain_is_filled_not_pumped(self) -> None:
        """A drain is plugged at its low end and filled to its highest inlet; no pump, no rating."""
        spots = [point("G", 0, 0, "drain_inlet", depth=0.5), point("O", 20, 0, "outfall", depth=0.9)]
        (section,) = derive(draw(spots, [("G:out", "O")])).sections
        self.assertEqual(section.sort, "drain")
        self.assertIn("plug it at outfall O", section.isolate)
        self.assertAlmostEqual(section.test, 0.4 * 9.8e3, delta=100)
        self.assertEqual(section.fault, "")

    def test_no_water_in_frost(self) -> None:
        """Below freezing neither gate opens, and the reason is reported with the figure."""
        plan = tank_to_tap(conditions={"air_temperature": 268.15})
        job = Job(plan).say("made", 0.0)
        state = next(iter(job.stands().sections.values()))
        for gate in (state.fill, state.pressurise):
            self.assertFalse(gate.open)
            self.assertIn("it freezes, -5", gate.why.replace("−", "-"))

    def test_heads_come_after_flushing(self) -> None:
        """What is fitted after flushing does not keep the pressure out: its riser is capped, and it is looked at
        afterwards.
        """
        spots = [point("A", 0, 0, "tank", water_level=20.0), point("S", 20, 0, "tap", depth=0.3)]
        job = Job(draw(spots, [("A", "S")]))
        heads = set(job.section.later)
        self.assertTrue(heads)
        others = [j.id for j in job.done.assembly.joints if j.id not in heads]
        job.say("made", 0.0, others)
        self.assertTrue(next(iter(job.stands().sections.values())).pressurise.open)
        self.assertEqual((job.section.caps, job.section.pump_at), ((), "tap S"))
        job.test(DAY)
        ready = job.stands()
        self.assertTrue(next(iter(ready.sections.values())).proved)
        self.assertEqual((ready.hand_over.unmade, ready.hand_over.done), (len(heads), False))
        job.say("made", 2 * DAY, list(heads))
        self.assertEqual(job.stands().hand_over.unseen, len(heads))
        job.say("looked", 2.5 * DAY, list(heads), override="the valve is locked")
        self.assertEqual(job.stands().hand_over.looked, 0, "a look that passed a shut gate shows nothing")
        job.say("looked", 3 * DAY, list(heads))
        self.assertEqual((job.stands().hand_over.looked, job.stands().hand_over.done), (len(heads), True))


class Suction(unittest.TestCase):
    """Lines through which a pump draws."""

    def test_what_they_see_and_are_tested_at(self) -> None:
        """Open to its water it sees that alone, and is tested at 25 psi; behind a foot valve or a check valve it sees
        what the pump pushes up.
        """
        for intake, check, alone in (("outlet", False, True), ("foot valve", False, False), ("outlet", True, False)):
            with self.subTest(intake=intake, check=check):
                stands = {"depth": 0.6}
                spots = [
                    point("A", 0, 0, "tank", water_level=1.0, intake=intake, **stands),
                    point("C", 3, 0, "check_valve" if check else "valve", **stands),
                    point("V", 6, 0, "valve", **stands),
                    point("P", 9, 0, "pump", **stands),
                    point("T", 20, 0, "tap", **stands),
                ]
                done = derive(draw(spots, [("A", "C"), ("C", "V"), ("V", "P"), ("P", "T")]))
                near = next(s for s in done.sections if "R1" in s.runs)
                shut_off = 1.0 + max(c.head for c in done.plan.by_id["P"].what.curve)  # type: ignore[attr-defined]
                head = 1.0 if alone else shut_off
                self.assertAlmostEqual(near.working, (head + 0.6) * 9.80e3, delta=80)  # cold water, CoolProp
                self.assertAlmostEqual(near.test, 25 * 6894.757 if alone else 1.5 * near.working, delta=30)
                self.assertEqual("a pump draws in it" in near.says, alone)
                for run in ("R3", "R4"):  # before the pump too, where a valve that was shut locks it in
                    beyond = next(s for s in done.sections if run in s.runs)
                    self.assertAlmostEqual(beyond.working, (shut_off + 0.6) * 9.80e3, delta=80)

    def test_a_weak_part_and_the_crews_own_pressure(self) -> None:
        """Never above what its weakest part carries; what the crew says it tests at stands."""
        spots = [
            point("A", 0, 0, "tank", water_level=1.0),
            point("V", 6, 0, "valve"),
            point("P", 9, 0, "pump"),
            point("T", 20, 0, "tap"),
        ]
        runs = [("A", "V"), ("V", "P"), ("P", "T")]
        own = derive(draw(spots, runs, conditions={"test_pressure": 100e3})).sections[0]
        self.assertEqual((own.test, own.says), (100e3, "the job's test pressure"))
        usual = derive(draw(spots, runs)).sections[0]
        self.assertLessEqual(usual.test, usual.limit)


class Parted(unittest.TestCase):
    """Joints that are parted for a test, which no test holds (common practice: the last connections are watched with
    the water on).
    """

    def pumped(self) -> Job:
        """A booster behind a tank, and a tap."""
        spots = [
            point("A", 0, 0, "tank", water_level=4.0),
            point("P", 5, 0, "pump"),
            point("T", 20, 0, "tap", height=0.0),
        ]
        return Job(draw(spots, [("A", "P"), ("P", "T")]))

    def test_the_pumps_own_joints_are_looked_at(self) -> None:
        """The pump is taken out for the test, so its two joints are proved by no gauge: made again after it, and seen
        dry with water on.
        """
        job = self.pumped()
        parted = job.section.parted
        self.assertEqual({job.done.assembly.named[j].point for j in parted}, {"P"})
        self.assertEqual(len(parted), 2)
        self.assertTrue(any("take " in told and " out" in told for told in job.section.isolate))
        job.say("made", 0.0).say("looked", DAY / 2).test(DAY)
        ready = job.stands()
        (section,) = ready.sections.values()
        self.assertEqual((section.proved, section.bury.open, set(section.unseen)), (False, False, set(parted)))
        self.assertRegex(section.bury.why, "2 joints are parted for it: make them again, run the line")
        self.assertEqual((ready.hand_over.unseen, ready.hand_over.done, ready.hand_over.whole), (2, False, ""))
        ready = job.say("looked", 2 * DAY, parted).stands()
        (section,) = ready.sections.values()
        self.assertEqual((section.proved, section.bury.open, section.unseen), (True, True, ()))
        count = len(job.done.assembly.joints)
        self.assertEqual(
            ready.hand_over.whole,
            f"All {count} joints are made; {count - 2} of them tested and 2 were seen dry at work",
        )
        job.say("made", 3 * DAY, parted)
        self.assertEqual(job.stands().hand_over.unseen, 2, "made once more, it is to be looked at once more")

    def test_every_such_joint_comes_on_a_walk(self) -> None:
        """Of every demo job, and of a line that ends in a cap: what no test holds is looked at while some zone runs, a
        vessel's idle branch too.
        """
        capped = draw(
            [
                point("M", 0, 0, "mains"),
                point("J", 5, 0, "junction"),
                point("V", 5, 3, "vessel"),
                point("E", 9, 0, "cap"),
            ],
            [("M", "J"), ("J", "V"), ("J", "E")],
        )
        self.assertEqual(len(derive(capped).sections[0].parted), 2)
        for plan in (
            capped,
            thistledown(),
            herb_bank(),
            tent_meadow(),
            herb_beds(),
            cedar_tub(),
            show_tank(),
            swimming_pond(),
        ):
            done = derive(plan)
            walked = {
                s.joint
                for f in done.sizes.flows.values()
                for s in leak_walk(done.layout, done.assembly, done.sections, f, {}, done.sizes.flows.values())
            }
            with self.subTest(plan.name):
                self.assertLessEqual({j for s in done.sections for j in s.parted}, walked)

    def test_what_is_only_screwed_together_is_run(self) -> None:
        """The head of a drip line at a hose tap has no pipe to hold pressure in: nothing is plugged, it is run and
        looked at.
        """
        (head, rows) = derive(herb_beds()).sections
        self.assertEqual([(s.sort, s.parted, s.isolate, s.caps) for s in (head, rows)], [("run", (), (), ())] * 2)
        self.assertIn("in sight", head.says)


class HandedOver(unittest.TestCase):
    """What the next person is reported."""

    def test_nothing_made(self) -> None:
        """With nothing made nothing is called left to nobody: the count of what is not made stands alone."""
        job = Job(tank_to_tap())
        ready = job.stands()
        count = len(job.done.assembly.joints)
        self.assertEqual(ready.hand_over.says, (f"{count} not made",))
        self.assertFalse(ready.hand_over.done)
        sheet = sheet_html(job.plan, job.done, ready)
        self.assertNotIn("nothing is left", sheet)
        self.assertIn(f"{count} not made.", sheet)

    def test_each_apart(self) -> None:
        """Not made, dry, made, not tested each have their count, in that order, and add up to all."""
        job = Job(tank_to_tap())
        names = [j.id for j in job.done.assembly.joints]
        job.say("made", 0.0, names[:2]).say("dry_fitted", 1.0, names[2:3])
        counted = job.stands().hand_over
        self.assertEqual((counted.unproved, counted.dry, counted.unmade), (2, 1, len(names) - 3))
        self.assertEqual(counted.first, (names[2], *names[:2]))

    def test_all_done_is_said_with_its_figure(self) -> None:
        """All made and tested is said plainly, with the count."""
        job = made().test(DAY)
        self.assertNotIn("Unfinished, by section", sheet_html(job.plan, job.done, job.stands()))
        self.assertIn("Unfinished, by section", sheet_html(job.plan, job.done, made().stands()))
        self.assertIn(
            f"All {len(job.done.assembly.joints)} joints are made; all of them tested",
            sheet_html(job.plan, job.done, job.stands()),
        )

    def test_a_failing_part_is_not_hidden_by_another_section(self) -> None:
        """A section whose joints are all proved says nothing of another's."""
        spots = [
            point("A", 0, 0, "tank", water_level=20.0),
            point("V", 10, 0, "valve"),
            point("T", 20, 0, "tap", height=0.0),
        ]
        job = Job(draw(spots, [("A", "V"), ("V", "T")])).say("made", 0.0).test(DAY)
        ready = job.stands()
        self.assertEqual([s.proved for s in ready.sections.values()], [True, False])
        self.assertEqual(ready.hand_over.unproved, len(job.done.sections[1].joints))
        self.assertEqual(replace(ready.hand_over, first=()).done, False)


if __name__ == "__main__":
    unittest.main()
