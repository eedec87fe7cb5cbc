"""One piece cut at the bench, and one joint's waits, against the pipefitters' constants and the schools."""

import unittest
from math import pi, radians

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError, OutOfRange, Unknown
from hydrarch.core.base.units import FOOT, INCH, PSI
from hydrarch.core.catalogue.fittings import fitting
from hydrarch.core.catalogue.methods import methods
from hydrarch.core.cutting.single import CutQuestion, EndOn, cut_one, takers
from hydrarch.core.derivation.chain import derive
from hydrarch.core.making.waiting import waiting_methods, waits
from tests.core.plans import make_plan, point

ELBOW, TEE, SLANT = EndOn("pvc-elbow-90-1"), EndOn("pvc-tee-1"), EndOn("pvc-elbow-45-1")
COOL = 288.15


def cut(distance: float = 1.0, **more: object) -> CutQuestion:
    """A piece of schedule 40, 1 in, between an elbow and a tee."""
    return CutQuestion("pvc40", "1", distance, **{"a": ELBOW, "b": TEE, **more})  # type: ignore[arg-type]


class Cutting(unittest.TestCase):
    """A single piece."""

    def test_offset_constants(self) -> None:
        """Travel and advance for an offset of one: 1.414 and 1, 2.613 and 2.414, 1.155 and 0.577, 1 and 0 (common
        practice).
        """
        for angle, travel, advance in ((45, 1.4142, 1.0), (22.5, 2.6131, 2.4142), (60, 1.1547, 0.5774), (90, 1.0, 0.0)):
            found = cut_one(CutQuestion("pvc40", "1", rise=1.0, angle=radians(angle)))
            self.assertAlmostEqual(found.centres, travel, places=4)
            self.assertAlmostEqual(found.advance or 0.0, advance, places=4)

    def test_rolling_offset(self) -> None:
        """10 in up and 8 in aside is 12.806 in true offset and 18.11 in of travel at 45°, rolled 38.7° (common
        practice).
        """
        found = cut_one(CutQuestion("pvc40", "1", rise=10 * INCH, roll=8 * INCH, a=SLANT, b=SLANT))
        self.assertAlmostEqual(found.centres / INCH, 18.111, places=3)
        self.assertAlmostEqual((found.turned or 0.0) * 180 / pi, 38.66, places=2)
        self.assertAlmostEqual(found.length, found.centres - 2 * fitting("pvc-elbow-45-1").ports[0].stop)

    @settings(max_examples=50)
    @given(st.floats(0.2, 20.0))
    def test_three_ways_to_measure_agree(self, distance: float) -> None:
        """The same piece measured between centres, between faces and between stops is cut to one length."""
        centres = cut_one(cut(distance))
        depth = centres.a.depth + centres.b.depth
        faces = cut_one(cut(centres.length - depth, measured="faces"))
        stops = cut_one(cut(centres.length, measured="stops"))
        for other in (faces, stops):
            self.assertAlmostEqual(other.length, centres.length)
            self.assertAlmostEqual(other.centres, distance)
        self.assertAlmostEqual(sum(x for _, x in centres.sum), centres.length)

    def test_as_in_a_whole_plan(self) -> None:
        """Between two square corners a plan cuts the very length that the bench does."""
        spots = [
            point("A", 0, 0, "tank", water_level=20.0),
            point("B", 4, 0, "bend"),
            point("C", 4, 3.3, "bend"),
            point("D", 9, 3.3, "tap", height=0.0),
        ]
        plan = make_plan(spots, [("A", "B"), ("B", "C"), ("C", "D")], runs_more=[{"series": "pvc40", "size": "1"}] * 3)
        mine = next(p for p in derive(plan).cuts.pieces if p.runs == ("R2",))
        alone = cut_one(CutQuestion("pvc40", "1", 3.3, a=ELBOW, b=ELBOW))
        self.assertAlmostEqual(mine.length, alone.length)
        self.assertAlmostEqual(mine.dry, alone.dry)
        drain = next(t for t in takers("dwv40", "2") if t.family == "elbow")
        self.assertEqual(cut_one(CutQuestion("dwv40", "2", 1.0, a=EndOn(drain.fitting, drain.port))).dry, 0.0)

    def test_the_crews_own_measure_wins(self) -> None:
        """A fitting measured longer than the catalogue has it leaves a shorter piece, by just that much."""
        usual = cut_one(cut())
        own = cut_one(cut(a=EndOn("pvc-elbow-90-1", 0, 0.031)))
        self.assertAlmostEqual(usual.length - own.length, 0.031 - usual.a.stop)

    def test_open_ends(self) -> None:
        """Nothing on its ends: the piece is as long as it was measured, and nothing stands out dry."""
        found = cut_one(CutQuestion("pvc40", "1", 2.0))
        self.assertEqual((found.length, found.dry, found.a.depth), (2.0, 0.0, 0.0))

    def test_no_room(self) -> None:
        """Fittings too near are told of: a piece shorter than its joints are deep, and fittings that overlap."""
        short = cut_one(cut(0.07))
        self.assertFalse(short.fits)
        self.assertIn("move the two apart", short.says)
        with self.assertRaisesRegex(HydrarchError, "overlap by 17 mm: move them apart"):
            cut_one(cut(0.02))

    def test_what_cannot_be(self) -> None:
        """A fitting of another pipe, a port there is not, an unknown fitting, elbows that hardly turn."""
        with self.assertRaisesRegex(HydrarchError, "takes no PVC 40 1 pipe there"):
            cut_one(cut(a=EndOn("ppr-elbow-90-20")))
        with self.assertRaises(OutOfRange):
            cut_one(cut(a=EndOn("pvc-elbow-90-1", 7)))
        with self.assertRaises(Unknown):
            cut_one(cut(a=EndOn("pvc-elbow-91-1")))
        with self.assertRaisesRegex(OutOfRange, "angle of the elbows"):
            CutQuestion("pvc40", "1", rise=0.2, angle=radians(3))

    def test_what_takes_a_pipe(self) -> None:
        """Every port offered for a pipe takes it; each gives a cut; a pipe no fitting of ours joins has none."""
        for series, size in (
            ("pvc40", "1"),
            ("pe-sidr7", "1"),
            ("ppr-s2.5", "25"),
            ("pe100-sdr11", "32"),
            ("galv40", "1"),
        ):
            found = takers(series, size)
            self.assertGreater(len(found), 5)
            self.assertEqual(len({(t.fitting, t.port) for t in found}), len(found))
            for t in found:
                piece = cut_one(CutQuestion(series, size, 5.0, a=EndOn(t.fitting, t.port)))
                self.assertAlmostEqual(piece.length, 5.0 - t.stop)
                self.assertEqual(piece.a.depth, t.depth)


