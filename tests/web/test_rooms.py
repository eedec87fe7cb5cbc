"""The rooms of the page: imports point one way, from what is general to what is particular."""

import re
import unittest
from pathlib import Path

from hydrarch.core.catalogue.methods import methods

SRC = Path(__file__).resolve().parents[2] / "web" / "src"
ORDER = ["api", "ui", "job", "drawing", "ways", "model", "stages", "bench", "shop", "practice", "app"]
"""Each room may use those before it; stages and bench do not use each other."""


def imports(file: Path) -> list[Path]:
    """The files of ours a file imports."""
    found = re.findall(r'^(?:import|export)\b[^;]*?from "(\.[^"]+)"', file.read_text("utf-8"), re.M | re.S)
    return [(file.parent / f).resolve() for f in found]


class OneWay(unittest.TestCase):
    """What may import what."""

    def test_every_room(self) -> None:
        """No room uses a later one, and the two that stand side by side do not use each other."""
        seen = 0
        for file in sorted(SRC.rglob("*.ts*")):
            room = file.relative_to(SRC).parts[0]
            if room not in ORDER:
                continue
            for target in imports(file):
                other = target.relative_to(SRC).parts[0]
                seen += 1
                with self.subTest(file=str(file.relative_to(SRC)), uses=str(target.relative_to(SRC))):
                    self.assertLessEqual(ORDER.index(other), ORDER.index(room))
                    self.assertNotEqual({room, other}, {"stages", "bench"})
        self.assertGreater(seen, 300)

    def test_what_has_no_interface(self) -> None:
        """What is saved, undone, merged and sent knows no framework of the page, and nothing but `api/kept` touches the
        storage.
        """
        for name in ("api/outbox", "api/live", "job/sync", "job/undo", "job/merge", "job/edits", "job/kinds"):
            text = (SRC / f"{name}.ts").read_text("utf-8")
            self.assertNotRegex(text, r'from "(react|zustand|@tanstack)', name)
        for file in SRC.rglob("*.ts*"):
            if file != SRC / "api" / "kept.ts":
                self.assertNotIn("localStorage", file.read_text("utf-8"), file.name)

    def test_a_state_is_changed_from_what_it_is_by_then(self) -> None:
        """No part of a state is set by a copy of all of it as it was when drawn: of two answers at once one would be
        lost.
        """
        for file in SRC.rglob("*.tsx"):
            self.assertNotRegex(file.read_text("utf-8"), r"\bset[A-Z]\w*\(\{\s*\.\.\.", file.name)

    def test_every_joint_has_its_picture(self) -> None:
        """Each method of joining is drawn in section, with what the hands do."""
        text = (SRC / "stages" / "make" / "jointSections.tsx").read_text("utf-8")
        table = text[text.index("export const sections") :]
        drawn = {a or b for a, b in re.findall(r'^  (?:"([a-z -]+)"|([a-z]+)): ', table, re.M)}
        self.assertEqual(drawn, set(methods()))

    def test_files_are_short(self) -> None:
        """No file of the page has more than 400 lines, but for the types made from the API's document."""
        for file in SRC.rglob("*.ts*"):
            if file.name != "schema.d.ts":
                self.assertLessEqual(len(file.read_text("utf-8").splitlines()), 400, file.name)


if __name__ == "__main__":
    unittest.main()
