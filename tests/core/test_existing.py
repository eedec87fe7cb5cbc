"""What exists already: it flows and is joined to, and nothing of it is bought, cut, made or vouched for."""

import unittest
from typing import Any

from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.commissioning.sections import LIVE_TEST
from hydrarch.core.derivation.chain import Derivation, derive, where_it_stands
from hydrarch.core.editing.fixes import mended
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event, JointMark
from tests.core.jobs import building_drain, capped_lines, lead_service, nicked_line, stop_and_waste
from tests.core.plans import draw, point

MAINS = point("M", 0, 0, "mains", pressure=400e3)
TAP = point("T", 30, 0, "tap")


def met(series: str, size: str, known: str = "") -> dict[str, Any]:
    """A run of that pipe that was there."""
    return {"series": series, "size": size, "existing": {"known": known}}


def worked(
    points: list[dict[str, Any]], runs: list[tuple[str, str]], how: list[dict[str, Any]], *there: str
) -> Derivation:
    """A plan worked out; `there` are the things that were met."""
    body = draw([MAINS, *points, TAP], runs, runs_more=how).model_dump(mode="json")
    for p in body["points"]:
        if p["id"] in there:
            p["existing"] = {"known": "seen"}
    return derive(Plan.model_validate(body))


class Met(unittest.TestCase):
    """Old and new on one line."""

    def test_old_pipe_goes_on_as_new(self) -> None:
        """Galvanized met at the mains goes on as PVC: the change is bought and made, the galvanized is not, and it
        carries water.
        """
        done = worked(
            [point("J", 10, 0, "junction")],
            [("M", "J"), ("J", "T")],
            [met("galv40", "1", "1960s"), {"series": "pvc40"}],
            "M",
        )
        self.assertEqual([p.code for p in done.problems() if p.severity == "stop"], [])
        self.assertEqual({r for p in done.cuts.pieces for r in p.runs}, {"R2"})
        self.assertFalse([b for b in done.bill if "Galvanized" in b.name and b.group == "pipe"])
        ends = {j.end for j in done.assembly.joints}
        self.assertIn("R1b", ends)
        self.assertNotIn("R1a", ends, "what joins the old pipe to the old tapping was made long ago")
        self.assertTrue(any(s.pipe == "galv40 1" for j in done.assembly.joints for s in (j.a, j.b)))
        flow = next(iter(done.sizes.flows.values()))
        self.assertGreater(flow.runs["R1"].flow, 0)

    def test_the_same_pipe_old_and_new_is_coupled(self) -> None:
        """Two lengths of one pipe, one met and one laid, are two pieces with a coupling, not one length."""
        plan = [("M", "J"), ("J", "T")]
        new = {"series": "pvc40", "size": "1"}
        done = worked([point("J", 10, 0, "bend")], plan, [met("pvc40", "1"), new], "M")
        self.assertEqual([p.runs for p in done.cuts.pieces if p.runs], [("R2",)])
        here = [p for p in done.assembly.parts if p.point == "J"]
        self.assertEqual([fitting(p.fitting).family for p in here], ["coupling"])
        both = worked([point("J", 10, 0, "bend")], plan, [new, new])
        self.assertEqual([p for p in both.assembly.parts if p.point == "J"], [])

    def repaired(self, long: float, series: str = "pvc40", size: str = "1", bends: bool = False) -> Derivation:
        """A piece of new pipe, of no size of its own, between two that were met."""
        middle = [point("A", 10, 0, "junction"), point("B", 10 + long, 0, "junction")]
        ways = [("M", "A"), ("A", "B"), ("B", "T")]
        how = [met(series, size), {"series": series}, met(series, size)]
        if bends:
            middle[1:1] = [point("X", 10, 1, "bend"), point("Y", 10 + long, 1, "bend")]
            ways = [("M", "A"), ("A", "X"), ("X", "Y"), ("Y", "B"), ("B", "T")]
            how = [met(series, size), *[{"series": series}] * 3, met(series, size)]
        far = point("T", 30 + long, 0, "tap")
        body = draw([MAINS, *middle, far], ways, runs_more=how).model_dump(mode="json")
        for p in body["points"]:
            if p["id"] in ("M", "T"):
                p["existing"] = {"known": "seen"}
        return derive(Plan.model_validate(body))

    def test_a_repair_is_as_large_as_its_line(self) -> None:
        """A short new piece in an inch line is an inch, though half of it would do for the water; also round a corner,
        and it says why.
        """
        for bends in (False, True):
            done = self.repaired(0.5, bends=bends)
            new = [r.id for r in done.plan.runs if r.existing is None]
            self.assertEqual({done.settled.pipes[r].size for r in new}, {"1"})
            self.assertIn("it goes on from 1 that exists already", done.sizes.choices[new[0]].says)

    def test_the_last_joint_of_a_repair_closes(self) -> None:
        """Between two stiff pipes that do not move a short piece goes in by a coupling and a slip coupling, never two
        with stops (common practice).

        A length that can be bowed (of 8s²/3L by its sag, on no less than its bend radius) needs none, and coiled pipe
        gives by itself.
        """
        for long, series, size, wanted in (
            (0.5, "pvc40", "1", ["coupling", "slip coupling"]),
            (2.0, "pvc40", "1", ["coupling", "slip coupling"]),
            (15.0, "pvc40", "1", ["coupling", "coupling"]),
        ):
            families = sorted(
                fitting(p.fitting).family
                for p in self.repaired(long, series, size).assembly.parts
                if p.point in ("A", "B")
            )
            with self.subTest(long=long):
                self.assertEqual(families, wanted)
        soft = self.repaired(0.5, "pe100-sdr11", "32").assembly
        self.assertNotIn("slip coupling", {fitting(p.fitting).family for p in soft.parts})
        last = next(p for p in self.repaired(0.5).assembly.parts if fitting(p.fitting).family == "slip coupling")
        self.assertEqual(last.point, "B")

    def test_a_branch_cut_in(self) -> None:
        """A tee cut into an old line is new at all three legs, and the old line on both sides stays as it is."""
        points = [point("J", 10, 0, "junction"), point("U", 10, 8, "tap")]
        runs = [("M", "J"), ("J", "T"), ("J", "U")]
        done = worked(points, runs, [met("pvc40", "1"), met("pvc40", "1"), {"series": "pvc40", "size": "1"}], "M", "T")
        self.assertEqual({j.end for j in done.assembly.joints if j.point == "J"}, {"R1b", "R2a", "R3a"})
        self.assertEqual([p.point for p in done.assembly.parts if p.end is None], ["J", "U"])
        self.assertEqual({r for p in done.cuts.pieces for r in p.runs}, {"R3"})
        self.assertNotIn("T~riser~piece", [p.id for p in done.cuts.pieces])

    def test_an_old_thing_takes_a_new_pipe(self) -> None:
        """A valve that was there is not bought; what is led to it is, and that its end is taken on trust is reported."""
        points = [point("V", 10, 0, "valve")]
        done = worked(points, [("M", "V"), ("V", "T")], [met("pvc40", "1"), {"series": "pvc40", "size": "1"}], "M", "V")
        self.assertEqual([p for p in done.assembly.parts if p.point == "V" and p.end is None], [])
        self.assertEqual({j.end for j in done.assembly.joints if j.point == "V"}, {"R2a"})
        self.assertEqual([(p.code, p.severity) for p in done.problems() if p.where == "V"], [("taken-end", "note")])

    def test_all_old_is_nobodys_work(self) -> None:
        """Lead, copper and fibre that exist already, however they are joined there, ask for nothing and are reported
        nothing of.
        """
        points = [point("A", 5, 0, "junction"), point("B", 10, 0, "junction"), point("C", 10, 5, "cap")]
        runs = [("M", "A"), ("A", "B"), ("B", "T"), ("B", "C")]
        how = [met("lead", "3/4"), met("copper-l", "1"), met("pvc40", "1"), met("galv40", "3/4")]
        done = worked(points, runs, how, "M", "T", "C")
        self.assertEqual(
            (done.assembly.parts, done.assembly.joints, done.cuts.pieces, done.work.tasks), ((), (), (), ())
        )
        self.assertEqual([p.says for p in done.problems() if p.stage == "join"], [])
        self.assertFalse([b for b in done.bill if b.group in ("pipe", "fitting", "riser")])

    def test_a_branch_into_stiff_pipe_that_was_met(self) -> None:
        """A tee cut into glued pipe goes in by a slip coupling and a piece, its joint last; a valve between two
        galvanized ends by a union.
        """
        branch = [point("J", 10, 0, "junction"), point("K", 10, 8, "cap")]
        runs = [("M", "J"), ("J", "T"), ("J", "K")]
        new = {"series": "pvc40", "size": "3/4"}
        done = worked(branch, runs, [met("pvc40", "1"), met("pvc40", "1"), new], "M", "T")
        names = [p.name for p in done.assembly.parts if p.point == "J"]
        self.assertEqual(
            sorted(names), ["PVC reducing tee 1 × 1 × 3/4", "PVC slip coupling 1, no stop", "Piece of PVC pipe 1"]
        )
        why = {t.joint: t.why for t in done.work.tasks}
        self.assertIn("slid wholly onto the pipe first", why["R2a~1"])
        steel = worked(
            [point("V", 10, 0, "valve")], [("M", "V"), ("V", "T")], [met("galv40", "1"), met("galv40", "1")], "M", "T"
        )
        self.assertIn("Brass union 1 female thread", [p.name for p in steel.assembly.parts])
        self.assertNotIn("held-ends", [p.code for p in steel.problems()])
        soft = worked(
            branch, runs, [met("pe-sidr7", "1"), met("pe-sidr7", "1"), {"series": "pe-sidr7", "size": "3/4"}], "M", "T"
        )
        self.assertFalse([p.name for p in soft.assembly.parts if "slip" in p.name or "union" in p.name])

    def test_a_branch_into_pipe_that_is_made(self) -> None:
        """A tee drawn later into a line whose far joints are made is reported, until a way that closes is chosen
        there.
        """
        body = draw(
            [MAINS, point("J", 10, 0, "junction"), point("K", 10, 8, "cap"), TAP],
            [("M", "J"), ("J", "T"), ("J", "K")],
            runs_more=[{"series": "pvc40", "size": "1"}] * 3,
        ).model_dump(mode="json")
        for ways in ([], [{"end": "R2a", "fittings": ["pvc-slip-coupling-1", "stub-solvent-spigot-1"]}]):
            plan = Plan.model_validate(body | {"ways": ways})
            done = derive(plan)
            far: dict[str, JointMark] = {
                j.id: JointMark(j.signature) for j in done.assembly.joints if j.point in ("M", "T")
            }
            stands = where_it_stands(plan, done, [Event(id="1", kind="made", at=0.0, by="Ash", joints=far)], 1e6)
            told = [(p.code, p.where) for p in stands.held]
            self.assertEqual(
                told, [("made-both-sides", "J")] if not ways else [], [p.name for p in done.assembly.parts]
            )
            self.assertEqual(where_it_stands(plan, done, [], 1e6).held, ())

    def test_unmeasured(self) -> None:
        """An old pipe nobody measured stops, and says what to do."""
        how = [{"existing": {"known": "grey"}}, {}]
        done = worked([point("J", 10, 0, "junction")], [("M", "J"), ("J", "T")], how)
        self.assertIn(("met-unmeasured", "R1"), [(p.code, p.where) for p in done.problems()])

    def test_nobody_vouches_for_it(self) -> None:
        """A section that holds old pipe is tested at its working pressure, and says why; one that begins at a main by
        old pipe is never parted from it: it is opened again and looked over.
        """
        new = {"series": "pvc40", "size": "1"}
        points = [point("J", 10, 0, "junction"), point("V", 20, 0, "valve")]
        done = worked(points, [("M", "J"), ("J", "V"), ("V", "T")], [met("pvc40", "1"), new, new], "M")
        old, fresh = done.sections
        self.assertEqual((old.sort, old.says, old.isolate), ("run", LIVE_TEST, ()))
        self.assertGreater(fresh.test, fresh.working)
        within = worked(points, [("M", "J"), ("J", "V"), ("V", "T")], [new, met("pvc40", "1"), new], "V")
        self.assertAlmostEqual(within.sections[0].test, within.sections[0].working)
        self.assertIn("exists already", within.sections[0].says)

    def test_no_mend_touches_old_pipe(self) -> None:
        """Of all plain mends that are offered for jobs on old pipe, none changes, takes out or resizes a run of it; and
        fibre is shown for before it is sawn.
        """
        for job in (lead_service, nicked_line, capped_lines, stop_and_waste, building_drain):
            plan = job()
            old = {r.id: r for r in plan.runs if r.existing is not None}
            for problem in derive(plan).problems():
                after = mended(plan, problem) if problem.does else None
                if after is not None:
                    self.assertEqual({r.id: r for r in after.runs if r.id in old}, old, (job.__name__, problem.code))
        self.assertIn("fibre", {c.code for c in derive(building_drain()).site_cautions})

    def test_the_old_pipe_is_cut_last(self) -> None:
        """Where old pipe hangs on a main, its joints come after all others but the heads, with the water off; of two
        ends the one at the main is the last. A saddle keeps its place before what is threaded into it.
        """
        done = derive(lead_service())
        order = [t.joint for t in done.work.tasks]
        known = {str(j.id): j for j in done.assembly.joints}
        at = [known[j].point for j in order if known[j].role != "head"]
        self.assertEqual(at[-2:], ["J", "J"])
        self.assertNotIn("J", at[:-2])
        self.assertTrue(all(("shut the water off" in t.why) == (known[t.joint].point == "J") for t in done.work.tasks))
        split = derive(nicked_line())
        points = [j.point for t in split.work.tasks for j in split.assembly.joints if j.id == t.joint]
        self.assertEqual([p for n, p in enumerate(points) if p not in points[:n]], ["B", "A"])


