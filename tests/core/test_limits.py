"""The lowest rating governs: threads cut on plastic pipe, and the fittings a pipe is joined with."""

import unittest

from hydrarch.core.base.units import PSI
from hydrarch.core.catalogue.pipes import joined_rating, pipe, rating_at, series_list
from hydrarch.core.catalogue.ratings import fitting_rating_at, usual_fittings_rating
from hydrarch.core.derivation.chain import derive
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.ways import join
from hydrarch.core.sizing.one_line import LineQuestion, line_sizes
from tests.core.plans import draw, point


class Threads(unittest.TestCase):
    """Threading takes half of plastic pipe's rating (ASTM D1785 practice, from memory)."""

    def test_at_the_bench(self) -> None:
        """1 in schedule 80 (630 psi, ASTM D1785) with a thread on it is told at 315 psi, and not offered at 400."""
        ways = join(PipeOrEnd("pvc80", "1", "npt:male:1"), PipeOrEnd(end="npt:female:1")).ways
        self.assertAlmostEqual((ways[0].rating or 0.0) / PSI, 315, delta=1)
        self.assertEqual(ways[0].weakest, "PVC 80 1 pipe")
        asked = Constraints(pressure=400 * PSI)
        self.assertEqual(join(PipeOrEnd("pvc80", "1", "npt:male:1"), PipeOrEnd(end="npt:female:1"), asked).ways, ())

    def test_only_a_thread_takes_it(self) -> None:
        """A socket on the same pipe, and a thread on steel, carry what the pipe does."""
        for name, end, share in (
            ("pvc80", "solvent:spigot:1", 1.0),
            ("pvc80", "npt:male:1", 0.5),
            ("galv40", "npt:male:1", 1.0),
        ):
            item = pipe(name, "1")
            self.assertAlmostEqual(joined_rating(item, 293.15, end), share * rating_at(item, 293.15))


class Fittings(unittest.TestCase):
    """A pipe is no stronger than what joins it."""

    def test_hot_water_in_pvc(self) -> None:
        """Schedule 40 at 60 °C and 6 bar: its socket fittings carry 4.1 bar at 1 in, so no size holds."""
        asked = LineQuestion(series="pvc40", flow=2e-4, length=30, rise=0, working=6e5, wanted=1e5, temperature=333.15)
        found = line_sizes(asked)
        self.assertIsNone(found.pick)
        row = next(r for r in found.rows if r.size == "1")
        self.assertIn("its couplings and elbows carry 4.10 bar in this water, and 6.00 bar is to hand", row.says)

    def test_never_above_it(self) -> None:
        """Of every pressure series and size: a row that holds has fittings that carry the pressure to hand."""
        for family in series_list():
            if family.kind != "pressure":
                continue
            asked = LineQuestion(
                series=family.id, flow=2e-4, length=30, rise=0, working=8e5, wanted=1e5, temperature=300.15
            )
            for row in line_sizes(asked).rows:
                carries = usual_fittings_rating(pipe(family.id, row.size), 300.15)
                if row.holds and carries is not None:
                    self.assertGreaterEqual(carries, 8e5, f"{family.id} {row.size}")

    def test_in_a_job_it_stops_it(self) -> None:
        """Fittings over their rating stop a job as pipe does."""
        spots = [point("M", 0, 0, "mains", pressure=6e5), point("B", 9, 0, "bend"), point("T", 9, 9, "tap")]
        more = [{"series": "pvc40", "size": "1"}] * 2
        plan = draw(spots, [("M", "B"), ("B", "T")], runs_more=more, conditions={"water_temperature": 333.15})
        told = [p for p in derive(plan).problems() if p.code == "part-over-rating"]
        self.assertEqual({p.severity for p in told}, {"stop"})

    def test_what_joins_lengths_counts_too(self) -> None:
        """Coil is joined to coil by a coupling that carries less than the pipe (ASTM D2609, from memory): at 15 bar
        that stops the job where no stronger one does it with as few joints, named at its run; at 10 bar it does not.
        """
        for pressure in (10e5, 15e5):
            spots = [point("M", 0, 0, "mains", pressure=pressure), point("T", 400, 0, "tap")]
            done = derive(draw(spots, [("M", "T")], runs_more=[{"series": "pe-sidr7", "size": "1"}]))
            run = done.plan.runs[0].id
            told = {p.where for p in done.problems() if p.code == "part-over-rating"}
            along = [p for p in done.assembly.parts if p.point is None and p.end is not None]
            self.assertTrue(along)
            weak = [p for p in along if fitting_rating_at(p.fitting, 285.15) < pressure]
            self.assertEqual(run in told, bool(weak))
            if pressure == 10e5:
                self.assertFalse(weak)


if __name__ == "__main__":
    unittest.main()
