"""A heater on a supply: what hot water may run in, its relief valve, and room for it to grow."""

import unittest
from itertools import pairwise
from typing import Any

from hydrarch.core.base.problems import Problem
from hydrarch.core.catalogue.pipes import pipe, pressure_rating
from hydrarch.core.derivation.chain import derive
from hydrarch.core.report.headlines import says
from hydrarch.demo_waters import cedar_tub
from tests.core.plans import draw, point


def told(pipe: dict[str, Any], *before: str, vessel: bool = False) -> dict[str, Problem]:
    """Mains, what stands before a heater, the heater, and a tap on `pipe`."""
    spots = [point("M", 0, 0, "mains"), point("H", 20, 0, "heater"), point("T", 40, 0, "tap")]
    chain = ["M"]
    for n, kind in enumerate(before):
        spots.append(point(f"X{n}", 5 + 3 * n, 0, kind))
        chain.append(f"X{n}")
    chain.append("H")
    runs = list(pairwise(chain))
    if vessel:
        spots += [point("J", 30, 0, "junction"), point("V", 30, 3, "vessel")]
        runs += [("H", "J"), ("J", "V"), ("J", "T")]
    else:
        runs.append(("H", "T"))
    return {p.code: p for p in derive(draw(spots, runs, runs_more=[pipe] * len(runs))).problems()}


PVC, STEEL = {"series": "pvc40", "size": "1"}, {"series": "galv40", "size": "1"}


class Hot(unittest.TestCase):
    """A heater of 6 kW between mains and a tap."""

    def test_pipe_that_is_not_for_hot_water(self) -> None:
        """PVC behind a heater stops the job, and is said first; steel does not."""
        found = told(PVC)
        self.assertEqual((found["hot-pipe"].severity, found["hot-pipe"].danger), ("stop", True))
        self.assertNotIn("hot-pipe", told(STEEL))
        spots = [point("M", 0, 0, "mains"), point("H", 20, 0, "heater"), point("T", 40, 0, "tap")]
        line = says("size", derive(draw(spots, [("M", "H"), ("H", "T")], runs_more=[PVC] * 2)))
        self.assertIn("softens, sags and bursts", line)
        self.assertNotIn("enough", line)

    def test_relief_is_always_asked(self) -> None:
        """A heater on a shut line is told to want its relief valve, as a danger, whatever the pipe."""
        for laid in (PVC, STEEL):
            found = told(laid)["no-relief"]
            self.assertEqual((found.severity, found.danger), ("stop", True))

    def test_a_relief_valve_that_nothing_shuts_off(self) -> None:
        """At the heater it answers; behind a valve it does not. It opens below what the hot pipe carries at 60 °C, and
        one that opens by pressure alone is told.
        """

        def line(between: str, **relief: Any) -> dict[str, Problem]:
            spots = [
                point("M", 0, 0, "mains"),
                point("H", 20, 0, "heater"),
                point("J", 30, 0, between),
                point("K", 32, 0, "junction"),
                point("RV", 32, 3, "relief", **relief),
                point("T", 40, 0, "tap"),
            ]
            runs = [("M", "H"), ("H", "J"), ("J", "K"), ("K", "RV"), ("K", "T")]
            laid = [{"series": "ppr-s2.5", "size": "32"}] * 5
            return {p.code: p for p in derive(draw(spots, runs, runs_more=laid)).problems()}

        self.assertNotIn("no-relief", line("union"))
        self.assertIn("relief-no-heat", line("union"))
        self.assertNotIn("relief-no-heat", line("union", senses="pressure and temperature"))
        self.assertIn("can be shut off", line("valve")["no-relief"].says)
        carries = pressure_rating(pipe("ppr-s2.5", "32"), 333.15)
        self.assertNotIn("relief-high", line("union", opens=0.9 * carries))
        self.assertIn("relief-high", line("union", opens=1.1 * carries))

    def test_room_to_grow(self) -> None:
        """Behind a check valve, a preventer or a regulator warmed water has nowhere to go: a vessel behind the heater
        takes it up. Open to the mains it goes back there.
        """
        self.assertNotIn("no-expansion", told(STEEL))
        for kind in ("check_valve", "backflow", "regulator"):
            with self.subTest(kind):
                self.assertEqual(told(STEEL, kind)["no-expansion"].severity, "stop")
                self.assertNotIn("no-expansion", told(STEEL, kind, vessel=True))

    def test_a_tub_is_none(self) -> None:
        """What goes round through a tub is open at its top: none of this is told of its heater."""
        codes = {p.code for p in derive(cedar_tub()).problems()}
        self.assertFalse({"hot-pipe", "no-relief", "no-expansion"} & codes)


if __name__ == "__main__":
    unittest.main()
