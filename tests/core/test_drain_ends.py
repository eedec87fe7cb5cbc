"""What comes to drains and where they end: roofs, waste through walls, connections with a fixed invert, soakaways."""

import unittest
from typing import Any, ClassVar

from hypothesis import given
from hypothesis import strategies as st

from hydrarch.core.base.units import INCH
from hydrarch.core.components.inlets import Soakaway
from hydrarch.core.components.synonyms import named
from hydrarch.core.derivation.chain import derive
from hydrarch.core.drainage.rainwater import downpipe_carries, soakaway_state
from hydrarch.core.editing.clean_out import may_clean_out
from hydrarch.core.editing.fixes import mended
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.log import Log
from hydrarch.core.report.headlines import says
from hydrarch.core.report.reminders import reminders
from hydrarch.demo import wash_block
from tests.core.plans import codes, draw, point

HOUR = 3600.0


def one(begin: str, end: str, given: dict[str, Any] | None = None, ends: dict[str, Any] | None = None) -> Plan:
    """One inlet and one end of a kind, 10 m apart, falling 0.2 m."""
    spots = [point("A", 0, 0, begin, depth=0.5, **(given or {})), point("O", 10, 0, end, depth=0.7, **(ends or {}))]
    return draw(spots, [("A", "O")], about="rain")


class Downpipes(unittest.TestCase):
    """A roof's share, and the pipe it comes down by."""

    def test_table_of_the_standard(self) -> None:
        """L/s a third full, by inside mm. Source: EN 12056-3, table 8, from memory."""
        table = ((50, 1.7), (60, 2.7), (70, 4.1), (80, 5.9), (90, 8.1), (100, 10.7))
        for across, litres in table:
            self.assertAlmostEqual(downpipe_carries(across / 1e3) * 1e3, litres, delta=0.051)

    def test_narrow(self) -> None:
        """A downpipe that brings more than it carries is reported with both figures; wider it is not."""
        roof = {"area": 300.0, "leaf_trap": "yes", "across": 0.05}
        plan = one("downpipe", "outfall", roof)
        rain = plan.model_copy(update={"conditions": plan.conditions.model_copy(update={"rain": 0.05 / HOUR})})
        told = next(p for p in derive(rain).problems("survey") if p.code == "downpipe-narrow")
        self.assertIn("250.0 L/min", told.says)  # 300 m² in 50 mm/h: 4.17 L/s
        wider = one("downpipe", "outfall", roof | {"across": 0.1})
        self.assertNotIn("downpipe-narrow", codes(wider))

    def test_leaves(self) -> None:
        """Not looked at is reported as open."""
        for said, there in (("yes", False), ("no", True), ("not known", True)):
            self.assertEqual("downpipe-leaves" in codes(one("downpipe", "outfall", {"leaf_trap": said})), there)


