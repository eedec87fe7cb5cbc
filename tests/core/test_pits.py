"""Pits as they are measured: what lies between the floats, how long until they are full, what lifts them when empty."""

import unittest
from math import pi
from typing import Any

from hydrarch.core.base.units import nominal_diameter
from hydrarch.core.circulation.pits import most_starts
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.fixes import mended
from hydrarch.core.editing.measures import read_measures
from hydrarch.core.measuring.drawn_line import draw_measures
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
    """What is shown for the pit."""
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
        """Each neighbour that is not above the one below it is reported; levels nobody read are passed over."""
        self.assertNotIn("pit-floats", codes(pit(**self.whole)))
        for wrong in ({"off": -1.95}, {"alarm": -2.1}, {"floor": -2.2}, {"inlet": -1.9}, {"off": -2.0}):
            self.assertIn("pit-floats", codes(pit(**(self.whole | wrong))), wrong)
        self.assertNotIn("pit-floats", codes(pit(alarm=-1.0)))
        self.assertIn("pit-floats", codes(pit(alarm=-2.0)))

    def test_riser_as_wide_as_the_outlet(self) -> None:
        """The pump's outlet leads: 1-1/4 after 1-1/2 is reported, 1-1/2 and 2 are not."""
        for size, told in (("1-1/4", True), ("1-1/2", False), ("2", False)):
            plan = pit()
            runs = tuple(r.model_copy(update={"size": size}) for r in plan.runs)
            self.assertEqual("pit-riser" in codes(plan.model_copy(update={"runs": runs})), told, size)


class TwoPumps(unittest.TestCase):
    """A second pump that lifts into the riser of the first, drawn by measure from the tee down to it."""

    words = (
        "sump, 2.5 up, check valve, union, 0.5 up, 1.5 e, tee called T, 1.5 e, outfall, "
        "at T: 1 s, 0.5 down, union, check valve, 2.5 down, sump"
    )

    def drawn(self) -> Plan:
        """As those words draw it."""
        empty = Plan.model_validate({"name": "pit", "about": "sump", "conditions": {"market": "elsewhere"}})
        return draw_measures(empty, "", read_measures(self.words, "metric")).plan

    def test_it_lifts(self) -> None:
        """Its riser is at its outlet, its check valve lets its own water by, and both pumps lift."""
        plan = self.drawn()
        second = [p.id for p in plan.points if p.kind.name == "sump"][1]
        self.assertEqual([plan.port_name(e) for r in plan.runs for e in r.ends if e.point == second], ["out"])
        done = derive(plan)
        self.assertNotIn("faces-source", codes_of(plan))
        self.assertGreater(min(p.gives for p in done.rounds.pits), 1e-3)
        self.assertGreaterEqual(
            min(nominal_diameter(c.size) for c in done.sizes.choices.values()), nominal_diameter("1-1/2")
        )

    def test_a_check_valve_that_faces_its_pump(self) -> None:
        """Turned round, it is reported, and one press turns it back."""
        plan = self.drawn()
        valve = [p.id for p in plan.points if p.kind.name == "check_valve"][1]
        body = plan.model_dump(mode="json")
        for r in body["runs"]:
            for e in (r["a"], r["b"]):
                if e["point"] == valve:
                    e["port"] = {"in": "out", "out": "in"}[e["port"]]
        wrong = Plan.model_validate(body)
        told = next(p for p in derive(wrong).problems() if p.code == "faces-source")
        self.assertEqual(told.where, valve)
        self.assertEqual(mended(wrong, told), plan)

    def test_a_drain_into_a_pit(self) -> None:
        """A gully's drain comes to the pit's drain port."""
        empty = Plan.model_validate({"name": "pit", "about": "rain"})
        plan = draw_measures(empty, "", read_measures("gully, 5 e falling 1 in 50, sump", "metric")).plan
        pit = next(p.id for p in plan.points if p.kind.name == "sump")
        self.assertEqual([plan.port_name(e) for r in plan.runs for e in r.ends if e.point == pit], ["in"])


def codes_of(plan: Plan) -> set[str]:
    """All that is reported."""
    return {p.code for p in derive(plan).problems()}
