"""The drawing on paper: to scale, readable, and of the same plan; details, levels and spares on the sheet."""

import re
import unittest
from itertools import combinations, pairwise
from math import dist, hypot
from xml.etree import ElementTree

from pydantic import ValidationError

from hydrarch.core.derivation.chain import derive, where_it_stands
from hydrarch.core.plan.details import SEEN_FROM, Detail
from hydrarch.core.plan.document import Plan
from hydrarch.demo import show_tank, thistledown
from hydrarch.formats.drawing import drawings, project
from hydrarch.formats.sheet import sheet_html
from tests.core.plans import draw, point

SVG = "{http://www.w3.org/2000/svg}"


def riser(**more: object) -> Plan:
    """A line of 12 m with a riser of 2 m at its end."""
    points = [
        point("T", 0, 0, "tank", water_level=30.0, name="Tank & <pump>"),
        point("B", 12, 0, "bend"),
        point("U", 12, 0, "bend", depth=-2.0),
        point("K", 12.5, 0, "tap", depth=-2.0, height=2.0, name="Wall tap"),
    ]
    return draw(points, [("T", "B"), ("B", "U"), ("U", "K")], **more)


class OnPaper(unittest.TestCase):
    """Pictures as SVG."""

    def test_bodies_of_water(self) -> None:
        """A tank of 1.2 by 0.6 m over its sump is drawn so large at the scale of the title, rim and floor, and its
        water where it is seen from aside.
        """
        plan = show_tank()
        above, standing = drawings(plan, derive(plan))
        scale = int(above.title.rpartition(": ")[2])
        rings = re.findall(r'd="M([-\d.]+) ([-\d.]+)L([-\d.]+) ([-\d.]+)" stroke="#2b6f86"', above.svg)
        xs = [float(n) for ring in rings for n in (ring[0], ring[2])]
        ys = [float(n) for ring in rings for n in (ring[1], ring[3])]
        self.assertAlmostEqual((max(xs) - min(xs)) * scale / 1e3, 1.2, delta=0.01)
        self.assertAlmostEqual((max(ys) - min(ys)) * scale / 1e3, 0.6, delta=0.01)
        self.assertEqual(len(rings), 2 * 2 * 4)
        self.assertEqual(standing.svg.count("#2b6f86"), 2 * 3 * 4)

    def test_to_the_scale_it_says(self) -> None:
        """12.5 m at the scale of the title is as many mm between the first and the last mark on paper."""
        sheets = drawings(riser(), derive(riser()))
        self.assertEqual([s.title.split(",")[1].strip() for s in sheets], ["from above", "standing"])
        root = ElementTree.fromstring(sheets[0].svg)
        scale = int(sheets[0].title.rpartition(": ")[2])
        xs = [float(c.attrib["cx"]) for c in root.iter(f"{SVG}circle")]
        self.assertAlmostEqual(max(xs) - min(xs), 12500 / scale, places=1)
        self.assertEqual(root.attrib["width"], f"{root.attrib['viewBox'].split()[2]}mm")
        self.assertIn("Tank & <pump>", [t.text for t in root.iter(f"{SVG}text")])

    def test_standing_has_true_lengths_along_its_axes(self) -> None:
        """A metre east, north or up is a metre on the paper, as the page has it."""
        here = project("standing", 3, 4, 5)
        for step in ((1, 0, 0), (0, 1, 0), (0, 0, 1)):
            self.assertAlmostEqual(dist(here, project("standing", 3 + step[0], 4 + step[1], 5 + step[2])), 1.0)
        for seen in SEEN_FROM:
            a, b = project(seen, 0, 0, 0), project(seen, 0, 0, 2)
            self.assertAlmostEqual(b[1] - a[1], 0.0 if seen == "above" else 2.0)
        self.assertGreater(project("east", 0, 5, 0)[0], 0, "seen from the east, north is to the right")

    def test_words_keep_off_pipe_and_off_one_another(self) -> None:
        """In the demo's drawing no two labels meet, and every named thing of it that is no plain place has its name."""
        plan = thistledown()
        svg = drawings(plan, derive(plan))[0].svg
        texts = re.findall(
            r'<text x="([\d.]+)" y="([\d.]+)" text-anchor="middle"( font-weight="700")?[^>]*>([^<]+)<', svg
        )
        boxes = [(float(x), float(y), len(t) * 2.9 * (0.5 if not bold else 0.55)) for x, y, bold, t in texts]
        for (ax, ay, aw), (bx, by, bw) in combinations(boxes, 2):
            self.assertTrue(abs(ax - bx) >= (aw + bw) / 2 - 1e-6 or abs(ay - by) >= 2.9)
        told = {t for *_, t in texts}
        self.assertEqual({p.label for p in plan.points if not p.kind.plain and p.kind.role != "mark"} - told, set())

    def test_a_detail_is_drawn_larger_and_alone(self) -> None:
        """The riser in a box of its own: three marks of four, at a larger scale; an empty box is not drawn, a box
        without room refused.
        """
        wall = Detail(name="In the wall", low=(11.8, -0.2, -0.5), high=(12.7, 0.2, 2.5), seen="south")
        empty = Detail(name="Nothing here", low=(50, 50, 0), high=(51, 51, 1))
        plan = riser(details=[wall, empty])
        sheets = drawings(plan, derive(plan))
        self.assertEqual([s.title.split(",")[0] for s in sheets], ["The line", "The line", "Detail: In the wall"])
        self.assertLess(int(sheets[-1].title.rpartition(": ")[2]), int(sheets[0].title.rpartition(": ")[2]))
        self.assertEqual(sheets[-1].svg.count("<circle"), 3)
        with self.assertRaisesRegex(ValidationError, "has no size"):
            Detail(name="Flat", low=(0, 0, 0), high=(1, 1, 0))
        with self.assertRaisesRegex(ValidationError, "two details share the name"):
            riser(details=[wall, wall])

    def test_the_sheet_carries_them(self) -> None:
        """Drawings before the parts, levels of every point, and the spares that are to be taken along."""
        plan = thistledown()
        done = derive(plan)
        html = sheet_html(plan, done, where_it_stands(plan, done, [], 0.0))
        places = [html.index(t) for t in ("The line, from above", "<h2>Parts", "<h2>Levels", "<h2>Cuts")]
        self.assertTrue(all(a < b for a, b in pairwise(places)), places)
        spare = next(r for r in done.bill if r.spare)
        self.assertIn(f">+ {spare.spare}<", html)
        self.assertNotIn("None", re.sub(r"<svg.*?</svg>", "", html, flags=re.S))

    def test_no_run_is_drawn_at_a_length_of_its_own(self) -> None:
        """Every run of the demo is on the paper between its two marks."""
        plan = thistledown()
        sheet = drawings(plan, derive(plan))[0]
        scale = int(sheet.title.rpartition(": ")[2])
        lines = re.findall(r'd="M([\d.]+) ([\d.]+)L([\d.]+) ([\d.]+)" stroke="#16212a" stroke-width="0.9"', sheet.svg)
        drawn = sorted(round(hypot(float(c) - float(a), float(d) - float(b)), 1) for a, b, c, d in lines)
        ends = ((plan.by_id[r.a.point], plan.by_id[r.b.point]) for r in plan.runs)
        self.assertEqual(len(drawn), len(plan.runs))
        for got, want in zip(drawn, sorted(hypot(a.x - b.x, a.y - b.y) * 1e3 / scale for a, b in ends), strict=True):
            self.assertAlmostEqual(got, want, delta=0.1)


if __name__ == "__main__":
    unittest.main()
