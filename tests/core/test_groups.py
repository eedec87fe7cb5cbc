"""Edits of several things at once: what they do, what they refuse, and the laws that no plan breaks."""

import random
import unittest
from collections.abc import Callable
from math import hypot, pi

from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.common_fields import GroupChange, change_all
from hydrarch.core.editing.groups import copied, lifted, mirrored, moved, repeated, set_down, taken_away, turned
from hydrarch.core.editing.measures import way_of
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import layout
from tests.core.plans import RANDOMS, draw, point
from tests.core.test_any_plan import drawn


def line() -> Plan:
    """A tank, a tee with a head on a branch, and a capped end."""
    points = [
        point("T", 0, 0, "tank", water_level=30.0),
        point("J", 10, 0, "junction"),
        point("H", 10, 3, "sprinkler", name="Head 1"),
        point("E", 12, 0, "cap"),
    ]
    pairs = [("T", "J"), ("J", "H"), ("J", "E")]
    more = [{"measured_length": 10.2}, {"series": "pvc40", "size": "1/2"}, {}]
    return draw(points, pairs, runs_more=more, scenarios=[{"id": "s", "name": "All", "open": ["H"]}])


def bones(plan: Plan) -> tuple[object, ...]:
    """A plan but for its places and its measured lengths."""
    runs = [r.model_copy(update={"measured_length": None}).model_dump() for r in plan.runs]
    rest = plan.model_dump(mode="json", exclude={"points", "runs"})
    return runs, [p.model_dump(exclude={"x", "y", "depth"}) for p in plan.points], rest


