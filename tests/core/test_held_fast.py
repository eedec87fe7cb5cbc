"""Nobody is held fast by a suction: covers, pumps and valves in every state."""

import unittest
from itertools import product
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.units import FOOT
from hydrarch.core.circulation.holds_fast import APART
from hydrarch.core.circulation.safety import BLOCKED_SPEED
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from hydrarch.demo import cedar_tub
from tests.core.waters import cover, thing, told, tub


class HeldFast(unittest.TestCase):
    """Suctions that could hold a body."""

    def test_the_published_figures(self) -> None:
        """Three feet apart; six feet a second with one blocked (ANSI/APSP/ICC-5 and -7, from memory)."""
        self.assertAlmostEqual(APART, 3 * FOOT, delta=1e-3)
        self.assertAlmostEqual(BLOCKED_SPEED, 6 * FOOT, delta=2e-3)

    def test_one_alone_is_refused(self) -> None:
        """In the drawing, on every stage's list and at the hand-over, as a danger; two apart are not, nor one that
        nobody can block.
        """
        alone = derive(tub(cover("A", 0.0)), strict=True)
        found = [p for p in alone.problems() if p.code == "one-suction"]
        self.assertEqual([(p.severity, p.danger, p.holds, p.where) for p in found], [("stop", True, True, "A")])
        self.assertNotIn("one-suction", told(tub(cover("A", 0.5), cover("B", -0.5))))
        self.assertNotIn("one-suction", told(tub(cover("A", 0.0, cover="no body can block it"))))
        self.assertNotIn("one-suction", told(tub(cover("A", 0.0), use="tank")))  # nobody bathes there

    def test_too_near_and_bare(self) -> None:
        """Two within three feet are one to a body; a bulkhead has no cover at all; a cover without its rating
        is told.
        """
        self.assertIn("suctions-near", told(tub(cover("A", 0.45), cover("B", -0.45))))
        self.assertNotIn("suctions-near", told(tub(cover("A", 0.458), cover("B", -0.458))))
        self.assertIn("bare-suction", told(tub(thing("A", "bulkhead", -0.9, 0, 0.1))))
        self.assertIn("cover-unrated", told(tub(cover("A", 0.5, rated=0.0), cover("B", -0.5))))

    def test_one_that_stands_in_no_water_is_none(self) -> None:
        """A second one that stands dry is no second one, and breaks nothing."""
        self.assertIn("one-suction", told(tub(cover("A", 0.0), cover("B", 9.0))))

    def test_a_rating_with_the_other_blocked(self) -> None:
        """Each cover must carry all of it; of three, half."""
        plan = tub(cover("A", 0.5, 9e-3), cover("B", -0.5, 9e-3))
        drawn = derive(plan).sizes.flows["all"].lifts["P"][0]
        for rated, wrong in ((drawn * 0.99, True), (drawn * 1.2, False)):
            with self.subTest(rated=rated):
                self.assertEqual("cover-rating" in told(tub(cover("A", 0.5, rated), cover("B", -0.5, rated))), wrong)
        third = thing("C", "suction_cover", 0.9, 0, 0.1, rated=drawn * 0.6)
        self.assertNotIn("cover-rating", told(tub(cover("A", 0.5, drawn * 0.6), cover("B", -0.5, drawn * 0.6), third)))

    def valved(self, valves: tuple[str, ...], ys: tuple[float, ...], **body: Any) -> Plan:
        """A tub with covers at these places of its wall, those named with a valve in their own branch."""
        covers = [cover(n, y) for n, y in zip("ABC", ys, strict=False)]
        plan = tub(*covers, **body).model_dump()
        spots, runs = list(plan["points"]), []
        for run in plan["runs"]:
            at = run["a"]["point"]
            if at not in valves:
                runs.append(run)
                continue
            spots.append(thing(f"V{at}", "valve", -1.5, 0.1 * ord(at), 0.1))
            mid = {"id": f"{run['id']}v", "point": f"V{at}", "port": "in"}
            runs.append({**run, "b": mid})
            runs.append({**run, "id": f"{run['id']}x", "a": {**mid, "id": f"{run['id']}w", "port": "out"}})
        return Plan.model_validate({**plan, "points": spots, "runs": runs})

    def test_a_valve_can_leave_one_alone(self) -> None:
        """A valve in the branch of one of two covers, shut, leaves the other alone to a body: that state is told, with
        the valve. One valve before the pump shuts off both, and is nothing.
        """
        found = told(self.valved(("A",), (0.6, -0.6)))
        self.assertIn("by it alone with valve VA shut", found["one-suction"])
        self.assertNotIn("one-suction", told(self.valved((), (0.6, -0.6))))

    def test_pumps_on_one_pair_of_covers(self) -> None:
        """Two pumps that draw through the same covers draw together: each cover must carry both with the other one
        blocked.
        """
        one = tub(cover("A", 0.5), cover("B", -0.5)).model_dump()
        pump = next(p for p in one["points"] if p["id"] == "P")
        spots = [*one["points"], {**pump, "id": "Q", "y": 0.5}, {**thing("RT", "returns", 1, 0.4, 0.5)}]
        runs = [
            *one["runs"],
            {"id": "X1", "a": {"id": "X1a", "point": "J", "port": ""}, "b": {"id": "X1b", "point": "Q", "port": "in"}},
            {
                "id": "X2",
                "a": {"id": "X2a", "point": "Q", "port": "out"},
                "b": {"id": "X2b", "point": "RT", "port": "in"},
            },
        ]
        both = derive(Plan.model_validate({**one, "points": spots, "runs": runs}))
        lifts = [max(f.lifts[p][0] for f in both.sizes.flows.values()) for p in ("P", "Q")]
        rated = max(lifts) * 1.2  # enough for either alone
        spots = [{**p, "what": {**p["what"], "rated": rated}} if p["id"] in "AB" else p for p in spots]
        found = told(Plan.model_validate({**one, "points": spots, "runs": runs}))
        self.assertIn("With both pumps running", found["cover-rating"])

    def test_three_within_a_hand(self) -> None:
        """Three covers within 0.2 m are one to a body."""
        three = tub(cover("A", 0.1), cover("B", 0.0), cover("C", -0.1))
        self.assertIn("One body can block them all", told(three)["suctions-near"])

    def test_a_pond_somebody_may_wade_in(self) -> None:
        """One drain under the pump of a fish pond is reported: who wades in there may be held; in a tank nobody is."""
        found = [p for p in derive(tub(cover("A", 0.0), use="fish pond")).problems() if p.code == "one-suction"]
        self.assertEqual([(p.severity, p.danger) for p in found], [("warn", True)])
        self.assertIn("who wades or falls in", found[0].says)

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.sampled_from([0.0, 0.2, 0.5, -0.3, -0.6, 0.62]), min_size=1, max_size=3, unique=True), st.data())
    def test_every_state_by_brute_force(self, ys: list[float], data: st.DataObject) -> None:
        """A danger is told if and only if some setting of the valves leaves covers that one body blocks all at once."""
        names = "ABC"[: len(ys)]
        valves = tuple(n for n in names if data.draw(st.booleans()))
        found = told(self.valved(valves, tuple(ys)))
        held = False
        for shut in product((False, True), repeat=len(valves)):
            off = {n for n, s in zip(valves, shut, strict=True) if s}
            left = [y for n, y in zip(names, ys, strict=True) if n not in off]
            held |= bool(left) and any(all(abs(y - c) < 3 * FOOT - 1e-6 for y in left) for c in left)
        self.assertEqual(held, bool({"one-suction", "suctions-near"} & set(found)))

    def test_too_hot(self) -> None:
        """104 °F is the most for who sits in it (UL 1563, from memory); a pond has no such figure."""
        pair = (cover("A", 0.5), cover("B", -0.5))
        self.assertIn("too-hot", told(tub(*pair, warm=314.0)))
        self.assertNotIn("too-hot", told(tub(*pair, warm=313.15)))

    def test_electricity_and_lids_are_cautioned(self) -> None:
        """Every pump, heater and blower has the electrician's caution; every body that of lids and suction."""
        codes = {c.code for c in derive(cedar_tub()).site_cautions}
        self.assertLessEqual({"electric", "entrapment", "climbing", "chemicals", "pit"}, codes)