class Wastes(unittest.TestCase):
    """What comes through a wall: nobody's word counts for what it drains."""

    known: ClassVar = {"drains": "toilet", "made_of": "cast iron", "across": 0.111, "cleanout": "yes"}

    def test_unknown_holds(self) -> None:
        """As it is set down, nothing is known of it: that holds Survey back; looked at, it does not."""
        told = {p.code: p for p in derive(one("waste", "sewer_connection")).problems("survey")}
        self.assertTrue(told["waste-unknown"].holds)
        self.assertLessEqual({"waste-unmeasured", "waste-cleanout"}, set(told))
        self.assertFalse([c for c in codes(one("waste", "sewer_connection", self.known)) if c.startswith("waste")])

    def test_joined_by_its_true_width(self) -> None:
        """What comes through the wall is joined as a master would: 3-in copper by a band to schedule 40, a bell reducer
        and a transition; fibre and iron by one band; metric plastic by a coupling. What nothing fits is reported.
        """
        for shop, made, across, parts in (
            ("north-american", "copper", 0.0794, ["band", "piece of drain pipe", "bell reducer", "transition"]),
            ("north-american", "bituminized fibre", 0.118, ["band 4 fibre"]),
            ("north-american", "cast iron", 0.111, ["band 4 cast-iron"]),
            ("elsewhere", "cast iron", 0.1115, ["band 4 cast-iron"]),
            ("elsewhere", "plastic", 0.110, ["coupling 110"]),
        ):
            given = self.known | {"made_of": made, "across": across}
            plan = one("waste", "sewer_connection", given)
            plan = plan.model_copy(update={"conditions": plan.conditions.model_copy(update={"market": shop})})
            found = [p.name.lower() for p in reversed(derive(plan).assembly.parts)]
            self.assertEqual(len(found), len(parts), found)
            self.assertTrue(all(part in name for part, name in zip(parts, found, strict=True)), found)
            self.assertNotIn("waste-no-band", codes(plan))
        for made, across in (("lead", 0.1), ("clay", 0.13), ("copper", 0.09)):
            self.assertIn(
                "waste-no-band",
                codes(one("waste", "sewer_connection", self.known | {"made_of": made, "across": across})),
            )

    def test_not_in_the_open(self) -> None:
        """Waste that may come out in the open, or in the street, is reported whatever else the drain takes."""
        for end in ("outfall", "pop_up", "soakaway"):
            self.assertIn("waste-outdoors", codes(one("waste", end, self.known)))
        for into, told in (("sewer", False), ("septic tank", False), ("street gutter", True), ("storm drain", True)):
            plan = one("waste", "sewer_connection", self.known, {"into": into})
            self.assertEqual("waste-outdoors" in codes(plan), told, into)

    def test_rain_in_a_septic_tank(self) -> None:
        """Told of the tank, not of a sewer."""
        for into, told in (("sewer", False), ("septic tank", True)):
            plan = one("downpipe", "sewer_connection", {"leaf_trap": "yes"}, {"into": into})
            self.assertEqual("rain-in-tank" in codes(plan), told)

    def test_trap(self) -> None:
        """A floor drain to the sewer needs a trap, and one nobody looked for is not there."""
        for trap, told in (("yes", False), ("no", True), ("not known", True)):
            self.assertEqual("trap-missing" in codes(one("floor_drain", "sewer_connection", {"trap": trap})), told)
            self.assertNotIn("trap-missing", codes(one("floor_drain", "outfall", {"trap": trap})))

    def test_clean_out_near(self) -> None:
        """A cap within 3 m on its own drain will do; one further off will not."""
        for away, told in ((2.0, False), (4.0, True)):
            spots = [
                point("A", 0, 0, "waste", depth=0.5, **(self.known | {"cleanout": "no"})),
                point("J", away, 0, "junction", depth=0.5 + away / 60),
                point("C", away, -0.4, "cap", depth=0.0),
                point("O", 10, 0, "sewer_connection", depth=0.8),
            ]
            plan = draw(spots, [("A", "J"), ("J", "C"), ("J", "O")], about="rain")
            self.assertEqual("waste-cleanout" in codes(plan), told)


class CleanOuts(unittest.TestCase):
    """A branch up to a clean-out carries nothing, and nothing is missing there."""

    def test_not_counted_as_empty(self) -> None:
        """The demo's has one of two runs: nine runs carry water, and each is said to be large enough; a pocket that
        falls away from the main is reported as one that does not fall.
        """
        done = derive(wash_block())
        self.assertEqual({d.run for d in done.drains if d.cleans_out}, {"R2", "R3"})
        self.assertEqual(says("size", done), "9 runs of drain, each large enough for its flow.")
        spots = tuple(p.model_copy(update={"depth": 2.0}) if p.id in ("CO", "CB") else p for p in done.plan.points)
        self.assertIn("no-fall", codes(done.plan.model_copy(update={"points": spots})))