class Waiting(unittest.TestCase):
    """One joint's waits."""

    def test_schools_side_by_side(self) -> None:
        """15 minutes for small warm pipe, a day, three days (common practice): each as it says, none under the
        table.
        """
        found = waits("solvent weld", "1", 295.0, 0.5, 100 * PSI)
        tests = {s.option: s.test for s in found.schools}
        self.assertEqual((tests["quick"], tests["day"], tests["long"]), (900.0, 86400.0, 259200.0))
        self.assertTrue(all(s.test >= tests["table"] - 1e-9 for s in found.schools))
        self.assertEqual([s.option for s in found.schools if s.usual], ["table"])
        self.assertEqual(found.hold, 30.0)

    def test_the_table_is_a_floor(self) -> None:
        """A large cold damp joint: the quick school is overruled by the table, and told so."""
        found = {s.option: s for s in waits("solvent weld", "4", 275.0, 0.8, 200 * PSI).schools}
        self.assertTrue(found["quick"].floored)
        self.assertEqual(found["quick"].test, found["table"].test)
        self.assertGreater(found["table"].test, 2 * 3600)

    @settings(max_examples=40)
    @given(st.sampled_from(["1/2", "1", "2", "4"]), st.floats(260.0, 310.0), st.floats(0.0, 1.0), st.floats(1e5, 2.5e6))
    def test_colder_damper_harder_is_no_sooner(self, size: str, warmth: float, damp: float, pressure: float) -> None:
        """Cold, damp and a higher test never shorten any school's wait; filling never comes after testing."""
        usual = waits("solvent weld", size, warmth, damp, pressure).schools
        for worse in (
            waits("solvent weld", size, max(warmth - 10, 256.0), damp, pressure),
            waits("solvent weld", size, warmth, 1.0, pressure),
            waits("solvent weld", size, warmth, damp, 2.5e6),
        ):
            for a, b in zip(usual, worse.schools, strict=True):
                self.assertGreaterEqual(b.test, a.test - 1e-9)
        self.assertTrue(all(s.fill <= s.test for s in usual))

    def test_fusion_and_what_needs_no_wait(self) -> None:
        """A fused joint is held, cools, and waits an hour for its test; every other joint says what there is to wait
        for.
        """
        fused = waits("socket fusion", "25", COOL, 0.5, 1e6)
        self.assertEqual((fused.hold, fused.set, fused.schools[0].test), (10.0, 120.0, 3600.0))
        self.assertEqual(fused.cautions[-1].code, "iron")
        at_once = [how for how, sizes in waiting_methods().items() if not sizes]
        self.assertEqual(set(at_once), set(methods()) - {"solvent weld", "socket fusion"})
        for how in at_once:
            found = waits(how, "", COOL, 0.5, 1e6)
            self.assertEqual([s.test for s in found.schools], [0.0])
            self.assertTrue(found.says, how)
        for how in ("solvent weld", "socket fusion"):
            for size in waiting_methods()[how]:
                self.assertGreater(waits(how, size, COOL, 0.5, 1e6).set, 0)

    def test_what_cannot_be(self) -> None:
        """A method nobody knows, a size no table has, a cold no cement sets in."""
        for how, size, error in (("glue gun", "1", Unknown), ("socket fusion", "200", Unknown)):
            with self.assertRaises(error):
                waits(how, size, COOL, 0.5, 1e6)
        with self.assertRaises(OutOfRange):
            waits("solvent weld", "1", 230.0, 0.5, 1e6)

    def test_a_foot_is_a_foot(self) -> None:
        """What is said of a cut is in the crew's units."""
        with self.assertRaisesRegex(HydrarchError, "overlap by 5/8 in"):
            cut_one(cut(0.02, units="us"))
        self.assertAlmostEqual(cut_one(cut(10 * FOOT)).centres, 3.048)
