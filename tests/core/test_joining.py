"""The transition search and the assembly of whole plans."""

import unittest
from collections import Counter
from itertools import pairwise
from math import acos, cos, radians, sin
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from hydrarch.core.base.errors import Unknown
from hydrarch.core.base.identity import pipe_of, riser_piece, stack_joint
from hydrarch.core.catalogue.fittings import end, ends, fitting, mating_method
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.derivation.chain import Derived, derive
from hydrarch.core.hydraulics.friction import head_loss_hazen_williams
from hydrarch.core.joining.assembled import parts_list
from hydrarch.core.joining.assembly import NodeView, node_views
from hydrarch.core.joining.node_fittings import link_offsets, turn_words, two_elbows
from hydrarch.core.joining.stacks import FREE
from hydrarch.core.joining.way_search import find_stacks
from hydrarch.core.plan.document import Plan
from hydrarch.demo import thistledown
from tests.core.plans import make_plan, point, tank_to_tap, tree

ENDS = sorted(ends())
CURED = {"solvent weld", "thread", "barb and clamp"}


def built(
    *spots: tuple[str, float, float, str], runs: list[tuple[str, str]], size: str = "1", **more: object
) -> Derived:
    """Derive a plan of schedule 40 runs of one size."""
    fixed = [{"series": "pvc40", "size": size}] * len(runs)
    return derive(make_plan([point(*s) for s in spots], runs, runs_more=fixed, **more))


class Search(unittest.TestCase):
    """Ways from one end to another."""

    def test_polyethylene_to_pvc(self) -> None:
        """Same size: barb by male thread, then female thread by socket, three joints, no change of size on the way."""
        best = find_stacks("barb:bore:1-1/2", "solvent:spigot:1-1/2")[0]
        self.assertEqual(
            [s.fitting.id for s in best.steps], ["pe-male-adapter-1-1_2-x-1-1_2", "pvc-female-adapter-1-1_2-x-1-1_2"]
        )
        self.assertEqual((best.joints, best.detour()), (3, 0.0))

    def test_one_fitting_beats_two(self) -> None:
        """A reducing coupling beats coupling plus bushing: count the joints (common practice)."""
        stacks = find_stacks("solvent:spigot:1", "solvent:spigot:3/4")
        self.assertEqual([s.fitting.id for s in stacks[0].steps], ["pvc-reducing-coupling-1-x-3_4"])
        self.assertEqual(stacks[0].joints, 2)

    def test_spigot_straight_into_a_tee(self) -> None:
        """From a tee's socket to a thread, a spigot adapter straight in beats stub and adapter (common practice)."""
        best = find_stacks("solvent:socket:1", "npt:male:1/2")[0]
        self.assertEqual((best.joints, best.steps[0].fitting.ports[0].end.gender), (2, "spigot"))

    def test_plastic_female_over_metal_male_is_avoided(self) -> None:
        """The best way never threads a plastic female over a metal male, which splits (common practice)."""
        for start in ENDS:
            for stop in ("npt:female:1", "solvent:spigot:1", "barb:bore:1"):
                for stack in find_stacks(start, stop)[:1]:
                    self.assertEqual(stack.splits(), 0, f"{start} to {stop}")

    def test_unknown_end(self) -> None:
        """An end nobody makes is refused by name."""
        with self.assertRaisesRegex(Unknown, "no end called 'barb:bore:9'"):
            find_stacks("barb:bore:9", "solvent:spigot:1")

    @settings(max_examples=80, deadline=None)
    @given(st.sampled_from(ENDS), st.sampled_from(ENDS))
    def test_every_joint_of_every_stack_is_sound(self, start: str, stop: str) -> None:
        """All matings have a method, best first, and reversing the question gives the same stacks reversed."""
        stacks = find_stacks(start, stop)
        for stack in stacks:
            for a, b in stack.ends():
                self.assertIsNotNone(mating_method(a, b), f"{a.name} with {b.name}")
            self.assertEqual(len(stack.ends()), stack.joints)
        for before, after in pairwise(s.cost() for s in stacks):
            self.assertLessEqual(before[0], after[0])
            if before[0] == after[0]:
                self.assertLessEqual(
                    before[1], after[1] + 0.01
                )  # the search keeps detours to a thousandth of an inch a step
        back = [tuple(reversed(s.ids())) for s in find_stacks(stop, start)]
        self.assertEqual([s.ids() for s in stacks], back if start != stop else [s[::-1] for s in back])

    def test_metal_pipe_is_not_put_into_a_plastic_female(self) -> None:
        """From a steel pipe's thread the way begins with a metal female, though a plastic one costs less (common
        practice).
        """
        free, steel = (
            find_stacks("npt:male:1", "solvent:spigot:1", 1, FREE, m)[0]
            for m in (frozenset(), frozenset({"npt:male:1"}))
        )
        self.assertEqual(free.ids(), ("pvc-female-adapter-1-x-1",))
        self.assertEqual((steel.splits(), steel.steps[0].fitting.material), (0, "brass"))

    def test_flexible_pvc_takes_deep_sockets_only(self) -> None:
        """Flexible PVC meets rigid pipe by a deep coupling, never by an ordinary short one (common practice)."""
        for stack in find_stacks("solvent:flex:1-1/2", "solvent:spigot:1-1/2"):
            self.assertEqual(stack.ends()[0][1].gender, "deep")

    def test_wide_nuts_take_what_lies_in_their_range(self) -> None:
        """A universal nut joins lead of 23.5 mm to metric plastic of 25 mm in one body; outside its range it joins
        nothing.
        """
        best = find_stacks("lead:pipe:1/2", "compression:pipe:25")[0]
        self.assertEqual((best.ids(), best.joints), (("universal-coupling-21-27",), 2))
        self.assertIsNone(mating_method(end("universal:socket:21..27"), end("compression:pipe:32")))


