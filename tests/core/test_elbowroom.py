"""Room for hands and tools about a joint, by hand: how far off a pipe must run so that a nut, a wrench, a handle has
its room.
"""

import unittest
from itertools import pairwise

from hydrarch.core.cutting.elbowroom import NUT
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.plan.document import Plan
from hydrarch.demo import drying_yard, herb_bank, thistledown
from tests.core.plans import draw, point

PIPE: list[dict[str, str | None]] = [{"series": "pvc40", "size": "1", "situation": "on bracket"}]


def beside(kind: str, *lines: tuple[float, float], series: str = "pvc40") -> Derivation:
    """A 1 in line along x with a thing in its middle, and straight pipe beside it at those places (north, up, in m)."""
    main = [("M", 0.0, 0.0, 0.0, "mains"), ("V", 2.0, 0.0, 0.0, kind), ("E", 4.0, 0.0, 0.0, "cap")]
    points = [point(n, x, y, k, depth=-1.0 - z) for n, x, y, z, k in main]
    pairs = [(a[0], b[0]) for a, b in pairwise(main)]
    for n, (north, up) in enumerate(lines):
        points += [
            point(f"A{n}", 0.5, north, "cap", depth=-1.0 - up),
            point(f"B{n}", 3.5, north, "cap", depth=-1.0 - up),
        ]
        pairs.append((f"A{n}:line", f"B{n}:line"))
    more = [{"series": series, "size": "1", "situation": "on bracket"}] * len(pairs)
    return derive(draw(points, pairs, runs_more=more), strict=True)


def told(done: Derivation) -> list[str]:
    """What is said of room at the thing in the middle."""
    return [p.says for p in done.problems() if p.code == "no-room" and p.where == "V"]


class Room(unittest.TestCase):
    """Pipe beside a thing."""

    def test_a_nut_wants_a_finger_all_round(self) -> None:
        """Beside a union: half of the other pipe, the nut's radius and a finger; a little less is told, a little more
        is not.
        """
        union = next(b for b in beside("union").bodies if b.point == "V" and b.family == "union")
        pipe = 0.0334 / 2  # 1 in schedule 40 is 33.4 mm outside, ASTM D1785
        need = NUT
        least = union.barrels[0].radius + need.reach + need.thick / 2 + pipe
        self.assertEqual(told(beside("union", (least + 0.004, 0.0))), [])
        said = told(beside("union", (least - 0.004, 0.0)))
        self.assertEqual(len(said), 1)
        self.assertIn("fingers about its nut", said[0])

    def test_a_line_of_any_length_is_in_the_way(self) -> None:
        """Three kilometres of pipe, a finger too near to a union somewhere along them: told as of a short piece."""
        union = next(b for b in beside("union").bodies if b.point == "V" and b.family == "union")
        near = union.barrels[0].radius + NUT.reach + 0.0334 / 2
        for first, last in ((0.0, 4.0), (-1000.0, 2003.0), (1.99, 2.01), (-3000.0, 2.0), (2.0, 3000.0)):
            with self.subTest(first=first, last=last):
                points = [point(n, x, 0, k) for n, x, k in (("M", 0, "mains"), ("V", 2.0, "union"), ("E", 4.0, "cap"))]
                points += [point("A", first, near, "cap"), point("B", last, near, "cap")]
                done = derive(draw(points, [("M", "V"), ("V", "E"), ("A:line", "B:line")], runs_more=PIPE * 3))
                self.assertEqual(len(told(done)), 1)

    def test_a_wrench_wants_a_sixth_of_a_turn(self) -> None:
        """A threaded filter with pipe on one side has room on the others; boxed in on four sides it has none."""
        near = 0.09
        self.assertEqual([s for s in told(beside("filter", (near, 0.0))) if "wrench" in s], [])
        boxed = beside(
            "filter",
            (near, 0.0),
            (-near, 0.0),
            (0.0, near),
            (0.0, -near),
            (near, near),
            (near, -near),
            (-near, near),
            (-near, -near),
        )
        self.assertTrue([s for s in told(boxed) if "wrench" in s])

    def test_a_handle_swings_on_a_side_that_is_free(self) -> None:
        """A ball valve beside one pipe is handled from another side; between four that all but touch it, from none."""
        near = 0.045
        self.assertEqual([s for s in told(beside("valve", (near, 0.0))) if "handle" in s], [])
        boxed = beside("valve", (near, 0.0), (-near, 0.0), (0.0, near), (0.0, -near))
        self.assertTrue([s for s in told(boxed) if "handle" in s])

    def test_a_line_by_itself_has_room(self) -> None:
        """What stands at the same point is never in its own way: nothing is reported in the demo, or of a lone line."""
        for done in (
            *(derive(f()) for f in (thistledown, herb_bank, drying_yard)),
            beside("union"),
            beside("filter"),
            beside("valve"),
        ):
            self.assertEqual([p for p in done.problems() if p.code == "no-room"], [])
        self.assertEqual([p for p in derive(Plan(name="n")).problems() if p.code == "no-room"], [])


if __name__ == "__main__":
    unittest.main()
