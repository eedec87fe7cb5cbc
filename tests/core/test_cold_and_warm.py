"""Frost in the ground, still water in bare pipe, and pipe that grows: each against a sum made another way."""

import unittest
from math import log, pi, sqrt
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from hydrarch.core.base.units import FOOT, INCH
from hydrarch.core.catalogue.pipes import pipe, series
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from hydrarch.core.site.cold import freezes_after, frost_depth
from hydrarch.core.site.movement import bending_leg, growth
from tests.core.plans import codes, draw, point

DAY = 86400.0


def line(situation: str = "buried", made: str = "pvc40", *, long: float = 20.0, **more: float) -> Plan:
    """Mains and a tap, with a straight run between."""
    spots = [point("M", 0, 0, "mains", depth=0.6), point("V", long, 0, "tap", depth=0.6)]
    run = {"situation": situation, "series": made, "size": "25" if made.startswith("ppr") else "1"}
    return draw(spots, [("M", "V")], conditions=more, runs_more=[run])


class Frost(unittest.TestCase):
    """How deep it goes."""

    def test_in_the_other_units(self) -> None:
        """Stefan's equation as American engineers write it, X = sqrt(48 k F / L) in ft, Btu/(ft·h·°F), °F·d and
        Btu/ft³, gives the same. Source: US Army TM 5-852-6, from memory.
        """
        dense, wet, conducts = 1550.0, 0.18, 1.9  # loam
        latent = dense * wet * 334e3 / 1055.056 * FOOT**3
        american = conducts / 1055.056 * FOOT * 3600 * 5 / 9
        for days in (100.0, 500.0, 1500.0):  # °C·d
            feet = sqrt(48 * american * days * 9 / 5 / latent)
            self.assertAlmostEqual(frost_depth(days * DAY, "loam"), feet * FOOT, places=6)

    @given(days=st.floats(0, 3e8), more=st.floats(1, 4))
    def test_four_times_the_cold_twice_the_depth(self, days: float, more: float) -> None:
        """It goes with the root of the cold; drier ground lets it deeper."""
        self.assertAlmostEqual(frost_depth(days * more, "clay"), frost_depth(days, "clay") * sqrt(more), places=9)
        self.assertGreaterEqual(frost_depth(days, "sand"), frost_depth(days, "clay"))

    def test_the_local_table_wins(self) -> None:
        """Told by degree-days where no depth is typed; a typed depth counts alone; with neither, nothing is reported."""
        cold = 300 * DAY  # 1.03 m in loam
        self.assertNotIn("above-frost", codes(line()))
        self.assertIn("above-frost", codes(line(frost_days=cold)))
        self.assertNotIn("above-frost", codes(line(frost_days=cold, frost=0.5)))
        self.assertIn("above-frost", codes(line(frost=0.7)))


class Freezing(unittest.TestCase):
    """Still water in bare pipe."""

    def test_step_by_step(self) -> None:
        """Against cooling it in steps, with 999.9 kg/m³ and 4,203 J/kg·K between 10 and 0 °C (steam tables): 1 in
        copper, 13 mm of foam, in air of -10 °C.
        """
        item, foam, wind = pipe("copper-l", "1"), 0.013, 9.0
        outer = item.outside + 2 * foam
        ways = log(item.outside / item.bore) / 390 + log(outer / item.outside) / 0.040
        resists = ways / (2 * pi) + 1 / (wind * pi * outer)
        warm, seconds = 283.15, 0
        while warm > 273.15:
            warm -= (warm - 263.15) / resists / (999.9 * 4203 * pi * item.bore**2 / 4) * 10
            seconds += 10
        self.assertAlmostEqual(freezes_after(item, foam, 283.15, 263.15) / seconds, 1, delta=0.02)

    @given(foam=st.floats(0, 0.1), more=st.floats(0.001, 0.1), air=st.floats(220, 273), colder=st.floats(0.1, 30))
    def test_thicker_is_slower(self, foam: float, more: float, air: float, colder: float) -> None:
        """More insulation on pipe of an inch never freezes sooner, colder air never later."""
        item = pipe("pvc40", "1")
        usual = freezes_after(item, foam, 285.15, air)
        self.assertGreaterEqual(freezes_after(item, foam + more, 285.15, air), usual * 0.98)
        self.assertLessEqual(freezes_after(item, foam, 285.15, air - colder), usual)

    def test_told(self) -> None:
        """Bare in the open it is reported with the hours; in the ground, insulated well, or where nobody said how cold
        it gets, it is not.
        """
        self.assertIn("freezes", codes(line("on bracket", coldest=258.15)))
        for plan in (
            line("on bracket"),
            line("buried", coldest=258.15),
            line("in a cellar", coldest=258.15),
            line("on bracket", coldest=274.15),
        ):
            self.assertNotIn("freezes", codes(plan))
        lagged = line("on bracket", coldest=272.15)
        runs = tuple(r.model_copy(update={"lagging": 0.1}) for r in lagged.runs)
        self.assertNotIn("freezes", codes(lagged.model_copy(update={"runs": runs})))