class Assemblies(unittest.TestCase):
    """Whole plans."""

    def test_corner_is_an_elbow_by_its_angle(self) -> None:
        """A square corner takes a 90, a 45° one a 45, a straight point nothing."""
        for (x, y), part in {(10, 10): "pvc-elbow-90-1", (20, 10): "pvc-elbow-45-1"}.items():
            done = built(("A", 0, 0, "tank"), ("B", 10, 0, "bend"), ("C", x, y, "cap"), runs=[("A", "B"), ("B", "C")])
            self.assertEqual([p.fitting for p in done.assembly.parts if p.id == "B~hub~1"], [part])
        straight = built(("A", 0, 0, "tank"), ("B", 10, 0, "bend"), ("C", 20, 0, "cap"), runs=[("A", "B"), ("B", "C")])
        self.assertEqual([p for p in straight.assembly.parts if p.point == "B"], [])

    def turned(self, degrees_: float, **more: Any) -> Derived:
        """A stiff line that turns by so many degrees at B."""
        x, y = 10 + 10 * cos(radians(degrees_)), 10 * sin(radians(degrees_))
        spots = [point("A", 0, 0, "tank"), point("B", 10, 0, "bend"), point("C", x, y, "cap")]
        plan = make_plan(spots, [("A", "B"), ("B", "C")], runs_more=[{"series": "pvc40", "size": "1"}] * 2)
        return derive(type(plan).model_validate({**plan.model_dump(), **more}))

    def test_odd_corners_take_two_elbows(self) -> None:
        """67-1/2° is 45 and 22-1/2 in one plane; for 60° the second is rolled round (spherical trigonometry)."""
        two45 = [
            turn_words(h)
            for h in two_elbows(("solvent:spigot:1",) * 2, round(radians(60), 4))
            if h.parts[0].angle == h.parts[1].angle
        ]
        self.assertIn("45° and 45°, the second rolled 90° round the pipe", two45)
        for turn, words in (
            (67.5, "22.5° and 45° in one plane"),
            (60, "22.5° and 45°, the second rolled 55° round the pipe"),
        ):
            done = self.turned(turn)
            found = next(p for p in done.problems() if p.code == "two-elbows")
            self.assertEqual((found.where, found.severity), ("B", "note"))
            self.assertIn(words, found.says)
            self.assertEqual(len([p for p in done.assembly.parts if p.end is None and p.point == "B"]), 2)
            self.assertEqual({j.towards for j in done.assembly.joints if j.role == "between"}, {"the other elbow"})

    def test_a_corner_nothing_fits(self) -> None:
        """A turn of 150° takes two 90s rolled; the crew's own choice of one elbow there is used and told to be off."""
        self.assertIn("two-elbows", {p.code for p in self.turned(150).problems()})
        mine = [{"point": "B", "how": "fitting", "fittings": ["pvc-elbow-90-1"]}]
        found = next(p for p in self.turned(150, nodes=mine).problems() if p.code == "no-elbow")
        self.assertIn("is 60° off the line's turn", found.says)

    def test_offsets_of_two_elbows(self) -> None:
        """Two 45s a metre apart in one plane sit 0.707 m from the square corner; rolled for 60° they do not close in
        the plane.
        """
        t1, t2, side = link_offsets(radians(45), radians(45), radians(90), 1.0)
        self.assertAlmostEqual(t1, sin(radians(45)))
        self.assertAlmostEqual(t2, t1)
        self.assertAlmostEqual(side, 0.0, places=6)
        self.assertGreater(link_offsets(radians(45), radians(45), radians(60), 1.0)[2], 0.3)

    @settings(max_examples=40, deadline=None)
    @given(st.floats(12, 88), st.sampled_from([30.0, 45.0, 90.0]), st.sampled_from([45.0, 60.0, 90.0]))
    def test_rolled_elbows_close_in_space(self, turn: float, one: float, two: float) -> None:
        """The three directions of two rolled elbows, built as vectors, turn by just the angle asked."""
        a, b, t = radians(one), radians(two), radians(turn)
        if not abs(a - b) <= t <= a + b:
            return
        roll = acos(max(-1, min(1, (cos(a) * cos(b) - cos(t)) / (sin(a) * sin(b)))))
        after = (cos(a) * cos(b) - sin(a) * sin(b) * cos(roll), 0.0)  # the third direction along the first
        self.assertAlmostEqual(after[0], cos(t), places=9)
        t1, t2, side = link_offsets(a, b, t, 1.0)
        self.assertAlmostEqual(t1**2 + t2**2 + 2 * t1 * t2 * cos(t) + side**2, 1.0, places=9)

    def test_reducing_tee_before_tee_and_bushing(self) -> None:
        """A smaller branch takes a reducing tee: three joints."""
        spots = [
            point("A", 0, 0, "tank"),
            point("B", 10, 0, "junction"),
            point("C", 20, 0, "cap"),
            point("D", 10, 9, "cap"),
        ]
        sized = [{"series": "pvc40", "size": s} for s in ("1-1/2", "1-1/2", "3/4")]
        done = derive(make_plan(spots, [("A", "B"), ("B", "C"), ("B", "D")], runs_more=sized))
        here = [j for j in done.assembly.joints if j.point == "B"]
        self.assertEqual((parts_list(done.assembly)["pvc-tee-1-1_2-x-1-1_2-x-3_4"], len(here)), (1, 3))

    def test_one_joint_more_where_no_reducing_tee_is_made(self) -> None:
        """A branch five sizes down takes one more fitting and one joint more."""
        spots = [
            point("A", 0, 0, "tank"),
            point("B", 10, 0, "junction"),
            point("C", 20, 0, "cap"),
            point("D", 10, 9, "cap"),
        ]
        sized = [{"series": "pvc40", "size": s} for s in ("2-1/2", "2-1/2", "1/2")]
        done = derive(make_plan(spots, [("A", "B"), ("B", "C"), ("B", "D")], runs_more=sized))
        here = [j for j in done.assembly.joints if j.point == "B"]
        self.assertEqual((len(here), len([p for p in done.assembly.parts if p.point == "B"])), (4, 2))

    def test_polyethylene_bends_by_itself(self) -> None:
        """Coiled pipe takes a 45° corner on its own radius and says how wide the trench must be; in a short leg it
        cannot.
        """
        spots = [point("A", 0, 0, "tank"), point("B", 20, 0, "bend"), point("C", 30, 10, "cap")]
        sized = [{"series": "pe-sidr7", "size": "1"}] * 2
        done = derive(make_plan(spots, [("A", "B"), ("B", "C")], runs_more=sized))
        bend = done.assembly.bends[0]
        self.assertAlmostEqual(bend.radius / 0.0254, 20 * 1.349, places=3)  # 20 × outside, PPI handbook from memory
        self.assertIn("wide-trench", {p.code for p in done.problems()})
        self.assertEqual([p.id for p in done.cuts.pieces], [pipe_of("R1a")])
        short = [point("A", 0, 0, "tank"), point("B", 0.5, 0, "bend"), point("C", 0.5, 0.5, "cap")]
        tight = derive(make_plan(short, [("A", "B"), ("B", "C")], runs_more=sized))
        self.assertEqual([p.fitting for p in tight.assembly.parts if p.id == "B~hub~1"], ["pe-elbow-90-1"])

    def test_polyethylene_to_pvc_at_a_point(self) -> None:
        """Where the material changes stand two adapters and three joints of three methods."""
        plan = make_plan(
            [point("A", 0, 0, "tank"), point("B", 10, 0, "junction"), point("C", 20, 0, "cap")],
            [("A", "B"), ("B", "C")],
            runs_more=[{"series": "pe-sidr7", "size": "1"}, {"series": "pvc40", "size": "1"}],
        )
        here = [j for j in derive(plan).assembly.joints if j.point == "B"]
        self.assertEqual({j.method for j in here}, CURED)
        self.assertEqual([j.id for j in here], [stack_joint("R1b", n) for n in (1, 2, 3)])

    def test_sprinkler_on_a_line_takes_a_threaded_tee(self) -> None:
        """A head on a through line stands on a tee with a threaded branch and a riser of its depth."""
        done = derive(thistledown())
        self.assertEqual(parts_list(done.assembly)["pvc-tee-thread-1-x-1-x-1_2"], 4)
        riser = next(p for p in done.cuts.pieces if p.id == riser_piece("S1"))
        tee = fitting("pvc-tee-thread-1-x-1-x-1_2")
        self.assertAlmostEqual(riser.length, 0.6 - tee.ports[2].stop)

    def test_joint_identity_survives_edits_elsewhere(self) -> None:
        """Adding a sprinkler somewhere else changes no identity and no definition of the joints that stay."""
        one, two = derive(tree(3, "1")), derive(tree(4, "1"))
        mine = {j.id: j.signature for j in one.assembly.joints if j.point in ("J1", "S1", "J2")}
        theirs = {j.id: j.signature for j in two.assembly.joints}
        self.assertGreater(len(mine), 6)
        self.assertEqual(mine, {name: theirs[name] for name in mine})

    def test_renaming_a_point_changes_no_definition(self) -> None:
        """What a point is called is not part of its joints."""
        plan = thistledown()
        named = plan.model_copy(
            update={"points": tuple(p.model_copy(update={"name": p.name + "!"}) for p in plan.points)}
        )
        one, two = ({j.id: j.signature for j in derive(p).assembly.joints} for p in (plan, named))
        self.assertEqual(one, two)

    def test_identities_are_unique(self) -> None:
        """No two joints and no two parts share an id."""
        done = derive(thistledown()).assembly
        self.assertEqual([i for i, n in Counter(j.id for j in done.joints).items() if n > 1], [])
        self.assertEqual([i for i, n in Counter(p.id for p in done.parts).items() if n > 1], [])

    def test_fittings_losses_reach_the_flows(self) -> None:
        """With its fittings the line loses more than without, by the sum of K on its velocity head."""
        done = derive(tank_to_tap(30.0, runs_more=[{"series": "pvc40", "size": "3/4"}]))
        self.assertGreater(done.assembly.minor["R1"], 0.2)
        flow = done.sizes.flows["all"].runs["R1"]
        bare = flow.loss - done.assembly.minor["R1"] * flow.velocity**2 / (2 * 9.80665)
        self.assertAlmostEqual(bare, head_loss_hazen_williams(2.5e-4, 30, pipe("pvc40", "3/4").bore, 150), places=6)

    def test_sticks_join_by_bells(self) -> None:
        """A 30 m run of 20 ft (6.10 m) sticks has four bell joints on the way."""
        done = built(("A", 0, 0, "tank"), ("B", 30, 0, "cap"), runs=[("A", "B")])
        self.assertEqual(len([j for j in done.assembly.joints if j.point is None]), 4)


