"""Tested means made, as the drawing has it, cured, and held by a valid test that nothing contradicts: change any of
these and the word goes.
"""

import json
import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from hydrarch.core.commissioning.readiness import SectionState, looked_gate
from hydrarch.core.derivation.chain import derive
from hydrarch.core.record.events import (
    Event,
    Instrument,
    JointMark,
    Reading,
    event_body,
    read_events,
    read_said,
    stored_event,
)
from hydrarch.core.record.log import Log
from tests.core.test_proof import DAY, Job, made

ID = "0b6a8a7e-2b64-4e0e-9d1b-6c1f6a3a9b10"


def section(job: Job) -> SectionState:
    """The first section as it stands."""
    return next(iter(job.stands().sections.values()))


class Tested(unittest.TestCase):
    """What takes the word away."""

    def test_other_pipe_is_not_tested(self) -> None:
        """After a test the run is made of other pipe: nothing of it is tested any more, and it may not be buried."""
        job = made().test(DAY)
        self.assertTrue(section(job).proved)
        runs = tuple(r.model_copy(update={"series": "pvc80", "size": None}) for r in job.plan.runs)
        job.plan = job.plan.model_copy(update={"runs": runs})
        job.done = derive(job.plan)
        now = section(job)
        self.assertFalse(now.proved or now.bury.open or now.pressurise.open)
        self.assertFalse(now.tests[0].proves)
        self.assertIn("made to another drawing", now.tests[0].short[0])
        self.assertFalse(job.stands().hand_over.done)

    def test_contradicting_tests_prove_nothing_until_one_is_withdrawn(self) -> None:
        """One of the same hours that failed, or stood at another pressure, stands against it, whichever was entered
        first.
        """
        hold = made().section.hold
        for more in ({"passed": False}, {"pressure": made().section.test * 0.5}):
            for first, second in ((DAY, DAY - 600), (DAY - 600, DAY)):
                with self.subTest(more=more, first=first):
                    job = made().test(first, ended=first + hold + 1200).test(second, ended=second + hold + 1200, **more)
                    now = section(job)
                    self.assertFalse(now.proved or now.bury.open)
                    self.assertTrue(all("of the same time" in t.short[-1] for t in now.tests), now.tests)
                    self.assertGreater(job.stands().hand_over.clashing, 0)
                    job.say("withdrawn", 3 * DAY, [], of=job.events[-1].id, note="the gauge was shut off")
                    now = section(job)
                    self.assertTrue(now.proved and now.bury.open)
                    self.assertEqual(len(now.tests), 1, "it is counted no more")
                    self.assertEqual(len(Log(job.events).events), 4, "and stays in the record")

    def test_a_failure_that_ends_after_it_began_takes_the_proof(self) -> None:
        """A long test that failed in the end is not outdone by a short one within it."""
        job = made().test(DAY - 10, ended=DAY + 7200, passed=False).test(DAY, ended=DAY + 900)
        self.assertFalse(section(job).proved)

    def test_what_is_simulated_proves_nothing(self) -> None:
        """Neither by its instrument nor by a single reading; nor does it stand against a real test."""
        test = made().section.test
        steady = tuple(Reading(60.0 * n, test) for n in range(31))
        for more in (
            {"readings": tuple(replace(r, simulated=True) for r in steady)},
            {"readings": (*steady[:-1], replace(steady[-1], simulated=True))},
            {"instrument": Instrument("simulated")},
        ):
            with self.subTest(more=len(more)):
                now = section(made().test(DAY, ended=DAY + 1800, **more))
                self.assertFalse(now.proved or now.tests[0].proves)
                self.assertTrue(now.tests[0].simulated)
        real = made().test(DAY).test(DAY + 60, passed=False, instrument=Instrument("simulated"))
        self.assertTrue(section(real).proved)

    def test_dry_after_made_waits_for_a_person(self) -> None:
        """Somebody else says of made joints that they are only dry: no pressure, no burying, until one word is
        withdrawn or they are made.
        """
        job = made().test(DAY)
        joint = job.done.assembly.joints[0].id
        job.say("dry_fitted", 2 * DAY, [joint])
        job.events[-1] = replace(job.events[-1], by="Rowan")
        now = section(job)
        self.assertFalse(now.proved or now.pressurise.open or now.fill.open)
        self.assertIn("records contradict on 1 joint", now.pressurise.why)
        settled = Job(job.plan)
        settled.events = [
            *job.events,
            Event(id="w", kind="withdrawn", at=3 * DAY, by="Ash", of=job.events[-1].id, note="it was another joint"),
        ]
        self.assertTrue(section(settled).proved)

    def test_no_leak_seen_wants_water_in_the_line(self) -> None:
        """Ten seconds after the first joint, with the others unmade, nobody can have seen it dry in use; with all made
        and cured one can.
        """
        job = Job(made().plan)
        joints = [j.id for j in job.done.assembly.joints]
        job.say("made", 0.0, joints[:1])
        gate = looked_gate(job.done.sections, job.stands(10.0), joints[:1], 10.0)
        self.assertFalse(gate.open)
        self.assertRegex(gate.why, "too fresh for water|no water in")
        whole = made()
        self.assertTrue(looked_gate(whole.done.sections, whole.stands(DAY), joints[:1], DAY).open)
        early = made().say("looked", 10.0, joints)
        waits = [j for j, s in early.stands().joints.items() if (s.fill_at or 0) > 10.0]
        self.assertTrue(waits)
        self.assertTrue(all(early.stands().joints[j].looked is None for j in waits))

    def test_a_new_joint_in_what_was_buried_is_not_buried(self) -> None:
        """A section is buried when all of it is; a joint that is made again in it lies open."""
        job = made().test(DAY).say("buried", 2 * DAY, section="sec-R1")
        self.assertTrue(section(job).buried)
        job.say("made", 3 * DAY, [job.done.assembly.joints[0].id])
        self.assertFalse(section(job).buried)


