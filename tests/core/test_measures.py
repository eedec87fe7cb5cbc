"""Drawing by measure: what is said, what is read back, and what is drawn."""

import unittest
from collections import Counter
from math import degrees, pi

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import System, read
from hydrarch.core.catalogue.beginnings import beginnings
from hydrarch.core.catalogue.fittings import fitting, pipe_end
from hydrarch.core.components.outlets import Tap
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.measures import Go, Put, To, read_measures, said, written
from hydrarch.core.measuring.drawn_line import draw_measures, heading_of
from hydrarch.core.plan.document import Plan
from tests.core.plans import codes, draw, point


def ways(text: str, units: System = "metric", heading: float = 0.0) -> list[tuple[float, ...]]:
    """Where each part leads, rounded to the millimetre."""
    return [tuple(round(x, 3) + 0.0 for x in s.way) for s in read_measures(text, units, heading) if isinstance(s, Go)]


class Reading(unittest.TestCase):
    """A crew's words."""

    def test_a_length_is_read_back_as_it_was_said(self) -> None:
        """To a sixteenth of an inch, or a millimetre: never so rounded that a crew cannot tell whether it was
        understood.
        """
        for units, step, most in (("us", 0.0254 / 16, 4000), ("metric", 1e-3, 20000)):
            for n in range(7, most, 97):
                (told,) = read_measures(f"{n * step!r} m e", units)  # type: ignore[arg-type]
                again = read(said((told,), units).removesuffix(" east"), "length")  # type: ignore[arg-type]
                self.assertAlmostEqual(again, n * step, places=7)

    def test_as_it_is_said(self) -> None:
        """Compass, up and down, left and right of the way one goes, angles, and a thing at the end."""
        steps = read_measures("12.4 e, 3 up, 45 left 2.1, tap")
        self.assertEqual(ways("12.4 e, 3 up, 45 left 2.1, tap"), [(12.4, 0, 0), (0, 0, 3), (1.485, 1.485, 0)])
        self.assertEqual(steps[-1], Put("tap"))
        self.assertEqual(ways("n 2; left 1; back 0.5"), [(0, 2, 0), (-1, 0, 0), (0.5, 0, 0)])
        self.assertEqual(ways("2 on, right 1 then 1 down", heading=pi / 2), [(0, 2, 0), (1, 0, 0), (0, 0, -1)])
        self.assertEqual(ways("12,4 e,3 up"), [(12.4, 0, 0), (0, 0, 3)])

    def test_feet_and_inches(self) -> None:
        """3 ft 4 1/2 in is 1.0287 m; a bare number is in the job's units, and any unit may be said."""
        self.assertEqual(ways("3 ft 4 1/2 in e, 2 n, 300 mm up", "us"), [(1.029, 0, 0), (0, 0.61, 0), (0, 0, 0.3)])
        self.assertEqual(ways("1.24 m w", "us"), [(-1.24, 0, 0)])

    def test_falls_and_tilts(self) -> None:
        """1 in 70 over 14 m comes to 0.2 m; 45 up goes as far up as on."""
        (fall,) = read_measures("14 e falling 1 in 70")
        assert isinstance(fall, Go)
        self.assertAlmostEqual(fall.way[2] / fall.way[0], -1 / 70)
        self.assertAlmostEqual(fall.length, 14)
        self.assertEqual(ways("2 n 45 up"), [(0, 1.414, 1.414)])
        self.assertEqual(ways("10 s rising 2 %"), [(0, -9.998, 0.2)])

    def test_what_is_not_understood_is_named(self) -> None:
        """The part, what is wrong with it and how to say it."""
        for text, says in {
            "": "say a length and a direction",
            "2 e, 3 nowhere": "part 2, '3 nowhere'",
            "2 e n": "it goes two ways: e and n",
            "frobnicator": "no thing or length is called so",
            "0 e": "a length must be above zero",
            "-2 e": "above zero",
            "200 left 3": "between 0 and 180",
            "3 up falling 1 in 70": "only where it is level",
            "45 left 2 e": "it goes two ways",
            "e": "no thing or length",
        }.items():
            with self.subTest(text=text), self.assertRaisesRegex(HydrarchError, says):
                read_measures(text)
        with self.assertRaisesRegex(HydrarchError, "draw it in pieces"):
            read_measures("1 e, " * 300)

    def test_read_back(self) -> None:
        """Before it is drawn a crew sees what was read, in the job's units."""
        self.assertEqual(
            said(read_measures("0.16 w, tee, 0.12 down, valve")), "160 mm west · junction · 120 mm down · valve"
        )
        self.assertEqual(said(read_measures("3 ft 4 1/2 in e", "us"), "us"), "3 ft 4-1/2 in east")
        self.assertEqual(said(read_measures("54 left 1, 2 on, back 0.3")), "1.00 m 54° left · 2.00 m on · 300 mm back")
        self.assertEqual(
            said(read_measures("2 n 45 up, 14 e falling 1 in 70")),
            "2.00 m north, 45° up · 14.00 m east falling 1 in 70",
        )

    def test_two_things_with_no_length_between(self) -> None:
        """They stand a foot apart, on the way the line goes: up a riser, falling with a drain; it is read back."""
        self.assertEqual(
            said(read_measures("2.5 up, check valve, union, 3 e falling 1 in 80, tee, cap")),
            "2.50 m up · check valve · 300 mm up · union · 3.00 m east falling 1 in 80 · junction · "
            "300 mm on falling 1 in 80 · cap",
        )
        self.assertEqual(said(read_measures("1 e, valve, 2 in pipe, union", "us"), "us").count("1 ft on"), 1)

    _PART = st.one_of(
        st.builds(
            lambda n, w: f"{n:.3f} {w}",
            st.floats(0.01, 500),
            st.sampled_from(
                [
                    "e",
                    "n",
                    "sw",
                    "up",
                    "down",
                    "left",
                    "right",
                    "on",
                    "back",
                    "west",
                    "45 left",
                    "22.5 right",
                    "30 up",
                    "e falling 1 in 70",
                    "e face to face",
                    "left ff",
                    "above the floor",
                    "below ground",
                ]
            ),
        ),
        st.sampled_from(["tee", "valve", "tap", "cap", "check valve", "sprinkler"]),
    )

    @settings(max_examples=200, deadline=None)
    @given(st.lists(_PART, min_size=1, max_size=8), st.sampled_from(["us", "metric"]), st.floats(0, 6.28))
    def test_written_and_read_again_it_is_the_same(self, parts: list[str], units: System, heading: float) -> None:
        """A line of measures read, written out and read again leads to the same places."""
        steps = read_measures(", ".join(parts), units, heading)
        again = read_measures(written(steps), units, heading)
        self.assertEqual(len(again), len(steps))
        for one, two in zip(steps, again, strict=True):
            if isinstance(one, To):
                assert isinstance(two, To)
                self.assertAlmostEqual(one.height, two.height, places=5)
                continue
            if not isinstance(one, Go):
                self.assertEqual(one, two)
                continue
            assert isinstance(two, Go)
            self.assertEqual(one.faces, two.faces)
            for a, b in zip(one.way, two.way, strict=True):
                self.assertAlmostEqual(a, b, delta=1e-5 * one.length + 1e-9)


