"""What is printed: long sections true along and at their levels, and the PDF as another library reads it."""

import io
import random
import re
import unittest
from html import unescape
from itertools import pairwise
from typing import Any, get_args
from xml.etree import ElementTree

from hypothesis import given, settings
from hypothesis import strategies as st
from pypdf import PdfReader

from hydrarch.core.base.units import System, show
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.components.devices import Valve
from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.plan.document import Plan, Run, RunEnd
from hydrarch.core.report.as_laid import as_laid
from hydrarch.core.report.handing import what_valves_shut
from hydrarch.demo import DEMO_ID, demo_events, drying_yard, thistledown, wash_block
from hydrarch.formats.longsection import long_sections
from hydrarch.formats.printed import as_laid_pdf
from hydrarch.formats.sheet import sheet_html
from tests.core.plans import draw, point
from tests.core.test_crossings import cross

SVG = "{http://www.w3.org/2000/svg}"
NOW = 1.8e9


class Handing(unittest.TestCase):
    """What the next person wants to know first."""

    @settings(max_examples=60, deadline=None)
    @given(st.randoms(use_true_random=False))
    def test_any_line_as_it_is_walked(self, rng: random.Random) -> None:
        """Random lines and rings, against a walk from the source that leaves the valve out."""
        count = rng.randrange(3, 12)
        kinds = ("junction", "valve", "valve", "tap", "check_valve")
        spots = [point("M", 0, 0, "mains")]
        spots += [point(f"P{n}", 3.0 * n, rng.randrange(9), rng.choice(kinds)) for n in range(count)]
        names = [p["id"] for p in spots]
        plan = draw(spots, sorted({(min(p), max(p)) for p in (rng.sample(names, 2) for _ in range(count + 2))}))

        def passes(run: Run) -> list[tuple[str, str]]:
            def bars(end: RunEnd, port: str) -> bool:
                return plan.by_id[end.point].what.kind == "check_valve" and plan.port_name(end) == port

            both = ((run.a, run.b), (run.b, run.a))
            return [(a.point, b.point) for a, b in both if not bars(a, "in") and not bars(b, "out")]

        def walked(but: str) -> set[str]:
            seen, left = {"M"}, ["M"]
            while left:
                here = left.pop()
                new = {to for r in plan.runs for at, to in passes(r) if at == here} - seen - {but}
                seen |= new
                left += new
            return seen

        for valve in plan.of_kind(Valve):
            dry = walked("") - walked(valve.id)
            told = next(s for s in what_valves_shut(plan) if s.valve == valve.label)
            self.assertEqual(set(told.outlets), {o.label for o in plan.outlets if o.id in dry})

    def test_what_each_valve_shuts(self) -> None:
        """A valve before a branch shuts that branch; one of two on a ring shuts nothing by itself; what no source feeds
        is shut by none.
        """
        spots = [
            point("M", 0, 0, "mains"),
            point("A", 5, 0, "junction"),
            point("V", 7, 0, "valve"),
            point("T", 9, 0, "tap", height=0.0),
            point("W", 5, 5, "valve"),
            point("X", 0, 5, "valve"),
            point("B", 0, 3, "junction"),
            point("U", 5, 9, "tap", height=0.0),
            point("L", 40, 9, "tap", height=0.0),
            point("C", 5, 7, "junction"),
        ]
        runs = [
            ("M", "A"),
            ("A", "V"),
            ("V", "T"),
            ("A", "W"),
            ("W", "C"),
            ("M", "B"),
            ("B", "X"),
            ("X", "C"),
            ("C", "U"),
        ]
        shuts = {s.valve: s.outlets for s in what_valves_shut(draw(spots, runs))}
        self.assertEqual(shuts, {"valve V": ("tap T",), "valve W": (), "valve X": ()})


