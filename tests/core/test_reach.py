"""A test has a place and a direction: what a test pump's pressure reaches, and what is told of the rest."""

import unittest
from dataclasses import replace
from itertools import permutations
from typing import ClassVar, Literal

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.sparse import csr_array
from scipy.sparse.csgraph import breadth_first_order

from hydrarch.core.commissioning.asides import set_aside
from hydrarch.core.commissioning.sections import EXERCISE, LIFTED_TEST, NO_SOURCE, Section
from hydrarch.core.commissioning.walk import wet_sections
from hydrarch.core.components.base import Kind, PortSpec, What, kinds
from hydrarch.core.derivation.chain import derive
from hydrarch.core.plan.document import Plan
from hydrarch.demo import herb_beds
from tests.core.jobs import cellar_sump, square
from tests.core.plans import draw, point

ONE_WAY = ("check_valve", "backflow")


def behind(kind: str, **more: object) -> Plan:
    """Mains 5 m up, a tee with a capped branch, a thing, and a cap at the bottom."""
    spots = [
        point("M", 0, 0, "mains", ground=5.0),
        point("J", 10, 0, "junction", ground=5.0),
        point("K", 10, 3, "cap", ground=5.0),
        point("X", 20, 0, kind, ground=2.0),
        point("T", 40, 0, "cap"),
    ]
    return draw(spots, [("M", "J"), ("J", "K"), ("J", "X"), ("X", "T")], **more)


def only(plan: Plan) -> Section:
    """Its one section."""
    (found,) = derive(plan).sections
    return found


def reached(plan: Plan, section: Section, pump: str) -> set[str]:
    """The runs that pressure from a pump at a thing reaches, by SciPy's search of a directed graph whose nodes are
    runs: what the plan takes out and bridges lets pressure both ways, what passes water one way only onward.
    """
    bridged = {p.id for p in plan.points if any(f"take {p.label} out and bridge" in told for told in section.isolate)}
    number = {r.id: n for n, r in enumerate(plan.runs)}
    pairs = [(len(number), number[r.id]) for r in plan.runs if pump in r.points]  # the pump itself stands last
    for one, two in permutations([e for r in plan.runs for e in ((r, r.a), (r, r.b))], 2):
        (run, end), (other, onward) = one, two
        if end.point == onward.point and run.id != other.id:
            one_way = plan.by_id[end.point].kind.one_way and end.point not in bridged
            if not one_way or (end.port == "in" and onward.port == "out"):
                pairs.append((number[run.id], number[other.id]))
    a, b = zip(*pairs, strict=True)
    graph = csr_array((np.ones(len(pairs)), (a, b)), shape=(len(number) + 1, len(number) + 1))
    order = breadth_first_order(graph, len(number), directed=True, return_predecessors=False)
    names = list(number)
    return {names[n] for n in order if n < len(names)}


class OneWay(unittest.TestCase):
    """What passes water one way keeps a test's pressure from what lies before it."""

    def test_the_pump_stands_before_it(self) -> None:
        """The lowest open end lies beyond a check valve or preventer: the test pump goes where all of it is reached."""
        for kind in ONE_WAY:
            with self.subTest(kind):
                plan = behind(kind)
                section = only(plan)
                self.assertEqual(section.pump_at, "cap K")
                self.assertEqual(reached(plan, section, "K"), {r.id for r in plan.runs})
                self.assertLess(len(reached(plan, section, "T")), len(plan.runs), "from the cap below it is not")

    def test_what_stands_against_it_is_taken_out(self) -> None:
        """Two check valves that lead to one line: from either end the other is in the way, and is named, and its joints
        are looked at after the test.
        """
        spots = [
            point("A", 0, 0, "cap"),
            point("C", 10, 0, "check_valve"),
            point("J", 20, 0, "junction"),
            point("D", 30, 0, "check_valve"),
            point("B", 40, 0, "cap"),
            point("M", 20, 9, "mains"),
        ]
        plan = draw(spots, [("A", "C"), ("C", "J"), ("B", "D"), ("D", "J"), ("M", "J")])
        section = only(plan)
        self.assertEqual(section.pump_at, "cap A")
        self.assertTrue(any("take check valve D out and bridge its place" in told for told in section.isolate))
        self.assertEqual(reached(plan, section, "A"), {r.id for r in plan.runs})
        named = derive(plan).assembly.named
        self.assertEqual({named[j].point for j in section.parted}, {"D", "M"})

    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_any_tree(self, data: st.DataObject) -> None:
        """Whatever passes one way and whichever way it stands, the pump that is named reaches every run of its section,
        by another library's search.
        """
        many = data.draw(st.integers(2, 9))
        spots, runs = [point("M", 0, 0, "mains")], []
        lines = ["M"]
        for n in range(1, many + 1):
            before = data.draw(st.sampled_from(lines))
            kind = data.draw(st.sampled_from(["junction", "check_valve", "backflow", "cap"]))
            here = f"P{n}"
            spots.append(point(here, 7 * n, 5 * (n % 3), kind, ground=data.draw(st.floats(0, 6))))
            if kind in ONE_WAY:
                spots.append(point(f"Q{n}", 7 * n + 3, 5 * (n % 3), "junction"))
                two = [(before, here), (here, f"Q{n}")]
                runs += two if data.draw(st.booleans()) else [(b, a) for a, b in two][::-1]
                lines.append(f"Q{n}")
            else:
                runs.append((before, here))
                lines += [here] if kind == "junction" else []
        plan = draw(spots, runs)
        ids = {p.label: p.id for p in plan.points}
        for section in derive(plan).sections:
            if section.sort == "pressure" and not section.fault and section.pump_at in ids:
                with self.subTest(section.name):
                    self.assertLessEqual(set(section.runs), reached(plan, section, ids[section.pump_at]))


