"""Wells: drop pipe by the trade's own numbers, drawdown, vessel, limits."""

import unittest
from dataclasses import replace

from hydrarch.core.base.errors import HydrarchError, OutOfRange, Unknown
from hydrarch.core.base.units import FOOT, GALLON
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.hydraulics.friction import head_loss_hazen_williams
from hydrarch.core.sizing.one_line import LineQuestion, drain_sizes, friction_table, line_sizes
from hydrarch.core.wells.droppipe import DropPipe, DropPipes, Duty, drop_pipes
from hydrarch.core.wells.hole import Hole, vessel_size

HOLE = Hole(depth=90, casing=0.15, static=20, pump=70, test_flow=1e-3, test_drawdown=8)
DUTY = Duty(flow=8e-4, pressure=3e5, shut_off=90)


def one(answer: DropPipes, name: str, size: str) -> DropPipe:
    """The candidate of that series and size."""
    return next(c for c in answer.candidates if (c.series, c.size) == (name, size))


class Hangs(unittest.TestCase):
    """Which pipe hangs the pump."""

    def test_friction_in_a_hundred_feet(self) -> None:
        """25 US gal/min in 100 ft of 1 in: polyethylene about 30 ft, heavy PVC 66, galvanized 64 (common practice)."""
        flow = 25 * GALLON / 60
        for name, feet in (("pe-sidr7", 30), ("pvc120", 66), ("galv40", 64)):
            got = head_loss_hazen_williams(flow, 100 * FOOT, pipe(name, "1").bore, series(name).hazen_williams_c) / FOOT
            self.assertAlmostEqual(got, feet, delta=1.0, msg=name)

    def test_heavy_pvc_by_power_and_depth(self) -> None:
        """1 in heavy PVC to 1.5 hp and about 700 ft, 1-1/4 in to 2 hp and 600 ft (common practice)."""
        for size, hp, feet in (("1", 1.5, 700), ("1-1/4", 2.0, 600)):
            deep = replace(HOLE, depth=400, pump=feet * FOOT - 1)
            light = Duty(flow=3e-4, pressure=2e5, shut_off=120, horsepower=hp, pump_weight=12, cable_weight=0.1)
            words = " ".join(one(drop_pipes(deep, light), "pvc120", size).rejected)
            self.assertNotIn("common practice", words)
            strong = " ".join(one(drop_pipes(deep, replace(light, horsepower=hp + 0.5)), "pvc120", size).rejected)
            self.assertIn(f"crews hang pumps to {hp:g} hp", strong)
            lower = " ".join(one(drop_pipes(replace(deep, pump=feet * FOOT + 5), light), "pvc120", size).rejected)
            self.assertIn("crews set it to about", lower)

    def test_two_schools_of_polyethylene(self) -> None:
        """Crews who pull pumps stop near 30 m; by strength alone it may go deeper, and then it is only minded."""
        pulling, strength = (
            one(drop_pipes(HOLE, replace(DUTY, school=s, pump_weight=8)), "pe-sidr7", "1-1/4")
            for s in ("pulling", "strength")
        )
        self.assertIn("cannot be unstacked", " ".join(pulling.rejected))
        self.assertNotIn("cannot be unstacked", " ".join(strength.rejected))
        self.assertIn("cannot be unstacked", " ".join(strength.minds))

    def test_check_valves(self) -> None:
        """At the pump and about every 200 ft; brass to about 600 ft, ductile iron beyond (common practice)."""
        short = drop_pipes(replace(HOLE, pump=40), DUTY).checks
        self.assertEqual([(c.depth, c.body) for c in short], [(40, "brass")])
        deep = drop_pipes(replace(HOLE, depth=400, pump=250, static=100), replace(DUTY, shut_off=250)).checks
        self.assertGreater(len(deep), 3)
        self.assertEqual(
            {c.body for c in deep}, {"ductile iron"}
        )  # each sees 250 m of shut-off head less 100 m of rest, and its depth
        mild = drop_pipes(replace(HOLE, depth=400, pump=250, static=100), replace(DUTY, shut_off=160)).checks
        self.assertEqual((mild[0].body, mild[-1].body), ("ductile iron", "brass"))

    def test_ranking(self) -> None:
        """Sound ones come first by what they cost a year; the weakest rated is refused with the pressure it sees."""
        found = drop_pipes(HOLE, DUTY)
        sound = [c for c in found.candidates if not c.rejected]
        self.assertEqual([c.yearly for c in sound], sorted(c.yearly for c in sound))
        self.assertTrue(all(c.rejected for c in found.candidates[len(sound) :]))
        hard = drop_pipes(HOLE, replace(DUTY, shut_off=250))
        self.assertIn("with the valve shut", " ".join(one(hard, "pe-sidr9", "1").rejected))

    def test_water_and_crew(self) -> None:
        """Aggressive water halves galvanized's years; without a hoist a heavy string is refused."""
        found = drop_pipes(HOLE, replace(DUTY, aggressive=True))
        self.assertEqual(one(found, "galv40", "1-1/4").life, 9)
        self.assertIn("without a hoist", " ".join(one(found, "galv40", "1-1/4").rejected))
        self.assertTrue({"electric", "lift", "string"} <= {c.code for c in found.cautions})

    def test_only_what_fits_the_casing(self) -> None:
        """A joint must pass with room for the cable; a casing that passes nothing is refused."""
        narrow = drop_pipes(replace(HOLE, casing=0.075), DUTY)
        self.assertNotIn("2", {c.size for c in narrow.candidates})
        with self.assertRaisesRegex(HydrarchError, "no pipe of ours"):
            drop_pipes(replace(HOLE, casing=0.035), DUTY)

    def test_a_well_that_gives_too_little(self) -> None:
        """More than the drawdown allows is refused with what the well gives, more than the test shows with that."""
        with self.assertRaisesRegex(HydrarchError, "the test shows no more"):
            drop_pipes(HOLE, replace(DUTY, flow=0.02))
        with self.assertRaisesRegex(HydrarchError, "the well gives"):
            drop_pipes(replace(HOLE, test_drawdown=60), replace(DUTY, flow=0.02))

    def test_holes_that_cannot_be(self) -> None:
        """Pump under the bottom, pump above the water, an absurd casing, an unknown school."""
        with self.assertRaisesRegex(HydrarchError, "below the bottom"):
            replace(HOLE, pump=95)
        with self.assertRaisesRegex(HydrarchError, "above the water at rest"):
            replace(HOLE, static=75)
        with self.assertRaises(OutOfRange):
            replace(HOLE, casing=5.0)
        with self.assertRaises(Unknown):
            replace(DUTY, school="none")


