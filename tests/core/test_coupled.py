"""Things joined port to port with no pipe between."""

import unittest
from itertools import pairwise
from typing import Any

from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.plan.document import Plan
from tests.core.plans import draw, point

TANK = point("K", 0, 0, "tank", water_level=20)
TAP = point("T", 6, 0, "tap")
COUPLED: dict[str, Any] = {"coupled": True}
NPT = {"market": "north-american"}


def joined(points: list[dict[str, Any]], runs: list[tuple[str, str]], coupled: set[int], **more: Any) -> Derivation:
    """A plan of which the runs of those numbers have no pipe, worked out."""
    fixed = more.pop("fixed", {})
    runs_more = [COUPLED if n in coupled else fixed for n in range(1, len(runs) + 1)]
    return derive(draw([TANK, *points, TAP], runs, runs_more=runs_more, conditions=NPT, **more))


def stack(done: Derivation, a: str, b: str) -> list[Any]:
    """The joints between two things that are joined without pipe, from the first on; a and b are ends of the run
    between.
    """
    return [j for j in done.assembly.joints if j.end in (a, b)]


class Coupled(unittest.TestCase):
    """Port to port."""

    def sound(self, done: Derivation, run: str) -> list[Any]:
        """Nothing is wrong, the run has no piece, and its joints lead from one body to the other; those joints."""
        self.assertEqual([p.code for p in done.problems() if p.severity != "note" and p.code != "not-buried"], [])
        self.assertNotIn(run, [r for p in done.cuts.pieces for r in p.runs])
        joints = stack(done, f"{run}a", f"{run}b")
        self.assertTrue(joints)
        for one, two in pairwise(joints):
            self.assertEqual(one.b.part, two.a.part)
        self.assertFalse(any(s.pipe for j in joints for s in (j.a, j.b)))
        made = {t.joint for t in done.work.tasks}
        self.assertLessEqual({j.id for j in joints}, made)
        self.assertTrue(all(any(j.id in s.joints for s in done.sections) for j in joints))
        return joints

    def test_two_parts_that_are_chosen(self) -> None:
        """A filter screwed on a preventer: both have female threads, so a close nipple goes between (common
        practice).
        """
        done = joined(
            [point("BP", 1, 0, "backflow"), point("F", 1.3, 0, "filter")], [("K", "BP"), ("BP", "F"), ("F", "T")], {2}
        )
        joints = self.sound(done, "R2")
        self.assertEqual([j.method for j in joints], ["thread", "thread"])
        between = fitting(joints[0].b.fitting or "")
        self.assertEqual(between.family, "nipple")
        names = {p.point: fitting(p.fitting).family for p in done.assembly.parts if p.end is None}
        self.assertEqual((names["BP"], names["F"]), ("backflow preventer", "filter"))

    def test_one_end_given(self) -> None:
        """A union at a pump and a valve on a tank take the size of the port, and the pipe is reduced beyond them."""
        done = joined(
            [point("P", 1, 0, "pump"), point("U", 1.3, 0, "union")], [("K", "P"), ("P", "U"), ("U", "T")], {2}
        )
        joints = self.sound(done, "R2")
        self.assertEqual(joints[0].a.end, "npt:female:1-1/4")
        self.assertIn(
            "union", fitting(next(p.fitting for p in done.assembly.parts if p.point == "U" and p.end is None)).family
        )
        done = joined([point("V", 0.3, 0, "valve")], [("K", "V"), ("V", "T")], {1})
        self.assertEqual(self.sound(done, "R1")[0].a.what, "tank K")

    def test_both_ends_given(self) -> None:
        """A union nut on a filter of the crew's own, screwed to a pump: what suits both is found (2 in buttress from
        1-1/4 thread).
        """
        own = [
            {"name": "in", "role": "in", "end": "buttress:male:2"},
            {"name": "out", "role": "out", "end": "npt:male:3/4"},
        ]
        things = [point("P", 1, 0, "pump"), point("E", 1.3, 0, "equipment", own_ports=own)]
        done = joined(things, [("K", "P"), ("P", "E"), ("E", "T")], {2})
        joints = self.sound(done, "R2")
        self.assertEqual((joints[0].a.end, joints[-1].b.end), ("npt:female:1-1/4", "buttress:male:2"))
        self.assertEqual(joints[-1].method, "union")

    def test_a_chain(self) -> None:
        """Four things one on the other, and a pipe only at the far end."""
        things = [point("V", 0.3, 0, "valve"), point("CV", 0.5, 0, "check_valve"), point("F", 0.8, 0, "filter")]
        done = joined(things, [("K", "V"), ("V", "CV"), ("CV", "F"), ("F", "T")], {1, 2, 3})
        for run in ("R1", "R2", "R3"):
            self.sound(done, run)
        self.assertEqual({r for p in done.cuts.pieces for r in p.runs}, {"R4"})

    def test_in_a_tee_and_on_a_saddle(self) -> None:
        """A valve screwed into the branch of a tee; where the house branches by saddle, into the saddle."""
        things = [point("J", 2, 0, "junction"), point("V", 2, 1, "valve"), point("U", 2, 5, "tap")]
        runs = [("K", "J"), ("J", "T"), ("J", "V"), ("V", "U")]
        done = joined(things, runs, {3})
        body = next(p for p in done.assembly.parts if p.point == "J" and p.end is None)
        self.assertEqual(self.sound(done, "R3")[0].a.part, body.id)
        self.assertEqual(fitting(body.fitting).family, "tee")
        done = joined(things, runs, {3}, practices={"branch": "saddle"}, fixed={"series": "pvc40", "size": "1"})
        body = next(p for p in done.assembly.parts if p.point == "J" and p.end is None)
        self.assertEqual(fitting(body.fitting).family, "saddle")
        self.assertEqual(self.sound(done, "R3")[0].a.part, body.id)

    def test_nothing_to_screw_it_into(self) -> None:
        """A valve "screwed" to a bare bend is reported, and no joint is made up."""
        done = joined(
            [point("J", 2, 0, "bend"), point("V", 2.3, 0, "valve")], [("K", "J"), ("J", "V"), ("V", "T")], {2}
        )
        self.assertEqual([p.code for p in done.problems() if p.severity == "stop"], ["nothing-between"])
        self.assertEqual(stack(done, "R2a", "R2b"), [])

    def test_a_ring(self) -> None:
        """Things that close a ring without pipe are reported, and the rest is joined."""
        things = [point(n, x, y, "junction") for n, x, y in (("A", 2, 0), ("B", 2.3, 0), ("C", 2.3, 0.3))]
        done = joined(things, [("K", "A"), ("A", "B"), ("B", "C"), ("C", "A"), ("B", "T")], {2, 3, 4})
        self.assertIn("coupled-ring", [p.code for p in done.problems()])
        self.assertTrue(done.assembly.joints)

    def test_from_the_other_side(self) -> None:
        """Fed from the other end, or drawn from it, each joint between two things is found under one of its two names,
        and matches.
        """
        things = [point("BP", 1, 0, "valve"), point("F", 1.3, 0, "filter")]
        one = joined(things, [("K", "BP"), ("BP", "F"), ("F", "T")], {2})
        body = one.plan.model_dump(mode="json")
        for run in body["runs"]:
            run["a"], run["b"] = run["b"], run["a"]
        drawn = derive(Plan.model_validate(body))
        self.assertEqual(
            {j.id: j.signature for j in one.assembly.joints}, {j.id: j.signature for j in drawn.assembly.joints}
        )
        before = {n: j.signature for j in stack(one, "R2a", "R2b") for n in j.names}
        for p in body["points"]:
            if p["id"] in ("K", "T"):
                p["id"] = {"K": "T", "T": "K"}[p["id"]]
        for run in body["runs"]:
            for end in (run["a"], run["b"]):
                end["point"] = {"K": "T", "T": "K"}.get(end["point"], end["point"])
                end["port"] = {"in": "out", "out": "in"}.get(end["port"], end["port"])
        turned = derive(Plan.model_validate(body))
        after = {n: j.signature for j in stack(turned, "R2a", "R2b") for n in j.names}
        self.assertEqual(set(before), set(after))

    def test_water_passes(self) -> None:
        """It flows as through the bodies alone: what the run between loses is next to nothing beside a metre of
        pipe.
        """
        apart = joined(
            [point("BP", 1, 0, "backflow"), point("F", 3, 0, "filter")], [("K", "BP"), ("BP", "F"), ("F", "T")], set()
        )
        close = joined(
            [point("BP", 1, 0, "backflow"), point("F", 3, 0, "filter")], [("K", "BP"), ("BP", "F"), ("F", "T")], {2}
        )
        losses = [next(iter(d.sizes.flows.values())).runs["R2"].loss for d in (apart, close)]
        self.assertLess(losses[1], losses[0])


if __name__ == "__main__":
    unittest.main()
