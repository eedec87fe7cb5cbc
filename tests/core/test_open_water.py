"""Bodies of water as shapes, the laws of open water against outside values, and what is set into walls and laid round
them.
"""

import unittest
from itertools import pairwise
from math import dist, pi
from typing import Any

from scipy.integrate import quad

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.waters import use_of
from hydrarch.core.circulation.laws import (
    air_gap,
    evaporation,
    hole,
    losing,
    saturation,
    standpipe,
    standpipe_head,
    warming,
)
from hydrarch.core.circulation.settling import UNDER
from hydrarch.core.components.basins import USES, Basin, Jet, Standpipe
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.fixes import mended
from hydrarch.core.editing.jet_ring import jet_ring
from hydrarch.core.hydraulics.round_flow import air_carried
from hydrarch.core.plan.basin_shapes import BasinShape, let_in, nearest, shape_of
from hydrarch.core.plan.document import Plan
from hydrarch.demo import cedar_tub
from tests.core.plans import draw
from tests.core.waters import cover, over_sump, thing, told, tub


class Shapes(unittest.TestCase):
    """A body of water is a frustum of its outline."""

    def test_volume_is_the_integral_of_area(self) -> None:
        """For any share of the floor: against scipy's quadrature; a cone's third is its limit.

        And the level goes back to the volume.
        """
        corners = ((0.0, 0.0), (6.0, 0.0), (6.0, 4.0), (2.0, 5.0))
        for share in (0.0, 0.2, 0.5, 1.0):
            shape = BasinShape(corners, 2.0, 0.4, share)
            for level in (0.4, 0.7, 1.3, 2.0):
                with self.subTest(share=share, level=level):
                    self.assertAlmostEqual(shape.volume(level), quad(shape.area, 0.4, level)[0], delta=1e-9)
                    self.assertAlmostEqual(shape.level(shape.volume(level)), level, delta=1e-9)
        self.assertAlmostEqual(BasinShape(corners, 2.0, 0.4, 0.0).holds, BasinShape(corners, 2.0, 0.4, 1.0).holds / 3)
        self.assertAlmostEqual(shape.level(shape.holds + 0.1 * shape.open_area), 2.1)

    def test_round_is_as_large_as_its_circle(self) -> None:
        """The polygon it is drawn by has the circle's own area; and an outline that crosses itself is known."""
        plan = tub(cover("A", 0.5))
        self.assertAlmostEqual(shape_of(plan.by_id["W"]).open_area, pi, delta=1e-9)
        self.assertFalse(shape_of(plan.by_id["W"]).crosses)
        self.assertTrue(BasinShape(((0, 0), (1, 1), (1, 0), (0, 1)), 1, 0, 1).crosses)

    def test_turned_and_mirrored(self) -> None:
        """A body that is turned or mirrored keeps its area and goes round its point."""
        what = Basin.model_validate(
            {
                "kind": "basin",
                "shape": "outline",
                "outline": [{"east": 1.0, "north": 0.0}, {"east": 3.0, "north": 0.0}, {"east": 3.0, "north": 2.0}],
            }
        )
        turned = what.turned(pi / 2)
        self.assertAlmostEqual(turned.outline[1].north, 3.0)
        self.assertAlmostEqual(what.mirrored(east_west=True).outline[-1].east, -1.0)
        self.assertEqual(what.mirrored(east_west=True).mirrored(east_west=True).outline, what.outline)

    def test_what_is_in_whose_wall(self) -> None:
        """A box in a tank has what is in its own wall; a thing far from all is in none; moved, it is in the
        other one.
        """
        plan = over_sump()
        homes = {p.id: p.what.waters.basin for p in plan.points if hasattr(p.what, "waters") and p.what.waters}
        self.assertEqual(homes, {"O": "T", "O2": "T", "D": "S", "D2": "S", "B": "S", "R": "T"})
        self.assertEqual(let_in(plan.points), {})  # it is all known already
        shapes = {
            "big": BasinShape(((0, 0), (9, 0), (9, 9), (0, 9)), 1, 0, 1),
            "box": BasinShape(((0, 0), (1, 0), (1, 1), (0, 1)), 1, 0, 1),
        }
        self.assertEqual(nearest(shapes, 0.5, 0.5, 0.5), "box")
        self.assertEqual(nearest(shapes, 5, 5, 0.5), "big")
        self.assertIsNone(nearest(shapes, 5, 5, 3.0))
        moved = Plan.model_validate(
            {
                **plan.model_dump(),
                "points": [{**p.model_dump(), "x": 50.0} if p.id == "R" else p.model_dump() for p in plan.points],
            }
        )
        self.assertIn("in-no-water", told(moved))

    def test_every_use_is_known(self) -> None:
        """Each use of a body has its row with a source; who bathes gets in."""
        for use in USES:
            found = use_of(use)
            self.assertTrue(found.source)
            self.assertTrue(found.gets_in or not found.bathed)


