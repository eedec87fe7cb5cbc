"""Sizes and things as people write them: each is read right or asked back, and never silently as another size."""

import unittest

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.joining.question import read_question
from hydrarch.core.joining.spoken import read_size

READ = {
    "1 1/2 in pvc": ("pvc40", "1-1/2"),
    "1½ in pvc": ("pvc40", "1-1/2"),
    "1.5 pvc": ("pvc40", "1-1/2"),
    '1-1/2" pvc': ("pvc40", "1-1/2"),
    "2.5 in pvc": ("pvc40", "2-1/2"),
    "1.25 sch 40": ("pvc40", "1-1/4"),
    "¾ in sch 40": ("pvc40", "3/4"),
    "0.75 in sch 80": ("pvc80", "3/4"),
    "40 mm pe100": ("pe100-sdr11", "40"),
    "25 mm PE": ("pe100-sdr11", "25"),
    "50 mm pvc": ("pvc-metric", "50"),
    "schedule 40 pvc 2 in": ("pvc40", "2"),
    ".620 drip": ("drip-620", "1/2"),
    "16 mm drip": ("drip-535", "1/2"),
    "0.600 drip tubing": ("drip-600", "1/2"),
    "1/4 drip": ("drip-170", "1/4"),
    "sidr 15 1 in": ("pe-sidr15", "1"),
    "1 in sdr 11 poly": ("pe-dr11", "1"),
    "32 mm sdr 11 poly": ("pe100-sdr11", "32"),
    "4 in sdr 35": ("sewer-sdr35", "4"),
    "4 in thin-wall": ("sewer-thin", "4"),
    "1 in thin-wall": ("pvc-sdr21", "1"),
    "3/4 galvanized sch 40": ("galv40", "3/4"),
    "3/4 copper-size pe": ("pe-cts9", "3/4"),
    "lead 1/2": ("lead", "1/2"),
    "4 in cast iron": ("cast-iron", "4"),
    "1 in class 200": ("pvc-sdr21", "1"),
    "20 mm ppr": ("ppr-s2.5", "20"),
}
"""What is written, and what it is: common practice."""
ENDS = {
    "hose tap 3/4": "hose:male:3/4",
    "3/4 hose female": "hose:female:3/4",
    "3/4 npt male": "npt:male:3/4",
    "pump union male 1-1/2": "buttress:male:1-1/2",
    "1 1/2 npt female": "npt:female:1-1/2",
}
ASKED = {
    "1/2 drip": "is one of 4 tubings, by its bore .520, .600, .620, .535 in",
    "-1 pvc": "a size must be above zero",
    "3/4 hose": "male, as a tap's spout",
    "3/4 pex": "outside is that of copper tube",
    "cap": "to close a line, ask",
    "1-1/2 trap": "what the trap ends in",
    "40 mm": "names no pipe",
    "1.3 in pvc": "no size that pipe is called by",
    "pvc": "names no size",
    "2 x 2 pvc": "write the one size",
    "1 in pe100": "is not made in 1",
    "25 in poly": "is not made in 25 in",
    "3/4 npt": "male or female",
    ".610 drip": "measure it once more",
}


class Words(unittest.TestCase):
    """Each side of a question."""

    def test_read_right(self) -> None:
        """Fractions, decimals, marks, grades and millimetres, in whatever order."""
        for words, (series, size) in READ.items():
            with self.subTest(words=words):
                thing = read_question(f"{words} to 1 in pvc").things[0]
                self.assertEqual((thing.series, thing.size), (series, size))

    def test_ends(self) -> None:
        """Threads with their gender; a hose tap's spout is male."""
        for words, end in ENDS.items():
            self.assertEqual(read_question(f"1 in pvc to {words}").things[1].end, end, words)

    def test_asked_back(self) -> None:
        """What may be two things, or is none of ours, is asked back with how to say it."""
        for words, says in ASKED.items():
            with self.subTest(words=words), self.assertRaises(HydrarchError) as caught:
                read_question(f"{words} to 1 in pvc")
            self.assertIn(says, str(caught.exception))

    def test_every_size_is_read_as_itself(self) -> None:
        """Sixteenths written as a decimal, with a space or with a hyphen are one size."""
        for whole in range(4):
            for sixteenth in range(1, 16):
                decimal = read_size(f"{whole + sixteenth / 16} in")[0]
                spaced = read_size(f"{decimal.replace('-', ' ')} in")[0]
                self.assertEqual(spaced, decimal)


