"""A well in a job obeys the rules of the bench: threads at half, checks, pitless, and the same answer at both."""

import unittest
from dataclasses import replace
from itertools import pairwise
from typing import Any

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import FOOT
from hydrarch.core.catalogue.markets import Market
from hydrarch.core.catalogue.pipes import THREADED, laid_rating, pipe, pressure_rating
from hydrarch.core.components.devices import CheckValve
from hydrarch.core.components.wells import Pitless
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.hydraulics.water import water
from hydrarch.core.plan.document import Existing, Plan
from hydrarch.core.wells.droppipe import DropPipes, Duty, drop_pipes
from hydrarch.core.wells.hole import Hole
from hydrarch.core.wells.laid import lay_well
from tests.core.plans import codes, draw, point

HOLE = Hole(70.0, 0.15, 14.0, 61.0, 1e-3, 6.0)


def laid(market: Market, hole: Hole = HOLE, **more: Any) -> tuple[DropPipes, Derivation]:
    """The bench's answer for a hole, and the job it is sent into."""
    duty = Duty(
        8e-4, 2.5e5, market=market, **{"shut_off": 100.0, "hoist": True, "cut_in": 2.5e5, "cut_out": 4e5, **more}
    )
    found = drop_pipes(hole, duty)
    plan = Plan.model_validate({"name": "well", "conditions": {"market": market}})
    return found, derive(lay_well(plan, hole, duty, found))


def hung(series: str, size: str, depth: float, head: float = 75.0, **more: Any) -> Any:
    """A pump on a string of some pipe, with a check valve on it and a tap at the top."""
    curve = [{"flow": 0.0, "head": head}, {"flow": 1e-3, "head": 0.8 * head}, {"flow": 2e-3, "head": 0.3 * head}]
    spots = [
        point("W", 0, 0, "well_pump", depth=depth, water_level=-depth / 2, curve=curve),
        point("V", 0, 0, "check_valve", depth=depth - 0.3),
        point("A", 0, 0, "pitless", depth=1.0),
        point("T", 10, 0, "tap", depth=1.0),
    ]
    string = {"situation": "in well", "series": series, "size": size}
    return draw(spots, [("W", "V"), ("V", "A"), ("A", "T")], runs_more=[string, string, {}], **more)