class Laws(unittest.TestCase):
    """The laws of open water against outside values."""

    def test_standpipe_and_hole(self) -> None:
        """Francis' weir on the rim of a 48 mm pipe under 10 mm: 16.65 L/min; a 10 mm hole under 0.3 m: 6.97 L/min.

        Both derived values.
        """
        self.assertAlmostEqual(standpipe(0.010, 0.048) * 60e3, 16.6479, delta=0.01)
        self.assertAlmostEqual(hole(0.3, 0.010) * 60e3, 6.9728, delta=0.001)
        self.assertEqual((standpipe(-0.1, 0.05), hole(0, 0.05), standpipe_head(0, 0.05)), (0.0, 0.0, 0.0))
        for head in (0.002, 0.01, 0.03, 0.2):
            self.assertAlmostEqual(standpipe_head(standpipe(head, 0.05), 0.05), head, delta=1e-9)

    def test_warming(self) -> None:
        """1,200 L from 12 to 38 °C by 6 kW with nothing lost: 6.05 h (m·c·ΔT/P).

        What loses as much as it gets never warms.
        """
        hours = warming(1.2, 285.15, 311.15, 6000.0)
        assert hours is not None
        self.assertAlmostEqual(hours / 3600, 6.046, delta=0.01)
        self.assertIsNone(warming(1.2, 285.15, 311.15, 6000.0, 6000.0))

    def test_vapour(self) -> None:
        """Saturation at 25 °C is 3.168 kPa, at 40 °C 7.384 (FAO-56, table 2.3: 3.168 and 7.376).

        Nothing falls out of damp warm air.
        """
        self.assertAlmostEqual(saturation(298.15), 3168, delta=2)
        self.assertAlmostEqual(saturation(313.15), 7384, delta=10)
        self.assertEqual(evaporation(1.0, 283.15, 303.15, 1.0), 0.0)
        self.assertLess(losing(3.0, 311.15, 283.15, 0.5, lid=True), 0.1 * losing(3.0, 311.15, 283.15, 0.5, lid=False))

    def test_still_water_evaporates(self) -> None:
        """Half of what Carrier (1918, from memory) gives for a pool in use, 0.089 (p_w − p_a)/r, is what lies still:
        within a fifth, whatever the warmth; 2 to 4 mm a day at 25 °C and half damp.
        """
        for water, air, damp in ((298.15, 298.15, 0.5), (301.15, 293.15, 0.6), (313.15, 283.15, 0.5)):
            carrier = 0.089 * (saturation(water) - damp * saturation(air)) / 1e3 / 2430.0 / 1000
            self.assertAlmostEqual(evaporation(1.0, water, air, damp) / (carrier / 2), 1.0, delta=0.2)
        self.assertAlmostEqual(evaporation(1.0, 298.15, 298.15, 0.5) * 86400e3, 3.0, delta=1.0)

    def test_air_gap(self) -> None:
        """A 3/4 in spout: 1.5 in; a small one an inch (ASME A112.1.2, from memory)."""
        self.assertAlmostEqual(air_gap(0.75 * 0.0254) / 0.0254, 1.5)
        self.assertAlmostEqual(air_gap(0.006) / 0.0254, 1.0)


