"""A washer's water to the garden or the sewer."""

import unittest
from typing import Any

from hydrarch.core.building.together import all_scenarios
from hydrarch.core.commissioning.sections import WASHER_TEST
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.measures import read_measures
from hydrarch.core.measuring.drawn_line import draw_measures
from hydrarch.core.plan.document import Plan
from tests.core.plans import codes, draw, point


def laundry(
    vent: float | None = 1.6, end: str = "laundry_standpipe", washer: dict[str, Any] | None = None, shut: str = "right"
) -> Plan:
    """A washer, a three-way valve on the wall over it, a vent, two outlets in the garden, and a standpipe at the
    sewer.
    """
    spots = [
        point("W", 0, 0, "washer", depth=-0.4, **(washer or {})),
        point("D", 0, 1, "three_way", depth=-1.2, shut=shut),
        point("V", 0, 2, "vent" if vent is not None else "bend", depth=-(vent or 1.2)),
        point("J", 0, 8, "junction", depth=0.2),
        point("O", 0, 12, "outfall", ground=-0.3, depth=0.1),
        point("P", 6, 8, "outfall", ground=-0.3, depth=0.1),
        point("S", 1, 1, end, depth=-0.9),
    ]
    runs = [("W", "D"), ("D:left", "V" if vent is not None else "V:line"), ("V" if vent is not None else "V:line", "J")]
    runs += [("J", "O"), ("J", "P"), ("D:right", "S:in")]
    if end == "laundry_standpipe":
        spots.append(point("C", 4, 1, "sewer_connection", depth=0.5, invert=-2.0))
        runs.append(("S:out", "C"))
    return draw(spots, runs, runs_more=[{"series": "pvc40", "situation": "in a cellar"}] * 6 + [{}] * (len(runs) - 6))


class Ways(unittest.TestCase):
    """What must stand on the way."""

    def test_all_there(self) -> None:
        """Vent the highest, a way to the sewer with air between, hose tried: nothing is shown for it."""
        told = codes(laundry(washer={"hose": "yes"}))
        wrong = {
            "vent-low",
            "no-siphon-break",
            "no-air-gap",
            "no-diverter",
            "no-sewer-way",
            "hose-untried",
            "diverter-way",
        }
        self.assertEqual(wrong & set(told), set())
        self.assertNotIn("vent-sucks", told)
        self.assertIn("vent-breaks", told)  # downhill beyond it the line runs part full
        self.assertNotIn("pump-off-curve", told)

    def test_vent_below_the_highest(self) -> None:
        """A centimetre is enough to be told; none at all is reported apart."""
        self.assertNotIn("vent-low", codes(laundry(1.21)))
        low = laundry(1.0)
        spots = tuple(p.model_copy(update={"depth": -1.01}) if p.id == "J" else p for p in low.points)
        found = next(p for p in derive(low.model_copy(update={"points": spots})).problems() if p.code == "vent-low")
        self.assertEqual(found.severity, "stop")
        self.assertIn("10 mm", found.says)
        self.assertIn("no-siphon-break", codes(laundry(None)))

    def test_the_sewer_by_air_only(self) -> None:
        """Joined to the sewer itself, it is reported; over a standpipe it is not."""
        self.assertIn("no-air-gap", codes(laundry(end="sewer_connection")))
        self.assertNotIn("no-air-gap", codes(laundry()))

    def test_no_way_to_the_sewer(self) -> None:
        """Both outlets to the garden, or no valve at all."""
        self.assertIn("no-sewer-way", codes(laundry(end="outfall")))
        spots = [point("W", 0, 0, "washer", depth=-0.4), point("O", 5, 0, "outfall", depth=0.1)]
        self.assertIn("no-diverter", codes(draw(spots, [("W", "O")])))

    def test_too_high(self) -> None:
        """The line's highest place must be under what the washer lifts to: 0.4 m and its curve's 2.6."""
        self.assertNotIn("washer-lift", codes(laundry(2.9)))
        self.assertIn("washer-lift", codes(laundry(3.0)))