class Pumps(unittest.TestCase):
    """Whether the pump does there, before any word about its pipe."""

    def test_one_that_does(self) -> None:
        """Enough water over it, head to spare, room beside it and below it: nothing is said against it."""
        found = drop_pipes(HOLE, DUTY)
        self.assertEqual(found.pump_wrong, ())
        self.assertNotIn("Another pump", found.says)

    def test_one_that_does_not(self) -> None:
        """Too little head, too wide for its casing, too near to the bottom: the first line says so, and never that a
        pipe stands every limit (3-3/4 in of a 4-in pump, 10 ft off the bottom: common practice).
        """
        cases = {
            "of head is needed at that flow, and it makes 50.00 m with its outlet shut": (
                HOLE,
                replace(DUTY, shut_off=50.0),
            ),
            "of head is needed at that flow, and it makes 60.00 m": (HOLE, replace(DUTY, shut_off=60.0)),
            "does not go down a casing of 76": (replace(HOLE, casing=0.0762), DUTY),
            "off the bottom and draws sand": (replace(HOLE, depth=HOLE.pump + 1.0), DUTY),
            "of water over it while it pumps": (
                replace(HOLE, static=68.5, test_drawdown=0.0),
                replace(DUTY, shut_off=140.0),
            ),
        }
        for words, (hole, duty) in cases.items():
            with self.subTest(words):
                found = drop_pipes(hole, duty)
                self.assertIn(words, found.says)
                self.assertNotIn("stand every limit", found.says)
                self.assertEqual(len(found.pump_wrong), 1, found.pump_wrong)


