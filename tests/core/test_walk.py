"""The leak walk and what a zone wets, in the core."""

import unittest

from hydrarch.core.base.identity import head_joint
from hydrarch.core.commissioning.walk import leak_walk, wet_sections
from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.record.events import Event
from hydrarch.core.record.states import mark_joints
from hydrarch.demo import JOBS, demo_job, herb_bank, thistledown

PLAN = thistledown()
DONE = derive(PLAN)


class Spots(unittest.TestCase):
    """Where hands go for a test, by their ids."""

    def test_spots_are_what_the_words_say(self) -> None:
        """Pump, air and caps of every section of the demo are at the points the words name; what is shut or plugged is
        one of its ends, and is said so.
        """
        caps = 0
        for name in JOBS:
            plan = demo_job(name).plan
            for s in derive(plan).sections:
                for spot, words in ((s.spots.pump, s.pump_at), (s.spots.air, s.air_at)):
                    self.assertEqual(plan.by_id[spot].label if spot else words, words)
                self.assertEqual(tuple(plan.by_id[p].label for p in s.spots.caps), s.caps)
                caps += len(s.spots.caps)
                for p in (*s.spots.shut, *s.spots.plugs):
                    self.assertTrue(any(plan.by_id[p].label in told for told in s.isolate), (s.name, p))
        self.assertGreater(caps, 10)


class Walk(unittest.TestCase):
    """Order and extent."""

    def test_only_where_water_goes(self) -> None:
        """Watering wets all three sections, the taps only the main's; the loop is walked from both sides by
        distance.
        """
        names = {s: [x.name for x in wet_sections(DONE.sections, f)] for s, f in DONE.sizes.flows.items()}
        self.assertEqual(len(names["meadow"]), 3)
        self.assertEqual(len(names["taps"]), 2)
        self.assertTrue(set(names["taps"]) < set(names["meadow"]))

    def test_every_joint_of_what_is_wet(self) -> None:
        """Each joint of the wet runs, risers of open heads included, once, nearest first."""
        flow = DONE.sizes.flows["meadow"]
        stops = leak_walk(DONE.layout, DONE.assembly, DONE.sections, flow, {})
        walked = [s.joint for s in stops]
        self.assertEqual(len(walked), len(set(walked)))
        self.assertEqual([s.along for s in stops], sorted(s.along for s in stops))
        wet = {r for r, f in flow.runs.items() if abs(f.flow) > 1e-9}
        self.assertLessEqual({j.id for j in DONE.assembly.joints if j.run in wet}, set(walked))
        self.assertTrue({head_joint(f"S{n}") for n in range(1, 5)} <= set(walked))
        self.assertIn(head_joint("T1"), walked, "the tap is shut, and stands under the same pressure")

    def test_what_was_seen_is_told(self) -> None:
        """A joint seen dry carries when; made again it does not."""
        joint = DONE.assembly.joints[0]
        made = Event(id="1", kind="made", at=100.0, by="Ash", joints=mark_joints([joint], [joint.id], {}, True))
        looked = Event(id="2", kind="looked", at=200.0, by="Rowan", joints=mark_joints([joint], [joint.id], {}, True))
        again = Event(id="3", kind="made", at=300.0, by="Ash", joints=mark_joints([joint], [joint.id], {}, True))
        for events, told in (([made], None), ([made, looked], 200.0), ([made, looked, again], None)):
            states = where_it_stands(PLAN, DONE, events, 400.0).joints
            stop = next(
                s
                for s in leak_walk(DONE.layout, DONE.assembly, DONE.sections, DONE.sizes.flows["meadow"], states)
                if s.joint == joint.id
            )
            self.assertEqual(stop.looked, told)

    def test_a_union_beside_a_filter_is_walked_too(self) -> None:
        """Everything between the runs counts: the valve and unions the crew standards put beside a filter."""
        plan = herb_bank()
        done = derive(plan)
        walked = {s.joint for s in leak_walk(done.layout, done.assembly, done.sections, done.sizes.flows["both"], {})}
        self.assertTrue({j.id for j in done.assembly.joints if j.point == "F"} <= walked)