class OnePress(unittest.TestCase):
    """A clean-out by one press."""

    def test_beside_a_waste_and_in_a_long_drain(self) -> None:
        """After it the problem is gone, nothing is square, every stretch that carries water falls, and the cap stands
        above the ground, in both markets, whichever way the run was drawn.
        """
        known = {"drains": "toilet", "made_of": "plastic", "across": 0.11, "cleanout": "no"}
        for shop in ("north-american", "elsewhere"):
            for ends in (("A", "O"), ("O", "A")):
                for begin, code in (("waste", "waste-cleanout"), ("drain_inlet", "no-cleanout")):
                    given = known if begin == "waste" else {}
                    spots = [point("A", 0, 0, begin, depth=0.6, **given)]
                    spots.append(point("O", 80, 0, "sewer_connection", depth=2.2, invert=-9.0))
                    run = tuple(f"{p}:{'out' if p == 'A' else 'in'}" for p in ends)
                    plan = draw(spots, [(run[0], run[1])], about="rain", conditions={"market": shop})
                    told = next(p for p in derive(plan).problems() if p.code == code)
                    self.assertTrue(told.does)
                    after = mended(plan, told)
                    assert after is not None
                    left = codes(after)
                    self.assertNotIn("waste-cleanout", left)
                    self.assertTrue(
                        {"no-way", "tee-angle", "square-branch", "no-fall", "open-end"}.isdisjoint(left), left
                    )
                    self.assertEqual(sum(p.kind.name == "cap" and p.depth < 0 for p in after.points), 1)
                    self.assertEqual(sum(d.cleans_out for d in derive(after).drains), 2)

    def test_no_room(self) -> None:
        """Too shallow, too short, or there already: not offered."""
        self.assertFalse(may_clean_out(self.short(depth=0.1), "R1"))
        self.assertFalse(may_clean_out(self.short(existing={}), "R1"))
        self.assertTrue(may_clean_out(self.short(), "R1"))
        self.assertFalse(may_clean_out(self.short(far=0.5), "R1"))

    @staticmethod
    def short(depth: float = 0.5, far: float = 8.0, **run: Any) -> Plan:
        """A gully and an outfall."""
        spots = [point("A", 0, 0, "drain_inlet", depth=depth), point("O", far, 0, "outfall", depth=depth + 0.2)]
        return draw(spots, [("A:out", "O")], runs_more=[run])


class Connections(unittest.TestCase):
    """A connection with an invert that stays."""

    def test_arrives_too_low(self) -> None:
        """By how much is reported, to the millimetre; at the invert or above it is not told; not read is reported."""
        plan = one("drain_inlet", "sewer_connection")
        self.assertIn("connection-unread", codes(plan))
        comes = derive(plan).drains[0].inverts[1]
        for above, told in ((0.012, True), (0.0, False), (-0.3, False)):
            ends = one("drain_inlet", "sewer_connection", None, {"invert": round(comes + above, 6)})
            found = [p for p in derive(ends).problems() if p.code == "connection-invert"]
            self.assertEqual(bool(found), told)
            if found:
                self.assertIn("12 mm", found[0].says)
            self.assertNotIn("connection-unread", codes(ends))