class Choices(unittest.TestCase):
    """The crew's own ways."""

    CHOSEN = ("pe-spigot-adapter-1-1_4-x-1-1_4", "pvc-coupling-1-1_4")

    def with_choice(self, *fittings: str) -> Derived:
        """The demo with another way at the change of material."""
        plan = thistledown()
        ways = [{"end": "R8b", "fittings": list(fittings)}]
        return derive(type(plan).model_validate({**plan.model_dump(), "ways": ways}))

    def test_a_chosen_way_is_used_and_counted(self) -> None:
        """The stack the crew chose stands in the assembly, on the bill and in the cut lengths."""
        usual, own = derive(thistledown()), self.with_choice(*self.CHOSEN)
        self.assertEqual(tuple(p.fitting for p in own.assembly.parts if p.point == "J7"), self.CHOSEN)
        self.assertEqual(
            parts_list(own.assembly)[self.CHOSEN[0]], parts_list(usual.assembly).get(self.CHOSEN[0], 0) + 1
        )
        one, two = ({p.runs: p.length for p in d.cuts.pieces}["R9",] for d in (usual, own))
        self.assertNotAlmostEqual(one, two, places=4)

    def test_a_choice_stays_through_other_edits(self) -> None:
        """Renaming and moving elsewhere leave it chosen; its joints keep their identity."""
        own = self.with_choice(*self.CHOSEN)
        self.assertEqual(
            [j.id for j in own.assembly.joints if j.point == "J7"], [stack_joint("R8b", n) for n in (1, 2, 3)]
        )
        self.assertNotIn("choice-lapsed", {p.code for p in own.problems()})

    def test_a_choice_that_no_longer_fits_is_told(self) -> None:
        """A way for another size lapses with a problem at its point, and the best one is used."""
        own = self.with_choice("pe-spigot-adapter-2-x-2", "pvc-coupling-2")
        found = next(p for p in own.problems() if p.code == "choice-lapsed")
        self.assertEqual(found.where, "J7")
        usual = derive(thistledown())
        self.assertEqual(parts_list(own.assembly), parts_list(usual.assembly))

    def test_unknown_fittings_are_refused(self) -> None:
        """A way through a part nobody makes is refused when the plan is read."""
        with self.assertRaisesRegex(ValueError, "no fitting called 'pvc-magic'"):
            self.with_choice("pvc-magic")


