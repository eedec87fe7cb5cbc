"""Drain pipe side by side: each material has its own fittings, price and troubles, and nothing is changed."""

import unittest
from typing import ClassVar

from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.catalogue.prices import fitting_price, pipe_price, pipe_weight
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from hydrarch.core.report.drain_materials import DrainMaterial, compare_drains
from tests.core.plans import draw, point


def yard(shop: str, wheels: bool = False, **more: object) -> Plan:
    """A gully, a branch at 45° from another, and an outfall, all falling 1 in 40."""
    spots = [
        point("A", 0, 0, "drain_inlet", depth=0.5),
        point("J", 10, 0, "junction", depth=0.75),
        point("H", 7, 3, "drain_inlet", depth=0.62),
        point("O", 24, 0, "outfall", depth=1.1),
    ]
    runs = [("A", "J"), ("H", "J"), ("J", "O")]
    extra = [{}, {}, {"wheels": wheels}]
    return draw(spots, runs, about="rain", conditions={"market": shop}, runs_more=extra, **more)


class SideBySide(unittest.TestCase):
    """The materials of the schools, for one job."""

    american: ClassVar[dict[str, DrainMaterial]] = {}

    @classmethod
    def setUpClass(cls) -> None:
        """All of them once."""
        cls.american = {m.choice: m for m in compare_drains(yard("north-american", wheels=True))}

    def test_all_sold(self) -> None:
        """A north American shop sells all four; the usual one is the one drawn, and one alone."""
        self.assertEqual(set(self.american), {"sdr35", "thin", "corrugated", "dwv"})
        self.assertTrue(all(m.sold for m in self.american.values()))
        self.assertEqual([m.choice for m in self.american.values() if m.chosen], ["sdr35"])
        self.assertEqual([m.choice for m in self.american.values() if m.usual], ["sdr35"])

    def test_each_can_be_branched_later(self) -> None:
        """With a wye of its own kind, and a way into pipe that cannot move."""
        for m in self.american.values():
            self.assertIn("wye", m.later.lower(), m.choice)
        self.assertIn("slip coupling", self.american["sdr35"].later)

    def test_thin_wall_under_wheels(self) -> None:
        """What speaks against thin wall under wheels is reported with it, and not with SDR 35."""
        against = {c: " ".join(m.against).lower() for c, m in self.american.items()}
        self.assertIn("vehicle", against["thin"] + against["thin"].replace("wheel", "vehicle"))
        self.assertNotIn("wheel", against["sdr35"])
        thin, stout = self.american["thin"].oval, self.american["sdr35"].oval
        assert thin is not None
        assert stout is not None
        self.assertGreater(thin[0], stout[0])

    def test_weakest_costs_least_in_straight_pipe(self) -> None:
        """By the metre: corrugated and thin wall below SDR 35, schedule 40 above: common practice."""
        metre = {n: pipe_price(pipe(n, "4")) for n in ("corrugated", "sewer-thin", "sewer-sdr35", "dwv40")}
        self.assertEqual(sorted(metre, key=lambda n: metre[n]), ["corrugated", "sewer-thin", "sewer-sdr35", "dwv40"])

    def test_corrugated_weighs_what_it_weighs(self) -> None:
        """4 in corrugated drain: 0.35 to 0.45 lb/ft, from memory of catalogues."""
        self.assertTrue(0.35 <= pipe_weight(pipe("corrugated", "4")) / 0.45359237 * 0.3048 <= 0.45)

    def test_what_is_not_sold(self) -> None:
        """Elsewhere thin wall and schedule 40 are not sold: SN 4 in their place is said."""
        found = {m.choice: m for m in compare_drains(yard("elsewhere"))}
        self.assertEqual({c for c, m in found.items() if not m.sold}, {"thin", "dwv"})
        self.assertEqual(found["thin"].pipe, found["sdr35"].pipe)

    def test_the_one_drawn_is_the_job(self) -> None:
        """Its joints, fittings and price are those of the job itself."""
        plan = yard("north-american")
        mine = next(m for m in compare_drains(plan) if m.chosen)
        done = derive(plan)
        self.assertEqual(mine.fittings, len(done.assembly.parts))
        self.assertEqual(mine.joints, len(done.assembly.joints))
        price = sum(fitting_price(p.fitting) for p in done.assembly.parts)
        price += sum(pipe_price(pipe(n.series, n.size)) * sum(s.length for s in n.sticks) for n in done.cuts.nests)
        assert mine.price is not None
        self.assertAlmostEqual(mine.price, price, places=9)
        self.assertFalse(mine.own)

    def test_a_material_somebody_chose_is_tried_in_others(self) -> None:
        """Pipe the crew chose for a run is not held against the other materials; no drains, no rows."""
        plan = yard("north-american")
        chosen = plan.model_copy(update={"runs": tuple(r.model_copy(update={"series": "dwv40"}) for r in plan.runs)})
        found = {m.choice: m for m in compare_drains(chosen)}
        self.assertFalse(any(m.chosen for m in found.values()))
        self.assertNotEqual(found["sdr35"].price, found["dwv"].price)
        dry = draw([point("M", 0, 0, "mains", depth=0.5), point("V", 9, 0, "tap", depth=0.5)], [("M", "V")])
        self.assertEqual(compare_drains(dry), ())
