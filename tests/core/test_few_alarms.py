"""Alarms only where they apply, once each, with the right advice: what crews learn to skip is worse than silence."""

import unittest
from collections import Counter
from typing import Any

from hydrarch.core.catalogue.pipes import pipe, pressure_rating, series
from hydrarch.core.derivation.chain import derive
from hydrarch.core.joining.answer import answer
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.question import read_question
from hydrarch.core.plan.document import Plan
from hydrarch.demo import (
    cedar_tub,
    drying_yard,
    gate_service,
    herb_bank,
    herb_beds,
    show_tank,
    swimming_pond,
    tent_meadow,
    thistledown,
    wash_block,
    wash_risers,
)
from tests.core.jobs import (
    bathrooms,
    building_drain,
    capped_lines,
    cellar_sump,
    chewed_tubing,
    greywater,
    lead_service,
    nicked_line,
    roof_drain,
    square,
    stop_and_waste,
    well,
)
from tests.core.plans import codes, draw, point

_DEMO = (
    thistledown,
    drying_yard,
    herb_bank,
    herb_beds,
    tent_meadow,
    cedar_tub,
    show_tank,
    swimming_pond,
    wash_block,
    gate_service,
    wash_risers,
)
_REPAIRS = (nicked_line, capped_lines, stop_and_waste, chewed_tubing)
_JOBS = (*_DEMO, well, roof_drain, building_drain, cellar_sump, greywater, lead_service, bathrooms, *_REPAIRS, square)


def _line(about: str, situation: str, series_id: str = "pvc40", **tap: Any) -> Plan:
    """Mains, ten metres of pipe that lies so, and a tap."""
    return draw(
        [point("M", 0, 0, "mains"), point("T", 10, 0, "tap", **tap)],
        [("M", "T")],
        about=about,
        runs_more=[{"situation": situation, "series": series_id, "size": "1"}],
    )


