"""Pits as they are measured: what lies between the floats, how long until they are full, what lifts them when empty."""

import unittest
from math import pi
from typing import Any

from hydrarch.core.circulation.pits import most_starts
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from tests.core.plans import draw, point


def pit(**more: Any) -> Plan:
    """A round pit 0.45 m wide whose pump lifts 2.4 m to the garden by a riser of 1-1/2 in."""
    what = {"level": -2.0, "comes": 4e-4, **more}
    spots = [
        point("S", 0, 0, "sump", ground=0.0, depth=2.3, **what),
        point("C", 0, 0, "check_valve", depth=1.0),
        point("B", 0, 0, "bend", depth=-0.1),
        point("O", 5, 0, "outfall", depth=-0.1),
    ]
    pipe = {"series": "pvc40", "size": "1-1/2", "situation": "on bracket"}
    return draw(spots, [("S", "C"), ("C", "B"), ("B", "O")], about="sump", runs_more=[pipe] * 3)


def says(plan: Plan) -> str:
    """What is said of the pit."""
    (found,) = derive(plan).rounds.pits
    return found.says


def codes(plan: Plan) -> set[str]:
    """What is told of the pit."""
    return {p.code for p in derive(plan).problems("size") if p.code.startswith("pit-")}


class Measured(unittest.TestCase):
    """A pit with its shape and its floats."""

    whole: dict[str, Any] = {  # noqa: RUF012 - given on, never changed
        "shape": "round",
        "wide": 0.45,
        "floor": -2.4,
        "off": -2.25,
        "alarm": -1.8,
        "inlet": -1.5,
    }

    def test_between_the_floats(self) -> None:
        """0.25 m of a pit 0.45 m wide: 39.8 L by hand, and its starts by the shortest cycle."""
        plan = pit(**self.whole)
        self.assertIn("Between its floats it lifts 39.76 L", says(plan))
        gives = derive(plan).rounds.pits[0].gives
        often = most_starts(gives, 4e-4, 0.25 * pi * 0.45**2 / 4)
        self.assertIn(f"{often:.0f} starts an hour", says(plan))

    def test_a_measured_volume_wins(self) -> None:
        """What a crew pumped out and measured counts before the pit's own shape; with neither, nothing is said."""
        self.assertIn("lifts 25.00 L", says(pit(**self.whole, stores=0.025)))
        self.assertNotIn("Between its floats", says(pit(shape="round", wide=0.45)))
        self.assertNotIn("Between its floats", says(pit(off=-2.25)))

    def test_with_no_power(self) -> None:
        """0.5 m of it fill in 0.0795 / 4e-4 = 199 s, 3 min; not said where the drain's level is not read."""
        self.assertIn("full to the drain that comes in 3 min after", says(pit(**self.whole)))
        self.assertNotIn("With no power", says(pit(**(self.whole | {"inlet": None}))))
        self.assertNotIn("With no power", says(pit(**(self.whole | {"comes": 0.0}))))

    def test_lifted_when_empty(self) -> None:
        """2.4 m of it under water displace 381.7 L: 382 kg (Archimedes)."""
        self.assertIn("lifted by 382 kg", says(pit(**self.whole)))
        self.assertNotIn("lifted by", says(pit(**(self.whole | {"floor": None}))))

    def test_floats_in_order(self) -> None:
        """Each neighbour that is not above the one below it is told; levels nobody read are passed over."""
        self.assertNotIn("pit-floats", codes(pit(**self.whole)))
        for wrong in ({"off": -1.95}, {"alarm": -2.1}, {"floor": -2.2}, {"inlet": -1.9}, {"off": -2.0}):
            self.assertIn("pit-floats", codes(pit(**(self.whole | wrong))), wrong)
        self.assertNotIn("pit-floats", codes(pit(alarm=-1.0)))
        self.assertIn("pit-floats", codes(pit(alarm=-2.0)))

    def test_riser_as_wide_as_the_outlet(self) -> None:
        """The pump's outlet leads: 1-1/4 after 1-1/2 is told, 1-1/2 and 2 are not."""
        for size, told in (("1-1/4", True), ("1-1/2", False), ("2", False)):
            plan = pit()
            runs = tuple(r.model_copy(update={"size": size}) for r in plan.runs)
            self.assertEqual("pit-riser" in codes(plan.model_copy(update={"runs": runs})), told, size)