if __name__ == "__main__":
    unittest.main()


class Repaired(unittest.TestCase):
    """A new piece between two of an old line keeps its family and its width, or says why not."""

    @staticmethod
    def line(shop: str, name: str, size: str, **more: Any) -> Plan:
        """An old line of 50 m with a metre of it new; the job's own pipe is another."""
        old = {"existing": {}, "series": name, "size": size}
        spots = [
            {**point("M", -30, 0, "mains", depth=0.5), "existing": {}},
            point("A", 0, 0, "bend", depth=0.5),
            point("B", 1, 0, "bend", depth=0.5),
            {**point("T", 20, 0, "tap", depth=0.5), "existing": {}},
        ]
        own = {"north-american": "pvc40", "elsewhere": "pe100-sdr11"}[shop]
        conditions = {"market": shop, "series": own, **more}
        return draw(spots, [("M", "A"), ("A", "B"), ("B", "T")], conditions=conditions, runs_more=[old, {}, old])

    def test_its_family_where_it_is_sold(self) -> None:
        """Class 200, schedule 40, galvanized and polyethylene each in kind where the shop has it, of the same size."""
        for shop, name, size in (
            ("north-american", "pvc-sdr21", "2"),
            ("north-american", "pvc40", "1"),
            ("north-american", "galv40", "1"),
            ("elsewhere", "pe100-sdr11", "32"),
        ):
            with self.subTest(shop, series=name):
                done = derive(self.line(shop, name, size))
                item = done.settled.pipes["R2"]
                self.assertEqual((item.series, item.size), (name, size))
                self.assertNotIn("no-way", {p.code for p in done.problems()})

    def test_its_width_where_it_is_not(self) -> None:
        """A 2 in class 200 line in a metric shop is repaired with 63 mm, and it is said why; so is 1 in steel with lead
        beside it.
        """
        for name, size, wanted in (("pvc-sdr21", "2", "63"), ("lead", "1", "32"), ("copper-l", "1/2", "20")):
            done = derive(self.line("elsewhere", name, size))
            item = done.settled.pipes["R2"]
            self.assertEqual((item.series, item.size), ("pe100-sdr11", wanted), name)
            self.assertRegex(done.sizes.choices["R2"].says, rf"repairs .* {size}, and is no narrower")

    def test_what_only_goes_on_is_of_the_jobs_pipe(self) -> None:
        """An old line that is drawn on, with nothing old behind, is the job's own pipe; the crew's own choice wins."""
        plan = self.line("elsewhere", "pvc-sdr21", "2")
        on = plan.model_copy(
            update={
                "runs": tuple(
                    r.model_copy(update={"existing": None, "series": None, "size": None}) if r.id == "R3" else r
                    for r in plan.runs
                )
            }
        )
        self.assertEqual(derive(on).settled.pipes["R2"].series, "pe100-sdr11")
        own = plan.model_copy(
            update={
                "runs": tuple(
                    r.model_copy(update={"series": "pe100-sdr11", "size": "25"}) if r.id == "R2" else r
                    for r in plan.runs
                )
            }
        )
        self.assertEqual(derive(own).settled.pipes["R2"].size, "25")
