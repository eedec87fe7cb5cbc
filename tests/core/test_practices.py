"""Every practice that is offered changes something a crew sees: the parts, the steps, the waits, the list or a
warning.
"""

import unittest
from typing import Any

from hydrarch.core.catalogue.guidance import practices
from hydrarch.core.derivation.chain import derive
from hydrarch.core.making.steps import procedure
from hydrarch.core.plan.document import Plan
from hydrarch.demo import drying_yard, herb_bank, herb_beds, swimming_pond, thistledown, wash_risers
from tests.core.jobs import cellar_sump
from tests.core.plans import draw, point


def rig() -> Plan:
    """Thin-wall pipe from a tank through its wall, with a branch, a filter and a sprinkler."""
    spots = [
        point("K", 0, 0, "tank", water_level=20.0),
        point("J", 5, 0, "junction", depth=0.5),
        point("F", 10, 0, "filter"),
        point("S", 20, 0, "sprinkler", depth=0.5),
        point("T", 5, 5, "tap", depth=0.5),
    ]
    spots[0]["ports"] = {"out": "bulkhead:wall:1"}
    runs: list[dict[str, Any]] = [
        {"series": "pvc-sdr21", "size": "1"},
        *[{"series": "pvc40", "size": "1"}] * 2,
        {"series": "pvc40", "size": "1/2"},
    ]
    return draw(spots, [("K", "J"), ("J", "F"), ("F", "S"), ("J", "T")], runs_more=runs)


def coil() -> Plan:
    """A pump 60 m down on one coil of polyethylene."""
    spots = [point("W", 0, 0, "well_pump", depth=60.0), point("T", 10, 0, "tap", depth=0.6)]
    return draw(spots, [("W", "T")], runs_more=[{"series": "pe-sidr7", "size": "1", "situation": "in well"}])


def pit() -> Plan:
    """A pit whose pump could do with a narrower riser than its outlet."""
    plan = cellar_sump().model_dump(mode="json")
    for p in plan["points"]:
        if p["what"]["kind"] == "sump":
            p["what"]["curve"] = [{"flow": 0.0, "head": 6.0}, {"flow": 4e-4, "head": 4.0}, {"flow": 9e-4, "head": 1.0}]
    for r in plan["runs"]:
        r["size"] = None
    return Plan.model_validate(plan)


def seen(plan: Plan, chosen: dict[str, str]) -> Any:
    """All a crew sees of a plan that a practice could change."""
    mine = plan.model_copy(update={"practices": chosen})
    done = derive(mine)
    told = [procedure(mine, j, 6e5) for j in done.assembly.joints]
    steps = [(*((s.title, s.do, s.looks) for s in p.steps), p.cure) for p in told]
    return done.bill, steps, done.problems(), done.work.groups


class Offered(unittest.TestCase):
    """All questions, all options."""

    def test_each_option_changes_something(self) -> None:
        """For each option there is a job in which it makes a difference to the usual one."""
        plans = [
            thistledown(),
            drying_yard(),
            herb_bank(),
            rig(),
            coil(),
            herb_beds(),
            swimming_pond(),
            pit(),
            wash_risers(),
        ]
        usual = [seen(p, {}) for p in plans]
        for question, practice in practices().items():
            for option in practice.options:
                if option.option == practice.default:
                    continue
                with self.subTest(question=question, option=option.option):
                    changed = any(seen(p, {question: option.option}) != u for p, u in zip(plans, usual, strict=True))
                    self.assertTrue(changed, "it is offered and changes nothing")
                    self.assertTrue(option.says and option.reason)


if __name__ == "__main__":
    unittest.main()
