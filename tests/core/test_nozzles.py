"""Nozzles by their tables, the head of a drip line at one press, hydrants, and control wire: by hand, by law, against
published values.
"""

import unittest
from math import pi
from typing import Any

from pydantic import ValidationError

from hydrarch.core.base.errors import BadRow, HydrarchError
from hydrarch.core.base.units import FOOT
from hydrarch.core.catalogue.nozzles import Nozzle, generic_nozzles
from hydrarch.core.components.outlets import Sprinkler
from hydrarch.core.coverage.wire import GIVEN, LEAST, OPENING, resistance, wire
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.editing.drip_head import drip_head
from hydrarch.core.editing.set_nozzle import nozzled
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.layout import layout
from hydrarch.demo import BEDS_ID, MEADOW_ID, demo_events, herb_beds, tent_meadow
from hydrarch.formats.tables import nozzles_csv, read_nozzles
from tests.core.plans import codes, draw, point

ROWS = ((200e3, 1.0e-4, 8.0), (300e3, 1.2e-4, 9.0), (400e3, 1.4e-4, 9.5))


def lawn(pressure: float = 320e3, **head: Any) -> Plan:
    """A mains and two heads beside it."""
    points = [point("M", 0, 0, "mains", pressure=pressure)]
    points += [point(f"H{n}", 3 + 8 * n, 0, "sprinkler", **head) for n in range(2)]
    return draw(points, [("M", "H0"), ("H0", "H1")])


class Tables(unittest.TestCase):
    """What a nozzle's table says."""

    def test_read_between_its_rows(self) -> None:
        """Throw half-way between two rows is the mean of both, and no farther than its ends; the law passes through the
        middle row.
        """
        own = Nozzle(name="Own", rows=ROWS)
        self.assertAlmostEqual(own.throw(250e3), 8.5)
        self.assertEqual((own.throw(100e3), own.throw(900e3)), (8.0, 9.5))
        flow, at, exponent = own.law()
        self.assertEqual((flow, at), (1.2e-4, 300e3))
        self.assertAlmostEqual(exponent, 0.48, delta=0.02)

    def test_the_generic_set_goes_by_the_root(self) -> None:
        """Every table that ships is an orifice's: flow by the root of pressure, to the two figures it is printed in."""
        self.assertGreater(len(generic_nozzles()), 10)
        self.assertEqual({n.form for n in generic_nozzles().values()}, {"spray", "rotor", "impact"})
        for n in generic_nozzles().values():
            self.assertAlmostEqual(n.law()[2], 0.5, delta=0.02, msg=n.name)

    def test_what_is_no_table(self) -> None:
        """One row, pressures that do not grow, a flow that falls, zero: each refused with the row."""
        for rows in (ROWS[:1], (ROWS[1], ROWS[0]), ((200e3, 2e-4, 8.0), (300e3, 1e-4, 9.0)), ((0.0, 1e-4, 8.0), *ROWS)):
            with self.assertRaises(ValidationError):
                Nozzle(name="Own", rows=rows)

    def test_out_and_in_again(self) -> None:
        """The whole set written and read again is the same."""
        back = read_nozzles(nozzles_csv(generic_nozzles().values()))
        self.assertEqual([n.name for n in back], list(generic_nozzles()))
        for one, two in zip(back, generic_nozzles().values(), strict=True):
            self.assertEqual(one.arc is None, two.arc is None)
            for a, b in zip(one.rows, two.rows, strict=True):
                for x, y in zip(a, b, strict=True):
                    self.assertAlmostEqual(x / y, 1.0, delta=1e-10)

    def test_broken_files(self) -> None:
        """No columns, a blank, a word for a number, two of one name out of order, nothing: each with its line."""
        head = "nozzle,form,arc_deg,pressure_kpa,flow_l_min,radius_m\n"
        for text, says in (
            ("a,b\n1,2\n", "it has no columns nozzle"),
            (head, "no row"),
            (head + "Own,rotor,,200,,8\n", "flow is blank"),
            (head + "Own,rotor,,200,six,8\n", "line 2"),
            (head + "Own,rotor,,200,6,8\nOwn,rotor,,100,7,9\n", "pressures must grow"),
            (head + "Own,umbrella,,200,6,8\nOwn,umbrella,,300,7,9\n", "Own"),
        ):
            with self.assertRaisesRegex(BadRow, says):
                read_nozzles(text)

    def test_given_to_heads(self) -> None:
        """Flow, throw, least pressure and arc come from the table; the head's own place and way stay; none but heads
        get it.
        """
        plan = nozzled(lawn(begins=1.0), ["M", "H0"], "G-4 half").plan
        what, other = plan.by_id["H0"].what, plan.by_id["H1"].what
        table = generic_nozzles()["G-4 half"]
        assert isinstance(what, Sprinkler) and isinstance(other, Sprinkler)
        self.assertEqual((what.nozzle, what.needs, what.begins), ("G-4 half", table.low, 1.0))
        self.assertAlmostEqual(what.arc, pi)
        self.assertEqual(other.nozzle, "")
        with self.assertRaises(HydrarchError):
            nozzled(lawn(), ["M"], "G-4 half")
        with self.assertRaises(HydrarchError):
            nozzled(lawn(), ["H0"], "no such")

    def test_pushed_outside_of_its_table(self) -> None:
        """Far above its table it mists, below it falls short, and between nothing is reported; a table that is gone is
        told.
        """
        for pressure, says in ((700e3, "It mists"), (120e3, "It falls short")):
            told = codes(nozzled(lawn(pressure), ["H0", "H1"], "R-1").plan)
            self.assertIn(says, told["nozzle-range"])
        self.assertNotIn("nozzle-range", codes(nozzled(lawn(330e3), ["H0", "H1"], "R-1").plan))
        self.assertIn("No table for nozzle", codes(lawn(nozzle="Own"))["nozzle-unknown"])


