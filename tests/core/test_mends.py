"""A problem's one plain mend: it is offered only where it can be done, does what it says, and takes the problem
away.
"""

import unittest
from itertools import pairwise
from typing import Any

from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.fixes import MENDS, mended
from hydrarch.core.plan.document import Plan
from hydrarch.demo import herb_bank, thistledown
from tests.core.plans import draw, point

FAST = [{"series": "pvc40", "size": "1/2"}]


def faulty() -> dict[str, Plan]:
    """For each mend a plan that has its problem."""
    curve = [{"flow": 0.0, "head": 40.0}, {"flow": 1e-3, "head": 30.0}, {"flow": 2e-3, "head": 10.0}]
    buried = [point("M", 0, 0, "mains", depth=0.6), point("T", 20, 0, "tap", depth=0.6)]
    much = [buried[0], point("T", 20, 0, "tap", depth=0.6, flow=8e-4)]
    lain = [point("M", 0, 0, "mains"), point("T", 20, 0, "tap")]
    basin = point("W", 0, 0, "basin", long=4.0, wide=3.0)
    away: dict[str, Any] = {
        "a": {"id": "R2a", "point": "V", "port": "in"},
        "b": {"id": "R2b", "point": "T", "port": "in"},
    }
    turned = draw(
        [buried[0], point("V", 5, 0, "check_valve", depth=0.6), buried[1]], [("M", "V"), ("V", "T")]
    ).model_dump(mode="json")
    turned["runs"][0]["b"]["port"] = "out"
    turned["runs"][1] |= away
    pond = [point("K", 0, 0, "tank", water_level=-2.0, depth=2.1), point("P", 5, 0, "pump"), point("T", 20, 0, "tap")]
    well = [
        point("W", 0, 0, "well_pump", depth=20.0, curve=curve, water_level=-15.0),
        point("J", 3, 0, "junction", depth=0.6),
        point("V", 5, 0, "vessel", depth=0.6, volume=0.01),
        point("T", 3, 9, "tap", depth=0.6),
    ]
    choice = {"ways": [{"end": "R1b", "fittings": ["pvc-tee-1", "pvc-tee-1"]}]}
    scenario = {"scenarios": [{"id": "s", "name": "day", "open": ["T", "M"]}]}
    return {
        "faces-source": Plan.model_validate(turned),
        "not-buried": draw(lain, [("M", "T")]),
        "under-wheels": draw(buried, [("M", "T")], runs_more=[{"series": "pvc-sdr21", "wheels": True}]),
        "thin-refused": draw(
            buried, [("M", "T")], runs_more=[{"series": "pvc-sdr21", "size": "3/4"}], practices={"thinwall": "refuse"}
        ),
        "too-fast": draw(much, [("M", "T")], runs_more=FAST),
        "choice-lapsed": draw(buried, [("M", "T")], runs_more=FAST, **choice),
        "opens-no-outlet": draw(buried, [("M", "T")], **scenario),
        "vessel-small": draw(well, [("W", "J"), ("J", "V"), ("J", "T")]),
        "air-trap": draw(
            [
                point("K", 0, 0, "tank", water_level=30.0),
                point("B", 10, 0, "bend", ground=3.0),
                point("T", 20, 0, "tap"),
            ],
            [("K", "B"), ("B", "T")],
        ),
        "no-backflow": draw(
            [point("M", 0, 0, "mains", depth=0.6), point("S", 20, 0, "sprinkler", depth=0.6)], [("M", "S")]
        ),
        "turn-at-device": draw(
            [buried[0], point("V", 8, 0, "valve", depth=0.6), point("T", 20, 5, "tap", depth=0.6)],
            [("M", "V"), ("V", "T")],
        ),
        "square-branch": draw(
            [
                point("G", 0, 0, "drain_inlet", depth=0.6),
                point("J", 10, 0, "junction", depth=0.75),
                point("O", 20, 0, "outfall", depth=0.9),
                point("H", 10, 5, "drain_inlet", depth=0.6),
            ],
            [("G:out", "J"), ("J", "O"), ("H:out", "J")],
        ),
        "off-rule": draw(
            [
                point("G", 0, 0, "drain_inlet", depth=0.6),
                point("B", 8, 0, "bend", depth=0.9),
                point("O", 8, 9, "outfall", depth=0.8),
            ],
            [("G:out", "B"), ("B", "O")],
            rules=[{"start": "G", "stop": "O"}],
        ),
        "no-cleanout": draw(
            [point("G", 0, 0, "drain_inlet", depth=0.6), point("O", 55, 0, "outfall", depth=1.6)], [("G:out", "O")]
        ),
        "waste-cleanout": draw(
            [point("G", 0, 0, "waste", depth=0.6), point("O", 9, 0, "sewer_connection", depth=0.9)], [("G:out", "O")]
        ),
        "tee-angle": draw(
            [
                point("K", 0, 0, "tank", water_level=30.0),
                point("J", 9, 2, "junction"),
                point("T", 20, 0, "tap"),
                point("U", 11, 8, "tap"),
            ],
            [("K", "J"), ("J", "T"), ("J", "U")],
            conditions={"series": "pvc40"},
        ),
        **drip_heads(),
        "crosses-drive": draw(
            [*buried, {**point("X", 10, -4, "mark"), "what": {"kind": "mark", "what": "drive", "north": 8.0}}],
            [("M", "T")],
        ),
        "priming": draw(pond, [("K", "P"), ("P", "T")]),
        "zone-by-hand": draw(
            [*buried[:1], point("V", 2, 0, "valve", depth=0.6), point("H", 9, 0, "sprinkler", depth=0.6)],
            [("M", "V"), ("V", "H")],
            zones=[{"id": "z", "name": "Lawn", "heads": ["H"], "valve": "V"}],
        ),
        "in-no-water": draw(
            [
                basin,
                point("S", 9, 0, "skimmer", depth=0.6),
                point("P", 12, 0, "pump", depth=0.6),
                point("R", 9, 3, "returns", depth=0.6),
            ],
            [("S", "P"), ("P", "R")],
        ),
        "skimmer-level": draw(
            [
                basin,
                point("S", 2, 0, "skimmer", depth=0.5),
                point("P", 5, 0, "pump", depth=0.5),
                point("R", 0, 1.5, "returns", depth=0.3),
            ],
            [("S", "P"), ("P", "R")],
        ),
        "row-no-flush": draw(
            [lain[0], point("E", 20, 0, "drip_row")], [("M", "E")], runs_more=[{"series": "drip-620", "size": "1/2"}]
        ),
        "half-inch": draw(
            lain, [("M", "T")], runs_more=[{"series": "drip-620", "size": "1/2", "situation": "on surface"}]
        ),
    }


