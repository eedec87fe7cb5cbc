"""The check of prose finds what it is for, and reads what people read."""

import unittest
from pathlib import Path

from tests import prose


class Prose(unittest.TestCase):
    """Of texts given here, and of what it reads."""

    def told(self, says: str) -> list[str]:
        """What is wrong with a text."""
        return list(prose.wrong(prose.Text(Path("x"), 1, says)))

    def test_a_word_that_was_given_up(self) -> None:
        """In any case and among others; not within another word."""
        self.assertEqual(self.told("Done by HOUSE practice."), ['"house practice": write "crew standards"'])
        self.assertEqual(self.told("A greenhouse practiced upon."), [])
        self.assertEqual(self.told("Cut lengths, socket stop to socket stop."), [])

    def test_a_sentence_that_is_too_long(self) -> None:
        """One over the limit is reported; two that are each within it are not."""
        words = " ".join(["pipe"] * prose.LONGEST)
        self.assertEqual(self.told(f"{words}. {words}."), [])
        (fault,) = self.told(f"{words} pipe.")
        self.assertIn(f"{prose.LONGEST + 1} words", fault)

    def test_what_is_read(self) -> None:
        """Labels and texts of the page, all three parts of a message, sentences in Python but no docstrings, and data."""
        page = {t.says for t in prose.page()}
        self.assertIn("Choose several", page)
        self.assertIn("Draw by measure", page)
        messages = [t.says for t in prose.messages()]
        self.assertGreater(len(messages), 500)
        program = {t.says for t in prose.program()}
        self.assertIn("a size must be above zero", " ".join(program))
        self.assertNotIn("The check of prose finds what it is for", " ".join(program))
        self.assertGreater(len(list(prose.tables())), 1000)


if __name__ == "__main__":
    unittest.main()