class DripHead(unittest.TestCase):
    """The head of a drip line at one press."""

    def test_on_a_hose_tap(self) -> None:
        """Preventer, filter, regulator in that order (common practice), washers between them and no thread that wants
        tape.
        """
        plan = draw([point("M", 0, 0, "mains", pressure=400e3, depth=-0.5)], [])
        found = drip_head(plan, "M")
        kinds = [found.plan.by_id[p].what.kind for p in found.chosen]
        self.assertEqual(kinds, ["backflow", "filter", "regulator", "junction"])
        done = derive(found.plan)
        self.assertEqual(
            {j.method for j in done.assembly.joints if j.point in found.chosen[:3]}, {"washer thread", "push barb"}
        )
        self.assertFalse(
            {p.code for p in done.problems()}
            & {"drip-order", "drip-filter", "drip-pressure", "no-way", "part-over-rating"}
        )

    def test_with_a_timer(self) -> None:
        """It comes before all else, screwed on by its own washers."""
        plan = draw([point("M", 0, 0, "mains", pressure=400e3, depth=-0.5)], [])
        found = drip_head(plan, "M", timer=True)
        self.assertEqual([found.plan.by_id[p].what.kind for p in found.chosen][:2], ["equipment", "backflow"])
        done = derive(found.plan)
        self.assertNotIn("no-way", {p.code for p in done.problems()})
        self.assertEqual({j.method for j in done.assembly.joints if j.point == found.chosen[0]}, {"washer thread"})
        self.assertIn("Hose timer", {r.name for r in done.bill})
        self.assertFalse(
            [t.why for t in done.work.tasks if "ring" in t.why], "it hangs on the tap, and is fixed to nothing else"
        )

    def test_behind_a_valve(self) -> None:
        """With pipe threads there; and what has no way out, or has pipe on it already, is refused in words."""
        plan = draw([point("M", 0, 0, "mains", depth=0.0), point("V", 2, 0, "valve", depth=0.0)], [("M", "V")])
        done = derive(drip_head(plan, "V").plan)
        self.assertNotIn("no-way", {p.code for p in done.problems()})
        with self.assertRaisesRegex(HydrarchError, "leaves mains M already"):
            drip_head(plan, "M")
        with self.assertRaisesRegex(HydrarchError, "no water leaves"):
            drip_head(draw([point("T", 0, 0, "tap")], []), "T")

    def test_behind_a_regulator_parts_see_what_it_holds(self) -> None:
        """Tubing and its adapter behind 1.7 bar are judged by that, not by the 6 bar before it; without a regulator
        they are told.
        """
        plan = draw([point("M", 0, 0, "mains", pressure=600e3, depth=-0.5)], [])
        told = codes(drip_head(plan, "M").plan)
        self.assertFalse({"part-over-rating", "over-rating"} & told.keys(), told)
        bare = [point("M", 0, 0, "mains", pressure=600e3, depth=0.0), point("D", 5, 0, "drip_row", depth=0.0)]
        more = [{"series": "drip-620", "size": "1/2", "situation": "on surface"}]
        self.assertIn("over-rating", codes(draw(bare, [("M", "D")], runs_more=more)))


