"""What is told, as data: every message is raised with the values it names, and reads well in both systems of units."""

import ast
import re
import unittest
from collections.abc import Iterator
from pathlib import Path

from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.messages import Case, Message, messages, tell
from hydrarch.core.base.problems import declared
from hydrarch.core.base.quantities import QUANTITIES
from hydrarch.core.base.units import SYSTEMS

CORE = Path(__file__).resolve().parents[2] / "hydrarch"
USUAL: dict[str, float] = {
    "length": 23.4,
    "level": 1.23,
    "invert": 1.234,
    "hours": 7200.0,
    "depth": 0.45,
    "cut": 0.457,
    "diameter": 0.0168,
    "takeoff": 0.024,
    "flow": 8e-4,
    "air": 0.01,
    "area": 4.5,
    "emitter": 5e-7,
    "pressure": 3.2e5,
    "head": 2.4,
    "velocity": 1.9,
    "rain": 4e-6,
    "temperature": 310.0,
    "temperature change": 4.0,
    "volume": 0.35,
    "mass": 240.0,
    "humidity": 0.6,
    "well depth": 42.0,
    "power": 400.0,
    "voltage": 21.5,
    "time": 900.0,
    "seconds": 42.0,
}
"""A usual value (SI) of each quantity."""
WORDS: dict[str, str] = {
    "load": "wheels and ",
    "a": "Tap 2",
    "b": "Valve 1",
    "how": "in 2 s",
    "way": "Use a larger pipe.",
    "when": "With the other one blocked.",
    "spread": "They are apart by a tenth.",
    "who": "3 jets get",
    "reach": "less than 0.90 m apart",
    "shut": "",
    "comes": "",
    "caution": "",
    "many": "",
    "use": "pond",
    "side": "suction",
    "runs": "1 run",
    "instead": "Choose another part there.",
    "choice": "The way chosen for the pipe",
    "part": "Elbow 1/2",
    "towards": "Tap 2",
    "end": "a 1/2 in NPT socket",
    "method": "thread",
    "need": "a wrench to swing",
    "body": "Union 1 in",
    "what": "size",
    "lying": "at ground level",
    "why": "It lifts 1.2 L/s.",
    "fault": "it has no size",
    "error": "at Tap 2 the flow has no end",
    "slow": "Close valves over 2.5 s or more",
    "pipe": "PVC 40",
    "halved": "",
    "more": "",
}
"""Usual words by the name of a value; the name of a thing where it is not here."""
NUMBERS = {
    "oval": 0.11,
    "tamped": 0.03,
    "count": 12_000,
    "years": 3,
    "months": 2,
    "full": 0.84,
    "share": 0.61,
    "short": 0.22,
    "often": 31.0,
    "allowed": 15.0,
    "number": 7,
    "stations": 6,
    "eu": 0.78,
    "apart": 0.31,
    "times": 2.4,
    "volts": 18.4,
    "least": 20.0,
    "run": 24.0,
    "rounds": 10,
    "through": 12.0,
    "aside": 70.0,
    "turn": 45.0,
    "off": 8.0,
}
RULED_OUT = re.compile(
    r"\b(?:asks for|reckon\w*|whilst|hence|thereof|nought|oughtn't|shall|upon|of ours|is told|so much as)\b",
    re.IGNORECASE,
)
"""Words that are not a crew's."""


def values(message: Message) -> dict[str, str | float]:
    """Usual values of all that a message names."""
    return {
        name: USUAL[kind] if kind in QUANTITIES else NUMBERS[name] if name in NUMBERS else WORDS.get(name, "Tap 2")
        for name, kind in message.fields.items()
    }


