"""The catalogue as a whole: what one table names, the others have."""

import re
import unittest
from pathlib import Path
from unittest.mock import patch

from hydrarch.core.base.errors import Unknown
from hydrarch.core.catalogue.methods import methods
from hydrarch.core.making import whole
from hydrarch.core.making.whole import gaps

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