class SetIn(unittest.TestCase):
    """Fittings set into walls at a press, and rings of jets."""

    def settled(self, kind: str, x: float, y: float, **more: Any) -> tuple[Plan, Any]:
        """A tank on a stand, and a fitting set down on the floor beside it that its mend sets in."""
        body = thing("W", "basin", 0, 0, 0, use="show tank", long=2.0, wide=1.0, depth=0.8, rim=1.5, below_rim=0.1)
        plan = draw([body, thing("F", kind, x, y, -0.6, **more)], [])
        problem = next(p for p in derive(plan).problems() if p.code == "in-no-water")
        self.assertTrue(problem.does)
        after = mended(plan, problem)
        assert after is not None
        self.assertNotIn("in-no-water", told(after))
        return after, after.by_id["F"]

    def test_each_at_its_height(self) -> None:
        """A skimmer at the water, a return half a foot under it, a suction and a bulkhead just over the floor, all on
        the nearest wall.
        """
        for kind, level in (
            ("skimmer", 1.4),
            ("returns", 1.4 - UNDER),
            ("jet", 1.4 - UNDER),
            ("suction_cover", 0.8),
            ("bulkhead", 0.8),
        ):
            with self.subTest(kind=kind):
                _, point = self.settled(kind, 1.4, 0.2)
                self.assertAlmostEqual(point.level, level, delta=1e-4)
                self.assertAlmostEqual(point.x, 1.0, delta=1e-4)
                self.assertAlmostEqual(point.y, 0.2, delta=1e-4)

    def test_on_the_floor(self) -> None:
        """A drain set down in the middle goes to the floor where it is; a standpipe's end comes some inches below the
        rim.
        """
        _, drain = self.settled("suction_cover", 0.2, 0.1)
        self.assertEqual((drain.x, drain.y), (0.2, 0.1))
        self.assertAlmostEqual(drain.level, 0.7)
        _, pipe = self.settled("standpipe", -0.5, 0.1)
        assert isinstance(pipe.what, Standpipe)
        self.assertAlmostEqual(pipe.level + pipe.what.up, 1.5 - 0.07, delta=1e-4)

    def test_a_ring_of_jets(self) -> None:
        """Six large jets evenly round a tub on a closed ring of water and one of air; every joint has its way, and each
        jet stands in the tub.
        """
        plan = tub(cover("A", 0.5), cover("B", -0.5))
        done = jet_ring(plan, "W", 6, 0.3, small=False, air=True)
        named = [p.name for p in done.plan.points if p.what.kind == "jet"]
        self.assertEqual(named, [f"Jet {n}" for n in range(1, 7)], "each has a name a test can call it by")
        jets = [p for p in done.plan.points if isinstance(p.what, Jet)]
        self.assertEqual(len(jets), 6)
        self.assertEqual({p.what.waters.basin for p in jets if isinstance(p.what, Jet) and p.what.waters}, {"W"})
        apart = [dist((a.x, a.y), (b.x, b.y)) for a, b in pairwise(jets)]
        self.assertLess(max(apart) - min(apart), 0.01)
        for p in jets:
            self.assertAlmostEqual(p.level, 0.8 - 0.3, delta=1e-4)
        feed = done.chosen[-1]
        self.assertEqual(sum(feed in r.points for r in done.plan.runs), 2)
        self.assertEqual(len(done.plan.runs) - len(plan.runs), 2 * (7 + 6))
        ports = {e.port for r in done.plan.runs for e in r.ends if e.point in {p.id for p in jets}}
        self.assertEqual(ports, {"water", "air"})
        self.assertEqual(
            [
                p.says
                for p in derive(done.plan).problems()
                if p.code in ("no-way", "tee-angle", "in-no-water") and p.where != "J"
            ],
            [],
        )

    def test_an_oblong_tub(self) -> None:
        """Round a square body too, the ring lies outside of its wall all round."""
        plan = draw([thing("W", "basin", 0, 0, 0, use="hot tub", long=2.0, wide=2.0, depth=1.0, rim=1.0)], [])
        done = jet_ring(plan, "W", 8, 0.3, small=True, air=False)
        tees = [p for p in done.plan.points if p.kind.name == "junction"]
        self.assertEqual(len(tees), 9)
        for p in tees[:8]:
            self.assertAlmostEqual(max(abs(p.x), abs(p.y)), 1.3, delta=1e-3)

    def test_where_none_can_be(self) -> None:
        """Deeper than the floor, round nothing, too few: refused in words."""
        plan = tub(cover("A", 0.5), cover("B", -0.5))
        for at, jets, below, says in (
            ("W", 6, 3.0, "higher than its floor"),
            ("P", 6, 0.3, "choose the tub, pond or tank"),
            ("W", 1, 0.3, "from 2 to"),
        ):
            with self.subTest(says=says), self.assertRaisesRegex(HydrarchError, says):
                jet_ring(plan, at, jets, below, small=False, air=False)


