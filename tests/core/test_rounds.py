"""Ponds, tubs and tanks: shapes, laws of open water, suctions, what runs back, and the room as a whole on three small
plans.
"""

import unittest
from math import pi
from typing import Any

from scipy.optimize import brentq

from hydrarch.core.base.units import GALLON
from hydrarch.core.circulation.laws import standpipe
from hydrarch.core.components.base import kind_named
from hydrarch.core.components.basins import Jet
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.hydraulics.round_flow import AIR_SPEED, overflows, turnover_flow
from hydrarch.core.plan.document import Plan
from hydrarch.demo import cedar_tub, show_tank, swimming_pond
from tests.core.plans import draw
from tests.core.waters import Things, cover, over_sump, thing, told, tub


class Sizes(unittest.TestCase):
    """What a loop must carry, and which of its ways are one size."""

    def test_suctions_are_one_size_and_returns_another(self) -> None:
        """All before the pump is of one size, so that each carries all; the last ways to returns are alike."""
        done = derive(swimming_pond(), strict=True)
        size = {r: c.size for r, c in done.sizes.choices.items()}
        self.assertEqual(len({size[f"L{n}"] for n in range(1, 10)}), 1)
        self.assertEqual(len({size[r] for r in ("L15", "L17", "L19")}), 1)

    def test_flexible_below_and_rigid_above(self) -> None:
        """By that practice what is buried of a pond is flexible pipe with its deep sockets, and what stands is not; a
        crew's own pipe stays.
        """
        plan = swimming_pond()
        runs = [
            r.model_copy(update={"situation": "on surface"})
            if r.id == "L9"
            else r.model_copy(update={"series": "pvc80"})
            if r.id == "L14"
            else r
            for r in plan.runs
        ]
        done = derive(
            Plan.model_validate(
                plan.model_copy(update={"runs": tuple(runs), "practices": {"round_pipe": "flexible"}}).model_dump()
            ),
            strict=True,
        )
        series = {r: c.series for r, c in done.sizes.choices.items()}
        self.assertEqual((series["L1"], series["L9"], series["L14"]), ("pvc-flex", "pvc40", "pvc80"))
        self.assertTrue(any("deep" in r.name.lower() for r in done.bill))

    def test_it_carries_what_goes_round(self) -> None:
        """A pond of 18 m³ once in two hours wants 9 m³/h: each suction's pipe carries that at the limit, whatever its
        own share is.
        """
        plan = tub(cover("A", 0.5), cover("B", -0.5), turnover=300.0)
        want = turnover_flow(plan, "W")
        self.assertAlmostEqual(want, pi * 0.8 / 300)
        done = derive(plan)
        for run in ("R1", "R2", "R3"):
            bore = done.settled.pipes[run].bore
            self.assertLessEqual(want / (pi * bore**2 / 4), plan.conditions.max_velocity * 1.001)

    def test_jets_by_common_practice(self) -> None:
        """A large body takes 2 in of water and 1-1/2 in of air, a small one an inch of each (common practice)."""
        for kind, water, air in (("jet", "2", "1-1/2"), ("small_jet", "1", "1")):
            ports = {
                p.name: (p.given or {})["north-american"] for p in kind_named(kind).ports_of(kind_named(kind).start)
            }
            self.assertEqual(ports, {"water": f"solvent:socket:{water}", "air": f"solvent:socket:{air}"})

    def test_a_ring_is_even(self) -> None:
        """The jets of a ring get the same within a few in the hundred; on a thin tree the last one starves, and that is
        told.
        """
        done = derive(cedar_tub(), strict=True)
        (jets,) = done.rounds.jets
        self.assertEqual(len(jets.flows), 6)
        self.assertLess(jets.short, 0.03)
        spots: Things = [
            thing("W", "basin", 0, 0, 0, use="hot tub", long=12.0, wide=2.0, depth=1.0, rim=1.0),
            thing("S", "skimmer", -6, 0, 0.9),
            thing("P", "pump", -7, 0, 0.9),
            *(thing(f"T{n}", "junction", 3.0 * n - 6, 1.5, 0.5) for n in range(4)),
            *(thing(f"J{n}", "jet", 3.0 * n - 6, 1, 0.5) for n in range(4)),
        ]
        ways = [
            ("S", "P"),
            ("P", "T0"),
            ("T0", "T1"),
            ("T1", "T2"),
            ("T2", "T3"),
            *((f"T{n}", f"J{n}:water") for n in range(4)),
        ]
        thin = draw(spots, ways, runs_more=[{"series": "pvc40", "size": "3/4"}] * len(ways))
        self.assertIn("jets-uneven", told(thin))

    def test_air_is_a_system_of_its_own(self) -> None:
        """Its pipe carries the jets' air at 12 m/s at the most; it rises above the water, has a check, and is tested
        apart and low.
        """
        plan = cedar_tub()
        done = derive(plan, strict=True)
        (air,) = (s for s in done.systems.found if s.sort == "air")
        jets = sum(p.what.air for p in plan.points if isinstance(p.what, Jet))
        half = [
            r for r in air.runs if {e.point[0] for e in plan.run_by_id[r].ends} == {"O"}
        ]  # of a ring that is fed at one place
        for run in air.runs:
            carried = jets / 2 if run in half else jets if "L12" < run < "L17" else 0.0
            self.assertLessEqual(carried / (pi * done.settled.pipes[run].bore ** 2 / 4), AIR_SPEED * 1.001)
        (section,) = (s for s in done.sections if set(s.runs) <= set(air.runs))
        self.assertLess(section.test, 10e3)
        without = [p for p in plan.points if p.id != "CV"]
        runs = [r for r in plan.runs if "CV" not in r.points]
        bridge = plan.runs[-1].model_copy(
            update={
                "id": "X",
                "a": plan.runs[-1].a.model_copy(update={"id": "Xa", "point": "BL", "port": "out"}),
                "b": plan.runs[-1].b.model_copy(update={"id": "Xb", "point": "E6", "port": ""}),
            }
        )
        bare = plan.model_copy(update={"points": tuple(without), "runs": (*runs, bridge)})
        self.assertIn("air-no-check", told(Plan.model_validate(bare.model_dump())))
        low = Plan.model_validate(
            {
                **plan.model_dump(),
                "points": [
                    {**p.model_dump(), "depth": -0.7} if p.id in ("BL", "CV", "E6", "E7") else p.model_dump()
                    for p in plan.points
                ],
            }
        )
        self.assertIn("air-low", told(low))
        turned = plan.model_dump()
        for run in turned["runs"]:
            for side in ("a", "b"):
                if run[side]["point"] == "CV":
                    run[side]["port"] = {"in": "out", "out": "in"}[run[side]["port"]]
        self.assertIn("faces the wrong way", told(Plan.model_validate(turned))["air-no-check"])
        # a branch that stands up higher than the line keeps nothing back
        aside = low.model_dump()
        corner = next(p for p in aside["points"] if p["id"] == "E6")
        aside["points"] = [*aside["points"], {**corner, "id": "Z", "name": "Z", "depth": -3.0, "x": corner["x"] + 0.5}]
        aside["points"][-1]["what"] = {"kind": "cap"}
        more = {**aside["runs"][-1], "id": "RZ"}
        more |= {"a": {"id": "RZa", "point": "E6", "port": ""}, "b": {"id": "RZb", "point": "Z", "port": ""}}
        aside["runs"] = [*aside["runs"], more]
        self.assertIn("air-low", told(Plan.model_validate(aside)))

    def test_a_heater_out_of_its_range(self) -> None:
        """More through it than its maker allows asks for a bypass."""
        plan = cedar_tub()
        small = [
            p.model_copy(update={"what": p.what.model_copy(update={"largest": 2e-3})}) if p.id == "H" else p
            for p in plan.points
        ]
        self.assertIn(
            "heater-flow", told(Plan.model_validate(plan.model_copy(update={"points": tuple(small)}).model_dump()))
        )