def raised() -> Iterator[tuple[str, set[str], str]]:
    """Every key that code raises, the values it gives, and where."""
    for file in CORE.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text("utf-8"))):
            called = getattr(node.func, "id", getattr(node.func, "attr", "")) if isinstance(node, ast.Call) else ""
            if isinstance(node, ast.Call) and called in ("tell", "problem") and node.args:
                given = {k.arg or "" for k in node.keywords} - {"scenario"} | (
                    {"place"} if called == "problem" else set()
                )
                for key in ast.walk(node.args[0]):
                    if isinstance(key, ast.Constant) and isinstance(key.value, str) and key.value in messages():
                        yield key.value, given, f"{file.relative_to(CORE)}:{node.lineno}"


class Messages(unittest.TestCase):
    """The files, against the code and against a reader."""

    def test_raised_with_what_they_name(self) -> None:
        """Each message is raised somewhere, and wherever it is, with all values that it names."""
        for key, given, where in raised():
            with self.subTest(key=key, where=where):
                self.assertLessEqual(messages()[key].fields.keys(), given)
        written = {
            node.value
            for file in CORE.rglob("*.py")
            for node in ast.walk(ast.parse(file.read_text("utf-8")))
            if isinstance(node, ast.Constant) and isinstance(node.value, str)
        }
        self.assertEqual(messages().keys() - written, set())

    def test_each_has_its_stage(self) -> None:
        """The code of each is one that a room declared."""
        self.assertEqual({m.code for m in messages().values()} - declared().keys(), set())

    def test_read_well(self) -> None:
        """At usual values: a short title without a full stop, short details, an action; no word left in braces."""
        for message in messages().values():
            for units in SYSTEMS:
                told = tell(message.key, "P1", units, scenario=None, **values(message))
                with self.subTest(key=message.key, units=units):
                    self.assertLessEqual(len(told.title), 72, told.title)
                    self.assertLessEqual(len(told.detail), 160, told.detail)
                    self.assertRegex(told.title, r"[^.!]$")
                    self.assertTrue(not told.detail or told.detail.endswith("."), told.detail)
                    self.assertRegex(told.mend, r"^[A-Z].*[.)]$")
                    self.assertNotRegex(f"{told.says} {told.mend}", r"[{}]|  |\.\.|None|\bnan\b")
                    self.assertNotRegex(f"{told.says} {told.mend}", RULED_OUT)

    def test_most_titles_are_short(self) -> None:
        """Of all titles nine in ten have sixty letters or fewer."""
        long = [
            m.key for m in messages().values() if len(tell(m.key, "", "metric", scenario=None, **values(m)).title) > 60
        ]
        self.assertLessEqual(len(long), len(messages()) // 10, long)


class Telling(unittest.TestCase):
    """One message with its values."""

    def test_two_figures_are_told_apart(self) -> None:
        """A speed just over its limit is never told as equal to it."""
        found = tell("too-fast", "r1", speed=1.5246, limit=1.524, a="A", b="B", way="Use a larger pipe.")
        self.assertEqual(found.title, "1.525 m/s from A to B; limit 1.524 m/s")
        self.assertEqual(found.mend, "Use a larger pipe.")

    def test_the_scenario_is_named(self) -> None:
        """What is so in one scenario says in which, and keeps its id."""
        found = tell("no-pressure", "t", scenario=Case("s1", "Two taps"), outlet="Tap 2")
        self.assertEqual((found.title, found.scenario), ("Two taps: no water reaches Tap 2", "s1"))
        self.assertEqual(found.says, "Two taps: no water reaches Tap 2. The source cannot feed it.")

    def test_the_way_it_is_told_is_not_its_code(self) -> None:
        """Ways of one problem share its code."""
        found = tell("priming/tank", "p", "us", pump="Pump 1", above=1.2)
        self.assertEqual((found.code, found.severity), ("priming", "note"))
        self.assertIn("3.9 ft", found.title)

    def test_an_unknown_one_is_refused(self) -> None:
        """A key that is in no file is an error that names it."""
        with self.assertRaises(Unknown):
            tell("no-such-message", "")


if __name__ == "__main__":
    unittest.main()