def drip_heads() -> dict[str, Plan]:
    """Drip lines whose head lacks a piece, or has two the wrong way round."""

    def line(*kinds: str) -> Plan:
        names = ["M", *(k[0].upper() for k in kinds), "D"]
        things = ["mains", *kinds, "drip"]
        points = [point(n, 3.0 * x, 0, k) for x, (n, k) in enumerate(zip(names, things, strict=True))]
        return draw(points, list(pairwise(names)))

    return {
        "drip-order": line("backflow", "regulator", "filter"),
        "drip-filter": line("backflow", "regulator"),
        "drip-pressure": line("backflow", "filter"),
    }


class Mends(unittest.TestCase):
    """Each of them."""

    def test_each_takes_its_problem_away(self) -> None:
        """Where a mend is offered, doing it takes that problem away there, and the plan it was offered for stays as it
        was.
        """
        plans = faulty()
        self.assertEqual(set(plans), set(MENDS))
        for code, plan in plans.items():
            with self.subTest(code=code):
                told = derive(plan).problems()
                problem = next((p for p in told if p.code == code and p.does), None)
                self.assertIsNotNone(problem, [(p.code, p.does) for p in told])
                assert problem is not None
                before = plan.model_dump_json()
                after = mended(plan, problem)
                assert after is not None
                self.assertEqual(plan.model_dump_json(), before)
                left = [p for p in derive(after).problems() if p.key == problem.key]
                if code == "priming":  # the line is kept full now, and what is left to do is said
                    self.assertIn("The foot valve keeps its suction line full", left[0].says)
                elif code == "vessel-small":  # twice as large may still be small: then it is offered again
                    self.assertGreater(next(p.what.volume for p in after.points if p.id == "V"), 0.01)  # type: ignore[attr-defined]
                else:
                    self.assertEqual(left, [])

    def test_offered_only_where_it_can_be_done(self) -> None:
        """Whatever is offered in the demo's jobs can be done; a speed in a size nobody chose has no mend by leaving it
        open.
        """
        for plan in (thistledown(), herb_bank(), *faulty().values()):
            for problem in derive(plan).problems():
                if problem.does:
                    self.assertIsNotNone(mended(plan, problem), problem.key)
        near = draw(
            [point("M", 0, 0, "mains"), point("V", 0.3, 0, "valve"), point("T", 0.3, 0.3, "tap")],
            [("M", "V"), ("V", "T")],
        )
        self.assertEqual(
            [p.does for p in derive(near).problems() if p.code == "turn-at-device"], [""], "no room for a bend"
        )
        body = faulty()["too-fast"].model_dump(mode="json")
        body["runs"][0] |= {"size": None}
        self.assertFalse([p for p in derive(Plan.model_validate(body)).problems() if p.code == "too-fast" and p.does])


if __name__ == "__main__":
    unittest.main()