class LongSection(unittest.TestCase):
    """On paper."""

    def test_true_along_and_up(self) -> None:
        """By hand: 60 m of line that rises 6 m, its middle at 2 m: as far along and as high on paper as the bar and the
        title's figure say.
        """
        points = [
            point("T", 0, 0, "tank", water_level=30.0),
            point("B", 20, 0, "bend", ground=2.0),
            point("K", 60, 0, "tap", ground=6.0, height=0.0),
        ]
        plan = draw(points, [("T", "B"), ("B", "K")])
        (sheet,) = long_sections(plan, derive(plan))
        stretched = float(re.search(r"heights ([\d.]+) times", sheet.title).group(1))  # type: ignore[union-attr]
        root = ElementTree.fromstring(sheet.svg)
        spots = [(float(c.attrib["cx"]), float(c.attrib["cy"])) for c in root.iter(f"{SVG}circle")]
        a, b = (20.0**2 + 2**2) ** 0.5, (40.0**2 + 4**2) ** 0.5
        scale = (spots[-1][0] - spots[0][0]) / (a + b)
        self.assertAlmostEqual((spots[1][0] - spots[0][0]) / scale, a, delta=0.05)
        self.assertAlmostEqual((spots[0][1] - spots[1][1]) / scale / stretched, 2.0, delta=0.02)
        self.assertAlmostEqual((spots[0][1] - spots[2][1]) / scale / stretched, 6.0, delta=0.05)
        words = [t.text for t in root.iter(f"{SVG}text")]
        for level in (0.0, 2.0, 6.0):
            self.assertIn(show(level, "level", plan.units).text, words)

    def test_in_the_ground(self) -> None:
        """Pits, soakaways, how a trench is filled, and crossings with what is between, as the stages say them."""

        def sheet(plan: Plan) -> str:
            done = derive(plan)
            ready = where_it_stands(plan, done, [], NOW)
            told = re.sub(r"<svg.*?</svg>|<[^>]+>", " ", sheet_html(plan, done, ready), flags=re.S)
            return unescape(re.sub(r"\s+", " ", told))

        block = sheet(wash_block())
        done = derive(wash_block())
        for says in (
            *(p.says for p in done.rounds.pits),
            *(n.says for n in done.drained_to.notes),
            *done.trench.backfill,
        ):
            self.assertIn(says, block)
        self.assertNotIn("Crossings", block)
        crossed = sheet(cross(0.6, 0.8, old=True))
        self.assertIn("Crossings", crossed)
        self.assertIn(str(show(0.2 - pipe("pvc40", "1").outside, "depth")), crossed)

    def test_on_the_sheet(self) -> None:
        """A supply from its source, a drain down to where it lets out; both on the sheet, and no two levels written
        over one another.
        """
        for plan, ends in ((thistledown(), ("Well pump", "corner")), (drying_yard(), ("gully", "Ditch"))):
            done = derive(plan)
            sheet = long_sections(plan, done)[0]
            for end in ends:
                self.assertIn(end, sheet.title)
            root = ElementTree.fromstring(sheet.svg)
            rows = sorted(
                (t.attrib["y"], float(t.attrib["x"]))
                for t in root.iter(f"{SVG}text")
                if re.fullmatch(r"-?\d+\.\d+", t.text or "")
            )
            for (y, x), (y2, x2) in pairwise(rows):
                if y == y2:
                    self.assertGreaterEqual(x2 - x, 11.9)
            self.assertIn("Long section", sheet_html(plan, done, where_it_stands(plan, done, [], NOW)))

    def test_what_has_none(self) -> None:
        """Nothing is drawn, or a line of no length to speak of."""
        for points, runs in (([], []), ([point("T", 0, 0, "tank"), point("K", 0.2, 0, "tap")], [("T", "K")])):
            plan = draw(points, runs)
            self.assertEqual(long_sections(plan, derive(plan)), ())


class Pdf(unittest.TestCase):
    """As pypdf reads it."""

    def test_what_is_in_it(self) -> None:
        """The job's name, its drawings with their scale, every hidden joint with its depth, the page's size by the
        job's units.
        """
        plan = thistledown()
        done = derive(plan)
        ready = where_it_stands(plan, done, demo_events(DEMO_ID, NOW), NOW)
        laid = as_laid(plan, done, ready)
        self.assertTrue(laid)
        for units, size in zip(get_args(System), ((612.0, 792.0), (595.28, 841.89)), strict=True):
            other = plan.model_copy(update={"units": units})
            body = as_laid_pdf(other, done, laid, NOW)
            self.assertEqual(body, as_laid_pdf(other, done, laid, NOW), "the same job is the same file")
            pages = PdfReader(io.BytesIO(body)).pages
            self.assertEqual(tuple(round(float(v), 2) for v in pages[0].mediabox[2:]), size)
            text = re.sub(r"\s+", " ", " ".join(p.extract_text() for p in pages))
            self.assertIn(plan.name, text)
            self.assertRegex(text, r"The line, from above, 1 : \d+")
            self.assertIn("Long section", text)
            self.assertEqual(text.count(str(show(laid[0].depth, "depth", units))) > 0, True)
            for j in laid:
                self.assertIn(j.method, text)
            self.assertIn("page 1", text)

    def test_of_an_empty_job_and_odd_names(self) -> None:
        """It opens, says that nothing was made, and takes any name."""
        plan = draw([], []).model_copy(update={"name": "<b>Ditch & Söhne ½″"})
        text = " ".join(p.extract_text() for p in PdfReader(io.BytesIO(as_laid_pdf(plan, derive(plan), (), NOW))).pages)
        self.assertIn("No joint that is out of sight was made yet", text)
        self.assertIn("Ditch & Söhne", text)

    def test_letters_and_date(self) -> None:
        """Names in the letters of Europe are set as they are, with their face in the file; a letter that the face has
        not is named and stands as a question mark; the file says when it was made.
        """
        for name in ("Łąka źródlana", "Ελαιώνας", "Сад у реки", "Kőszeg, Şişli, Čáslav"):
            plan = draw([], []).model_copy(update={"name": name})
            read = PdfReader(io.BytesIO(as_laid_pdf(plan, derive(plan), (), NOW)))
            text = " ".join(p.extract_text() for p in read.pages)
            self.assertIn(name, text)
            self.assertNotIn("cannot be set", text)
            faces: Any = read.pages[0]["/Resources"]["/Font"]  # type: ignore[index]
            kept = [f.get_object() for f in faces.values()]
            self.assertTrue(any("FontFile2" in str(f.get("/FontDescriptor", {})) for f in kept))
        plan = draw([], []).model_copy(update={"name": "水の森"})
        read = PdfReader(io.BytesIO(as_laid_pdf(plan, derive(plan), (), NOW)))
        self.assertIn("3 letters of its names cannot be set here and stand as ?", read.pages[0].extract_text())
        made: Any = read.metadata and read.metadata.creation_date
        assert made is not None
        self.assertAlmostEqual(made.timestamp(), NOW, delta=1)


if __name__ == "__main__":
    unittest.main()