class LineInWords(unittest.TestCase):
    """A whole line said at once: sizes, repeats, branches, rings, names and falls."""

    @staticmethod
    def drawn(text: str, units: System = "us", start: str = "M", plan: Plan | None = None) -> Plan:
        """What a line draws from a mains tapping."""
        plan = plan or draw(
            [point("M", 0, 0, "mains", depth=0.45)], [], conditions={"series": "pvc40", "market": "north-american"}
        )
        return draw_measures(plan, start, read_measures(text, units)).plan

    def test_a_main_a_loop_of_heads_and_a_branch(self) -> None:
        """Six heads on a ring that ends where it began, and a hydrant on a branch: every run of the size that was
        said.
        """
        plan = self.drawn(
            "2 in pipe, 100 ft e, tee, 1-1/2 pipe, 20 ft n, tee called Loop, three heads every 40 ft n, 30 ft e, "
            "3 heads 40 ft apart s, to Loop, at tee 1: 1-1/2 pipe, 60 ft s, yard hydrant"
        )
        self.assertEqual(Counter(p.what.kind for p in plan.points)["sprinkler"], 6)
        self.assertEqual(Counter(r.size for r in plan.runs), {"2": 1, "1-1/2": 10})
        loop = next(p for p in plan.points if p.name == "Loop")
        self.assertEqual(sum(loop.id in r.points for r in plan.runs), 3)
        tee = next(p for p in plan.points if p.number == 1)
        self.assertEqual(sum(tee.id in r.points for r in plan.runs), 3)
        self.assertNotIn("two-runs", codes(plan))

    def test_a_length_that_ends_on_a_point_joins_it(self) -> None:
        """A square closes on itself: no second point lies on the first."""
        plan = self.drawn("10 n, tee, 10 e, 10 s, 10 w", "metric")
        self.assertEqual(len(plan.points), 4)
        self.assertEqual({r.points for r in plan.runs} & {("M", "M")}, set())
        self.assertIn("M", plan.runs[-1].points)

    def test_names(self) -> None:
        """By name, by kind and number, or as the only one of its kind; what could be two is asked back, and nothing is
        drawn where a name is not there.
        """
        plan = self.drawn("3 e, tee, 3 e, tap called Kitchen, at tee 1: 2 n, valve, 2 n, tap", "metric")
        self.assertEqual([p.name for p in plan.points if p.what.kind == "tap"], ["Kitchen", "Tap 1"])
        more = self.drawn("1 s, tap called Yard", "metric", "M", plan)
        self.assertTrue(any(p.name == "Yard" for p in more.points))
        for text, why in (
            ("to Cellar", "nothing here is called cellar; there are"),
            ("2 s, tee, at tee 1: 1 e", "more than one thing here could be tee 1"),
            ("1 s, tap called Kitchen", "name of another thing"),
            ("to start", "begins at"),
            ("at tap 1: 2 left", "compass first"),
            ("7 pipe, 1 e", "there is no 7 pipe to draw with: PVC 40 is made in"),
            ("2 s, foot valve", "Pipe begins at"),
            ("300 heads every 2 e", "up to 100"),
        ):
            with self.subTest(text=text), self.assertRaisesRegex(HydrarchError, f"(?i){why}"):
                self.drawn(text, "metric", "M", plan)

    def test_from_nothing(self) -> None:
        """On an empty sheet the first words say what the line begins at, at the depth of that kind of job; with no
        point chosen they name one.
        """
        empty = Plan(name="x", about="repair")
        plan = self.drawn("1/2 in pipe, mains, 12 e, valve, 6 n, tap", "metric", "", empty)
        self.assertEqual([p.what.kind for p in plan.points], ["mains", "valve", "tap"])
        self.assertEqual([(r.a.port, r.b.port, r.size) for r in plan.runs], [("out", "in", "1/2")] * 2)
        self.assertEqual({p.depth for p in plan.points}, {beginnings()["repair"].depth})
        more = self.drawn("at valve 1: 2 s, tap", "metric", "", plan)
        self.assertEqual(len(more.runs), 3)
        well = self.drawn("well pump, 61 up, pitless, 20 e, tap", "metric", "", Plan(name="x", about="well"))
        usual = beginnings()["well"].depth
        self.assertEqual([round(p.depth - usual, 6) for p in well.points], [61.0, 0.0, 0.0])
        for text, into, why in (
            ("12 e, tap", empty, "what the line begins at"),
            ("mark, 12 e, tap", empty, "what the line begins at"),
            ("mains, 3 e", plan, "choose a point on the drawing"),
            ("at Tap 1: 3 e", empty, "nothing here is called tap 1"),
        ):
            with self.subTest(text=text), self.assertRaisesRegex(HydrarchError, f"(?i){why}"):
                self.drawn(text, "metric", "", into)

    def test_a_named_one_does_not_count(self) -> None:
        """After a tee with a name of its own, tee 1 is the first that has none."""
        plan = self.drawn("1 e, tee called Low, 1 e, tee, 1 e, tap, at tee 1: 1 n, tap, at Low: 1 s, tap", "metric")
        spots = {p.name: (p.x, p.y) for p in plan.points if p.what.kind == "tap"}
        self.assertEqual(spots, {"Tap 1": (3, 0), "Tap 2": (2, 1), "Tap 3": (1, -1)})

    def test_things_begin_as_they_do_in_that_kind_of_job(self) -> None:
        """A tap of a house draws what a basin draws and stands on no riser, as one that is set down by hand."""
        house = draw([point("M", 0, 0, "mains")], [], about="house", conditions={"series": "ppr-s2.5"})
        tap = next(p.what for p in self.drawn("2 e, tap", "metric", "M", house).points if isinstance(p.what, Tap))
        self.assertEqual((tap.flow, tap.height), (1.5e-4, 0.0))

    def test_no_second_pipe_in_the_place_of_the_first(self) -> None:
        """Back to where it came from by the same way is refused."""
        with self.assertRaisesRegex(HydrarchError, "already"):
            self.drawn("5 e, tee, 5 w", "metric")

    def test_falls_by_the_foot(self) -> None:
        """1/4 in per ft is 1 in 48, 1 cm per m 1 in 100, and it reads back so."""
        for text, ratio in (("10 ft e falling 1/4 in per ft", 48), ("10 m e falling 1 cm per m", 100)):
            (go,) = read_measures(text)
            assert isinstance(go, Go)
            self.assertAlmostEqual(go.way[0] / -go.way[2], ratio)
            self.assertIn(f"falling 1 in {ratio}", said((go,)))

    def test_it_is_read_back(self) -> None:
        """What repeats is reported once with its count, and what is written out reads the same."""
        text = "2 pipe, 130 ft e, tee, at tee 1: 10 ft n, six heads every 40 ft n, to tee 1"
        steps = read_measures(text, "us")
        self.assertIn("6 × (40 ft north · sprinkler)", said(steps, "us"))
        self.assertEqual(read_measures(written(steps), "us"), steps)


