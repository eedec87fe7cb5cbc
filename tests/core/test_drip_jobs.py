"""A drip job as it is begun and bought: the tubing the market sells, its threads at a tap, and tubing with emitters
bought by itself.
"""

import unittest

from pydantic import ValidationError

from hydrarch.core.base.errors import Unknown
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.catalogue.prices import InLine, pipe_price, priced_item
from hydrarch.core.cutting.dripparts import in_line, in_line_count
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.drip_beds import bedded, tubing_of
from hydrarch.core.editing.drip_head import drip_head
from hydrarch.core.making.steps import procedure
from hydrarch.core.plan.document import Plan
from hydrarch.demo import herb_beds
from hydrarch.formats.tables import prices_csv, read_prices
from tests.core.plans import draw, point


def tapped(market: str, **more: str) -> Plan:
    """A mains alone, in a market."""
    return draw([point("M", 0, 0, "mains", pressure=300e3, depth=0.0)], [], conditions={"market": market, **more})


class Begun(unittest.TestCase):
    """Which tubing, and which threads."""

    def test_the_tubing_is_that_of_the_job(self) -> None:
        """The job's usual pipe where it is tubing; else what is laid already; else what the market sells: 16 mm outside
        the inch countries (common practice).
        """
        self.assertEqual(
            [tubing_of(tapped(m)) for m in ("north-american", "elsewhere", "both")],
            ["drip-620", "drip-535", "drip-620"],
        )
        self.assertEqual(tubing_of(tapped("north-american", series="drip-520")), "drip-520")
        self.assertEqual(
            tubing_of(tapped("elsewhere", series="drip-170")), "drip-535", "a ring's quarter-inch is no header"
        )
        laid = draw(
            [point("M", 0, 0, "mains"), point("T", 5, 0, "tap")],
            [("M", "T")],
            runs_more=[{"series": "drip-600", "size": "1/2", "situation": "on surface"}],
        )
        self.assertEqual(tubing_of(laid), "drip-600")

    def test_the_head_has_the_threads_of_the_market(self) -> None:
        """At a tap: hose threads in the inch countries, BSP parallel elsewhere, both on washers; all of it is sold
        there (common practice).
        """
        for market, system in (("north-american", "hose"), ("elsewhere", "bspp")):
            done = derive(drip_head(tapped(market), "M", timer=True).plan)
            with self.subTest(market):
                at_tap = [j for j in done.assembly.joints if j.method == "washer thread"]
                self.assertEqual(len(at_tap), 5)
                self.assertEqual({s.end.split(":")[0] for j in at_tap for s in (j.a, j.b)}, {system})
                self.assertEqual([p.code for p in done.problems() if p.code in ("no-way", "foreign", "off-market")], [])


def _fed(count: int, built: str) -> Plan:
    """A tap's head of a drip line, and a row of so many emitters."""
    spots = [
        point("M", 0, 0, "mains", pressure=150e3),
        point("B", 5, 0, "backflow"),
        point("F", 6, 0, "filter"),
        point("R", 7, 0, "regulator"),
        point("D", 30, 0, "drip_row", built=built, count=count),
    ]
    laid = {"situation": "on surface", "series": "drip-620", "size": "1/2"}
    return draw(spots, [("M", "B"), ("B", "F"), ("F", "R"), ("R", "D")], runs_more=[laid] * 4)


class Small(unittest.TestCase):
    """Holes, feeders and emitters are work like any other: made, seen, and counted as the list counts them."""

    def test_they_are_made_after_flushing(self) -> None:
        """Barbs, feeders and emitters of a fed row, as many as are bought; emitters alone where they sit on the
        tubing.
        """
        for built, kinds in (("on feeders", 3), ("on the tubing", 1), ("in line", 0)):
            with self.subTest(built):
                done = derive(_fed(15, built))
                many = [j for j in done.assembly.joints if j.count > 1]
                self.assertEqual([j.count for j in many], [15] * kinds)
                self.assertEqual([t.joint for t in done.work.tasks][-kinds:] if kinds else [], [j.id for j in many])
                if kinds:
                    bought = {b.item: b.count for b in done.bill}
                    self.assertEqual(next(n for item, n in bought.items() if item.startswith("emitter")), 15)
                covered = {j for s in done.sections for j in s.joints}
                self.assertLessEqual({j.id for j in many}, covered)
                for joint in many:
                    self.assertTrue(procedure(done.plan, joint, 1e5).steps)

    def test_three_more_are_not_made_yet(self) -> None:
        """What was said of fifteen does not hold for eighteen."""
        before, after = (
            {j.id: j.signature for j in derive(_fed(n, "on feeders")).assembly.joints if j.count > 1} for n in (15, 18)
        )
        self.assertEqual(before.keys(), after.keys())
        self.assertFalse({*before.values()} & {*after.values()})