class Groups(unittest.TestCase):
    """By hand."""

    def test_six_heads_every_twelve_metres(self) -> None:
        """A tee with its head, six in all: five more, on pipe from tee to tee, each open where the first is."""
        done = repeated(line(), ["J", "H"], way_of("12 m east"), 6, joined=True)
        heads = [p for p in done.plan.points if p.what.kind == "sprinkler"]
        self.assertEqual([p.x for p in heads], [10, 22, 34, 46, 58, 70])
        self.assertEqual([p.name for p in heads], [f"Head {n}" for n in range(1, 7)])
        self.assertEqual(done.plan.scenarios[0].open, tuple(p.id for p in heads))
        lay = layout(done.plan)
        tees = [p for p in done.plan.points if p.what.kind == "junction"]
        between = sorted(
            round(lay.lines[r.id].length, 6) for r in done.plan.runs if set(r.points) <= {p.id for p in tees}
        )
        self.assertEqual(between, [12.0] * 5)
        self.assertEqual(
            len([r for r in done.plan.runs if r.size == "1/2"]), 6, "each head on its branch as the first is"
        )
        self.assertIn("6 in all, each 12", done.says)

    def test_the_tape_is_forgotten_where_pipe_is_stretched(self) -> None:
        """The run with one end in the group has another length now; a run within it has the same."""
        done = moved(line(), ["J", "H", "E"], (1.0, 0.0, 0.5))
        self.assertIsNone(done.plan.run_by_id["R1"].measured_length)
        self.assertIn("measure again", done.says)
        whole = moved(line(), ["T", "J", "H", "E"], (1.0, 0.0, 0.0))
        self.assertEqual(whole.plan.run_by_id["R1"].measured_length, 10.2)
        self.assertNotIn("measure again", whole.says)
        self.assertAlmostEqual(done.plan.by_id["H"].level, line().by_id["H"].level + 0.5)

    def test_arcs_and_walls_go_round_with_the_rest(self) -> None:
        """A quarter that waters north-east waters north-west after a quarter turn, and as a mirror shows it; a wall
        goes on that way, too.
        """
        arc = {"arc": pi / 2, "begins": 0.0}
        points = [
            point("H", 0, 0, "sprinkler", **arc),
            point("B", 4, 0, "bend"),
            {**point("X", 0, 5, "mark"), "what": {"kind": "mark", "east": 3.0}},
        ]
        plan = draw(points, [])
        for done, north_south in (
            (turned(plan, "HBX", pi / 2), False),
            (mirrored(plan, "HBX", "east-west"), False),
            (mirrored(plan, "HBX", "north-south"), True),
        ):
            head = done.plan.by_id["H"].what.model_dump()
            self.assertAlmostEqual(head["begins"], 1.5 * pi if north_south else pi / 2)
        wall = turned(plan, ["X"], pi / 2).plan.by_id["X"].what.model_dump()
        self.assertEqual((wall["east"], wall["north"]), (0.0, 3.0), "a wall by itself is turned")
        self.assertEqual(mirrored(plan, "HBX", "east-west").plan.by_id["X"].what.model_dump()["east"], -3.0)

    def test_nothing_comes_to_lie_on_another_unseen(self) -> None:
        """A copy or a move onto another thing is refused, and by name."""
        with self.assertRaisesRegex(HydrarchError, "cap E would come to lie on"):
            moved(line(), ["E"], (-2.0, 0.0, 0.0))
        with self.assertRaisesRegex(HydrarchError, "Head 2 would come to lie on cap E"):
            copied(line(), ["H"], (2.0, -3.0, 0.0))
        with self.assertRaisesRegex(HydrarchError, "not on the drawing any more"):
            moved(line(), ["gone"], (1.0, 0.0, 0.0))
        with self.assertRaisesRegex(HydrarchError, "one thing by itself"):
            turned(line(), ["E"], pi / 2)

    def test_given_to_all(self) -> None:
        """Depth and level are two things; pipe goes to pipe, and another pipe forgets a size that is not made in it."""
        deep = change_all(line(), ["J", "H", "E"], GroupChange(depth=0.45)).plan
        self.assertEqual([deep.by_id[p].depth for p in "TJHE"], [0.0, 0.45, 0.45, 0.45])
        flat = change_all(line(), ["J", "H", "E"], GroupChange(level=-1.0)).plan
        self.assertEqual({round(flat.by_id[p].level, 9) for p in "JHE"}, {-1.0})
        pipe = change_all(line(), ["R2"], GroupChange(series="pe100-sdr11", situation="in wall")).plan
        self.assertEqual((pipe.run_by_id["R2"].series, pipe.run_by_id["R2"].size), ("pe100-sdr11", None))
        self.assertEqual([r.situation for r in pipe.runs], ["buried", "in wall", "buried"])
        with self.assertRaisesRegex(HydrarchError, "two things"):
            change_all(line(), ["J"], GroupChange(depth=1.0, level=1.0))
        with self.assertRaisesRegex(HydrarchError, "no pipe is chosen"):
            change_all(line(), ["E"], GroupChange(size="1"))
        with self.assertRaises((ValidationError, HydrarchError)):
            change_all(line(), ["R2"], GroupChange(size="no such"))

    def test_a_practice_of_their_own(self) -> None:
        """A head on a swing riser and its tee by a saddle where the rest of the job is not; taped otherwise; and as
        elsewhere again.
        """
        before = change_all(line(), ["J", "H", "E"], GroupChange(depth=0.45)).plan
        done = change_all(before, ["J", "H", "E"], GroupChange(practice="riser", way="swing"))
        self.assertIn("a swing riser", done.says)
        names = {p.name for p in derive(done.plan).assembly.parts}
        self.assertTrue(any("wing" in n for n in names), names)
        self.assertFalse(any("wing" in p.name for p in derive(before).assembly.parts))
        again = change_all(done.plan, ["J", "H", "E"], GroupChange(practice="riser", way=""))
        self.assertEqual(again.plan, before)
        taped = change_all(line(), ["H"], GroupChange(practice="tape", way="ten")).plan
        self.assertEqual(taped.practices_at("H"), {"tape": "ten"})
        self.assertEqual(taped.practices_at("J"), {})
        for practice, way in (("drain", "thin"), ("riser", "straightish"), ("nonsense", "")):
            with self.assertRaises(HydrarchError):
                change_all(line(), ["H"], GroupChange(practice=practice, way=way))

    def test_a_part_goes_into_another_job_with_its_choices(self) -> None:
        """A tap on its riser, lifted here, is set on the end of another line; it stays as editable as anything
        drawn.
        """
        points = [
            point("B", 0, 0, "bend"),
            point("U", 0, 0, "bend", depth=-0.8),
            point("K", 0.1, 0, "tap", depth=-0.8, name="Yard tap"),
        ]
        riser = lifted(
            draw(points, [("B", "U"), ("U", "K")], nodes=[{"point": "U", "how": "two elbows"}]),
            ["B", "U", "K"],
            "Riser",
        )
        into = draw([point("T", 0, 0, "tank", water_level=20.0), point("X", 30, 4, "bend")], [("T", "X")])
        done = set_down(into, riser, 1.0, 1.0, onto="X")
        tap = next(p for p in done.plan.points if p.what.kind == "tap")
        self.assertEqual((tap.x, tap.y, tap.name), (30.1, 4.0, "Yard tap"))
        self.assertEqual(len(done.plan.points), 4, "the foot of the riser is the end of the line")
        self.assertEqual([n.how for n in done.plan.nodes], ["two elbows"])
        self.assertFalse([p for p in derive(done.plan).problems() if p.code == "no-source"])
        with self.assertRaisesRegex(HydrarchError, "stands there already"):
            set_down(into, riser, 0.0, 0.0, onto="T")

    def test_words_for_how_far(self) -> None:
        """Only lengths and ways, and not back to the start."""
        self.assertEqual(way_of("3 ft e, 1 ft up", "us"), (0.9144, 0.0, 0.3048))
        for text in ("2 e, 2 w", "2 e, tap"):
            with self.subTest(text), self.assertRaises(HydrarchError):
                way_of(text)


