"""Labels on label paper: every thing once, by section, each with a code that another library reads."""

import unittest

import pypdfium2
import zxingcpp

from hydrarch.core.commissioning.sections import section_letter
from hydrarch.core.derivation.chain import derive
from hydrarch.demo import thistledown
from hydrarch.formats.labels import label_paper, label_sheets, labelled
from tests.core.plans import tree

NOW = 1.8e9
ADDRESS = "https://camp.example/job/a/survey"
FINE = 3.0
"""Pixels a point is drawn with to be read."""


class Labels(unittest.TestCase):
    """The sheets of a job."""

    def test_each_thing_once_by_section(self) -> None:
        """All but mere places of the line, with sections in their order."""
        plan = thistledown()
        found = labelled(plan, derive(plan).sections)
        self.assertEqual({p.id for _, p in found}, {p.id for p in plan.points if p.kind.role not in ("line", "mark")})
        self.assertEqual(len({p.id for _, p in found}), len(found))
        letters = [which for which, _ in found if which]
        self.assertEqual(letters, sorted(letters))

    def test_the_codes_are_read_by_another_library_where_the_labels_are(self) -> None:
        """On A4 and on letter, after five that are used up: each code opens its thing, and lies wholly within its own
        label, counted from the paper's edge.
        """
        for units in ("metric", "us"):
            plan = thistledown().model_copy(update={"units": units})
            sections, paper = derive(plan).sections, label_paper(plan)
            page = pypdfium2.PdfDocument(label_sheets(plan, sections, ADDRESS, NOW, used=5))[0]
            self.assertEqual(tuple(round(x) for x in page.get_size()), tuple(round(x) for x in paper.page))
            read = {c.text: c.position for c in zxingcpp.read_barcodes(page.render(scale=FINE).to_pil())}
            wanted = [f"{ADDRESS}?at={p.id}" for _, p in labelled(plan, sections)][: paper.on_a_page - 5]
            self.assertEqual(set(read), set(wanted))
            for n, text in enumerate(wanted, 5):
                left = paper.first[0] + n % paper.across * paper.step[0]
                top = paper.first[1] + n // paper.across * paper.step[1]
                corners = (read[text].top_left, read[text].bottom_right)
                for corner in corners:
                    self.assertTrue(0 <= corner.x / FINE - left <= paper.label[0], (units, text))
                    self.assertTrue(0 <= corner.y / FINE - top <= paper.label[1], (units, text))

    def test_many_go_on_further_sheets(self) -> None:
        """61 things on paper of 21: three sheets, four where two are used up, and the last is not lost."""
        plan = tree(59)
        sections = derive(plan).sections
        self.assertEqual(len(labelled(plan, sections)), 61)
        for used, sheets in ((0, 3), (2, 3), (3, 4)):
            self.assertEqual(len(pypdfium2.PdfDocument(label_sheets(plan, sections, ADDRESS, NOW, used))), sheets)

    def test_sections_past_the_alphabet(self) -> None:
        """The 27th section is AA, the 703rd AAA."""
        self.assertEqual(
            [section_letter(n) for n in (0, 25, 26, 51, 52, 701, 702)], ["A", "Z", "AA", "AZ", "BA", "ZZ", "AAA"]
        )


class Words(unittest.TestCase):
    """What stands beside a code."""

    def test_no_word_is_dropped(self) -> None:
        """A long name of a thing and of a job stand whole on both papers, as another library reads them."""
        long = "Isolating valve of the lower kitchen garden, north bed, behind the water butt"
        for units in ("metric", "us"):
            plan = thistledown().model_copy(
                update={"units": units, "name": "The long lane to the far paddock and back"}
            )
            spots = tuple(p.model_copy(update={"name": long}) if p.what.kind == "valve" else p for p in plan.points)
            plan = plan.model_copy(update={"points": spots})
            page = pypdfium2.PdfDocument(label_sheets(plan, derive(plan).sections, ADDRESS, NOW))[0]
            text = " ".join(page.get_textpage().get_text_range().split())
            self.assertEqual(text.count(long), 2, units)
            self.assertEqual(text.count(plan.name), len(labelled(plan, ())), units)