class Drawing(unittest.TestCase):
    """From words to a plan."""

    def start(self) -> Plan:
        """A tapping of the mains, and nothing else."""
        return draw([point("M", 0, 0, "mains", depth=0.6)], [])

    def test_a_riser_with_two_branches(self) -> None:
        """Up a wall with a tee at 0.9 m and an elbow at 2.1 m: 2.1 m of riser, two taps, tees and elbows where hand
        would put them.
        """
        plan = draw_measures(self.start(), "M", read_measures("1 e, 0.9 up, tee, 1.2 up, 0.4 n, tap")).plan
        tee = next(p.id for p in plan.points if p.what.kind == "junction")
        plan = draw_measures(plan, tee, read_measures("0.4 n, tap")).plan
        self.assertEqual([p.what.kind for p in plan.points].count("tap"), 2)
        done = derive(plan)
        self.assertEqual([p.code for p in done.problems() if p.severity == "stop"], [])
        vertical = [
            r
            for r in done.layout.lines.values()
            if abs(plan.by_id[r.a].x - plan.by_id[r.b].x) < 1e-9 and abs(plan.by_id[r.a].y - plan.by_id[r.b].y) < 1e-9
        ]
        self.assertEqual(sorted(round(r.length, 3) for r in vertical), [0.9, 1.2])
        names = [p.name for p in done.assembly.parts if p.end is None and p.point]
        self.assertEqual(sum("tee" in n for n in names), 1)
        self.assertEqual(
            sum("elbow" in n.lower() for n in names), 2
        )  # the two turns of the riser; the taps stand where they were measured to
        self.assertEqual({r.situation for r in plan.runs}, {"buried"})

    def test_a_manifold_of_three_valves(self) -> None:
        """Three tees 160 mm apart on 1 in pipe, a valve 120 mm under each; cut lengths are centres less both
        centre-to-stop distances.
        """
        plan, end = self.start(), "M"
        for last in (False, False, True):
            made = draw_measures(plan, end, read_measures("160 mm w" if last else "160 mm w, tee"))
            plan, end = made.plan, made.end
            plan = draw_measures(plan, end, read_measures("240 mm down, valve, 300 mm down, cap")).plan
        body = plan.model_dump(mode="json")
        for run in body["runs"]:
            run |= {"series": "pvc40", "size": "1", "situation": "on bracket"}
        done = derive(Plan.model_validate(body))
        names = Counter(p.name for p in done.assembly.parts)
        self.assertEqual(
            (names["PVC tee 1"], names["PVC elbow 90° 1"], names["PVC ball valve 1 socket"], names["PVC cap 1"]),
            (2, 1, 3, 3),
        )
        tee, elbow = fitting("pvc-tee-1").ports[0].stop, fitting("pvc-elbow-90-1").ports[0].stop
        pieces = {next(done.plan.run_by_id[r].points for r in p.runs): p.length for p in done.cuts.pieces}
        one, two, three = (p.id for p in done.plan.points if p.what.kind == "junction" or p.id == end)
        self.assertAlmostEqual(pieces[one, two], 0.160 - 2 * tee)
        self.assertAlmostEqual(pieces[two, three], 0.160 - tee - elbow)

    def test_an_offset_round_a_conduit(self) -> None:
        """200 mm up and 200 mm aside by two 45s: 282.8 mm of true offset, 400 mm of travel, its piece the travel less
        two elbows' stops.
        """
        made = draw_measures(self.start(), "M", read_measures("1 e, 0.4 30 up 35.2644 left, 1 e, tap"))
        end = made.plan.by_id[made.end]
        self.assertAlmostEqual(end.y, 0.2, places=5)
        self.assertAlmostEqual(end.level, -0.6 + 0.2, places=5)
        body = made.plan.model_dump(mode="json")
        for run in body["runs"]:
            run |= {"series": "pvc40", "size": "1", "situation": "on bracket"}
        done = derive(Plan.model_validate(body))
        self.assertEqual(Counter(p.name for p in done.assembly.parts)["PVC elbow 45° 1"], 2)
        stop = fitting("pvc-elbow-45-1").ports[0].stop
        travel = next(p for p in done.cuts.pieces if abs(p.length - 0.4) < 0.06)
        self.assertAlmostEqual(travel.length, 0.4 - 2 * stop, places=4)

    def test_what_stands_in_the_way(self) -> None:
        """A thing is not set on another, a point that is gone is reported, and the plan one had stays as it was."""
        plan = self.start()
        with self.assertRaisesRegex(HydrarchError, "stands there already"):
            draw_measures(plan, "M", read_measures("tap"))
        with self.assertRaisesRegex(HydrarchError, "not on the drawing any more"):
            draw_measures(plan, "gone", read_measures("1 e"))
        made = draw_measures(plan, "M", read_measures("1 e, tap"))
        self.assertEqual((len(plan.points), len(made.plan.points)), (1, 2))

    def test_it_goes_on_as_it_came(self) -> None:
        """Left and right are of the last run; a new run is of the pipe of the one before it; levels are of the pipe,
        under one ground.
        """
        first = draw_measures(self.start(), "M", read_measures("5 n"))
        self.assertAlmostEqual(degrees(heading_of(first.plan, first.end)), 90)
        body = first.plan.model_dump(mode="json")
        body["runs"][0] |= {"series": "pvc40", "size": "1", "situation": "on bracket"}
        plan = Plan.model_validate(body)
        made = draw_measures(plan, first.end, read_measures("1.5 up, 2 left", heading=heading_of(plan, first.end)))
        last = made.plan.by_id[made.end]
        self.assertEqual((round(last.x, 6), round(last.y, 6), round(last.level, 6)), (-2.0, 5.0, 0.9))
        self.assertEqual({(r.series, r.size, r.situation) for r in made.plan.runs}, {("pvc40", "1", "on bracket")})

    def test_devices_face_the_way_they_were_drawn(self) -> None:
        """A check valve in the line lets water away from where the line was drawn from, and no port is wrong."""
        made = draw_measures(self.start(), "M", read_measures("1 e, check valve, 1 e, pump, 1 e, tap"))
        told = codes(made.plan)
        self.assertFalse({"faces-source", "device-not-in-line", "which-port"} & set(told), told)


