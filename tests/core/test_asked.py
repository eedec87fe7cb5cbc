"""Questions as crews type them, in both markets: each is answered, or asked back, and no word of it is dropped.

What each names and what comes first are common practice, read over row by row.
"""

import csv
import unittest
from pathlib import Path

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.markets import Market
from hydrarch.core.joining.answer import answer
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.question import read_question

_ROWS = list(csv.DictReader((Path(__file__).parents[1] / "cases" / "asked.csv").open(encoding="utf-8")))


def first(words: str) -> tuple[str, str, str, str, str]:
    """Kind, things, limits, what comes first and the words ignored."""
    question = read_question(words)
    found = answer(question, Constraints())
    things = " | ".join(t.end or f"{t.series} {t.size}" for t in found.things)
    if found.kind == "branch":
        best = found.branches[0].says if found.branches else found.says
    else:
        parts = found.ways[0].parts if found.ways else ()
        best = " + ".join(p.name for p in parts[1:-1] or parts[1:]) or found.says
    return found.kind, things, " ".join(found.heard.limits), best, " ".join(found.heard.ignored)


class Asked(unittest.TestCase):
    """The list of questions, and what its answers carry beside the parts."""

    def test_each_is_answered_or_asked_back(self) -> None:
        """By kind, things, limits, the way that comes first, and the words nothing was read from."""
        for row in _ROWS:
            with self.subTest(row["question"]):
                wanted = (row["kind"], row["things"], row["limits"], row["first"], row["ignored"])
                if row["kind"] == "ask":
                    with self.assertRaises(HydrarchError) as caught:
                        first(row["question"])
                    self.assertTrue(str(caught.exception).startswith(row["first"]), str(caught.exception))
                else:
                    self.assertEqual(first(row["question"]), wanted)
        self.assertGreaterEqual(len(_ROWS), 150)

    def test_a_thread_that_is_not_named(self) -> None:
        """It is the market's, and told as read so; where both are sold it is asked back. One that is named stays."""
        with self.assertRaises(HydrarchError):
            read_question("25 mm PE to 3/4 female thread")
        shops: tuple[tuple[Market, str], ...] = (("north-american", "npt"), ("elsewhere", "bsp"))
        for shop, thread in shops:
            asked = read_question("25 mm PE to 3/4 female thread", shop)
            self.assertEqual(asked.things[1].end, f"{thread}:female:3/4")
            self.assertEqual(asked.heard.corrected, (("female thread", f"{thread} female"),))
            self.assertEqual(read_question("1 in pvc to 3/4 npt female", shop).heard.corrected, ())
            pump = read_question("1-1/2 pump union male to 1-1/2 pvc", shop)
            self.assertEqual(pump.things[0].end, "buttress:male:1-1/2")
        first = answer(read_question("25 mm PE to 3/4 female thread", "elsewhere"), Constraints(market="elsewhere"))
        self.assertEqual([p.name for p in first.ways[0].parts][1:-1], ["Compression adapter 25 × 3/4 BSP male"])

    def test_what_belongs_is_named(self) -> None:
        """Clamps, liners, washers and gaskets, and what stands before drip tubing; common practice."""
        for words, what in (
            ("1 in poly to 1 in npt female", "2 × worm-drive clamp"),
            ("25 mm pe to 3/4 bsp female", "liner for PE100 SDR11 25"),
            ("3/4 npt female to 3/4 hose male", "washer"),
            ("1 in pvc to tank wall 1 in", "gasket under the flange on the wet side"),
        ):
            with self.subTest(words):
                way = answer(read_question(words), Constraints()).ways[0]
                self.assertTrue(any(what in b for b in way.belongs), way.belongs)
        head = answer(read_question("hose tap 3/4 to .620 drip"), Constraints()).advice
        for part in ("backflow preventer", "filter", "pressure regulator"):
            self.assertIn(part, head)

    def test_a_branch_keeps_its_limits(self) -> None:
        """No glue, a pressure and a line that cannot move hold for a branch as for a joint."""
        dry = answer(read_question("branch 3/4 off a 1 in pvc line, no glue"), Constraints())
        self.assertTrue(dry.branches and all(not b.cuts_line for b in dry.branches))
        held = answer(read_question("branch 3/4 off a 1 in pvc line that cannot move"), Constraints())
        self.assertFalse(held.branches[0].cuts_line)
        self.assertTrue(all("slip" in b.why for b in held.branches if b.cuts_line))
        strong = answer(read_question("branch 3/4 off a 1 in pvc line at 400 psi"), Constraints())
        self.assertNotIn("Saddle", " ".join(b.says for b in strong.branches))

    def test_a_word_read_as_another_is_told(self) -> None:
        """A misspelling is reported with what it was read as; a proper word is never read as another."""
        self.assertEqual(read_question("1 in galvinized to 1 in pvc").heard.corrected, (("galvinized", "galvanized"),))
        for row in _ROWS:
            if row["kind"] != "ask":
                for was, read in read_question(row["question"]).heard.corrected:
                    self.assertNotEqual(was.rstrip("s"), read.rstrip("s"))
        self.assertEqual(read_question("1 in brass pvc to 1 in poly").heard.ignored, ("brass",))


if __name__ == "__main__":
    unittest.main()
