"""A heater on a supply: what hot water may run in, its relief valve, and room for it to grow."""

import unittest
from itertools import pairwise
from typing import Any

from hydrarch.core.base.problems import Problem
from hydrarch.core.catalogue.fittings import fittings
from hydrarch.core.catalogue.pipes import pipe, pressure_rating
from hydrarch.core.catalogue.ratings import fitting_rating_at
from hydrarch.core.components.basins import Basin
from hydrarch.core.derivation.chain import derive
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.joining.strength import seen_by, too_weak
from hydrarch.core.report.headlines import says
from hydrarch.demo import cedar_tub
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
        """A heater on a shut line is reported to want its relief valve, as a danger, whatever the pipe."""
        for laid in (PVC, STEEL):
            found = told(laid)["no-relief"]
            self.assertEqual((found.severity, found.danger), ("stop", True))

    def test_a_relief_valve_that_nothing_shuts_off(self) -> None:
        """At the heater it answers; behind a valve it does not. It opens below what the hot pipe carries at 60 °C, and
        one that opens by pressure alone is reported.
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
        """What goes round through a tub is open at its top: none of this is reported of its heater."""
        codes = {p.code for p in derive(cedar_tub()).problems()}
        self.assertFalse({"hot-pipe", "no-relief", "no-expansion"} & codes)


class Warm(unittest.TestCase):
    """Each system has its own temperature: what carries water is looked up at that."""

    def test_behind_the_heater_and_before_it(self) -> None:
        """PPR S5 carries 10 bar at 20 °C and half of that at 60 °C (ISO 15874-2, 50 years, from memory): of one line
        the cold half stands 7 bar and the hot half does not. Water hotter than the table is refused.
        """
        spots = [point("M", 0, 0, "mains", pressure=7e5), point("H", 20, 0, "heater"), point("T", 40, 0, "tap")]
        laid = [{"series": "ppr-s5", "size": "25"}] * 2
        done = derive(draw(spots, [("M", "H"), ("H", "T")], runs_more=laid))
        cold, hot = (r.id for r in done.plan.runs)
        self.assertEqual(done.layout.warm, {cold: 285.15, hot: 333.15})
        self.assertEqual([p.where for p in done.problems() if p.code == "over-rating"], [hot])
        self.assertIn("and 60 °C", next(p.says for p in done.problems() if p.code == "over-rating"))
        spots[1] = point("H", 20, 0, "heater", gives=368.15)
        told = {p.code: p for p in derive(draw(spots, [("M", "H"), ("H", "T")], runs_more=laid)).problems()}
        self.assertEqual((told["too-warm"].where, told["too-warm"].severity), (hot, "stop"))

    def test_past_a_bypass(self) -> None:
        """A bypass round a heater hides no hot pipe: what lies beyond it is hot, what branches off before it is cold."""
        spots = [point("M", 0, 0, "mains"), point("L", 5, 0, "junction"), point("C", 5, 9, "tap")]
        spots += [point("J", 10, 0, "junction"), point("H", 20, 0, "heater"), point("K", 30, 0, "junction")]
        spots.append(point("T", 40, 0, "tap"))
        runs = [("M", "L"), ("L", "C"), ("L", "J"), ("J", "H"), ("H", "K"), ("J", "K"), ("K", "T")]
        done = derive(draw(spots, runs, runs_more=[PVC] * 7))
        hot = {r for r, warm in done.layout.warm.items() if warm > 330}
        self.assertEqual(hot, {"R5", "R6", "R7"})
        self.assertIn("hot-pipe", {p.code for p in done.problems()})

    def test_sizes_are_picked_for_the_heat(self) -> None:
        """Where the size is free, pipe behind a heater is picked at the heater's temperature."""
        spots = [point("M", 0, 0, "mains", pressure=7e5), point("H", 20, 0, "heater"), point("T", 40, 0, "tap")]
        done = derive(draw(spots, [("M", "H"), ("H", "T")], runs_more=[{"series": "ppr-s2.5"}] * 2))
        hot = done.plan.runs[1].id
        self.assertGreaterEqual(pressure_rating(done.settled.pipes[hot], 333.15), 7e5)

    def test_a_tub_goes_round_at_what_it_is_kept_at(self) -> None:
        """What goes round the demo's tub is as warm as the tub, and its air lines are as the job's."""
        done = derive(cedar_tub())
        kept = max(p.what.warm or 0.0 for p in done.plan.points if isinstance(p.what, Basin))
        job = done.plan.conditions.water_temperature
        self.assertGreater(kept, job)
        for system in done.layout.systems.found:
            wanted = kept if system.sort == "circulation" else job
            self.assertEqual({done.layout.warm[r] for r in system.runs}, {wanted}, system.sort)


class Strong(unittest.TestCase):
    """A fitting that carries less than it sees is passed over for one that does the same."""

    def test_no_weaker_one_is_taken_where_a_stronger_joins_as_well(self) -> None:
        """In water of 45 °C the change of a line is made without the plastic thread that 12 °C allows; what no other
        way joins stays, and is reported.
        """
        spots = [point("M", 0, 0, "mains", pressure=6e5), point("J", 20, 0, "bend"), point("T", 40, 0, "tap")]
        laid = [{"series": "pe-sidr15", "size": "1-1/4"}, {"series": "pvc40", "size": "1-1/4"}]
        for warm in (285.15, 313.15, 318.15):
            plan = draw(spots, [("M", "J"), ("J", "T")], runs_more=laid, conditions={"water_temperature": warm})
            done = derive(plan)
            rest = static_pressure(plan, done.layout)
            told = {p.where for p in done.problems() if p.code == "part-over-rating"}
            for part in done.assembly.parts:
                seen = seen_by(plan, done.layout, rest, part)
                if seen is not None and fitting_rating_at(part.fitting, warm) < seen:
                    self.assertIn(part.point, told, part)

    def test_who_is_too_weak(self) -> None:
        """Exactly the fittings whose rating is below what is seen, pieces of pipe apart."""
        for seen, warm in ((0.0, 293.15), (3e5, 293.15), (7e5, 318.15), (1e9, 293.15)):
            weak = too_weak(seen, warm)
            for part in fittings().values():
                below = part.material != "pipe" and fitting_rating_at(part.id, warm) < seen
                self.assertEqual(part.id in weak, below, part.id)


if __name__ == "__main__":
    unittest.main()