class Shape(unittest.TestCase):
    """One shape, wherever an event is."""

    @given(
        st.builds(
            Event,
            id=st.just(ID),
            kind=st.just("tested"),
            at=st.floats(1e9, 2e9),
            by=st.text(
                st.characters(min_codepoint=32, max_codepoint=0x2FF, exclude_characters="\x7f"), min_size=1, max_size=20
            ),
            joints=st.dictionaries(
                st.from_regex(r"[A-Z][0-9a-z]{1,8}~[0-9]", fullmatch=True), st.builds(JointMark), max_size=3
            ),
            section=st.just("sec-R1"),
            pressure=st.floats(1, 1e6),
            ended=st.floats(2.1e9, 3e9),
            passed=st.booleans(),
            readings=st.lists(
                st.builds(
                    Reading,
                    at=st.floats(0, 1e4),
                    pressure=st.floats(0, 1e6),
                    temperature=st.none() | st.floats(280, 300),
                    simulated=st.booleans(),
                ),
                max_size=5,
            ).map(tuple),
            instrument=st.none()
            | st.builds(
                Instrument, kind=st.sampled_from(["gauge", "logger", "simulated"]), error=st.none() | st.floats(1, 1e5)
            ),
        )
    )
    def test_stored_exported_and_said_alike(self, event: Event) -> None:
        """What is stored and exported reads back as it was; what a page says of it is read by the same rules."""
        body = event_body(event)
        self.assertEqual(stored_event(json.dumps(body)), event)
        self.assertEqual(read_events([body]), (event,))
        said = read_said({**body, "joints": list(event.joints)})
        self.assertEqual(replace(said, joints=event.joints), event)

    def test_what_is_wrong_is_named(self) -> None:
        """Each fault with its place; what only the server writes is refused from a page."""
        good = {"id": ID, "kind": "made", "at": 1.7e9, "by": "Ash", "joints": ["R1a~1"]}
        self.assertEqual(list(read_said(good).joints), ["R1a~1"])
        for more, says in (
            ({"kind": "ran"}, "server alone"),
            ({"clock": 3.0}, "server alone"),
            ({"joints": []}, "names its joints"),
            ({"kind": "withdrawn", "of": ID}, "says why"),
            ({"kind": "withdrawn", "note": "x"}, "what it was done to"),
            ({"readings": [{"at": 0.0, "pressure": "high"}]}, "number"),
            ({"id": "x"}, "hexadecimal"),
            ({"more": 1}, "unexpected|nexpected"),
            ({"instrument": {"kind": "crystal ball"}}, "gauge"),
            ({"at": float("nan")}, "finite|number"),
            ({"by": "a\x07"}, "control characters"),
        ):
            with self.subTest(more=more), self.assertRaisesRegex(ValidationError, says):
                read_said({**good, **more})

    def test_what_an_earlier_version_kept_is_read(self) -> None:
        """An event that today's limits would refuse is read from the database as it is."""
        old = {
            "id": "e" * 80,
            "kind": "made",
            "at": 5.0,
            "by": "",
            "joints": {"R1a~1": {"signature": "weld"}},
            "note": "n" * 900,
        }
        found = stored_event(json.dumps(old))
        self.assertEqual((found.at, found.joints["R1a~1"].signature, len(found.note)), (5.0, "weld", 900))
