"""Buried pipe that crosses other pipe."""

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from hydrarch.core.burial.crossings import crossings
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from tests.core.plans import codes, draw, point


def cross(one: float, other: float, *, old: bool = False, drain: bool = False, x: float = 10.0) -> Plan:
    """A line to the east so deep, and another that crosses it to the north so deep, or a drain."""
    kinds = ("drain_inlet", "outfall") if drain else ("mains", "tap")
    more: dict[str, Any] = {"existing": {}} if old else {}
    spots = [
        point("M", 0, 0, "mains", depth=one),
        point("V", 20, 0, "tap", depth=one),
        point("A", x, -5, kinds[0], depth=other - (0.05 if drain else 0.0)) | more,
        point("B", x, 5, kinds[1], depth=other + (0.05 if drain else 0.0)) | more,
    ]
    made = {"series": "sewer-sdr35", "size": "4"} if drain else {"series": "pvc40", "size": "1"}
    return draw(spots, [("M", "V"), ("A", "B")], runs_more=[{"series": "pvc40", "size": "1"}, made | more])


class Crossings(unittest.TestCase):
    """Two lines, one over the other."""

    def test_gap_from_outside_to_outside(self) -> None:
        """0.2 m from axis to axis, less one pipe's outside; the deeper one is the lower, half-way along."""
        done = derive(cross(0.6, 0.8))
        (found,) = crossings(done.plan, done.layout, done.settled.pipes)
        self.assertEqual((found.upper, found.lower), ("R1", "R2"))
        self.assertAlmostEqual(found.gap, 0.2 - pipe("pvc40", "1").outside, places=9)
        self.assertAlmostEqual(found.share, 0.5, places=9)

    def test_resting_on_another(self) -> None:
        """Less than an inch is reported, through each other stops, more is not shown for two new lines."""
        outside = pipe("pvc40", "1").outside
        for apart, told in ((0.0, "stop"), (outside + 0.01, "warn"), (outside + 0.03, None), (0.4, None)):
            found = [p for p in derive(cross(0.6, 0.6 + apart)).problems("size") if p.code == "pipes-rest"]
            self.assertEqual([p.severity for p in found], [told] if told else [])

    def test_old_pipe(self) -> None:
        """What is there already is dug by hand within a foot; two old pipes are not our work."""
        self.assertIn("crosses-pipe", codes(cross(0.6, 0.8, old=True)))
        self.assertNotIn("crosses-pipe", codes(cross(0.6, 1.0, old=True)))
        self.assertNotIn("crosses-pipe", codes(cross(0.6, 0.8)))
        self.assertIn("metal sheet", " ".join(p.mend for p in derive(cross(0.6, 0.8, old=True)).problems("size")))

    def test_water_over_drain(self) -> None:
        """Water under a drain is reported however far; over it, within 12 in."""
        self.assertIn("water-under-drain", codes(cross(1.2, 0.6, drain=True)))
        self.assertIn("water-under-drain", codes(cross(0.6, 0.8, drain=True)))
        self.assertNotIn("water-under-drain", codes(cross(0.6, 1.0, drain=True)))

    def test_those_that_do_not_cross(self) -> None:
        """Past its end, at a shared point, or side by side: none."""
        for plan in (cross(0.6, 0.6, x=25.0), draw([point("M", 0, 0, "mains", depth=0.5), point("J", 5, 0, "junction",
            depth=0.5), point("V", 9, 0, "tap", depth=0.5), point("W", 5, 5, "tap", depth=0.5)], [("M", "J"), ("J", "V"),
            ("J", "W")])):  # fmt: skip
            done = derive(plan)
            self.assertEqual(crossings(plan, done.layout, done.settled.pipes), ())

    @given(x=st.floats(0.1, 19.9), one=st.floats(0.3, 2), other=st.floats(0.3, 2))
    def test_whichever_is_drawn_first(self, x: float, one: float, other: float) -> None:
        """The same with the runs in the other order."""
        plan = cross(one, other, x=x)
        turned = plan.model_copy(update={"runs": plan.runs[::-1]})
        a, b = (crossings(p, (d := derive(p)).layout, d.settled.pipes) for p in (plan, turned))
        if one != other:
            self.assertEqual(
                [(c.upper, c.lower, round(c.gap, 9)) for c in a], [(c.upper, c.lower, round(c.gap, 9)) for c in b]
            )
        self.assertEqual(len(a), 1)

    @given(
        st.lists(
            st.tuples(*(st.integers(0, 12) for _ in range(4))).filter(lambda s: s[:2] != s[2:]), min_size=2, max_size=9
        )
    )
    def test_as_many_as_by_whole_numbers(self, lines: list[tuple[int, int, int, int]]) -> None:
        """Against crossings by whole numbers, pair by pair."""
        spots, runs = [], []
        for n, (x, y, u, v) in enumerate(lines):
            spots += [point(f"A{n}", x, y, "bend", depth=0.5), point(f"B{n}", u, v, "bend", depth=0.5)]
            runs.append((f"A{n}:line", f"B{n}:line"))
        plan = draw(spots, runs, runs_more=[{"series": "pvc40", "size": "1"}] * len(runs))
        done = derive(plan)
        found = crossings(plan, done.layout, {r.id: pipe("pvc40", "1") for r in plan.runs})
        self.assertEqual(
            {frozenset((c.upper, c.lower)) for c in found},
            {
                frozenset((f"R{i + 1}", f"R{j + 1}"))
                for i, a in enumerate(lines)
                for j, b in enumerate(lines[:i])
                if meets(a, b)
            },
        )


def meets(a: tuple[int, int, int, int], b: tuple[int, int, int, int]) -> bool:
    """Whether two stretches cross, by whole numbers; not where they lie along each other."""

    def side(p: tuple[int, int], q: tuple[int, int], r: tuple[int, int]) -> int:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    (p, q), (r, s) = ((x[:2], x[2:]) for x in (a, b))
    if (q[0] - p[0]) * (s[1] - r[1]) == (q[1] - p[1]) * (s[0] - r[0]):
        return False
    return side(p, q, r) * side(p, q, s) <= 0 and side(r, s, p) * side(r, s, q) <= 0