class Aside(unittest.TestCase):
    """What may not see the test's pressure is taken off, and that is said."""

    def test_a_heater_is_bridged(self) -> None:
        """A heater in the line is taken out and its place bridged; its joints are made again after it."""
        section = only(behind("heater"))
        self.assertTrue(any("take heater X out and bridge its place" in told for told in section.isolate))
        self.assertEqual(section.pump_at, "cap T")
        self.assertTrue(section.parted)

    def test_what_says_nothing_is_not_tested(self) -> None:
        """A type of thing that says nothing of tests is taken off; every type that ships has said it."""

        class Mixer(What):
            kind: Literal["mixer"] = "mixer"
            traits: ClassVar = ()

        made = Kind(Mixer, "Mixer", "MX", "device", (PortSpec("in", "in", "Inlet"), PortSpec("out", "out", "Outlet")))
        told = set_aside(made.start, "mixer MX1", 2)
        self.assertEqual((told.parted, told.passes), (True, True))
        self.assertIn("whether it stands the test is not known", told.says)
        self.assertEqual((set_aside(made.start, "mixer MX1", 1)).passes, False)
        unsaid = {
            k.name for k in kinds().values() if k.joined and "is not known" in set_aside(k.start, "x", 2).says
        } - {"heater", "equipment"}
        self.assertEqual(unsaid, set())


class Lifted(unittest.TestCase):
    """What a pit's pump lifts is run and looked at, not pumped up; what mains feed as well is tested."""

    def test_a_riser_is_run(self) -> None:
        """The sections of a cellar sump that its first pump fills, its check valve and union left in place; the riser
        of the pump that stands by sees no water of the other, and is tested.
        """
        done = derive(cellar_sump())
        *mine, other = sorted(done.sections, key=lambda s: s.sort == "pressure")
        for section in mine:
            self.assertEqual((section.sort, section.says, section.fault), ("run", LIFTED_TEST, ""))
            self.assertEqual((section.isolate, section.caps, section.parted), ((), (), ()))
        self.assertEqual((len(mine), other.sort), (2, "pressure"))
        self.assertTrue(any("S2" in done.plan.run_by_id[r].points for r in other.runs))

    def test_what_stands_by_is_not_walked_wet(self) -> None:
        """With nothing moving in a part that is run instead of tested no joint of it is said dry: a drip row that no
        zone opens, a pit whose pump lifts nothing.
        """
        plan = herb_beds()
        done = derive(plan)
        for flow in done.sizes.flows.values():
            none = replace(flow, runs={r: replace(f, flow=0.0) for r, f in flow.runs.items()})
            self.assertEqual([s for s in wet_sections(done.sections, none, [none]) if s.sort == "run"], [])

    def test_mains_beside_it(self) -> None:
        """A line that mains push into as well holds pressure at rest: it is tested."""
        spots = [
            point("S", 0, 0, "sump"),
            point("J", 5, 0, "junction"),
            point("M", 5, 5, "mains"),
            point("O", 10, 0, "tap", height=0.0),
        ]
        plan = draw(spots, [("S", "J"), ("M", "J"), ("J", "O")])
        self.assertEqual({s.sort for s in derive(plan).sections}, {"pressure"})


class Unfed(unittest.TestCase):
    """A line with no source drawn."""

    def test_the_pressure_is_asked(self) -> None:
        """Nobody knows what it works at: no test is named until the pressure at its connection is, or the job's own."""
        spots = [point("A", 0, 0, "cap"), point("B", 10, 0, "junction"), point("C", 20, 0, "cap")]
        section = only(draw(spots, [("A", "B"), ("B", "C")]))
        self.assertEqual((section.fault, section.test), (NO_SOURCE, 0.0))
        section = only(draw(spots, [("A", "B"), ("B", "C")], conditions={"test_pressure": 600e3}))
        self.assertEqual((section.fault, section.test), ("", 600e3))
        self.assertIn("no source is drawn", section.says)

    def test_an_exercise_is_asked_nothing(self) -> None:
        """An apprentice's square is told that it is not tested, and how it could be."""
        self.assertEqual({s.fault for s in derive(square()).sections}, {EXERCISE})