class AirOnItsOwn(unittest.TestCase):
    """Air and water come to a jet, and never to one line."""

    def test_air_and_water_on_one_line(self) -> None:
        """A ring drawn from jet to jet by their air, a blower joined to the pump's line, a gully on an air line: told,
        and the job stops.
        """
        body = thing("W", "basin", 0, 0, 0, use="hot tub", long=2.0, wide=2.0, depth=1.0, rim=1.0)
        jets = [thing("A", "jet", 0.9, 0.3, 0.5), thing("B", "jet", 0.9, -0.3, 0.5)]
        blower, loop = thing("BL", "blower", 3, 2, 1.6), thing("CV", "check_valve", 2, 2, 1.6)
        pumped = [body, *jets, cover("S", 0.5), thing("P", "pump", -3, 0.5, 0.1)]
        water = [("S", "P"), ("P", "A:water"), ("A:water", "B:water")]
        ways = [("BL", "CV"), ("CV", "A:air")]
        for what, spots, joined, wrong in (
            ("on its own", [], [], False),
            ("by the air of a jet", [], [("A:air", "B:water")], True),
            ("to the pump's line", [thing("J", "junction", -2, 1, 0.1)], [("J", "CV"), ("J", "S")], True),
            ("a gully", [thing("G", "drain_inlet", 3, 1, 0.1)], [("G", "CV")], True),
        ):
            runs = [w for w in (*water, *ways, *joined) if w != ("A:water", "B:water") or not wrong]
            with self.subTest(what=what):
                problems = derive(draw([*pumped, blower, loop, *spots], runs)).problems()
                found = [p for p in problems if p.code == "air-and-water"]
                self.assertEqual(bool(found), wrong, [p.says for p in problems])
                self.assertTrue(all(p.severity == "stop" for p in found))


class JetsLines(unittest.TestCase):
    """What leads to jets: as large as the jets' own ends, and enough for what they are made for."""

    def test_two_inches_of_water_and_one_and_a_half_of_air(self) -> None:
        """Six large jets: the rings are 2 in and 1-1/2 in all round, and so is the way to each jet (common practice);
        each tells why.
        """
        done = derive(cedar_tub(), strict=True)
        for lines, size in ((range(17, 30), "2"), (range(30, 43), "1-1/2")):
            self.assertEqual({done.settled.pipes[f"L{n}"].size for n in lines}, {size})
        why = {r: c.says for r, c in done.sizes.choices.items()}
        self.assertRegex(why["L30"], "Jet 1 takes 1-1/2 itself")
        self.assertRegex(why["L14"], r"air would run through 1-1/2 at 50\.\d ft/s, over the limit of 39\.4 ft/s")
        self.assertRegex(why["L8"], r"2 would run at .* ft/s with .* gpm, over the limit of 5\.0 ft/s")

    def test_air_of_a_ring_is_parted(self) -> None:
        """With losses in proportion to length and flow, as currents part (Kirchhoff): a third goes the way that is
        twice as long; a tree is exact.
        """
        spots = [
            thing("W", "basin", 0, 0, 0, use="hot tub", long=4.0, wide=4.0, depth=1.0, rim=1.0),
            thing("BL", "blower", 5, 0, 1.6),
            thing("N", "junction", 4, 0, 1.6),
            thing("E", "bend", 4, 3, 1.6),
            thing("F", "junction", 2, 3, 1.6),
            thing("A", "jet", 2, 1, 1.6, air=0.003),
        ]
        plan = draw(spots, [("BL", "N"), ("N", "E"), ("E", "F"), ("F", "A:air")])
        self.assertEqual({round(q, 12) for q in air_carried(plan, derive(plan).layout).values()}, {0.003})
        ring = draw(
            [*spots, thing("G", "bend", 4, -0.5, 1.6), thing("H", "bend", 2, -3.5, 1.6)],
            [
                ("BL", "N"),
                ("N", "E"),
                ("E", "F"),
                ("F", "A:air"),
                ("N", "G"),
                ("G", "H"),
                ("H", "F"),
            ],
        )
        lay = derive(ring).layout
        short, long_ = (sum(lay.lines[r].length for r in way) for way in (("R2", "R3"), ("R5", "R6", "R7")))
        found = air_carried(ring, lay)
        self.assertAlmostEqual(found["R2"], 0.003 * long_ / (short + long_))
        self.assertAlmostEqual(found["R6"], 0.003 * short / (short + long_))
        self.assertAlmostEqual(found["R1"], 0.003)

    def test_a_pump_too_small_for_its_jets(self) -> None:
        """Jets that get a third of what they are made for are reported with both figures; with a pump for them
        nothing is.
        """
        plan = cedar_tub()
        self.assertNotIn("jets-weak", told(plan))
        little = {"curve": [{"flow": 0.0, "head": 9.0}, {"flow": 0.0015, "head": 6.0}, {"flow": 0.003, "head": 1.0}]}
        points = [p.model_dump() for p in plan.points]
        points = [{**p, "what": {**p["what"], **little}} if p["id"] == "PU" else p for p in points]
        weak = told(Plan.model_validate({**plan.model_dump(), "points": points}))
        self.assertRegex(
            weak["jets-weak"],
            r"6 jets get \d+\.\d gpm of 57\.1 gpm\. The weakest is .*: \d\d% of its rated flow",
        )


if __name__ == "__main__":
    unittest.main()