class Materials(unittest.TestCase):
    """Whole lines in other materials."""

    def line(self, series: str, size: str, kind: str = "cap") -> Derived:
        """A tank, a square corner, and an end."""
        spots = [point("A", 0, 0, "tank"), point("B", 3, 0, "bend"), point("C", 3, 3, kind)]
        return derive(make_plan(spots, [("A", "B"), ("B", "C")], runs_more=[{"series": series, "size": size}] * 2))

    def test_metric_polyethylene_on_compression(self) -> None:
        """PE100 bends or takes compression elbows, and its end a compression cap."""
        done = self.line("pe100-sdr11", "32")
        self.assertEqual({j.method for j in done.assembly.joints if j.point == "C"}, {"compression"})
        self.assertIn("comp-cap-32", parts_list(done.assembly))

    def test_ppr_is_fused(self) -> None:
        """PPR turns on a fused elbow; sticks of 4 m join by couplings of two fusions each."""
        done = self.line("ppr-s2.5", "25")
        self.assertEqual(parts_list(done.assembly)["ppr-elbow-90-25"], 1)
        self.assertEqual({j.method for j in done.assembly.joints if j.point == "B"}, {"socket fusion"})

    def test_galvanized_is_threaded(self) -> None:
        """Galvanized turns on a threaded elbow, metal to metal."""
        done = self.line("galv40", "1", "tap")
        self.assertEqual({j.method for j in done.assembly.joints}, {"thread"})

    def test_drain_pipe_carries_no_pressure(self) -> None:
        """Sewer pipe in a pressure run is reported, in words."""
        told = {p.code: p.says for p in self.line("sewer-sdr35", "4").problems()}
        self.assertIn("carries no pressure", told["wrong-pipe"])