class RunsBack(unittest.TestCase):
    """The sump that must hold what comes when the pump stops."""

    def held(self, plan: Plan) -> Any:
        """What is reported of its one sump."""
        (found,) = derive(plan, strict=True).rounds.back
        return found

    def running(self, plan: Plan) -> float:
        """The level its tank stands at, 1.45 m at the least: where its two standpipes take together all that comes."""
        done = derive(plan, strict=True)
        comes = max(f.lifts["P"][0] for f in done.sizes.flows.values())
        found = brentq(lambda h: standpipe(h - 1.43, 0.04) + standpipe(h - 1.445, 0.04) - comes, 1.43, 1.5)
        return max(1.45, float(found))

    def test_it_holds_where_it_does(self) -> None:
        """By hand: the tank falls to its lower standpipe's end or where the return takes air; what the sump has room
        for is compared.
        """
        plan = over_sump()
        deep = self.held(plan)  # the return lies at 1.0 m: the siphon runs until it is bare
        self.assertAlmostEqual(deep.from_bodies, 1.2 * 0.6 * (self.running(plan) - 1.0), delta=1e-6)
        self.assertAlmostEqual(deep.room, 0.9 * 0.45 * 0.2, delta=1e-9)
        self.assertFalse(deep.holds)
        self.assertIn("sump-cannot-hold", told(plan))
        holed = self.held(over_sump(hole_=0.40))  # a hole at 1.40 m breaks it there
        self.assertAlmostEqual(holed.from_bodies, 1.2 * 0.6 * (self.running(over_sump(hole_=0.40)) - 1.40), delta=1e-6)
        self.assertTrue(holed.holds)
        self.assertIn("it holds.", holed.says)
        self.assertNotIn("sump-cannot-hold", told(over_sump(hole_=0.40)))

    def test_no_check_valve_is_trusted(self) -> None:
        """With a check valve behind the pump as much may come as without one: a grain holds it open, and the sump that
        would run over without it is not said to hold.
        """
        found, bare = self.held(over_sump(check=True)), self.held(over_sump())
        self.assertAlmostEqual(found.from_bodies, bare.from_bodies, delta=0.01)
        self.assertGreater(found.from_pipe, 0.0)
        self.assertFalse(found.holds)
        self.assertIn("a grain in it lets all of it by", found.says)
        (problem,) = (p for p in derive(over_sump(check=True)).problems() if p.code == "sump-cannot-hold")
        self.assertNotIn("put a check valve", problem.mend)
        self.assertTrue(self.held(over_sump(check=True, hole_=0.40)).holds)

    def test_a_body_stands_as_high_as_its_drains_need(self) -> None:
        """A tank whose standpipes take what comes only with water over their ends stands at that, not at the lower
        level it was said to stand at: what runs back is calculated from there.
        """
        plan = over_sump(hole_=0.40)
        self.assertGreater(self.running(plan), 1.45)
        self.assertAlmostEqual(self.held(plan).from_bodies, 1.2 * 0.6 * (self.running(plan) - 1.40), delta=1e-6)

    def test_a_bulkhead_that_lets_out(self) -> None:
        """A tank that runs out by a bulkhead in its wall falls to that when the pump stops, and not only to a
        standpipe's end; shut off, it does not.
        """
        body = over_sump(hole_=0.40).model_dump()
        more = draw(
            [
                thing("L", "bulkhead", -0.6, 0.2, 1.1),
                thing("V", "valve", -0.7, 0.2, 0.7),
                thing("E", "returns", -0.45, 0.2, 0.3),
            ],
            [("L", "V"), ("V", "E")],
        ).model_dump()
        for n, run in enumerate(more["runs"]):
            run |= {"id": f"X{n}", "a": {**run["a"], "id": f"X{n}a"}, "b": {**run["b"], "id": f"X{n}b"}}
        both = Plan.model_validate(
            {**body, "points": [*body["points"], *more["points"]], "runs": [*body["runs"], *more["runs"]]}
        )
        open_ = self.held(both)
        self.assertAlmostEqual(open_.from_bodies, 1.2 * 0.6 * (self.running(both) - 1.1), delta=1e-6)
        self.assertFalse(open_.holds)
        shut = [
            p.model_copy(update={"what": p.what.model_copy(update={"opening": 0.0})}) if p.id == "V" else p
            for p in both.points
        ]
        self.assertTrue(
            self.held(Plan.model_validate(both.model_copy(update={"points": tuple(shut)}).model_dump())).holds
        )

    def test_drains(self) -> None:
        """One drain alone is reported; an open end far below the rim is reported; each is made for all the pump can
        push.
        """
        plan = over_sump(hole_=0.40)
        self.assertNotIn("one-drain", told(plan))
        body = plan.model_dump()
        alone = {
            **body,
            "points": [p for p in body["points"] if p["id"] not in ("O2", "D2")],
            "runs": [r for r in body["runs"] if r["a"]["point"] != "O2"],
        }
        self.assertIn("one-drain", told(Plan.model_validate(alone)))
        low = {
            **body,
            "points": [{**p, "what": {**p["what"], "up": 0.3}} if p["id"] == "O" else p for p in body["points"]],
        }
        self.assertIn("intake-height", told(Plan.model_validate(low)))
        done = derive(plan)
        pushed = done.sizes.flows["all"].lifts["P"][0]
        for flow in overflows(plan, done.layout).values():
            self.assertGreaterEqual(flow, pushed)
        narrow = {
            **body,
            "points": [{**p, "what": {**p["what"], "bore": 0.008}} if p["id"] == "O" else p for p in body["points"]],
        }
        self.assertIn("drain-too-small", told(Plan.model_validate(narrow)))

    def test_what_level_each_takes(self) -> None:
        """By hand, for each standpipe: its end, the head that takes all by itself, and what is left below the rim; the
        lower one first.
        """
        done = derive(show_tank(), strict=True)
        comes = done.sizes.flows["all"].lifts["PU"][0]
        main, spare = done.rounds.drains
        self.assertEqual((main.point, spare.point), ("O1", "O2"))
        self.assertAlmostEqual(main.flow, comes, delta=1e-6)
        for found, end in ((main, 0.9 + 0.53), (spare, 0.9 + 0.545)):
            over = max(
                (found.flow / (1.84 * pi * 0.04)) ** (2 / 3),
                (found.flow / (0.61 * pi * 0.04**2 / 4)) ** 2 / (2 * 9.80665),
            )
            self.assertAlmostEqual(found.over, over, delta=1e-9)
            self.assertAlmostEqual(found.below_rim, 1.5 - end - over, delta=1e-9)

    def test_no_way_back(self) -> None:
        """A pump that fills a tank from which nothing comes back is reported, and which body runs dry."""
        body = over_sump().model_dump()
        one_way = {
            **body,
            "points": [p for p in body["points"] if p["id"] not in ("O", "O2", "D", "D2")],
            "runs": [r for r in body["runs"] if r["a"]["point"] not in ("O", "O2")],
        }
        self.assertIn("no-way-back", told(Plan.model_validate(one_way)))


