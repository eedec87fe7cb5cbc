"""The time of what was said on a device with a wrong clock, or one that was changed before it was sent."""

import unittest
from dataclasses import replace

from hypothesis import example, given
from hypothesis import strategies as st

from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.record.clocks import SLACK, put_right
from hydrarch.core.record.events import Event
from hydrarch.core.record.states import mark_joints
from tests.core.plans import tank_to_tap

_OFF = st.floats(-1e6, 1e6)


class Clocks(unittest.TestCase):
    """Which time counts."""

    @example(-1.0, 61.0, 0.0)  # a second ahead of now by the one clock, a minute by the other
    @given(_OFF, st.none() | _OFF, st.floats(0, 1e6))
    def test_it_lies_between_what_may_be(self, off_now: float, off_then: float | None, waited: float) -> None:
        """The time is never before the earliest that may be, never after both the latest and now; the doubt
        spans them.
        """
        now = 1.7e9
        true_now = now  # the server's
        at = true_now - waited - off_now  # said by the clock as it is now
        late, doubt = put_right(at, off_now=off_now, off_then=off_then, now=now)
        early = late - doubt
        self.assertGreaterEqual(doubt, 0.0)
        may = [at + (o if abs(o) > SLACK else 0.0) for o in (off_now, off_now if off_then is None else off_then)]
        self.assertGreaterEqual(early + 1e-3, min(*may, late))
        if doubt:
            self.assertLessEqual(late, max(now, min(may)) + 1e-3)
            self.assertAlmostEqual(early, min(may), delta=1e-3)
        elif max(may) - min(may) <= 2 * SLACK:
            self.assertAlmostEqual(late, may[0], delta=1e-3)
        else:  # both would lie ahead of now, so it is now
            self.assertGreaterEqual(min(may), now - 1e-3)
            self.assertAlmostEqual(late, now, delta=1e-3)

    @given(_OFF, st.none() | _OFF, st.floats(0, 1e6), st.floats(0, 1e6))
    def test_a_second_clock_bounds_it(
        self, off_now: float, off_then: float | None, waited: float, slept: float
    ) -> None:
        """By a clock that nobody sets and that stands while the device sleeps: the time that counts is never later than
        it leaves, and of a device that knew nothing of its clock nothing counts sooner than the latest that may be.
        """
        now = 1.7e9
        open_for = max(waited - slept, 0.0)
        latest = now - open_for
        wrong = off_then or 0.0  # by how much its clock was to be put right as it was said
        at = now - waited - wrong
        late, doubt = put_right(at, off_now=off_now, off_then=off_then, now=now, latest=latest)
        self.assertLessEqual(late, latest + SLACK + 1e-3)
        self.assertGreaterEqual(doubt, 0.0)
        if off_then is None or abs(wrong) <= SLACK:
            return
        self.assertGreaterEqual(late + 2 * SLACK + 1e-3, min(now - waited, latest))

    def test_a_device_that_never_heard_the_time(self) -> None:
        """Three hours slow as it was said on a page that is open still, ten minutes ago by the second clock, and put
        right since: it counts from then, and the three hours are the doubt. On a page opened anew it counts from now.
        """
        now = 1.7e9
        at = now - 600 - 10800
        self.assertEqual(put_right(at, off_now=0.0, off_then=None, now=now, latest=now - 600), (now - 600, 10800.0))
        self.assertEqual(put_right(at, off_now=0.0, off_then=None, now=now, latest=now), (now, 11400.0))
        self.assertEqual(put_right(at, off_now=0.0, off_then=None, now=now), (at, 0.0))
        # an hour ahead as it was said: it cannot have been later than the second clock leaves
        self.assertEqual(put_right(now + 3000, off_now=0.0, off_then=0.0, now=now, latest=now - 600), (now - 600, 0.0))

    def test_a_test_in_doubt_proves_only_what_was_surely_cured(self) -> None:
        """A test that may have been held before the joints were cured proves nothing; one that surely was
        after, does.
        """
        plan = tank_to_tap()
        done = derive(plan)
        names = [j.id for j in done.assembly.joints]
        marks = mark_joints(done.assembly.joints, names, {}, place=True)
        made = Event(id="1", kind="made", at=1.7e9, by="Ash", joints=marks)
        section = done.sections[0]
        test = Event(
            id="2",
            kind="tested",
            at=1.7e9 + 5 * 86400,
            ended=1.7e9 + 5 * 86400 + 3600,
            by="Ash",
            joints=mark_joints(done.assembly.joints, section.joints, {}, place=False),
            section=section.id,
            pressure=section.test,
            passed=True,
        )
        for doubt, proved in ((None, True), (3600.0, True), (5 * 86400.0, False)):
            stands = where_it_stands(plan, done, [made, replace(test, doubt=doubt)], 1.7e9 + 6 * 86400)
            welds = {j.id for j in done.assembly.joints if j.method == "solvent weld"}
            found = {s.proved for n, s in stands.joints.items() if n in section.joints and n in welds}
            self.assertEqual(found, {proved}, doubt)


if __name__ == "__main__":
    unittest.main()