class Hubs(unittest.TestCase):
    """What stands at a point, and the crew's say in it."""

    def line(self, series: str, size: str, x: float, y: float, **more: Any) -> Derived:
        """A tank, a corner 30 m on, and a cap."""
        spots = [point("A", 0, 0, "tank"), point("B", 30, 0, "bend"), point("C", 30 + x, y, "cap")]
        plan = make_plan(spots, [("A", "B"), ("B", "C")], runs_more=[{"series": series, "size": size}] * 2)
        return derive(type(plan).model_validate({**plan.model_dump(), **more}))

    def views(self, done: Derived, plan: Plan, at: str) -> list[NodeView]:
        """The choices at a point."""
        return list(node_views(plan, done.layout, done.settled.pipes, at))

    def test_own_bend_or_elbow(self) -> None:
        """A coil turns by its own radius; the crew may put an elbow there, and it stays."""
        bent = self.line("pe-sidr7", "1", 0, 30)
        self.assertEqual([b.point for b in bent.assembly.bends], ["B"])
        mine = [{"point": "B", "how": "fitting", "fittings": ["pe-elbow-90-1"]}]
        own = self.line("pe-sidr7", "1", 0, 30, nodes=mine)
        self.assertEqual(
            (own.assembly.bends, [p.fitting for p in own.assembly.parts if p.point == "B"]), ((), ["pe-elbow-90-1"])
        )

    def test_a_hub_that_no_longer_fits_lapses(self) -> None:
        """A tee chosen for a corner is reported, and the best elbow is used."""
        done = self.line("pvc40", "1", 0, 30, nodes=[{"point": "B", "how": "fitting", "fittings": ["pvc-tee-1"]}])
        self.assertIn("choice-lapsed", {p.code for p in done.problems()})
        self.assertEqual([p.fitting for p in done.assembly.parts if p.id == "B~hub~1"], ["pvc-elbow-90-1"])

    def branched(self, **more: Any) -> tuple[Plan, Derived]:
        """A 2 in line with a 1 in branch."""
        spots = [
            point("A", 0, 0, "tank"),
            point("B", 10, 0, "junction"),
            point("C", 20, 0, "cap"),
            point("D", 10, 9, "cap"),
        ]
        sized = [{"series": "pvc40", "size": s} for s in ("2", "2", "1")]
        plan = make_plan(spots, [("A", "B"), ("B", "C"), ("B", "D")], runs_more=sized, **more)
        return plan, derive(plan)

    def test_saddle_by_practice(self) -> None:
        """A crew that saddles leaves the line whole: one piece of pipe, one clamp, one branch; a tee is the default
        (common practice).
        """
        _, tee = self.branched()
        self.assertEqual([p.fitting for p in tee.assembly.parts if p.id == "B~hub~1"], ["pvc-tee-2-x-2-x-1"])
        plan, saddle = self.branched(practices={"branch": "saddle"})
        self.assertEqual([p.fitting for p in saddle.assembly.parts if p.id == "B~hub~1"], ["saddle-2-x-1"])
        self.assertIn(("R1", "R2"), [tuple(sorted(p.runs)) for p in saddle.cuts.pieces])
        self.assertEqual(next(j.method for j in saddle.assembly.joints if j.point == "B"), "saddle")
        found = self.views(saddle, plan, "B")
        self.assertEqual(next((v.how, v.used) for v in found), ("saddle", True))
        self.assertTrue(any(v.how == "fitting" and v.joints == 3 for v in found))

    def serviced(self, service: str) -> list[str]:
        """The families of all parts beside a filter in a 1 in line."""
        spots = [point("A", 0, 0, "tank"), point("F", 10, 0, "filter"), point("C", 20, 0, "cap")]
        plan = make_plan(
            spots,
            [("A", "F"), ("F", "C")],
            runs_more=[{"series": "pvc40", "size": "1"}] * 2,
            practices={"service": service},
        )
        return [fitting(p.fitting).family for p in derive(plan).assembly.parts if p.point == "F"]

    def test_what_is_cleaned_comes_out(self) -> None:
        """By default a valve and a union stand on each side of a filter, a true-union valve being both (common
        practice).
        """
        self.assertEqual(self.serviced("both").count("union valve"), 2)
        self.assertEqual(self.serviced("unions").count("union"), 2)
        self.assertFalse({"union", "union valve", "valve"} & set(self.serviced("none")))

    def test_soft_pipe_gets_liners_and_flexible_pvc_heavy_cement(self) -> None:
        """Thin-walled polyethylene takes a liner under every nut; flexible PVC takes no thin cement (common
        practice).
        """
        soft = {r.item: r.count for r in self.line("pe100-sdr17", "40", 5, 0).bill}
        self.assertEqual([n for item, n in soft.items() if item.startswith("liner")], [2])
        flex = [r for r in self.line("pvc-flex", "1-1/2", 0, 4, nodes=[]).bill if r.item == "cement"]
        self.assertIn("heavy body", flex[0].name)

    def test_prices_of_the_crew(self) -> None:
        """A price the crew wrote stands in the bill in place of the starting figure; an unknown item is refused."""
        row = next(
            r for r in self.branched(prices={"pvc-tee-2-x-2-x-1": 7.25})[1].bill if r.item == "pvc-tee-2-x-2-x-1"
        )
        self.assertEqual((row.each, row.price, row.own), (7.25, 7.25, True))
        with self.assertRaisesRegex(ValueError, "no fitting called 'gold-tee'"):
            self.branched(prices={"gold-tee": 1.0})