HEARD = {
    "1 in sch 40 to 3/4 npt male, no glue": "no_solvent",
    "1 in pvc to 1 in poly without solvent": "no_solvent",
    "20 mm ppr to 20 mm ppr no heat": "no_hot_work",
    "1 in sch 40 pipe to 1 in poly, must come apart": "serviceable",
    "1 in sch 40 to 1 in sch 40 with union": "union",
    "1 in pvc to 1 in pvc with a valve": "valve",
    "3/4 in cts poly to 3/4 in npt female for drinking water": "potable",
    "1 in pvc to 1 in pvc, neither end moves": "fixed",
    "1 in pvc to 1 in pvc that cannot be moved": "fixed",
    "1 in pvc to 1 in poly, buried": "buried",
}
"""Conditions as crews say them, and the limit each sets: common practice."""


class Conditions(unittest.TestCase):
    """No word of a question is dropped: it sets a limit, or it is told that nothing was read from it."""

    def test_each_sets_its_limit(self) -> None:
        """And no other, with both things read as without it, and nothing left over."""
        for words, limit in HEARD.items():
            with self.subTest(words):
                heard = read_question(words).heard
                self.assertEqual((heard.limits, heard.ignored), ((limit,), ()))

    def test_pressure_and_warmth(self) -> None:
        """200 psi is no size, and 60 °C no grade; hot water of no degree is asked back; "3/4 f" is no temperature."""
        heard = read_question("1 in sch 40 to 1 in poly at 200 psi").heard
        self.assertAlmostEqual(heard.pressure or 0.0, 200 * 6894.757, delta=1)
        for words in ("1 in sch 40 to 1 in sch 80 at 60 C", "1 in sch 40 to 1 in sch 80, 140 °F"):
            self.assertAlmostEqual(read_question(words).heard.temperature or 0.0, 333.15, delta=0.01)
        with self.assertRaisesRegex(HydrarchError, "say how hot"):
            read_question("1 in sch 40 to 1 in sch 80 for hot water")
        self.assertIsNone(read_question("3/4 npt female to 1 in sch 40").heard.temperature)

    def test_what_means_nothing_is_told(self) -> None:
        """Words that nothing is read from are named, each once, in their order."""
        heard = read_question("1 in blue sch 40 to 1 in stretchy blue poly").heard
        self.assertEqual(heard.ignored, ("blue", "stretchy"))

    def test_copper_size_is_not_inside_diameter(self) -> None:
        """CTS poly is polyethylene on the outside of copper tube, not SIDR 7; threaded is a thread on that pipe."""
        self.assertEqual(read_question("1 in cts poly to 1 in sch 40").things[0].series, "pe-cts9")
        self.assertEqual(read_question("1 in pvc sch 80 threaded to 1 in npt female").things[0].end, "npt:male:1")

    def test_what_is_not_asked_sets_no_limit(self) -> None:
        """No valve, not buried, need not come apart: understood, and the opposite is not taken; one fixed end is not
        two, and what is held at a pressure is no held end. Zero and two pressures are asked back.
        """
        for words in (
            "no valve",
            "without a valve between",
            "no union",
            "not buried",
            "not for drinking water",
            "does not have to come apart",
            "it need not come apart",
            "not fixed",
        ):
            with self.subTest(words):
                heard = read_question(f"1 in pvc to 1 in poly, {words}").heard
                self.assertEqual((heard.limits, heard.ignored), ((), ()))
        for words in ("but not with glue", "don't use glue", "no cement"):
            self.assertEqual(read_question(f"1 in pvc to 1 in poly, {words}").heard.limits, ("no_solvent",))
        for words in ("one end fixed", "held at 5 bar"):
            self.assertEqual(read_question(f"1 in pvc to 1 in poly, {words}").heard.limits, ())
        both = read_question("1 in pvc to 1 in pvc with a union and a valve").heard
        self.assertEqual(set(both.limits), {"union", "valve"})
        for words, asks in (("at 0 psi", "above zero"), ("at 60 psi, 100 psi", "say one pressure")):
            with self.assertRaisesRegex(HydrarchError, asks):
                read_question(f"1 in pvc to 1 in poly {words}")

    def test_every_condition_at_once(self) -> None:
        """All of them in one question are read, whatever their order."""
        told = ["no glue", "no heat", "neither end moves", "with a valve", "must come apart", "at 6 bar"]
        for turned in (told, told[::-1]):
            heard = read_question("1 in pvc to 1 in poly, " + ", ".join(turned)).heard
            self.assertEqual(set(heard.limits), {"no_solvent", "no_hot_work", "fixed", "valve", "serviceable"}, heard)
            self.assertEqual((heard.pressure, heard.ignored), (6e5, ()))


if __name__ == "__main__":
    unittest.main()