class BothWays(unittest.TestCase):
    """The way that is shut now is sized and judged too."""

    def test_both_sized(self) -> None:
        """Of two ways as long, the one that is shut now is no smaller than the open one, whichever that is."""
        for shut in ("left", "right"):
            done = derive(laundry(shut=shut))
            flows = done.sizes.flows
            self.assertEqual(set(flows), {"all", "all-D"})
            garden = {s: abs(f.runs["R2"].flow) for s, f in flows.items()}
            sewer = {s: abs(f.runs["R6"].flow) for s, f in flows.items()}
            self.assertEqual(garden["all"] > 1e-5, shut == "right")
            for one, other in ((garden, sewer), (sewer, garden)):
                self.assertEqual([q > 1e-5 for q in one.values()], [q <= 1e-5 for q in other.values()])
            self.assertGreater(max(sewer.values()), 2e-4)
            self.assertNotEqual(done.sizes.choices["R6"].size, "1/2")

    def test_unsaid_is_told(self) -> None:
        """A valve whose way nobody said is reported."""
        plan = laundry(shut="")
        self.assertIn("diverter-way", codes(plan))
        done = derive(plan)
        self.assertEqual(len(done.sizes.flows), 3)
        self.assertNotIn("1/2", {done.sizes.choices[r].size for r in ("R2", "R6")})

    def test_a_crews_scenarios_stay_theirs(self) -> None:
        """Where a crew wrote scenarios, none is added."""
        plan = laundry()
        mine = plan.model_copy(update={"scenarios": (all_scenarios(plan)[0].model_copy(update={"id": "S1"}),)})
        self.assertEqual([s.id for s in all_scenarios(mine)], ["S1"])

    def test_garden_outlets(self) -> None:
        """An outlet that lies 0.8 m higher than the other gets less, and that is reported; alike they are not."""
        plan = laundry()
        wide = tuple(r.model_copy(update={"size": "2"}) if r.id in ("R4", "R5") else r for r in plan.runs)
        plan = plan.model_copy(update={"runs": wide})
        self.assertNotIn("garden-uneven", codes(plan))
        high = tuple(p.model_copy(update={"ground": 0.6}) if p.id == "O" else p for p in plan.points)
        self.assertIn("garden-uneven", codes(plan.model_copy(update={"points": high})))


class LookedOver(unittest.TestCase):
    """There is no test under pressure."""

    def test_by_running_it(self) -> None:
        """The washer's own pump, both ways of its valve; the standpipe's drain is filled and watched."""
        done = derive(laundry())
        told = {s.sort: s.says for s in done.sections}
        self.assertEqual(told["run"], WASHER_TEST)
        self.assertIn("plugged", next(says for sort, says in told.items() if sort != "run"))


class InWords(unittest.TestCase):
    """Drawn by measure."""

    def test_over_a_standpipe_and_on(self) -> None:
        """What a washer pumps falls into the standpipe, and the drain goes on from its outlet to the sewer."""
        words = "washer, 1 e, diverter called D, 9 e, outfall, at D: 2 s, 0.5 down, laundry standpipe, 3 down, "
        words += "10 s falling 1 in 48, sewer connection"
        empty = Plan.model_validate({"name": "wash", "about": "rain"})
        plan = draw_measures(empty, "", read_measures(words, "us")).plan
        kinds = [p.kind.name for p in plan.points]
        stands = plan.points[kinds.index("laundry_standpipe")].id
        ports = {plan.port_name(e) for r in plan.runs for e in r.ends if e.point == stands}
        self.assertEqual(ports, {"in", "out"})
        sorts = sorted(s.sort for s in derive(plan).systems.found)
        self.assertEqual(sorts, ["gravity drain", "pumped drain"])
        self.assertNotIn("no-sewer-way", codes(plan))
