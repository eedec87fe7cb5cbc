"""What is said to a crew is said in its own units, and in no other."""

import re
import unittest
from collections.abc import Iterator
from dataclasses import fields, is_dataclass
from typing import Any

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import System, read, show
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.commissioning.tightness import hold_plan
from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.hydraulics.gravity import part_full
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.question import read_question
from hydrarch.core.joining.ways import join
from hydrarch.core.making.cure import cure_time
from hydrarch.core.making.steps import procedure
from hydrarch.core.report.what_if import compare_plans
from hydrarch.core.report.working import working
from hydrarch.core.sizing.one_line import LineQuestion, line_sizes
from hydrarch.core.wells.droppipe import Duty, drop_pipes
from hydrarch.core.wells.hole import Hole
from hydrarch.demo import DEMO_ID, demo_events, drying_yard, herb_bank, thistledown

FOREIGN: dict[System, re.Pattern[str]] = {
    "us": re.compile(r"\d\s?(m|mm|cm|bar|mbar|kPa|L|L/s|L/min|L/h|°C|kg|kg/m|m/s|N·m)(?![\w/])"),
    "metric": re.compile(r"\d\s?(ft|psi|gpm|gal|gal/h|°F|lb|lb/ft|ft/s|oz|lbf·ft)(?![\w/])"),
}
GOODS = re.compile(r"roll of 12 m|[Uu]niversal|schedule|sticks? of|coils? of")
"""Goods that are sold by that measure everywhere."""


def strings(value: Any) -> Iterator[str]:
    """Every text within a value made of ours."""
    if isinstance(value, str):
        yield value
    elif is_dataclass(value) and not isinstance(value, type):
        for f in fields(value):
            if f.name != "source":  # a source is quoted as it stands
                yield from strings(getattr(value, f.name))
    elif isinstance(value, dict):
        for v in value.values():
            yield from strings(v)
    elif isinstance(value, tuple | list):
        for v in value:
            yield from strings(v)


class Words(unittest.TestCase):
    """Both systems, everything that is said."""

    def own_units_only(self, value: Any, system: System, where: str) -> None:
        """No text within names a unit of the other system."""
        for text in strings(value):
            if not GOODS.search(text):
                self.assertIsNone(FOREIGN[system].search(text), f"{where}: {text}")

    def test_a_job(self) -> None:
        """All that follows from the demo's jobs, their states, steps, workings, tests and comparisons."""
        for make in (thistledown, herb_bank, drying_yard):
            for system in ("us", "metric"):
                plan = make().model_copy(update={"units": system})
                done = derive(plan)
                events = demo_events(DEMO_ID, 1e6) if make is thistledown else []
                self.own_units_only(done.problems(), system, "problems")
                self.own_units_only((done.sizes.choices, done.bill, done.drains, done.sections), system, "derived")
                self.own_units_only(where_it_stands(plan, done, events, 1e6), system, "stands")
                for joint in done.assembly.joints:
                    self.own_units_only(procedure(plan, joint, 6e5), system, f"steps of {joint.id}")
                    self.own_units_only(working(plan, done, "cure", joint.id, None), system, "cure")
                for kind, names in (
                    ("piece", [p.id for p in done.cuts.pieces]),
                    ("surge", list(done.surges)),
                    ("size", list(done.sizes.choices)),
                ):
                    for name in names:
                        self.own_units_only(working(plan, done, kind, name, None), system, kind)
                for s in done.sections:
                    self.own_units_only(hold_plan(s, units=system), system, "hold")
                other = plan.model_copy(update={"conditions": plan.conditions.model_copy(update={"max_velocity": 0.4})})
                self.own_units_only(compare_plans(done, derive(other), other), system, "what if")

    def test_the_bench(self) -> None:
        """Lines too fast and too weak, drains too small, wells too deep for most pipe, and cures."""
        for system in ("us", "metric"):
            units: System = "us" if system == "us" else "metric"
            self.own_units_only(line_sizes(LineQuestion("pvc40", 3e-3, 80.0, working=2e6, units=units)), units, "line")
            self.own_units_only(part_full(pipe("sewer-sdr35", "4"), 0.03, 0.01, units), units, "drain")
            duty = Duty(8e-4, 3e5, horsepower=3.0, units=units, aggressive=True, sand=True, iron=True)
            self.own_units_only(drop_pipes(Hole(230.0, 0.128, 14.0, 225.0, 1e-3, 6.0), duty), units, "well")
            for words in ("1 in flexible pvc to 1 in npt female", "1 in sch 40 to 1 in poly"):
                start, stop = read_question(words).things
                for pressure in (None, 9e5, 9e6):
                    try:
                        self.own_units_only(
                            join(start, stop, Constraints(pressure=pressure, units=units), 12), units, words
                        )
                    except HydrarchError as refused:
                        self.own_units_only(str(refused), units, words)
            self.own_units_only(cure_time("2", 280.0, 0.7, 1.5e6, units=units), units, "cure")

    def test_weights_and_torques_are_read_and_shown(self) -> None:
        """A pound is 0.45359237 kg by definition, and a foot-pound of torque follows from it."""
        self.assertAlmostEqual(read("100 lb", "mass"), 45.359237)
        self.assertAlmostEqual(read("12", "mass", "us"), 12 * 0.45359237)
        self.assertEqual(str(show(45.359237, "mass", "us")), "100 lb")
        self.assertAlmostEqual(read("1 lbf·ft", "torque"), 1.3558179, places=6)  # NIST SP 811
        self.assertAlmostEqual(read("1 lb/ft", "mass per length"), 1.4881639, places=6)  # NIST SP 811
