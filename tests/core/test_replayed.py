"""What tests cover, held against a replay of the events by a count of its own."""

import unittest
from typing import Any, cast

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.making.steps import joint_cure
from hydrarch.core.record.events import Event, EventKind
from hydrarch.core.record.states import mark_joints
from hydrarch.demo import thistledown

DAY = 86400.0


class Replayed(unittest.TestCase):
    """What tests cover, against a replay of the events by a count of its own."""

    PLAN = thistledown()
    DONE = derive(PLAN)

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(
            st.tuples(st.integers(0, 5), st.integers(0, 500), st.booleans(), st.booleans()), min_size=2, max_size=14
        )
    )
    def test_cover_of_tests(self, steps: list[tuple[int, int, bool, bool]]) -> None:
        """All made, then joints taken apart and made again, and tests that pass, fail, stop short or come before a
        joint has cured, in any order: a joint is proved where the last that happened to it or to its section since it
        was made and cured was a test that held long enough at enough pressure; else not.
        """
        joints, parts = self.DONE.assembly.joints, self.DONE.sections
        home = {j: s for s in parts for j in s.joints}
        made = {str(j.id): 1.0 for j in joints}
        proved: set[str] = set()
        begun = mark_joints(joints, made, {}, place=False)
        events, now = [Event(id="first", kind="made", at=1.0, by="Ash", joints=begun)], 1.0
        for n, (what, pick, soon, good) in enumerate(steps):
            now += 2.0 if soon else 6 * DAY
            more: dict[str, Any] = {}
            section, some = parts[pick % len(parts)], joints[pick % len(joints) :: 3]
            if what < 2:
                kind, names = ("made" if what == 0 or good else "undone"), [str(j.id) for j in some]
            else:
                held = section.hold * (1.0 if good or what != 5 else 0.5)
                press = section.test * (1.0 if good or what != 4 else 0.5)
                kind, names = "tested", [str(j) for j in section.joints]
                more = {"section": section.id, "pressure": press, "ended": now + held, "passed": good or what in (4, 5)}
            marks = mark_joints(joints, names, {}, place=False)
            events.append(Event(id=f"e{n}", kind=cast(EventKind, kind), at=now, by="Ash", joints=marks, **more))
            for name in names:
                if kind == "made":
                    made[name] = now
                    proved.discard(name)
                elif kind == "undone":
                    made.pop(name, None)
                    proved.discard(name)
                elif name in made:
                    clock = joint_cure(self.PLAN, self.DONE.assembly.named[name], section.test, None)
                    cured = now >= made[name] + (clock.cure if clock else 0.0)
                    if not more["passed"]:
                        proved.discard(name)
                    elif good and cured and name not in section.later:
                        proved.add(name)
            now = max(now, float(more.get("ended", now)))
        stands = where_it_stands(self.PLAN, self.DONE, events, now + 60 * DAY)
        self.assertEqual({j for j, s in stands.joints.items() if s.proved}, proved)
        for section in parts:
            mine = [j for j in section.joints if j not in section.later]
            if stands.sections[section.id].proved:
                self.assertLessEqual(set(mine), proved)
        self.assertEqual(set(home), {j.id for j in joints})


if __name__ == "__main__":
    unittest.main()