class Moves(unittest.TestCase):
    """Growth by warmth."""

    def test_published(self) -> None:
        """Polyethylene grows an inch in 100 ft for 10 °F: published rule of thumb (1.08 in by α = 9e-5/°F); PP-R 10 m
        by 40 K 60 mm by α = 1.5e-4/K.
        """
        self.assertAlmostEqual(growth(pipe("pe-sidr9", "1"), 100 * FOOT, 50 / 9) / INCH, 1.08, delta=0.15)
        self.assertAlmostEqual(growth(pipe("ppr-s3.2", "25"), 10.0, 40.0), 0.060, delta=0.0005)

    def test_bending_leg(self) -> None:
        """C sqrt(d ΔL): 32 mm of PVC that moves 16 mm takes 33.5 sqrt(512) = 758 mm."""
        item = pipe("pvc-metric", "32")
        self.assertAlmostEqual(bending_leg(item, 0.016), 33.5e-3 * sqrt(item.outside * 1e3 * 16), places=9)
        self.assertAlmostEqual(bending_leg(item, 0.016), 0.758, delta=0.002)

    def test_told(self) -> None:
        """20 m of PVC from -10 to 50 °C move 65 mm; in the ground, soft, short, or with no range told, nothing is."""
        told: dict[str, Any] = {"coldest": 263.15, "warmest": 323.15}
        found = next(p for p in derive(line("on surface", **told)).problems("size") if p.code == "moves")
        self.assertIn("65 mm", found.says)
        self.assertAlmostEqual(series("pvc40").expansion * 20 * 60, 0.0648, places=4)
        for plan in (
            line("buried", **told),
            line("on surface"),
            line("on surface", "pe-sidr9", **told),
            line("on surface", long=2.0, **told),
        ):
            self.assertNotIn("moves", codes(plan))

    def test_a_turn_takes_it_up(self) -> None:
        """Two legs round an elbow are judged each by itself; in one line they move together, and are reported once."""
        told: dict[str, Any] = {"coldest": 263.15, "warmest": 323.15}
        run = {"situation": "on surface", "series": "pvc40", "size": "1"}
        for far, many in (((20.0, 0.0), 1), ((10.0, 10.0), 2)):
            spots = [
                point("M", 0, 0, "mains", depth=-0.5),
                point("B", 10, 0, "bend" if many == 2 else "valve", depth=-0.5),
                point("V", *far, "tap", depth=-0.5),
            ]
            plan = draw(spots, [("M", "B:line" if many == 2 else "B"), ("B:line" if many == 2 else "B", "V")],
                        conditions=told, runs_more=[run, run])  # fmt: skip
            found = [p for p in derive(plan).problems("size") if p.code == "moves"]
            self.assertEqual(len(found), many)
            self.assertIn("65 mm" if many == 1 else "32 mm", found[0].says)
