"""No text of the product assures anyone of what the core cannot show: each such phrase is listed with the test that
earns it.
"""

import ast
import importlib
import re
import unittest
from collections.abc import Iterator
from pathlib import Path

from hydrarch.core.base.messages import messages

ROOT = Path(__file__).resolve().parents[2]
WORDS = re.compile(
    r"\b(prove[ds]?|tested|cured|safe(?:ly)?|holds|nothing (?:is )?left|tight|cheapest|enough|complete|no leaks?|ready|"
    r"matches|sound|unfinished)\b",
    re.I,
)

EARNED = {
    "not tested": "tests.core.test_diagnosis.Honest.test_joints_nobody_proved_are_suspected",
    "mended, not tested since": "tests.core.test_proof.Proof.test_a_leak_takes_the_proof_away_until_it_is_mended_and_tested",
    "Unfinished, by section": "tests.core.test_proof.HandedOver.test_all_done_is_said_with_its_figure",
    ": no unfinished work": "tests.core.test_proof.HandedOver.test_all_done_is_said_with_its_figure",
    "Your drawing is safe.": "tests.store.test_store.Killed.test_every_acknowledged_edit_survives_a_kill",
    "Your job is safe as last saved": "tests.store.test_store.Killed.test_every_acknowledged_edit_survives_a_kill",
    "the straightest and cheapest of those": "tests.core.test_master_joints.JoinThis.test_pvc_to_itself",
    "it holds, and the bead costs flow for ever": "tests.core.test_tightness.Making.test_verdicts",
    "buried but not tested": "tests.core.test_making_and_proving.States.test_buried_without_proof_stays_unproved",
    "made but not tested": "tests.core.test_proof.HandedOver.test_each_apart",
    "made with no leak seen in use": "tests.core.test_proof.HandedOver.test_each_apart",
    "made and tested": "tests.core.test_proof.HandedOver.test_all_done_is_said_with_its_figure",
    " of them tested": "tests.core.test_proof.HandedOver.test_all_done_is_said_with_its_figure",
    "every joint is made and cured": "tests.core.test_making_and_proving.States.test_from_planned_to_buried",
    " not made and cured then": "tests.core.test_proof.Proof.test_what_falls_short_proves_nothing",
    "it holds what exists already": "tests.core.test_existing.Met.test_nobody_vouches_for_it",
    "tight: what it fell is within what was allowed": "tests.core.test_tightness.Judging.test_no_verdict_on_too_little",
    "read once more before you call it tight": "tests.core.test_tightness.Judging.test_stretch_is_not_a_leak",
    "the cheapest that keeps the velocity limit": "tests.core.test_least_cost.ThreeWays.test_a_tree_is_proved",
    "proved: no sizes cost less, whichever way": "tests.core.test_least_cost.ThreeWays.test_a_loop_tells_what_is_proved",
    "the cheapest found with every size tried for ": "tests.core.test_least_cost.ThreeWays.test_a_loop_tells_what_is_proved",
    " that close a loop; not proved": "tests.core.test_least_cost.ThreeWays.test_a_loop_tells_what_is_proved",
    "the cheapest sizes for ": "tests.core.test_least_cost.Exact.test_nothing_cheaper_exists",
    "the cheapest where each row of emitters passes": "tests.core.test_rows_of_emitters.Along.test_the_cheapest_by_hand",
    "how far sizes of a loop may be from the cheapest": "tests.core.test_least_cost.Loops.test_nothing_cheaper_works",
    "proved over all scenarios together": "tests.core.test_least_cost.ThreeWays.test_two_scenarios_go_to_the_programme",
    "proved: no cheaper sizes leave every outlet": "tests.core.test_least_cost.Exact.test_nothing_cheaper_exists",
    "not proved: at most ": "tests.core.test_least_cost.Loops.test_nothing_cheaper_works",
    "no size of this series holds: ": "tests.core.test_master_sums.HowBig.test_no_pick_that_cannot_reach",
    "the smallest that holds": "tests.core.test_foresight.Foreseen.test_holds_and_none_may_be_smaller",
    "a smaller one holds, but not with the fittings it needs": "tests.core.test_foresight.Foreseen.test_holds_and_none_may_be_smaller",
    ": the cheapest a year of those that stand every limit": "tests.core.test_wells.Hangs.test_ranking",
    " enough pressure. ": "tests.core.test_saying.OneLine.test_short_is_said_first",
    "each large enough for its flow": "tests.core.test_drains.Drains.test_no_fall_and_too_little",
    "the smallest made is enough": "tests.core.test_foresight.Foreseen.test_holds_and_none_may_be_smaller",
    " made is enough": "tests.core.test_sizing.Selection.test_smallest_made_is_enough",
    " so that the driest twentieth has enough": "tests.core.test_coverage.Measures.test_even_water_is_even",
    " between them is enough), or use a wider pit": "tests.core.test_silence.Starts.test_floats_too_close",
    "Joint has cured: ": "tests.core.test_making_and_proving.States.test_from_planned_to_buried",
    "it holds.": "tests.core.test_rounds.RunsBack.test_it_holds_where_it_does",
    "made, not tested": "tests.core.test_making_and_proving.Spoken.test_no_more_than_the_record_shows",
    "made, no leak seen in use": "tests.core.test_making_and_proving.Spoken.test_no_more_than_the_record_shows",
    "tested and buried": "tests.core.test_making_and_proving.Spoken.test_no_more_than_the_record_shows",
    "buried, not tested": "tests.core.test_making_and_proving.Spoken.test_no_more_than_the_record_shows",
}
"""Phrases of the core, the formats and the API, each with the test that shows it is only said where it is so."""
PLAIN = {
    "tested or seen dry",
    "air is tested apart",
    "it is to be tested at",
    "in the ground its walls and joints may take up what is told here",
    "(?:when|how long)",
    "Have {} tested",
    "A text holds half of a letter.",
    "make and prove",
    " holds what ",
    "a tight one never goes home",
    "it screws on and holds for a while",
    "it holds more than one number; ",
    "it holds no hours",
    " holds no water: level ",
    "Valves between them are not enough",
    "Use nozzles whose flow matches their arc",
    "Not ready",
    "here it is not even enough",
    "Cut back to sound, round pipe",
    "cut back to sound pipe",
    "Free one of them far enough to spring it aside",
    "and their O-rings, sound, and what it lifts",
}
"""Where such a word assures nobody."""
PAGE_PLAIN = {
    "It will be tested at",
    "not tested",
    "Unfinished work",
    "What is tested to",
    "one reading is enough to begin",
    "material, age, how sound",
    "washer in, hand tight, no tape",
    "ring in its groove, hand tight",
    "Simulated gauge, tight",
    "too tight",
    "no longer matches",
}
"""Where such a word on the page assures nobody, or names a stand-in."""
PAGE = {
    ": ready in ${wait(from - now)}": "state.pressurise.open",
    ", tested ${clockTime(joint.proved_at)}": "joint.proved_at",
    "Tested: look at what it did not reach": "state.unseen",
    "No joint of this drawing is still to be made": "sets.length",
    "${counted.whole}: no unfinished work.": "counted.done && !lost.length",
    "Tested and buried": "state.proved",
    "Tested: may be buried": "state.proved",
    '"Passed"': "t.proves",
}
"""What the page says by itself, and the fact of the core it says it by, which stands in the same file."""