class Vessels(unittest.TestCase):
    """Boyle's law in a tank."""

    def test_drawdown(self) -> None:
        """A vessel of 100 L charged to 26 psi, 28 to 48 psi, gives about 30 L (Boyle; makers' tables give 0.30 to 0.32,
        from memory).
        """
        found = vessel_size(5e-4, 28 * 6894.757, 48 * 6894.757, 0.1)
        self.assertAlmostEqual(found.drawdown * 1e3, 30.4, delta=1.5)

    def test_a_minute_of_running(self) -> None:
        """The vessel asked for lets the pump run a minute; a smaller one is told to wear the motor; a switch upside
        down is refused.
        """
        wanted = vessel_size(8e-4, 200e3, 340e3)
        self.assertAlmostEqual(vessel_size(8e-4, 200e3, 340e3, wanted.volume).drawdown, 0.048, delta=4e-4)
        self.assertIn("too short", vessel_size(8e-4, 200e3, 340e3, 0.02).says)
        with self.assertRaisesRegex(HydrarchError, "higher pressure"):
            vessel_size(8e-4, 340e3, 200e3)


class Lines(unittest.TestCase):
    """One line at the bench."""

    def test_pick_and_neighbours(self) -> None:
        """0.8 L/s in schedule 40: 1 in holds 1.5 m/s by a hair, 3/4 does not; the rule stands beside it."""
        found = line_sizes(LineQuestion("pvc40", 8e-4, 60.0, rise=3.0, fittings=(("elbow", 4),)))
        self.assertEqual((found.pick, found.below, found.above), ("1", "3/4", "1-1/4"))
        self.assertEqual(found.rule.size if found.rule else None, "1")
        row = next(r for r in found.rows if r.size == "1")
        self.assertAlmostEqual(row.pressure, (row.friction + row.fittings + 3.0) * 9802, delta=60)
        self.assertEqual(row.regime, "turbulent")

    def test_laminar_and_between(self) -> None:
        """A trickle in a large pipe is laminar, and says so."""
        rows = line_sizes(LineQuestion("pvc40", 1e-5, 10.0)).rows
        self.assertEqual(rows[-1].regime, "laminar")

    def test_no_size_holds(self) -> None:
        """Beyond the largest size the reason stands in words."""
        self.assertIn("no size of this series holds", line_sizes(LineQuestion("pe-sidr7", 0.05, 10.0)).says)

    def test_friction_table(self) -> None:
        """25 US gal/min in 1 in schedule 40 loses about 30 ft in 100 ft at its average bore (Hazen-Williams); too fast
        is blank.
        """
        table = friction_table("pe-sidr7", (25 * GALLON / 60, 0.05))
        self.assertAlmostEqual(table.losses[0][table.sizes.index("1")] or 0, 30.0, delta=0.2)
        self.assertIsNone(table.losses[1][0])

    def test_drains(self) -> None:
        """Larger drains run shallower at the same flow."""
        depths = [runs.depth for _, runs in drain_sizes("sewer-sdr35", 1e-3, 0.02)]
        self.assertEqual(depths, sorted(depths, reverse=True))

    def test_bad_lines(self) -> None:
        """Unknown fittings, drains asked as pressure lines, and absurd lengths are refused."""
        with self.assertRaisesRegex(HydrarchError, "is not a fitting counted here"):
            LineQuestion("pvc40", 1e-3, 10, fittings=(("widget", 1),))
        with self.assertRaisesRegex(HydrarchError, "ask it as a drain"):
            line_sizes(LineQuestion("sewer-sdr35", 1e-3, 10))
        with self.assertRaises(OutOfRange):
            LineQuestion("pvc40", 1e-3, -1.0)
