"""Drains drawn in a plan: flow, fall, size, how they run, how they are joined and tested."""

import unittest
from dataclasses import replace
from typing import Any

from fluids.open_flow import V_Manning
from hypothesis import given
from hypothesis import strategies as st

from hydrarch.core.base.units import FOOT, GALLON, read
from hydrarch.core.catalogue.guidance import cautioned_at, cautions_for
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.derivation.chain import Derived, derive
from hydrarch.core.editing.fixes import mended
from hydrarch.core.editing.measures import read_measures
from hydrarch.core.measuring.drawn_line import draw_measures
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.upgrades import read_plan
from hydrarch.demo import drying_yard
from tests.core.plans import codes, draw, make_plan, point


def yard(branch: tuple[float, float] = (4.0, 8.0), drop: float = 0.3, flow: float = 1e-3, **more: Any) -> Plan:
    """A gully, a branch from another, and an outfall 24 m off; each 12 m falls by `drop`."""
    spots = [
        point("G", 0, 0, "drain_inlet", flow=flow, depth=0.4),
        point("H", *branch, "drain_inlet", flow=flow / 2, depth=0.4),
        point("J", 12, 0, "junction", depth=0.4 + drop),
        point("O", 24, 0, "outfall", depth=0.4 + 2 * drop),
    ]
    return make_plan(spots, [("G", "J"), ("H", "J"), ("J", "O")], **more)


class NoPressure(unittest.TestCase):
    """What is for pressure is not told of drains."""

    def test_thrust(self) -> None:
        """Gasketed bells of a drain are not driven apart; those of a line under pressure are; where no pipe says which
        it is, they may be.
        """
        self.assertNotIn("thrust", {c.code for c in derive(yard()).cautions})
        self.assertNotIn("thrust", {c.code for c in derive(drying_yard()).cautions})
        for kinds, told in ((["drain"], False), (["drain", "pressure"], True), (["pressure"], True), ([], True)):
            found = {c.code for c in cautions_for(*cautioned_at("gasket bell", kinds))}
            self.assertEqual("thrust" in found, told, kinds)


class LedIn(unittest.TestCase):
    """A drain that comes into another square is brought in at 45° by one press, and can be built then."""

    @staticmethod
    def square(market: str) -> Plan:
        """A main that falls 1 in 80, and a branch that comes in square from a gully."""
        start = point("A", 0, 0, "drain_inlet", depth=0.6)
        plan = draw([start], [], about="rain", conditions={"market": market})
        words = "11 e falling 1 in 80, tee, 18 e falling 1 in 80, outfall, at tee 1: 3 n rising 1 in 80, drain inlet"
        return draw_measures(plan, "A", read_measures(words)).plan

    def test_by_one_press(self) -> None:
        """Both markets: after it nothing is square, no way is wanting, and every stretch falls."""
        for shop in ("north-american", "elsewhere"):
            with self.subTest(shop):
                plan = self.square(shop)
                self.assertNotIn("two-runs", codes(plan))
                told = next(p for p in derive(plan).problems() if p.code == "square-branch")
                after = mended(plan, told)
                assert after is not None
                self.assertTrue(
                    {"square-branch", "no-way", "tee-angle", "rises"}.isdisjoint(codes(after)), codes(after)
                )
                self.assertEqual(len(after.runs), len(plan.runs) + 1)

    def test_an_inlet_at_the_far_end_begins_its_drain(self) -> None:
        """A branch drawn from the main up to its gully is the gully's outlet."""
        plan = self.square("elsewhere")
        last = next(p for p in plan.points if p.name == "Drain inlet 1")
        (run,) = (r for r in plan.runs if last.id in r.points)
        self.assertEqual({plan.port_name(e) for e in run.ends if e.point == last.id}, {"out"})

    def test_whole_sticks_leave_no_crumbs(self) -> None:
        """18 m of pipe in sticks of 3 m is six whole sticks: no piece of nothing is cut."""
        cuts = derive(self.square("elsewhere")).cuts
        for nest in cuts.nests:
            self.assertTrue(all(length > 1e-3 for s in nest.sticks for _, length in s.cuts), nest)