class Sent(unittest.TestCase):
    """From the bench into a job."""

    def test_a_threaded_string(self) -> None:
        """The string is screwed stick to stick, no bell is cemented in the hole, and pump, checks, adapter and vessel
        stand on the drawing.
        """
        found, done = laid("north-american")
        best = found.candidates[0]
        string = [r for r in done.plan.runs if r.situation == "in well" and not r.coupled]
        self.assertEqual({(r.series, r.size) for r in string}, {(best.series, best.size)})
        inside = [j for j in done.assembly.joints if j.run in {r.id for r in string}]
        self.assertEqual({j.method for j in inside}, {"thread"})
        self.assertFalse([j for j in inside if "bell" in j.b.what])
        self.assertTrue(any("spring check" in p.name for p in done.assembly.parts))
        self.assertFalse(
            [p for p in done.assembly.parts if "valve" in p.name and p.point in {x for r in string for x in r.points}]
        )
        self.assertEqual(
            sorted(p.what.kind for p in done.plan.points), ["check_valve", "pitless", "vessel", "well_pump"]
        )
        self.assertFalse(
            [p for p in done.problems() if p.code.startswith("string-")], [p.says for p in done.problems()]
        )

    def test_what_goes_down_beside_the_pipe_is_on_the_list(self) -> None:
        """Cable and rope as long as the pump hangs deep with 3 m to spare, a tie every 3 m; none for a pump that is
        there already.
        """
        done = derive(hung("pvc80", "1-1/4", 60.0))
        rows = {r.item: r for r in done.bill}
        self.assertIn("63.00 m", rows["well cable"].detail)
        self.assertIn("63.00 m", rows["well rope"].detail)
        self.assertEqual(rows["well ties"].count, 20)
        old = done.plan.by_id["W"].model_copy(update={"existing": Existing()})
        there = done.plan.model_copy(update={"points": (old, *done.plan.points[1:])})
        self.assertFalse([r for r in derive(there).bill if r.item.startswith("well ")])

    def test_the_gauge_stands_at_the_top(self) -> None:
        """What is tested above the well is tested by what it sees there, not by what the pump's foot sees; the string
        carries the water over it on top.
        """
        done = derive(hung("pvc80", "1-1/4", 60.0))
        (section,) = [s for s in done.sections if any(done.plan.run_by_id[r].situation == "in well" for r in s.runs)]
        rest = static_pressure(done.plan, done.layout)
        top = max(rest[p] for p in ("A", "T"))
        self.assertAlmostEqual(section.working, top, delta=1.0)
        self.assertGreater(rest["W"], top + 5e5)
        self.assertLessEqual(section.test, 1.5 * top + 1)
        weight = water(done.plan.conditions.water_temperature).weight
        item = done.settled.pipes[section.runs[0]]
        carries = laid_rating(item, done.plan.conditions.water_temperature, "in well")
        self.assertLessEqual(section.test + 59.0 * weight, carries + 1)

    def test_the_same_answer_at_both(self) -> None:
        """Rating and pressure at the pump are those of the bench: head at shut-off against half of the pipe's
        rating.
        """
        found, done = laid("north-american")
        best = found.candidates[0]
        item = pipe(best.series, best.size)
        self.assertAlmostEqual(laid_rating(item, 285.15, "in well"), best.rating, delta=1)
        self.assertAlmostEqual(best.rating, THREADED * pressure_rating(item, 285.15), delta=1)
        adapter = next(iter(done.plan.of_kind(Pitless))).what
        self.assertIsInstance(adapter, Pitless)
        self.assertEqual(adapter.model_dump()["carries"], float(-(-best.hanging // 1)))

    def test_a_shop_that_sells_other_threads(self) -> None:
        """Elsewhere the string is one whose threads are sold there, and nothing in the hole changes thread."""
        _, done = laid("elsewhere")
        inside = {p.name for p in done.assembly.parts if "adapter" in p.name.lower() and "NPT" in p.name}
        self.assertFalse(inside)

    def test_never_another_string_than_was_shown(self) -> None:
        """Answered for shops that have both kinds, a job whose shops have one refuses where another string comes first
        there, and says which; with its own market it is drawn.
        """
        duty = Duty(8e-4, 2.5e5, shut_off=100.0, hoist=True, cut_in=2.5e5, cut_out=4e5)
        shown = drop_pipes(HOLE, duty)
        for shop in ("north-american", "elsewhere"):
            own = drop_pipes(HOLE, replace(duty, market=shop)).candidates[0]
            plan = Plan.model_validate({"name": "well", "conditions": {"market": shop}})
            if (own.series, own.size) == (shown.candidates[0].series, shown.candidates[0].size):
                lay_well(plan, HOLE, duty, shown)
                continue
            with self.assertRaisesRegex(HydrarchError, f"{own.name}, {own.size} comes first"):
                lay_well(plan, HOLE, duty, shown)
        self.assertNotEqual(own.series, shown.candidates[0].series)

    def test_it_is_tested_from_the_top(self) -> None:
        """Nobody takes a pump off 61 m down: its check valve holds, and the test pump goes on the vessel's branch."""
        _, done = laid("elsewhere")
        (section,) = done.sections
        self.assertEqual(section.pump_at, "Vessel")
        self.assertIn("leave Well pump on its string", " ".join(section.isolate))
        self.assertFalse([x for x in section.isolate if "part the line from Well pump" in x])

    def test_nothing_is_taken_out_of_the_string(self) -> None:
        """Nobody bridges a check valve 60 m down: the test ends at it, and what is below it is looked at, not proved by
        the test. With several, it ends at the highest.
        """
        for hole, more in (
            (HOLE, {}),
            (Hole(220.0, 0.2, 14.0, 200.0, 1e-3, 6.0), {"shut_off": 260.0, "horsepower": 3.0}),
        ):
            _, done = laid("north-american", hole, **more)
            (section,) = done.sections
            checks = sorted(done.plan.of_kind(CheckValve), key=lambda p: p.depth)
            self.assertFalse([x for x in section.isolate if "bridge" in x])
            self.assertIn(f"the test goes down to {checks[0].label}", " ".join(section.isolate))
            self.assertTrue(section.below)
            self.assertTrue(set(section.below) <= set(section.later))
            self.assertTrue(not section.fault or hole is not HOLE)
            for joint in (done.assembly.named[j] for j in section.joints):
                ends = done.plan.run_by_id[joint.run].points if joint.run else (joint.point,)
                deep = min(done.plan.by_id[p].depth for p in ends if p is not None)
                with self.subTest(joint=joint.place, deep=deep):
                    if joint.id in section.below:
                        self.assertGreaterEqual(deep, checks[0].depth)
                    else:
                        self.assertLessEqual(deep, checks[0].depth)

    def test_deep_ones_have_more_checks(self) -> None:
        """At 200 m a check valve stands at the pump and about every 200 ft above it: common practice."""
        found, done = laid("north-american", Hole(220.0, 0.2, 14.0, 200.0, 1e-3, 6.0), shut_off=260.0, horsepower=3.0)
        levels = sorted(p.depth for p in done.plan.of_kind(CheckValve))
        self.assertEqual(len(levels), len(found.checks))
        self.assertTrue(all(b - a < 1.5 * 200 * FOOT for a, b in pairwise(levels)))

    def test_nothing_to_send(self) -> None:
        """Where no pipe stands every limit there is no string to draw, and that is said; a pump too weak for its duty
        is refused.
        """
        duty = Duty(8e-4, 2.5e5, shut_off=900.0)
        hole = Hole(620.0, 0.15, 14.0, 600.0, 1e-3, 6.0)
        with self.assertRaisesRegex(HydrarchError, "no pipe stands every limit"):
            lay_well(Plan(name="x"), hole, duty, drop_pipes(hole, duty))
        weak = Duty(8e-4, 2.5e5, shut_off=20.0, hoist=True)
        with self.assertRaisesRegex(HydrarchError, "take a stronger one"):
            lay_well(Plan(name="x"), HOLE, weak, drop_pipes(HOLE, weak))


class Drawn(unittest.TestCase):
    """A string drawn by hand."""

    def test_threads_refuse_what_plain_pipe_would_stand(self) -> None:
        """1 in schedule 80 (630 psi, ASTM D1785 at 23 °C) on threads carries half: 260 m of head at shut-off is too
        much, 150 m is not.
        """
        told = codes(hung("pvc80", "1", 100.0, head=260.0))
        self.assertIn("half of plain pipe for its threads", told["over-rating"])
        self.assertNotIn("over-rating", codes(hung("pvc80", "1", 100.0, head=150.0)))

    def test_water_outside_presses_back(self) -> None:
        """At the pump the water in the hole takes its own pressure off what presses out: only the pump's head
        is left.
        """
        deep = codes(hung("pvc80", "1", 250.0, head=180.0))
        self.assertNotIn("over-rating", deep)

    def test_a_pump_above_its_water(self) -> None:
        """A pump hung 20 m deep in a well whose water stands 30 m deep while it pumps is stopped; 5 m under is not."""
        dry = {**hung("pe-sidr7", "1", 20.0).model_dump()}
        for level, stands in ((-30.0, True), (-15.0, False)):
            spots = [{**p, "what": {**p["what"], "water_level": level}} if p["id"] == "W" else p for p in dry["points"]]
            plan = Plan.model_validate({**dry, "points": spots})
            told = {p.code: p for p in derive(plan).problems()}
            self.assertEqual("string-dry" in told, stands)
            if stands:
                self.assertEqual(told["string-dry"].severity, "stop")
                self.assertIn("hangs 10.00 m above its water", told["string-dry"].says)

    def test_pipe_that_does_not_carry(self) -> None:
        """Glued schedule 40 is told that its joints do not carry; polyethylene beyond 30 m too, unless the house goes
        by strength.
        """
        self.assertIn("not made to carry", codes(hung("pvc40", "1", 40.0))["string-pipe"])
        self.assertIn("cannot be handled", codes(hung("pe-sidr7", "1", 60.0))["string-depth"])
        self.assertNotIn("string-depth", codes(hung("pe-sidr7", "1", 60.0, practices={"drop": "strength"})))
        self.assertNotIn("string-depth", codes(hung("pe-sidr7", "1", 25.0)))

    def test_checks_by_what_stands_on_them(self) -> None:
        """A brass check valve good for 600 ft that sees 950 ft at shut-off is told; none at the pump is told; both are
        common practice.
        """
        head = 950 * FOOT
        told = codes(hung("galv40", "1", 250 * FOOT, head=head + 125 * FOOT))
        self.assertIn("Brass is good for about 600 ft", told["string-check"])
        spots = [point("W", 0, 0, "well_pump", depth=60.0), point("T", 0, 0, "tap", depth=0.5)]
        bare = draw(spots, [("W", "T")], runs_more=[{"situation": "in well", "series": "galv40", "size": "1"}])
        self.assertIn("falls back", codes(bare)["string-check"])
        self.assertNotIn("string-check", codes(hung("galv40", "1", 60.0)))

    def test_an_adapter_that_carries_less(self) -> None:
        """A pitless adapter read as 20 kg and 3 bar is reported with what hangs on it and what it sees."""
        plan = hung("galv40", "1", 60.0, head=90.0)
        body = plan.model_dump(mode="json")
        next(p for p in body["points"] if p["id"] == "A")["what"] |= {"carries": 20.0, "stands": 3e5}
        says = [p.says for p in derive(Plan.model_validate(body)).problems() if p.code == "string-pitless"]
        self.assertEqual(len(says), 2)
        self.assertIn("carries 20 kg; sees", says[0] + says[1])


if __name__ == "__main__":
    unittest.main()