class Laws(unittest.TestCase):
    """Of any plan, and any choice of its things."""

    @settings(max_examples=40, deadline=None)
    @given(RANDOMS, st.integers(1, 255), st.tuples(*[st.floats(-200, 200).map(lambda v: round(v, 3))] * 3))
    def test_there_and_back(self, rng: random.Random, choice: int, by: tuple[float, float, float]) -> None:
        """Each edit is undone by its contrary, makes a plan that opens again, and never changes what was not chosen."""
        plan = drawn(rng)
        if plan is None:
            return
        chosen = [p.id for i, p in enumerate(plan.points) if choice >> i & 1] or [plan.points[0].id]
        if hypot(*by) < 0.02:
            by = (1.0, 0.0, 0.0)
        back = (-by[0], -by[1], -by[2])
        pairs: tuple[Callable[[Plan], Plan], ...] = (
            lambda p: moved(moved(p, chosen, by).plan, chosen, back).plan,
            lambda p: mirrored(mirrored(p, chosen, "east-west").plan, chosen, "east-west").plan,
            lambda p: mirrored(mirrored(p, chosen, "north-south").plan, chosen, "north-south").plan,
            lambda p: turned(turned(p, chosen, pi / 2).plan, chosen, -pi / 2).plan,
            lambda p: taken_away((made := copied(p, chosen, by)).plan, made.chosen).plan,
        )
        for n, pair in enumerate(pairs):
            try:
                again = pair(plan)
            except HydrarchError as error:
                self.assertRegex(str(error), "come to lie|by itself|beyond what a drawing")
                continue
            self.assertEqual(Plan.model_validate_json(again.model_dump_json()), again)
            self.assertEqual(bones(again), bones(plan), n)
            for p, q in zip(again.points, plan.points, strict=True):
                self.assertLess(hypot(p.x - q.x, p.y - q.y, p.level - q.level), 1e-5, "a hundredth of a millimetre")

    @settings(max_examples=20, deadline=None)
    @given(RANDOMS, st.integers(2, 6))
    def test_a_copy_is_like_what_it_is_of(self, rng: random.Random, times: int) -> None:
        """As many things and pipes of each kind, so many times; lengths of pipe within the group the same."""
        plan = drawn(rng)
        if plan is None or not plan.runs:
            return
        chosen = [p.id for p in plan.points]
        done = repeated(plan, chosen, (500.0, 0.0, 0.0), times)
        kinds = sorted(p.what.kind for p in plan.points)
        self.assertEqual(sorted(p.what.kind for p in done.plan.points), sorted(kinds * times))
        self.assertEqual(len(done.plan.runs), len(plan.runs) * times)
        lengths = sorted(line.length for line in layout(plan).lines.values())
        again = sorted(line.length for line in layout(done.plan).lines.values())
        for a, b in zip(again, sorted(lengths * times), strict=True):
            self.assertAlmostEqual(a, b, places=4)


if __name__ == "__main__":
    unittest.main()