class Hydrants(unittest.TestCase):
    """Hydrants on metal risers, open or shut."""

    def done(self, opened: list[str]) -> Derivation:
        """A mains, a hydrant and a head."""
        points = [point("M", 0, 0, "mains", pressure=400e3, depth=0.5), point("J", 10, 0, "junction", depth=0.5)]
        points += [point("Y", 10, 5, "hydrant", depth=0.5), point("S", 20, 0, "sprinkler", depth=0.5)]
        return derive(
            draw(points, [("M", "J"), ("J", "Y"), ("J", "S")], scenarios=[{"id": "s", "name": "S", "open": opened}])
        )

    def test_what_it_would_give(self) -> None:
        """Shut, it is foretold what it would have: the same as when it is opened, less what open outlets have; open,
        nothing is foretold.
        """
        shut, both = self.done(["S"]), self.done(["S", "Y"])
        self.assertEqual(set(shut.shut["s"]), {"Y"})
        self.assertLess(shut.shut["s"]["Y"].pressure, shut.sizes.flows["s"].points["J"].pressure)
        self.assertAlmostEqual(
            shut.shut["s"]["Y"].pressure / both.sizes.flows["s"].outlets["Y"].pressure, 1.0, delta=0.15
        )
        self.assertEqual(both.shut, {})

    def test_its_riser_is_metal(self) -> None:
        """Galvanized, and what takes it is metal: plastic female over metal male splits (common practice)."""
        done = self.done(["S"])
        self.assertIn("Threaded riser 1, galvanized steel", {r.name for r in done.bill})
        parts = {p.name for p in done.assembly.parts if p.point == "Y"}
        self.assertFalse([p for p in parts if "PVC" in p and "female" in p], parts)


class ControlWire(unittest.TestCase):
    """Wire to the valves."""

    def test_published(self) -> None:
        """Copper by gauge, ohm in 1,000 ft at 20 °C: 18 AWG 6.385, 14 AWG 2.525 (ASTM B258 tables, from memory)."""
        self.assertAlmostEqual(resistance(18) * 1000 * FOOT, 6.385, delta=0.02)
        self.assertAlmostEqual(resistance(14) * 1000 * FOOT, 2.525, delta=0.02)

    def field(self, far: float) -> Plan:
        """A controller at a mains, and a valve so far (m) away by a trench with a corner in it."""
        points = [
            point("K", 0, 3, "mark", **{"what": "controller"}),
            point("M", 0, 0, "mains"),
            point("B", far / 2, 0, "bend"),
            point("V", far / 2, far / 2, "valve"),
            point("H", far / 2, far / 2 + 5, "sprinkler"),
        ]
        return draw(
            points,
            [("M", "B"), ("B", "V"), ("V", "H")],
            zones=[{"id": "z", "name": "Far", "heads": ["H"], "valve": "V"}],
        )

    def test_along_the_trench_by_hand(self) -> None:
        """3 m to the line and 100 m round its corner; 18 AWG loses 2·103 m·r·0.4 A there and back."""
        plan = self.field(100.0)
        found = wire(plan, layout(plan))
        assert found is not None
        self.assertAlmostEqual(found.to[0].length, 103.0)
        self.assertAlmostEqual(found.cable, 103.0)
        self.assertEqual((found.gauge, found.cores, found.holds), (18, 2, True))
        self.assertAlmostEqual(found.to[0].volts, GIVEN - 2 * 103 * resistance(18) * OPENING)

    def test_thicker_as_it_is_farther(self) -> None:
        """The thinnest that leaves 20 V; beyond the thickest it is reported, with what is left."""
        gauges = []
        for far in (100.0, 300.0, 400.0, 700.0):
            found = wire(plan := self.field(far), layout(plan))
            assert found is not None and found.to[0].volts >= LEAST
            gauges.append(found.gauge)
        self.assertEqual(gauges, sorted(gauges, reverse=True))
        self.assertGreater(len(set(gauges)), 2)
        self.assertIn("needs 20 V", codes(self.field(1500.0))["wire-too-long"])

    def test_without_a_controller_nothing_is_said(self) -> None:
        """Nor without a valve that a zone opens."""
        plan = self.field(100.0)
        bare = Plan.model_validate(plan.model_dump(mode="json") | {"zones": []})
        self.assertIsNone(wire(bare, layout(bare)))


class Demo(unittest.TestCase):
    """The camp's own watering."""

    def test_solved_and_partly_made(self) -> None:
        """Six heads whose overlap is told, two hydrants, two beds: nothing wrong with either job, and some of each is
        made, some dry.
        """
        meadow, beds = derive(tent_meadow(), strict=True), derive(herb_beds(), strict=True)
        self.assertIn("They overlap", meadow.watered["meadow"].says[0])
        self.assertEqual(set(meadow.shut["meadow"]), {"Y1", "Y2"})
        self.assertEqual({len(rows) for rows in beds.dripped.values()}, {3})
        for name, d in ((MEADOW_ID, meadow), (BEDS_ID, beds)):
            self.assertFalse([p for p in d.problems() if p.severity != "note"])
            kinds = {e.kind for e in demo_events(name, 1e9)} - {"observed"}
            self.assertEqual(kinds, {"made", "dry_fitted"})


if __name__ == "__main__":
    unittest.main()