class Drains(unittest.TestCase):
    """What a drain carries and how."""

    def codes(self, done: Derived) -> dict[str, str]:
        """Problems by code."""
        return {p.code: p.says for p in done.problems()}

    def test_flows_add_up(self) -> None:
        """Each run carries what comes from above it; velocities are Manning's, against fluids.open_flow at the wetted
        section.
        """
        done = derive(yard())
        flows = {d.run: d.flow for d in done.drains}
        self.assertEqual(flows, {"R1": 1e-3, "R2": 5e-4, "R3": 1.5e-3})
        d = next(d for d in done.drains if d.run == "R3")
        assert d.state is not None
        self.assertAlmostEqual(d.fall, 0.3 / (12**2 + 0.3**2) ** 0.5, places=6)
        bore = pipe(d.series, d.size).bore
        full = float(V_Manning(bore / 4, d.fall, 0.010))
        self.assertAlmostEqual(
            d.state.full_velocity / full, 1.0, delta=0.15
        )  # the catalogue's n is within 0.009 to 0.011
        self.assertTrue(d.state.cleans)

    @given(st.floats(1e-4, 2e-2), st.floats(0.05, 1.0))
    def test_sizes_never_shrink_downstream(self, flow: float, drop: float) -> None:
        """Whatever comes, a drain is no smaller below than above, runs three quarters full or less or says so, and mass
        is kept.
        """
        done = derive(yard(flow=flow, drop=drop))
        drains = {d.run: d for d in done.drains}
        bores = {r: pipe(d.series, d.size).bore for r, d in drains.items()}
        self.assertGreaterEqual(bores["R3"], max(bores["R1"], bores["R2"]) - 1e-9)
        self.assertAlmostEqual(drains["R3"].flow, drains["R1"].flow + drains["R2"].flow)
        full = any(d.state is None or not d.state.fits or d.state.depth > 0.75 for d in drains.values())
        self.assertEqual(full, "drain-full" in self.codes(done))

    def test_no_fall_and_too_little(self) -> None:
        """A drain that rises is stopped with by how much; one nearly flat is told to be too slow for its dirt."""
        self.assertIn("lies level", self.codes(derive(yard(drop=0.0)))["no-fall"])
        self.assertIn("rises 300 mm", self.codes(derive(yard(drop=-0.3)))["no-fall"])
        self.assertIn("solids settle in it", self.codes(derive(yard(drop=0.02, flow=2e-4)))["drain-slow"])

    def test_which_way_round_it_is_drawn(self) -> None:
        """Drawn from the outfall up the answer is the same."""
        plan = yard()
        turned = plan.model_copy(update={"runs": tuple(r.model_copy(update={"a": r.b, "b": r.a}) for r in plan.runs)})
        one, two = derive(plan).drains, derive(turned).drains
        self.assertEqual([replace(d, says="") for d in one], [replace(d, says="") for d in two])

    def test_a_branch_sweeps_in(self) -> None:
        """At 45° with the flow it takes a wye and nothing is said; square it takes a tee and is told; against the flow
        too (common practice).
        """
        with_it, square, against = derive(yard((4.0, 8.0))), derive(yard((12.0, 8.0))), derive(yard((20.0, 8.0)))
        hubs = [
            next(p.fitting for p in d.assembly.parts if p.point == "J" and p.end is None)
            for d in (with_it, square, against)
        ]
        self.assertEqual([h.split("-")[1] for h in hubs], ["wye", "tee", "wye"])
        self.assertEqual([("square-branch" in self.codes(d)) for d in (with_it, square, against)], [False, True, True])

    def test_house_practice_chooses_the_pipe(self) -> None:
        """The yard drain's school names the pipe of runs left open; a crew's own pipe wins; a pressure pipe is told to
        be none.
        """
        names = {"sdr35": "sewer-sdr35", "thin": "sewer-thin", "corrugated": "corrugated", "dwv": "dwv40"}
        for school, series in names.items():
            self.assertEqual({d.series for d in derive(yard(practices={"drain": school})).drains}, {series})
        own = yard(runs_more=[{"series": "dwv40", "size": "3"}, {}, {}])
        self.assertEqual(derive(own).drains[0].series, "dwv40")
        self.assertIn(
            "is no drain pipe",
            self.codes(derive(yard(runs_more=[{"series": "pvc40"}, {}, {}])))["wrong-pipe"],
        )
        plan = make_plan(
            [point("A", 0, 0, "tank"), point("B", 9, 0, "cap")], [("A", "B")], runs_more=[{"series": "sewer-sdr35"}]
        )
        self.assertIn("carries no pressure", self.codes(derive(plan))["wrong-pipe"])

    def test_drain_on_the_supply(self) -> None:
        """A drain that hangs on the water supply is stopped: they are never one line."""
        spots = [point("A", 0, 0, "tank"), point("J", 9, 0, "junction"), point("O", 18, 0, "outfall")]
        done = derive(make_plan(spots, [("A", "J"), ("J", "O")], runs_more=[{"series": "sewer-sdr35"}] * 2))
        self.assertIn("never be one line", self.codes(done)["drain-on-supply"])

    def test_an_inlet_that_leads_nowhere(self) -> None:
        """An inlet without a way to an outfall is named; a plan of drains alone wants no source."""
        lost = make_plan([point("G", 0, 0, "drain_inlet"), point("J", 5, 0, "junction")], [("G", "J")])
        self.assertIn("leads to no outfall", self.codes(derive(lost))["inlet-without-outfall"])
        self.assertNotIn("no-source", self.codes(derive(yard())))

    def test_beside_the_supply(self) -> None:
        """Water and drain in one job: each is sized by its own rule, and the least cost leaves the drain alone."""
        plan = yard()
        spots = [
            *(p.model_dump(exclude={"ports", "existing"}) for p in plan.points),
            point("A", 0, 30, "tank", water_level=30.0),
            point("T", 9, 30, "tap"),
        ]
        runs = [*(r.points for r in plan.runs), ("A", "T")]
        done = derive(make_plan(spots, runs))
        self.assertEqual({c.limit for r, c in done.sizes.choices.items() if done.layout.systems.drain(r)}, {"drain"})
        self.assertEqual(set(done.sizes.flows["all"].runs), {"R4"})

    def test_joints_and_test(self) -> None:
        """Lengths go bell to spigot on gaskets, work begins at the outfall, and the test is the water itself to the
        highest inlet.
        """
        done = derive(yard(practices={"drain_fittings": "gasket"}))
        along = [j for j in done.assembly.joints if j.point is None]
        self.assertEqual({j.method for j in along}, {"gasket bell"})
        self.assertEqual(len(along), sum(-(-int(p.length * 1000) // 3048) - 1 for p in done.cuts.pieces))
        self.assertIn("O", done.work.groups[0].title + done.work.groups[1].title)
        (section,) = done.sections
        self.assertAlmostEqual(section.test / 9806, 0.6, delta=0.01)
        self.assertIn("never pumped up", section.says)
        (grease,) = (b for b in done.bill if b.item == "lubricant")
        greased = sum(j.method == "gasket bell" for j in done.assembly.joints)
        self.assertEqual(greased, len(along) + 3)  # the wye's three bells are of the same kind as the lengths' own
        self.assertIn(f"{16 * greased} g for {greased} gasketed joints", grease.detail)


class Rain(unittest.TestCase):
    """What a roof or the ground brings in the hardest rain."""

    def brought(self, area: float, rain: float, **more: Any) -> Derived:
        """A downpipe of that area and another of a tenth, to a drain that falls."""
        plan = yard(conditions={"rain": rain})
        points = [
            {**p.model_dump(), "what": {**p.what.model_dump(), "area": a, **more}} if a else p.model_dump()
            for p, a in zip(plan.points, (area, area / 10, 0, 0), strict=True)
        ]
        return derive(Plan.model_validate({**plan.model_dump(), "points": points}))

    def test_by_the_codes(self) -> None:
        """An inch an hour on a square foot is 0.0104 gal/min (tables of plumbing codes, from memory); 0.03 L/(s·m²) on
        180 m² of roof is 5.4 L/s (EN 12056-3's way, C = 1).
        """
        done = self.brought(1000 * FOOT**2, 1 / 12 * FOOT / 3600)
        self.assertAlmostEqual(done.drains[0].flow / (GALLON / 60), 10.4, delta=0.02)
        done = self.brought(180.0, 0.108 / 3600)
        self.assertEqual([round(d.flow * 1e3, 6) for d in done.drains], [5.4, 0.54, 5.94])
        self.assertIn("180.00 m² of roof in 108 mm/h", done.drains[0].says)
        self.assertNotIn("roof", done.drains[2].says)

    def test_grass_takes_most_of_it(self) -> None:
        """Three tenths run off grass; with no rain nothing comes; without an area it is the crew's figure, however it
        rains.
        """
        self.assertAlmostEqual(self.brought(100.0, 1e-5, surface="grass").drains[0].flow, 3e-4)
        self.assertIn("30% of it", self.brought(100.0, 1e-5, surface="grass").drains[0].says)
        self.assertEqual(self.brought(100.0, 0.0).drains[0].flow, 0.0)
        self.assertEqual(self.brought(0.0, 1e-4).drains[0].flow, 1e-3)

    def test_rain_as_it_is_typed(self) -> None:
        """In inches or millimetres an hour, or litres on a hectare: 360 L/(s·ha) is 129.6 mm/h."""
        for text, mm in (("4 in/h", 101.6), ("100 mm/h", 100.0), ("360 L/s/ha", 129.6)):
            self.assertAlmostEqual(read(text, "rain", "metric") * 3.6e6, mm, msg=text)


class CleanOuts(unittest.TestCase):
    """A drain that no rod reaches."""

    def told(self, long: float, cap: float | None = None, situation: str = "buried") -> bool:
        """Whether a drain so long wants a clean-out; with a capped wye at a place of it."""
        spots = [point("G", 0, 0, "drain_inlet", depth=0.4), point("O", long, 0, "outfall", depth=0.4 + long / 50)]
        runs = [("G", "O")]
        if cap is not None:
            spots += [
                point("J", cap, 0, "junction", depth=0.4 + cap / 50),
                point("C", cap - 1, 1, "cap", depth=0.1 + cap / 50),
            ]
            runs = [("G", "J"), ("C", "J"), ("J", "O")]
        plan = make_plan(spots, runs, runs_more=[{"situation": situation}] * len(runs))
        return "no-cleanout" in {p.code for p in derive(plan).problems()}

    def test_a_hundred_feet(self) -> None:
        """Up to 30.48 m is rodded from the open end; beyond it a capped wye mends it where it is near enough, and pipe
        in sight is taken apart.
        """
        self.assertFalse(self.told(30.0))
        self.assertTrue(self.told(31.0))
        self.assertFalse(self.told(60.0, cap=29.0))
        self.assertTrue(self.told(80.0, cap=20.0))
        self.assertFalse(self.told(31.0, situation="on bracket"))


class Diverter(unittest.TestCase):
    """A three-way valve lets out to the sewer or to the garden, and each way is a drain of its own."""

    def grey(self, garden: float = 0.9) -> Derived:
        """A washer's drain, the valve, a short way to the sewer and a long one round a corner to the garden."""
        spots = [
            point("G", 0, 0, "drain_inlet", depth=0.4, flow=5e-4),
            point("V", 3, 0, "three_way", depth=0.5),
            point("S", 3, -2, "outfall", depth=0.6),
            point("B", 10, 0, "bend", depth=0.7),
            point("O", 10, 12, "outfall", depth=garden),
        ]
        runs = [("G:out", "V:in"), ("V:left", "S"), ("V:right", "B"), ("B", "O")]
        return derive(draw(spots, runs, runs_more=[{"series": "dwv40"}] * 4))

    def test_either_way_takes_all_of_it(self) -> None:
        """However near the sewer is, the garden's pipe falls from the valve on, and carries all that comes."""
        done = self.grey()
        self.assertEqual(
            {d.run: (d.upper, d.lower) for d in done.drains},
            {"R1": ("G", "V"), "R2": ("V", "S"), "R3": ("V", "B"), "R4": ("B", "O")},
        )
        self.assertEqual({d.flow for d in done.drains}, {5e-4})
        self.assertFalse({p.code for p in done.problems()} & {"no-fall", "inlet-without-outfall"})

    def test_a_garden_that_lies_higher(self) -> None:
        """It is told on the run that rises, and nowhere else."""
        self.assertEqual([p.where for p in self.grey(0.5).problems() if p.code == "no-fall"], ["R4"])


class OneKind(unittest.TestCase):
    """A drain is made of its material's own fittings by one way of joining, and never smaller than what comes in."""

    @staticmethod
    def line(shop: str, pipe: str) -> Plan:
        """A main with a branch at 45°, a clean-out, a bend and an outfall, of the pipe the crew standard names."""
        c = 0.5**0.5
        spots = [
            point("G", 0, 0, "drain_inlet", flow=5e-4, depth=0.4),
            point("H", 6 - 3 * c, 3 * c, "drain_inlet", flow=5e-4, depth=0.45),
            point("J", 6, 0, "junction", depth=0.5),
            point("K", 12, 0, "junction", depth=0.6),
            point("C", 12 - c, -c, "cap", depth=0.58),
            point("B", 18, 0, "bend", depth=0.7),
            point("O", 18 + 6 * c, 6 * c, "outfall", depth=0.8),
        ]
        runs = [("G:out", "J"), ("H:out", "J"), ("J", "K"), ("C", "K"), ("K", "B"), ("B", "O")]
        return draw(spots, runs, conditions={"market": shop}, practices={"drain": pipe})

    def test_each_material_in_each_market(self) -> None:
        """Gaskets, snaps or cement throughout; what this market has not is said once, with what is taken."""
        ways = {"sdr35": "gasket bell", "thin": "gasket bell", "corrugated": "snap", "dwv": "solvent weld"}
        for shop in ("north-american", "elsewhere"):
            for pipe_, way in ways.items():
                with self.subTest(shop, pipe=pipe_):
                    done = derive(self.line(shop, pipe_))
                    foreign = shop == "elsewhere" and pipe_ in ("thin", "dwv")
                    methods = {j.method for j in done.assembly.joints} - {"thread"}  # the plug of a clean-out
                    self.assertEqual(methods, {"gasket bell" if foreign else way})
                    told = [p.code for p in done.problems()]
                    self.assertEqual(told.count("drain-not-sold"), int(foreign))
                    self.assertNotIn("no-way", told)

    def test_what_was_drawn_before_keeps_its_fittings(self) -> None:
        """A plan of an earlier format has cemented wyes and caps on its bell pipe, as it was told then; a crew that
        wants gaskets says so.
        """
        body = self.line("north-american", "sdr35").model_dump(mode="json")
        old = read_plan({**body, "format": "hydrarch/plan/2"})
        self.assertEqual(old.practices["drain_fittings"], "mixed")
        said = read_plan({**body, "format": "hydrarch/plan/2", "practices": {"drain_fittings": "gasket"}})
        ways = [{j.method for j in derive(p).assembly.joints} for p in (old, said)]
        self.assertEqual(ways, [{"gasket bell", "solvent weld"}, {"gasket bell"}])
        supply = draw([point("M", 0, 0, "mains"), point("T", 9, 0, "tap")], [("M", "T")]).model_dump(mode="json")
        self.assertEqual(read_plan({**supply, "format": "hydrarch/plan/2"}).practices, {})

    @given(st.sampled_from(("fibre 4", "copper-dwv 4", "cast-iron 4", "sewer-sdr35 4", "dwv40 4")))
    def test_sizes_go_by_what_they_are_called(self, old: str) -> None:
        """After an old 4 in drain comes 4 in, or 110 mm, whatever the walls leave of either; one band joins them."""
        name, size = old.rsplit(" ", 1)
        for shop, wanted in (("north-american", "4"), ("elsewhere", "110")):
            spots = [
                point("G", 0, 0, "drain_inlet", flow=5e-4, depth=0.4),
                point("J", 5, 0, "bend", depth=0.5),
                point("O", 20, 0, "outfall", depth=0.8),
            ]
            met = {"existing": {}, "series": name, "size": size}
            done = derive(draw(spots, [("G:out", "J"), ("J", "O")], runs_more=[met, {}], conditions={"market": shop}))
            self.assertEqual(done.settled.pipes["R2"].size, wanted, (old, shop))

    def test_a_drain_that_gets_smaller_is_told(self) -> None:
        """The crew's own 3 in pipe after 4 in; not after 3 in."""
        for upper, told in (("4", True), ("3", False)):
            plan = yard()
            runs = tuple(
                r.model_copy(update={"series": "sewer-sdr35" if n < 2 else "dwv40", "size": upper if n < 2 else "3"})
                for n, r in enumerate(plan.runs)
            )
            if upper == "3":
                runs = tuple(r.model_copy(update={"series": "dwv40"}) for r in runs)
            found = [p for p in derive(plan.model_copy(update={"runs": runs})).problems() if p.code == "drain-narrows"]
            self.assertEqual(bool(found), told)
            if told:
                self.assertEqual(
                    found[0].title, "DWV 40 3 after Sewer SDR35 4 in the drain from junction J to outfall O"
                )


class FallsIn(unittest.TestCase):
    """What ends over an inlet falls in through the open, and its water goes on in that drain."""

    @staticmethod
    def lifted(market: str, **more: Any) -> Plan:
        """A pit with its pump, a check valve, and an inlet 10 m off whose drain runs 20 m to an outfall."""
        spots = [
            point("S", 0, 0, "sump", depth=1.5, comes=1e-4, **more),
            point("C", 0, 1, "check_valve", depth=0.5),
            point("I", 10, 1, "drain_inlet", flow=2e-4, depth=0.3),
            point("O", 30, 1, "outfall", depth=0.8),
        ]
        return draw(spots, [("S", "C"), ("C", "I:in"), ("I:out", "O")], conditions={"market": market})

    def test_a_pumped_line_over_an_inlet(self) -> None:
        """In both markets the pump lifts, nothing is joined to the drain, and the drain carries what is pumped and
        what runs in: at most the pump's flow where it lifts to the inlet's level, losses left out.
        """
        for shop in ("north-american", "elsewhere"):
            with self.subTest(shop):
                done = derive(self.lifted(shop))
                told = {p.code for p in done.problems()}
                self.assertTrue({"no-way", "pit-fills", "drain-into-drain"}.isdisjoint(told), told)
                self.assertGreater(done.rounds.pits[0].gives, 1e-4)
                drain = done.drains[0]
                # the curve of a new pit's pump: 7.5 m at 1 L/s, 2.5 m at 3 L/s; it lifts from -1 m to -0.3 m: 0.7 m
                self.assertAlmostEqual(drain.flow, 2e-4 + 3e-3, places=9)
                self.assertIn("pumped into it", drain.says)
                self.assertNotIn("I", {j.point for j in done.assembly.joints if "R2" in j.id})

    def test_one_that_stands_by_is_not_added(self) -> None:
        """A second pump that stands by never runs with the first."""
        plan = self.lifted("elsewhere")
        second = plan.points[0].model_copy(
            update={"id": "T", "x": 0.5, "what": plan.points[0].what.model_copy(update={"turn": "stands by"})}
        )
        tee = plan.points[1].model_copy(update={"id": "C2", "x": 0.5})
        runs = [("S", "C"), ("T", "C2"), ("C", "J"), ("C2", "J"), ("J", "I:in"), ("I:out", "O")]
        spots = [p.model_dump() for p in (*plan.points, second, tee)]
        both = draw([*spots, point("J", 1, 1, "junction", depth=0.5)], runs)
        self.assertAlmostEqual(next(d for d in derive(both).drains if d.upper == "I").flow, 3.2e-3, places=9)

    def test_a_drain_over_an_inlet(self) -> None:
        """A gully that runs into a gully: the lower one's drain carries both, is no smaller, and both lead out."""
        spots = [
            point("A", 0, 0, "drain_inlet", flow=2e-3, depth=0.3),
            point("B", 10, 0, "drain_inlet", flow=1e-3, depth=0.6),
            point("O", 30, 0, "outfall", depth=1.2),
        ]
        done = derive(draw(spots, [("A:out", "B:in"), ("B:out", "O")]))
        self.assertNotIn("inlet-without-outfall", {p.code for p in done.problems()})
        upper, lower = sorted(done.drains, key=lambda d: d.flow)
        self.assertEqual((upper.upper, lower.upper), ("A", "B"))
        self.assertAlmostEqual(upper.flow, 2e-3)
        self.assertAlmostEqual(lower.flow, 3e-3)

    def test_a_drain_into_a_pit(self) -> None:
        """A gully leads to its pit as to an outfall, and the pit takes all that comes to it."""
        spots = [
            point("A", 0, 0, "drain_inlet", flow=2e-4, depth=0.3),
            point("S", 10, 0, "sump", depth=1.2),
            point("C", 10, 1, "check_valve", depth=0.5),
            point("O", 30, 1, "outfall", depth=0.3),
        ]
        done = derive(draw(spots, [("A:out", "S:in"), ("S:out", "C"), ("C", "O")]))
        self.assertNotIn("inlet-without-outfall", {p.code for p in done.problems()})
        self.assertAlmostEqual(done.rounds.pits[0].comes, 2e-4)
        self.assertEqual([d.lower for d in done.drains], ["S"])

    def test_a_pit_is_told_the_most_that_may_come(self) -> None:
        """What falls into its gully from another, and all of a drain that forks to an outfall nearer than the pit:
        which way water takes there is not known.
        """
        spots = [
            point("Z", -9, 0, "drain_inlet", flow=1e-4, depth=0.2),
            point("A", 0, 0, "drain_inlet", flow=2e-4, depth=0.4),
            point("J", 10, 0, "junction", depth=0.6),
            point("F", 12, 2, "outfall", depth=0.7),
            point("S", 30, 0, "sump", depth=1.2),
            point("C", 30, 1, "check_valve", depth=0.5),
            point("O", 50, 1, "outfall", depth=0.3),
        ]
        runs = [("Z:out", "A:in"), ("A:out", "J"), ("J", "F"), ("J", "S:in"), ("S:out", "C"), ("C", "O")]
        self.assertAlmostEqual(derive(draw(spots, runs)).rounds.pits[0].comes, 3e-4)