class NamedInPlace(unittest.TestCase):
    """What is drawn wrong is reported where it is, in the person's words."""

    def test_bodies(self) -> None:
        """No volume, no outline, an outline that crosses itself, a skimmer off its level, a run to the water itself."""
        pair = (cover("A", 0.5), cover("B", -0.5))
        self.assertIn("no-water-in", told(tub(*pair, below_rim=1.0)))
        crossed = [{"east": e, "north": n} for e, n in ((-2.0, -2.0), (2.0, 2.0), (2.0, -2.0), (-2.0, 2.0))]
        self.assertIn("outline-crosses", told(tub(*pair, shape="outline", outline=crossed)))
        self.assertIn("skimmer-level", told(tub(*pair, thing("K", "skimmer", -0.9, 0, 0.4))))
        to_water = draw([thing("W", "basin", 0, 0, 0), thing("T", "tap", 5, 0, 0)], [("W", "T")])
        self.assertIn("Pipe connects to a fitting in its wall", told(to_water)["end-not-at-end"])

    def test_a_curve_that_rises_is_refused(self) -> None:
        """With the place where it rises."""
        with self.assertRaisesRegex(ValueError, "fall"):
            draw(
                [
                    thing(
                        "P",
                        "pump",
                        0,
                        0,
                        0,
                        curve=[{"flow": 0.0, "head": 3.0}, {"flow": 1e-3, "head": 4.0}, {"flow": 2e-3, "head": 1.0}],
                    ),
                    thing("C", "cap", 3, 0, 0),
                ],
                [("P", "C")],
            )

    def test_a_float_valve(self) -> None:
        """Over no water, or too near it, it is reported; as it should be, it is not."""
        base = [thing("M", "mains", 9, 0, 0), thing("W", "basin", 0, 0, 0)]
        for at, gap, code in ((0.0, 0.05, None), (0.0, 0.01, "air-gap"), (20.0, 0.05, "fills-nothing")):
            with self.subTest(at=at, gap=gap):
                found = told(draw([*base, thing("F", "top_up", at, 0, 0.05, gap=gap)], [("M", "F")]))
                self.assertEqual({"air-gap", "fills-nothing"} & set(found), {code} - {None})