def said() -> Iterator[tuple[str, str]]:
    """Every text of the package with one of the words, but for documentation; with where it is."""
    for file in sorted((ROOT / "hydrarch").rglob("*.py")):
        tree = ast.parse(file.read_text("utf-8"))
        silent = {id(n.value) for n in ast.walk(tree) if isinstance(n, ast.Expr) and isinstance(n.value, ast.Constant)}
        for n in ast.walk(tree):
            if not isinstance(n, ast.Constant) or not isinstance(n.value, str) or id(n) in silent:
                continue
            if " " in n.value.strip() and WORDS.search(n.value):  # a word by itself is a name
                yield f"{file.name}:{n.lineno}", n.value
    for key, m in messages().items():
        for text in (m.title, m.detail, m.mend):
            if WORDS.search(text):
                yield f"message {key}", text


_TEXT = re.compile(r'"([^"]*)"|`([^`]*)`|>([^<>{}]+)<|^\s*([A-Z][^<>{}=;()]*)$')
_STYLE = re.compile(r"\b(?:text|leading|border|bg|font|max|min|size|tracking)-\S|\$\{[^}]*\?")


def shown() -> Iterator[tuple[str, str]]:
    """Every text of the page with one of the words, as far as one line of its code has it; with where it is."""
    for file in sorted((ROOT / "web" / "src").rglob("*.ts*")):
        if file.name == "schema.d.ts":
            continue
        for n, line in enumerate(file.read_text("utf-8").splitlines(), 1):
            code = re.sub(r"^\s*(?:\*|//|/\*).*|(?<!:)//.*|\{?/\*.*?\*/\}?", "", line)
            for found in _TEXT.finditer(code):
                text = next(g for g in found.groups() if g is not None).strip()
                if " " in text and WORDS.search(text) and not _STYLE.search(text):
                    yield f"{file.name}:{n}", text


class Assurance(unittest.TestCase):
    """The list is whole, and each test on it is there."""

    def test_every_phrase_is_earned(self) -> None:
        """A text that proves, cures or holds is on the list; nothing is on the list that is said no more."""
        used = set()
        for where, text in said():
            phrases = [p for p in (*EARNED, *PLAIN) if p in text]
            self.assertTrue(phrases, f"{where}: '{text}' assures: earn it by a test and list it, or say less")
            used |= set(phrases)
        self.assertEqual({*EARNED, *PLAIN} - used, set())

    def test_each_is_earned_by_a_test_that_is_there(self) -> None:
        """The tests named exist."""
        for phrase, name in EARNED.items():
            module, case, test = name.rsplit(".", 2)
            with self.subTest(phrase=phrase):
                self.assertTrue(
                    callable(getattr(getattr(importlib.import_module(module), case, None), test, None)), name
                )

    def test_every_phrase_of_the_page(self) -> None:
        """So of the page: a text with one of the words is on its list, or assures nobody."""
        used = set()
        listed = (*PAGE, *PAGE_PLAIN, *EARNED)
        for where, text in shown():
            phrases = [p for p in listed if p.strip('"') in text]
            self.assertTrue(phrases, f"{where}: '{text}' assures: show the fact it is said by and list it, or say less")
            used |= set(phrases)
        self.assertEqual(PAGE_PLAIN - used, set())

    def test_the_page_says_it_by_a_fact(self) -> None:
        """What the page says by itself stands beside the core's own fact."""
        texts = [f.read_text("utf-8") for f in (ROOT / "web" / "src").rglob("*.tsx")]
        for phrase, fact in PAGE.items():
            mine = [t for t in texts if phrase in t]
            self.assertTrue(mine and all(fact in t for t in mine), phrase)


if __name__ == "__main__":
    unittest.main()