class Soakaways(unittest.TestCase):
    """Enough is said by the storm and the test of the ground, and not else."""

    pit: ClassVar = {"wide": 1.0, "long": 2.0, "deep": 1.5, "filled": "crates"}

    def test_by_hand(self) -> None:
        """100 m² of roof in 20 mm in an hour: 2.0 m³ in; sides to half depth 2 (1 + 2) 0.75 = 4.5 m², at 1e-5 m/s 0.162
        m³ out; 1.838 m³ stored; half of it soaks away in 0.919 / 4.5e-5 = 20,422 s. Relation: BRE Digest 365.
        """
        what = Soakaway.model_validate(self.pit | {"soaks": 1e-5, "storm_rain": 0.020})
        state = soakaway_state(what, 100.0, 0.0)
        assert state.needs is not None
        assert state.half_empty is not None
        self.assertAlmostEqual(state.needs, 1.838, places=3)
        self.assertAlmostEqual(state.holds, 2.85, places=6)
        self.assertAlmostEqual(state.half_empty, 20422.2, delta=0.1)

    def test_unknown_is_not_enough(self) -> None:
        """With no test of the ground, or no storm, nothing is said to be enough."""
        for more in ({}, {"soaks": 1e-5}, {"storm_rain": 0.02}):
            plan = one("downpipe", "soakaway", None, self.pit | more)
            self.assertIn("soakaway-untold", codes(plan))
            self.assertIn("not known", derive(plan).drained_to.notes[-1].says)

    def test_too_small_and_too_slow(self) -> None:
        """Told with both figures."""
        small = one("downpipe", "soakaway", {"area": 400.0}, self.pit | {"soaks": 1e-5, "storm_rain": 0.02})
        self.assertIn("soakaway-small", codes(small))
        slow = one("downpipe", "soakaway", {"area": 100.0}, self.pit | {"soaks": 1e-6, "storm_rain": 0.02})
        self.assertIn("soakaway-slow", codes(slow))

    @given(area=st.floats(1, 1000), rain=st.floats(0.001, 0.2), soaks=st.floats(1e-7, 1e-3), more=st.floats(1.01, 5))
    def test_more_rain_needs_more(self, area: float, rain: float, soaks: float, more: float) -> None:
        """More roof never asks for less; a faster ground never asks for more."""
        what = Soakaway.model_validate(self.pit | {"soaks": soaks, "storm_rain": rain})
        faster = what.model_copy(update={"soaks": soaks * more})
        needs = [soakaway_state(w, a, 0.0).needs for w, a in ((what, area), (what, area * more), (faster, area))]
        assert needs[0] is not None
        assert needs[1] is not None
        assert needs[2] is not None
        self.assertGreaterEqual(needs[1], needs[0])
        self.assertLessEqual(needs[2], needs[0])

    def test_what_falls_in_counts(self) -> None:
        """A downpipe over a gully whose drain runs to the soakaway counts with its roof."""
        spots = [
            point("D", 0, 5, "downpipe", depth=0.2, area=50.0),
            point("G", 0, 0, "drain_inlet", depth=0.5, area=50.0, surface="roof"),
            point("S", 10, 0, "soakaway", depth=0.7, **(self.pit | {"soaks": 1e-5, "storm_rain": 0.02})),
        ]
        plan = draw(spots, [("D", "G"), ("G", "S")], about="rain")
        says = derive(plan).drained_to.notes[-1].says
        self.assertIn("needs 1838 L", says)


class Again(unittest.TestCase):
    """What is asked for again."""

    def test_traps_and_gutters(self) -> None:
        """A standpipe's trap after three months, a gutter twice a year: common practice."""
        found = {r.id: r.every for r in reminders(one("laundry_standpipe", "sewer_connection"), Log([]), 0.0)}
        self.assertEqual(found, {"trap A": 90})
        found = {r.id: r.every for r in reminders(one("downpipe", "outfall"), Log([]), 0.0)}
        self.assertEqual(found, {"leaves A": 182})

    def test_roots(self) -> None:
        """A tree near a buried drain asks for a clearing every seven years; further off, or near a supply line, none."""
        for away, told in ((2.0, True), (4.0, False)):
            spots = [
                point("A", 0, 0, "downpipe", depth=0.5),
                point("O", 10, 0, "outfall", depth=0.7),
                point("T", 5, away, "mark", what="tree"),
            ]
            found = {r.id: r for r in reminders(draw(spots, [("A", "O")]), Log([]), 0.0)}
            self.assertEqual("roots" in found, told)
            self.assertTrue(not told or found["roots"].every / 365.2425 > 6.9)
        spots = [
            point("M", 0, 0, "mains", depth=0.5),
            point("V", 10, 0, "tap", depth=0.5),
            point("T", 5, 1, "mark", what="tree"),
        ]
        self.assertNotIn("roots", {r.id for r in reminders(draw(spots, [("M", "V")]), Log([]), 0.0)})


class Named(unittest.TestCase):
    """Found by the trade's words of both markets."""

    def test_words(self) -> None:
        """Common practice."""
        for words, kind in (
            ("downspout", "downpipe"),
            ("rainwater pipe", "downpipe"),
            ("trench drain", "channel_drain"),
            ("building drain", "waste"),
            ("dry well", "soakaway"),
            ("septic tank", "sewer_connection"),
            ("gully", "drain_inlet"),
        ):
            self.assertEqual(named(words), kind)

    def test_inch(self) -> None:
        """3 in downpipe: 1.7 × (76.2 / 50)^2.667 = 5.2 L/s, the relation's own power."""
        self.assertAlmostEqual(downpipe_carries(3 * INCH) / downpipe_carries(0.05), (76.2 / 50) ** 2.667, places=9)
