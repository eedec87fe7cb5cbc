"""What a job may be begun as: every row names things, conditions, practices and bench questions that there are."""

import unittest
from typing import get_args

from pydantic import ValidationError

from hydrarch.core.catalogue.beginnings import beginnings
from hydrarch.core.catalogue.guidance import practices
from hydrarch.core.catalogue.markets import markets
from hydrarch.core.catalogue.pipes import series
from hydrarch.core.commissioning.sections import EXERCISE
from hydrarch.core.components.base import kind_named, kinds
from hydrarch.core.derivation.chain import derive
from hydrarch.core.measuring.begun import begun
from hydrarch.core.plan import document as _kinds_are_known
from hydrarch.core.plan.document import Conditions, Plan, Situation

BENCH = {"join", "line", "cut", "identify", "wait", "well", "source", "fused", "ends"}

assert _kinds_are_known


class Beginnings(unittest.TestCase):
    """The rows, and a plan that was begun as one of them."""

    def test_what_is_at_hand_is_there(self) -> None:
        """Nothing is offered, asked or pointed at that the product has not; each asks something first."""
        for about, row in beginnings().items():
            with self.subTest(about):
                self.assertEqual(set(row.things) - set(kinds()), set())
                self.assertEqual(set(row.conditions) - set(Conditions.model_fields), set())
                self.assertEqual(set(row.practices) - set(practices()), set())
                self.assertIn(row.bench, BENCH)
                self.assertIn(row.lies, get_args(Situation))
                for here in markets().values():
                    with self.subTest(about, market=here.market):
                        usual = series(here.usual(row.pipe))
                        self.assertIn(row.lies, usual.situations, "what a job begins with may not lie where it begins")
                self.assertGreater(row.across, 0)
                for kind, begins in row.starts.items():
                    self.assertIn(kind, row.things)
                    kind_named(kind).model.model_validate({**kind_named(kind).start.model_dump(), **begins})
                self.assertTrue(row.things and all(q.endswith("?") or "." in q for q in row.first))

    def test_a_small_drawing_works(self) -> None:
        """In every market: nothing stops it, nothing but how it is used is warned of, and every stage answers; a job in
        which something is drawn stays as it is.
        """
        for about, row in beginnings().items():
            for here in markets().values():
                conditions = {"market": here.market, "series": here.usual(row.pipe)}
                empty = Plan.model_validate({"name": "n", "about": about, "conditions": conditions})
                plan = begun(empty)
                with self.subTest(about, market=here.market):
                    self.assertEqual(bool(plan.points), bool(row.drawn))
                    self.assertEqual(bool(plan.points), about != "repair", "what broke is drawn by hand")
                    self.assertEqual(begun(plan), plan)
                    if not plan.points:
                        continue
                    done = derive(plan)
                    self.assertEqual([p.says for p in done.problems() if p.severity != "note"], [])
                    parts = (done.assembly.joints, done.bill, done.cuts.pieces, done.work.tasks, done.sections)
                    self.assertTrue(all(parts))
                    self.assertEqual({s.fault for s in done.sections} - {"", EXERCISE}, set())

    def test_a_plan_knows_what_it_was_begun_as(self) -> None:
        """It is kept and read back; a kind of job there is none of is refused by name."""
        plan = Plan(name="n", about="well")
        self.assertEqual(Plan.model_validate_json(plan.model_dump_json()), plan)
        with self.assertRaisesRegex(ValidationError, "no kind of job called moon"):
            Plan(name="n", about="moon")


if __name__ == "__main__":
    unittest.main()