class Faces(unittest.TestCase):
    """Face to face, and heights told from the floor."""

    def test_face_to_face_is_what_is_seen_of_the_pipe(self) -> None:
        """Between two valves 0.5 m of pipe is to be seen: the piece is that and what its two sockets cover, whatever
        they take.
        """
        plan = draw([point("T", 0, 0, "tank", water_level=20.0)], [])
        for units, text, want in (
            ("metric", "2 e, valve, 0.5 e face to face, valve, 1 e, tap", 0.5),
            ("us", "2 e, valve, 1 ft 6 in e ff, valve, 3 e, tap", 0.4572),
        ):
            with self.subTest(units):
                told = read_measures(text, units)  # type: ignore[arg-type]
                self.assertEqual(written(read_measures(written(told), units)), written(told))  # type: ignore[arg-type]
                self.assertIn("face to face", said(told, units))  # type: ignore[arg-type]
                drawn = draw_measures(plan, "T", told).plan
                first, second = (p.id for p in drawn.points if p.what.kind == "valve")
                run = next(r for r in drawn.runs if set(r.points) == {first, second})
                piece = next(p for p in derive(drawn).cuts.pieces if p.runs == (run.id,))
                depth = 2 * pipe_end(piece.series, piece.size).engagement
                self.assertAlmostEqual(piece.length - (piece.covered or depth), want, places=5)
                self.assertGreater(drawn.by_id[second].x - drawn.by_id[first].x, want)

    def test_face_to_face_needs_two_faces(self) -> None:
        """A length that ends in the open has no second face, and is refused with its part."""
        plan = draw([point("T", 0, 0, "tank", water_level=20.0)], [])
        with self.assertRaisesRegex(HydrarchError, "part 3 is said face to face"):
            draw_measures(plan, "T", read_measures("2 e, valve, 0.5 e ff"))

    def test_to_a_height_above_the_floor(self) -> None:
        """From 0.6 m under the ground to 1.2 m above it is 1.8 m of pipe; said again it is there already."""
        plan = draw([point("T", 0, 0, "tank", water_level=20.0, depth=0.6)], [])
        steps = read_measures("3 e, to 1.2 above the floor, tap")
        self.assertEqual(steps[1], To(1.2, "to 1.2 m above the floor"))
        self.assertEqual(read_measures(written(steps)), steps)
        self.assertEqual(said(steps), "3.00 m east · to 1.20 m above the floor · tap")
        drawn = draw_measures(plan, "T", steps).plan
        self.assertAlmostEqual(drawn.points[-1].depth, -1.2)
        with self.assertRaisesRegex(HydrarchError, "already"):
            draw_measures(plan, "T", read_measures("3 e, to 0.6 below ground"))


if __name__ == "__main__":
    unittest.main()