class Bought(unittest.TestCase):
    """Tubing with emitters in it is another pipe than the plain that feeds it."""

    def test_each_by_itself(self) -> None:
        """Rows are cut from tubing with emitters, their feed from plain; no emitter is bought apart, and they are
        counted where they are.
        """
        plan = herb_beds()
        done = derive(plan)
        rows = [r for r in done.bill if r.group == "pipe"]
        self.assertEqual([" with " in r.item for r in rows], [False, True])
        self.assertIn("an emitter of 2.00 L/h every 0.30 m", rows[1].name)
        ((made, count),) = in_line_count(plan).items()
        self.assertEqual(made, InLine(0.3, 2.0))
        self.assertIn(f"{count} emitters in it", rows[1].detail)
        self.assertFalse([r for r in done.bill if "mitter" in r.name and r.group != "pipe"])
        inside = in_line(plan)
        for nest in done.cuts.nests:
            cut = {p.id for p in done.cuts.pieces if p.made == nest.made}
            self.assertEqual({name for s in nest.sticks for name, _ in s.cuts}, cut)
            self.assertEqual(
                {r in inside for p in done.cuts.pieces if p.id in cut for r in p.runs}, {nest.made is not None}
            )
        self.assertAlmostEqual(sum(n.total for n in done.cuts.nests), sum(p.length for p in done.cuts.pieces))

    def test_on_feeders_the_tubing_is_plain(self) -> None:
        """Where emitters sit on feeders the tubing is plain, and they are on the list."""
        corners = [
            point(n, x, y, "mark", depth=0.0) for n, x, y in (("A", 0, 0), ("B", 0, 2), ("C", 6, 2), ("D", 6, 0))
        ]
        plan = bedded(draw(corners, []), ("A", "B", "C", "D"), 0.5, 0.3).plan
        body = plan.model_dump(mode="json")
        for p in body["points"]:
            if p["what"]["kind"] == "drip_row":
                p["what"]["built"] = "on feeders"
        self.assertEqual([n.made is not None for n in derive(plan).cuts.nests], [False, True])
        apart = derive(Plan.model_validate_json(Plan.model_validate(body).model_dump_json()))
        self.assertEqual([n.made for n in apart.cuts.nests], [None])
        self.assertTrue([r for r in apart.bill if r.name.startswith("Emitter ")])

    def test_the_least_and_the_most_have_a_name_a_price_may_stand_at(self) -> None:
        """Whatever a row may be of, the tubing's name on the list is one that the price book takes."""
        for what in ({"each": 1e-12}, {"each": 1e-4}, {"spacing": 0.02}, {"spacing": 100.0}, {"spacing": 1 / 3}):
            spots = [point("M", 0, 0, "mains"), point("E", 9, 0, "drip_row", depth=0.0, **what)]
            plan = draw(
                spots, [("M", "E")], runs_more=[{"series": "drip-620", "size": "1/2", "situation": "on surface"}]
            )
            (row,) = (r for r in derive(plan).bill if r.group == "pipe")
            with self.subTest(what):
                self.assertIn("an emitter of", priced_item(row.item))
                self.assertEqual(
                    Plan.model_validate(plan.model_dump() | {"prices": {row.item: 1.0}}).prices, {row.item: 1.0}
                )

    def test_its_price(self) -> None:
        """Twice that of plain until the crew says its own, in the job and through the price book's file; nonsense is
        refused by name.
        """
        plain, made = pipe("drip-620", "1/2"), InLine(0.3, 2.0)
        name = f"drip-620 1/2{made.tag}"
        self.assertAlmostEqual(pipe_price(plain, {}, made), 2 * pipe_price(plain))
        self.assertEqual(pipe_price(plain, {name: 0.9}, made), 0.9)
        self.assertEqual(
            priced_item(name), f"{series('drip-620').name}, 1/2, an emitter of 2 L/h every 0.3 m, per metre"
        )
        for bad in (
            "drip-620 1/2 with",
            "drip-620 1/2 with 0.3",
            "drip-620 1/2 with 0/2",
            "drip-620 1/2 with 0.30/2",
            "drip-620 1/2 with nan/2",
        ):
            with self.subTest(bad), self.assertRaises(Unknown):
                priced_item(bad)
        plan = herb_beds()
        own = plan.model_copy(update={"prices": {name: 0.9}, "stock": ()})
        self.assertEqual(Plan.model_validate_json(own.model_dump_json()).prices, {name: 0.9})
        with self.assertRaises(ValidationError):
            Plan.model_validate(plan.model_dump() | {"prices": {"drip-620 1/2 with x": 1.0}})
        row = next(r for r in derive(own).bill if r.item == name)
        self.assertEqual((row.each, row.per, row.own), (0.9, "m", True))
        coils = sum(s.length for n in derive(own).cuts.nests if n.made == made for s in n.sticks)
        self.assertAlmostEqual(row.price or 0, 0.9 * coils, places=3)
        text = prices_csv(derive(own).bill)
        self.assertEqual(read_prices(text).prices[name], 0.9)


if __name__ == "__main__":
    unittest.main()