class Few(unittest.TestCase):
    """One by one."""

    def test_sun_is_for_what_stands_outside(self) -> None:
        """Not told of pipe in a house or a cellar; never with another material's advice."""
        self.assertNotIn("sun", codes(_line("house", "on bracket")))
        outside = {p.code: p for p in derive(_line("sprinklers", "on bracket")).problems()}["sun"]
        self.assertIn("Paint", outside.mend)
        soft = {p.code: p for p in derive(_line("tub", "on surface", "pvc-flex")).problems()}["sun"]
        self.assertNotIn("cement", soft.mend)
        self.assertNotIn("painted", soft.mend)

    def test_a_tap_of_a_room_takes_no_hose(self) -> None:
        """The vacuum breaker is asked at a tap outside, and not at a basin fed through the wall."""
        self.assertIn("hose-tap", codes(_line("service", "buried")))
        self.assertNotIn("hose-tap", codes(_line("house", "in wall")))

    def test_copper_carries_hot_water(self) -> None:
        """Copper tube keeps its strength to 95 °C; common practice."""
        for size in ("1/2", "3/4", "1"):
            tube = pipe("copper-l", size)
            self.assertEqual(pressure_rating(tube, 273.15 + 90), pressure_rating(tube, 293.15))
        self.assertEqual(series("copper-l").material, "copper")

    def test_plain_couplings_tempt_to_nothing_of_another_size(self) -> None:
        """No toe nipple and no fitting of the next size beside two pipes of one size; both where sizes differ."""
        plain = answer(read_question("1 in pvc to 1 in pvc"), Constraints()).wrong
        self.assertFalse([w for w in plain if "socket fitting" in w.why or w.b.gender == "mouth"], plain)
        step = answer(read_question("3/4 in pvc to 1 in pvc"), Constraints()).wrong
        self.assertTrue([w for w in step if "socket fitting" in w.why or w.b.gender == "mouth"])

    def test_the_port_that_is_left_is_the_one_meant(self) -> None:
        """A run that says no port comes to the only one that is free; with two free it is asked."""
        spots = [point("M", 0, 0, "mains"), point("V", 10, 0, "check_valve"), point("T", 20, 0, "tap")]
        plan = draw(spots, [("M", "V:in"), ("V:out", "T")]).model_dump(mode="json")
        plan["runs"][1]["a"]["port"] = ""
        self.assertNotIn("which-port", codes(Plan.model_validate(plan)))
        plan["runs"][0]["b"]["port"] = ""
        self.assertIn("which-port", codes(Plan.model_validate(plan)))

    def test_a_speed_a_hair_over_its_limit_is_not_told(self) -> None:
        """A limit of 5 ft/s (1.524 m/s): a pipe at 1.53 m/s is at its limit, as charts are read; at 1.6 it is over."""
        for speed, told in ((1.53, False), (1.60, True)):
            area = 3.14159265 / 4 * pipe("pvc40", "1").bore ** 2
            spots = [point("M", 0, 0, "mains", pressure=600e3), point("T", 10, 0, "tap", flow=speed * area)]
            plan = draw(spots, [("M", "T")], runs_more=[{"series": "pvc40", "size": "1"}])
            self.assertEqual("too-fast" in codes(plan), told, speed)

    def test_bends_in_soft_tubing_are_nobodys_trench(self) -> None:
        """Drip tubing on the ground turns without a corner to cut back."""
        spots = [point("M", 0, 0, "mains"), point("J", 10, 0, "junction"), point("T", 10, 10, "tap")]
        run = {"situation": "on surface", "series": "drip-620", "size": "1/2"}
        self.assertNotIn("wide-trench", codes(draw(spots, [("M", "J"), ("J", "T")], runs_more=[run, run])))

    def test_taps_short_of_water_are_one_problem(self) -> None:
        """Six taps on a mains too weak for them: the first is reported, the others beneath it."""
        spots = [point("M", 0, 0, "mains", pressure=120e3, flowing=2e-4, flowing_pressure=20e3)]
        runs: list[tuple[str, str]] = []
        before = "M"
        for n in range(6):
            spots += [point(f"J{n}", 10 * n + 10, 0, "junction"), point(f"T{n}", 10 * n + 10, 5, "tap")]
            runs += [(before, f"J{n}"), (f"J{n}", f"T{n}")]
            before = f"J{n}"
        short = ("outlet-starved", "no-pressure", "source-too-low", "pump-off-curve")
        found = [p for p in derive(draw(spots, runs)).problems() if p.code in short]
        self.assertGreater(len(found), 6)
        alone = [p for p in found if not p.follows]
        self.assertEqual(len(alone), 1)
        # the cause of a stop is a stop: no headline passes over what is folded beneath a milder one
        self.assertIn("stop", [p.severity for p in found if p.follows])
        self.assertEqual(alone[0].severity, "stop")

    def test_a_stretch_that_is_too_fast_is_one(self) -> None:
        """Of four runs with the same water in them the first is told, the others beneath it; a branch with less water
        that is too fast as well stands by itself.
        """
        spots = [point("M", 0, 0, "mains", pressure=900e3), point("J", 30, 0, "junction"), point("U", 40, 9, "tap")]
        spots += [point("B", 10, 0, "bend"), point("V", 20, 0, "union"), point("T", 60, 0, "tap", flow=1.2e-3)]
        spots[2]["what"]["flow"] = 6e-4
        runs = [("M", "B"), ("B", "V"), ("V", "J"), ("J", "T"), ("J", "U")]
        small = [{"series": "pvc40", "size": "3/4"}] * 4 + [{"series": "pvc40", "size": "1/2"}]
        fast = [p for p in derive(draw(spots, runs, runs_more=small)).problems() if p.code == "too-fast"]
        self.assertEqual([p.where for p in fast if not p.follows], ["R1", "R4", "R5"])
        self.assertEqual({p.where: p.follows for p in fast if p.follows}, dict.fromkeys(("R2", "R3"), "too-fast R1"))


class Law(unittest.TestCase):
    """Over the jobs of the demo, and small ones of other kinds."""

    def test_no_alarm_repeats(self) -> None:
        """No two that stand by themselves say the same thing of the same place, and no code fills the list."""
        for make in _JOBS:
            with self.subTest(make.__name__):
                alone = [p for p in derive(make()).problems() if not p.follows]
                self.assertEqual(max(Counter((p.code, p.where, p.scenario) for p in alone).values(), default=1), 1)
                self.assertLessEqual(max(Counter(p.code for p in alone).values(), default=0), 3)

    def test_none_names_a_material_that_is_not_there(self) -> None:
        """An alarm at a run does not speak of pipe the job has none of."""
        for make in _JOBS:
            done = derive(make())
            there = {series(c.series).short for c in done.sizes.choices.values()}
            others = {s for s in ("PPR", "Lead pipe", "Galvanized", "Bituminized") if not any(s in t for t in there)}
            for p in done.problems():
                for word in others:
                    self.assertNotIn(
                        word, f"{p.says} {p.mend}".replace("Lead pipe supplies", ""), f"{make.__name__}: {p.code}"
                    )


if __name__ == "__main__":
    unittest.main()