class Demo(unittest.TestCase):
    """The three jobs of the camp are sound, and joined throughout."""

    def test_nothing_to_see_to(self) -> None:
        """Nothing but notes; every joint has its way; the lists have the pumps and not the water."""
        for make in (swimming_pond, cedar_tub, show_tank):
            with self.subTest(job=make.__name__):
                done: Derivation = derive(make(), strict=True)
                self.assertEqual([p.says for p in done.problems() if p.severity != "note"], [])
                listed = {r.item for r in done.bill if r.group == "equipment"}
                self.assertIn("pump", listed)
                self.assertFalse(listed & {"basin", "bulkhead", "standpipe"})

    def test_pool_facts(self) -> None:
        """The tub by hand: π/4·1.9²·0.95 m of water is 2.69 m³, 711 gal; its unions are screwed on O-rings, not on
        tape.
        """
        done = derive(cedar_tub())
        (body,) = done.rounds.bodies
        self.assertAlmostEqual(body.volume / GALLON, pi / 4 * 1.9**2 * 0.95 / GALLON, delta=0.5)
        unions = [
            j for j in done.assembly.joints if "buttress" in (j.a.end, j.b.end) or "buttress" in f"{j.a.end}{j.b.end}"
        ]
        self.assertEqual(len(unions), 4)
        self.assertNotIn("tape", {r.item for r in done.bill if r.group == "consumable"})

    def test_a_bulkhead_is_found_in_both_markets(self) -> None:
        """A hole in a wall takes a bulkhead fitting on inch pipe and on metric."""
        for series, where in (("pvc40", "north-american"), ("pe100-sdr11", "elsewhere"), ("pvc-metric", "elsewhere")):
            with self.subTest(series=series):
                spots = [
                    thing("W", "basin", 0, 0, 0, use="tank", depth=1.0, rim=1.0),
                    thing("B", "bulkhead", 1.5, 0, 0.2),
                    thing("T", "tap", 9, 0, 0),
                ]
                done = derive(draw(spots, [("B", "T")], conditions={"series": series, "market": where}))
                self.assertIn("bulkhead", {j.method for j in done.assembly.joints})

    def test_same_answer_in_any_order(self) -> None:
        """Points and runs in another order change no size, no flow and no word."""
        plan = show_tank()
        other = plan.model_copy(update={"points": plan.points[::-1], "runs": plan.runs[::-1]})
        one, two = derive(plan), derive(Plan.model_validate(other.model_dump()))
        self.assertEqual(
            {r: c.size for r, c in one.sizes.choices.items()}, {r: c.size for r, c in two.sizes.choices.items()}
        )
        self.assertEqual(sorted(b.says for b in one.rounds.back), sorted(b.says for b in two.rounds.back))
        for run, flow in one.sizes.flows["all"].runs.items():
            self.assertAlmostEqual(flow.flow, two.sizes.flows["all"].runs[run].flow, delta=1e-7)


if __name__ == "__main__":
    unittest.main()
