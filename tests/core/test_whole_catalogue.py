"""The catalogue as a whole: what one table names, the others have."""

import re
import unittest
from pathlib import Path
from unittest.mock import patch

from hydrarch.core.base.errors import Unknown
from hydrarch.core.catalogue import prices
from hydrarch.core.catalogue.methods import methods
from hydrarch.core.derivation.chain import derive
from hydrarch.core.making import steps, whole
from hydrarch.core.making.whole import gaps
from hydrarch.demo import thistledown

PICTURES = Path(__file__).resolve().parents[2] / "web" / "src" / "stages" / "make" / "jointSections.tsx"


class Whole(unittest.TestCase):
    """No gap, and each kind of gap is found."""

    def test_no_gap(self) -> None:
        """Every method has steps and a pair of ends, every pipe and fitting a price, every end a mating, every port an
        end that exists.
        """
        self.assertEqual(gaps(), ())

    def test_a_gap_is_found(self) -> None:
        """A method without steps, a pipe without a price, an end that nothing goes with, a port with an end that is not
        there.
        """

        def no_price(*_: object) -> float:
            raise Unknown("starting price", "glass pipe")

        for name, gone, says in (
            ("steps_of", lambda name: (), "method thread: no steps"),
            ("mates_of", lambda end: (), "nothing mates with"),
            ("pipe_price", no_price, "no starting price called 'glass pipe'"),
            ("fitting_price", no_price, "no starting price called 'glass pipe'"),
            ("fitting_rating", no_price, "no starting price called 'glass pipe'"),
            ("ends", dict, "there is no end npt:female"),
        ):
            with self.subTest(name), patch.object(whole, name, gone):
                self.assertTrue(any(says in gap for gap in gaps()), gaps()[:3])

    def test_every_method_has_a_picture_and_something_to_wait_for(self) -> None:
        """Make draws each method in section; each says what there is to wait for, or has a clock."""
        drawn = set(re.findall(r'^  (?:"([^"]+)"|([a-z]+)): ', PICTURES.read_text("utf-8"), re.M))
        names = {a or b for a, b in drawn}
        self.assertLessEqual(set(methods()), names)
        clocked = {m.name for m in methods().values() if not m.wait}
        self.assertEqual(clocked, {"solvent weld", "socket fusion"})

    def test_a_gap_in_a_running_product_is_told_at_its_place(self) -> None:
        """A pipe or fitting without a price leaves the list whole, its sum without it, and is told where it is used; a
        joint without steps is told where it is made.
        """
        plan = thistledown()

        def unpriced(*_: object) -> float:
            raise Unknown("starting price", "PVC pipe")

        with patch.object(prices, "_start", unpriced), patch.object(steps, "steps_of", lambda name: ()):
            prices._usual.cache_clear()
            derived = derive(plan)
            found = derived.problems()
            pipes = [row for row in derived.bill if row.group == "pipe"]
        prices._usual.cache_clear()
        told = {p.code: p for p in found}
        self.assertNotIn("room-failed", told)
        places = {p.where for p in found if p.code == "no-price"}
        self.assertTrue(places & set(plan.run_by_id))
        self.assertLessEqual(places, {*plan.by_id, *plan.run_by_id})
        self.assertTrue(told["no-price"].says.startswith("No price for"), told["no-price"].says)
        self.assertIn(told["no-steps"].where, {*plan.by_id, *plan.run_by_id})
        self.assertTrue(pipes)
        self.assertEqual({row.price for row in pipes}, {None})
        self.assertFalse({"no-price", "no-steps"} & {p.code for p in derive(plan).problems()})
