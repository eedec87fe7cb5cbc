"""Sizes and things as people write them: each is read right or asked back, and never silently as another size."""

import unittest

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.joining.spoken import read_size, read_things

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
    "-1 pvc": "a size is above nought",
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
                thing = read_things(f"{words} to 1 in pvc")[0]
                self.assertEqual((thing.series, thing.size), (series, size))

    def test_ends(self) -> None:
        """Threads with their gender; a hose tap's spout is male."""
        for words, end in ENDS.items():
            self.assertEqual(read_things(f"1 in pvc to {words}")[1].end, end, words)

    def test_asked_back(self) -> None:
        """What may be two things, or is none of ours, is asked back with how to say it."""
        for words, says in ASKED.items():
            with self.subTest(words=words), self.assertRaises(HydrarchError) as caught:
                read_things(f"{words} to 1 in pvc")
            self.assertIn(says, str(caught.exception))

    def test_every_size_is_read_as_itself(self) -> None:
        """Sixteenths written as a decimal, with a space or with a hyphen are one size."""
        for whole in range(4):
            for sixteenth in range(1, 16):
                decimal = read_size(f"{whole + sixteenth / 16} in")[0]
                spaced = read_size(f"{decimal.replace('-', ' ')} in")[0]
                self.assertEqual(spaced, decimal)


if __name__ == "__main__":
    unittest.main()
