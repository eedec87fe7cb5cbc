"""What a component type says of itself is asked by trait, in core and page alike."""

import re
import unittest
from pathlib import Path
from typing import get_args

from hydrarch.api.reference import reference
from hydrarch.core.components.base import Trait, kinds
from hydrarch.core.components.outlets import DRIPPING, IRRIGATING
from hydrarch.core.coverage.zoning import waters
from tests.core.plans import draw, point

WEB = Path(__file__).resolve().parents[2] / "web" / "src"


class Traits(unittest.TestCase):
    """Each trait, and who goes by it."""

    def test_what_waters_is_what_is_zoned(self) -> None:
        """Every type that waters ground says so; a job of bubblers alone has something to zone."""
        told = {k.model for k in kinds().values() if "waters" in k.traits}
        self.assertEqual(told, set(IRRIGATING))
        self.assertEqual({k.model for k in kinds().values() if "drips" in k.traits}, set(DRIPPING))
        plan = draw([point("M", 0, 0, "mains"), point("A", 9, 0, "bubbler")], [("M", "A")])
        self.assertEqual([p.id for p in waters(plan)], ["A"])

    def test_the_page_is_told(self) -> None:
        """The reference answer gives each type its traits, and each trait is one that some type has."""
        given = {k.kind: set(k.traits) for k in reference().kinds}
        self.assertIn("waters", given["bubbler"])
        self.assertEqual(set().union(*given.values()), set(get_args(Trait)))

    def test_the_page_has_no_table_of_types(self) -> None:
        """No module of the page lists component types by name."""
        names = "|".join(map(re.escape, kinds()))
        table = re.compile(rf"(?:new Set\(|= )\[\s*\"(?:{names})\"\s*,\s*\"(?:{names})\"")
        for file in (f for f in WEB.rglob("*.ts*") if f.name != "schema.d.ts"):
            self.assertIsNone(table.search(file.read_text("utf-8")), file.name)

    def test_no_type_is_known_by_name(self) -> None:
        """Nothing in the page asks whether a thing is of one type, but for the tee and the bend that it sets down."""
        asked = re.compile(r"\.what\.kind\s*[!=]==\s*\"")
        for file in (f for f in WEB.rglob("*.ts*") if f.name != "schema.d.ts"):
            self.assertIsNone(asked.search(file.read_text("utf-8")), file.name)

    def test_what_says_nothing_names_what_it_goes_by(self) -> None:
        """A field that tells only for some values of another names a field of its own type, and values that it has."""
        told = 0
        for kind in reference().kinds:
            fields = {f.name: f for f in kind.fields}
            for f in fields.values():
                for other, values in f.only.items():
                    told += 1
                    self.assertLessEqual(set(values), set(fields[other].choices), f"{kind.kind} {f.name}")
        self.assertGreater(told, 0)
