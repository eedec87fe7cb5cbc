"""What is seen without an instrument: signs that speak for faults, and faults that only signs tell."""

import random
import re
import unittest
from collections import Counter
from dataclasses import replace
from math import exp
from typing import get_args

from benchmarks.bench_scale import drains
from hydrarch.core.base.errors import Unknown
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.derivation.chain import Derivation, derive
from hydrarch.core.diagnosis.candidates import FaultyLine, PossibleFault, pump_curve_of
from hydrarch.core.diagnosis.explain import Diagnosis, explain, explained
from hydrarch.core.diagnosis.faults import FAULTS, PRIORS, TOLD_BY_SIGNS, fault_words
from hydrarch.core.diagnosis.instruments import instruments
from hydrarch.core.diagnosis.signs import SIGNS, USUAL, SignSeen, outlet_fit, sign_called, sign_fit, signs
from hydrarch.core.diagnosis.weighing import SeenHere
from hydrarch.core.hydraulics.flow import FlowModel
from hydrarch.core.plan.document import Plan, Scenario
from hydrarch.core.record.events import READ
from hydrarch.core.repair.mending import Broke
from hydrarch.demo import WASH_ID, demo_job
from tests.core.plans import draw, point
from tests.core.test_diagnosis import spine


def line_with(body: dict[str, object], signs_too: bool = True) -> FaultyLine:
    """A plan's line made ready, everything open, with the faults that signs tell."""
    plan = Plan.model_validate(body)
    done = derive(plan)
    scenario = Scenario(id="all", name="All", open=tuple(p.id for p in plan.outlets))
    model = FlowModel(plan, done.layout, scenario, yields=True)
    return FaultyLine(plan, model, done.settled.pipes, done.assembly.minor, {}, signs_too)


def two_inlets() -> Derivation:
    """Two inlets on one drain to an outfall, beside a tap on a tank."""
    spots = [
        point("K", 0, 0, "tank", water_level=20.0),
        point("T", 10, 0, "tap", height=0.0),
        point("G", 0, 20, "drain_inlet", depth=0.4),
        point("H", 0, 30, "drain_inlet", depth=0.4),
        point("J", 10, 25, "junction", depth=0.6),
        point("O", 20, 25, "outfall", depth=0.8),
    ]
    body = draw(spots, [("K", "T"), ("G", "J"), ("H", "J"), ("J", "O")]).model_dump(mode="json")
    for r in body["runs"]:
        if r["a"]["point"] in ("G", "H"):
            r["a"]["port"] = "out"
    return derive(Plan.model_validate(body))


def share(found: Diagnosis, kind: str) -> float:
    """How probable a kind of fault is, wherever it is shown."""
    return sum(e.probability for e in found.explanations if e.kinds == (kind,))


class SignsSpeak(unittest.TestCase):
    """On a main with a valve and four heads."""

    line: FaultyLine

    @classmethod
    def setUpClass(cls) -> None:
        """Make the line ready once."""
        cls.line = line_with(spine(4, random.Random(3)))

    def test_a_weak_head_and_a_good_one(self) -> None:
        """One head is weak and its neighbour as it should be: the outlet or its own branch, not the source."""
        seen = [SignSeen("1", "weak", "H3"), SignSeen("2", "good", "H2"), SignSeen("3", "good", "H4")]
        found = explained(self.line, [], seen)
        first = found.explanations[0]
        self.assertIn(first.places[0][0], ("H3", "S3"))
        self.assertEqual(found.signs, 3)
        self.assertLess(share(found, "weak source"), 0.2)

    def test_all_weak(self) -> None:
        """Where every head is weak it is the source, or what all water goes through."""
        found = explained(self.line, [], [SignSeen(str(n), "weak", f"H{n}") for n in range(1, 5)])
        self.assertIn(found.explanations[0].places[0][0], ("M", "V", "R0", "R1"))

    def test_a_wet_spot(self) -> None:
        """Wet ground over a run makes a leak there likeliest, and a leak elsewhere hardly likelier than before."""
        found = explained(self.line, [], [SignSeen("1", "wet", "R2")])
        first = found.explanations[0]
        self.assertEqual(first.kinds, ("leak",))
        self.assertIn("R2", first.places[0])
        self.assertGreater(first.probability, 0.4)

    def test_shares_come_to_one(self) -> None:
        """Whatever is seen, all probabilities together are one."""
        for name in SIGNS:
            where = {"outlet": "H1", "place": "R1", "line": "line"}[sign_called(name).at]
            found = explained(self.line, [], [SignSeen("1", name, where)])
            whole = sum(e.probability for e in found.explanations) + found.nothing + found.unlisted + found.others
            self.assertAlmostEqual(whole, 1, places=6, msg=name)

    def test_a_reading_outweighs_a_word(self) -> None:
        """A head that is called weak but gives its full flow by the bucket is not the outlet's fault."""
        flow = self.line.flow(self.line.rest, "H3") or 0.0
        word = explained(self.line, [], [SignSeen("1", "weak", "H3")])
        both = explained(self.line, [SeenHere("2", "H3", "flow", flow, 0.01 * flow)], [SignSeen("1", "weak", "H3")])
        self.assertLess(share(both, "clogged"), 0.2 * max(share(word, "clogged"), 0.05))

    def test_an_outlet_that_is_not_open(self) -> None:
        """What is said of an outlet that does not run here is told as left out, and weighs nothing."""
        found = explained(self.line, [], [SignSeen("1", "weak", "J1")])
        self.assertEqual((found.left_out, found.signs, found.nothing), (("1",), 0, 1.0))

    def test_with_no_sign_nothing_changes(self) -> None:
        """Without signs the candidates are those that are solved, with the probabilities they had."""
        plain = line_with(spine(4, random.Random(3)), signs_too=False)
        self.assertFalse({f.kind for f in plain.candidates()} & set(TOLD_BY_SIGNS))
        self.assertAlmostEqual(sum(f.prior for f in plain.candidates()), 1)


class OnlySigns(unittest.TestCase):
    """Faults that no pressure shows."""

    def test_a_pump_that_cycles(self) -> None:
        """With a vessel in the line it is first the vessel; without the sign the vessel is no candidate."""
        body = spine(2, random.Random(1))
        points = [*body["points"], {"id": "T", "name": "Vessel", "x": 8.0, "y": 5.0, "what": {"kind": "vessel"}}]
        runs = [*body["runs"], {"id": "RT", "a": {"id": "ta", "point": "J1"}, "b": {"id": "tb", "point": "T"}}]
        line = line_with({**body, "points": points, "runs": runs})
        found = explained(line, [], [SignSeen("1", "cycles", "line")])
        self.assertEqual(found.explanations[0].kinds, ("vessel waterlogged",))
        self.assertEqual(found.explanations[0].places, (("T",),))
        self.assertFalse(found.explanations[0].measured)

    def test_a_slow_drain(self) -> None:
        """Roots or a belly, in that drain; said in a job with a supply of its own."""
        plan = draw(
            [
                point("K", 0, 0, "tank", water_level=20.0),
                point("T", 10, 0, "tap", height=0.0),
                point("G", 0, 20, "drain_inlet", depth=0.4),
                point("O", 10, 20, "outfall", depth=0.6),
            ],
            [("K", "T"), ("G", "O")],
        )
        ends = {e.point: e for r in plan.runs for e in r.ends}
        body = plan.model_dump(mode="json")
        drain = next(r for r in body["runs"] if r["a"]["point"] == "G")
        drain["a"]["port"] = "out"
        self.assertIn("G", ends)
        done = derive(Plan.model_validate(body))
        found = explain(
            done.plan,
            done.layout,
            done.settled.pipes,
            done.assembly.minor,
            Scenario(id="all", name="All", open=("T",)),
            [],
            {},
            [SignSeen("1", "slow-drain", "G")],
        )
        kinds = [e.kinds[0] for e in found.explanations[:2]]
        self.assertEqual(set(kinds), {"roots", "belly"})
        self.assertEqual(found.explanations[0].places[0], (drain["id"],))

    def test_where_a_drain_is_held_up(self) -> None:
        """Two inlets on one drain: where both run slowly it is below where they meet; where the other runs as it
        should, it is the slow one's own pipe. Common practice.
        """
        done = two_inlets()
        of = {r.a.point: r.id for r in done.plan.runs}

        def first(*seen: SignSeen) -> set[tuple[str, ...]]:
            scenario = Scenario(id="all", name="All", open=("T",))
            found = explain(
                done.plan, done.layout, done.settled.pipes, done.assembly.minor, scenario, [], {}, list(seen)
            )
            held = [e for e in found.explanations if e.kinds[0] in ("roots", "belly")]
            self.assertEqual(held[:1], list(found.explanations[:1]))
            return {e.places[0] for e in held if e.probability > 0.6 * held[0].probability}

        both = first(SignSeen("1", "slow-drain", "G"), SignSeen("2", "slow-drain", "H"))
        self.assertEqual(both, {(of["J"],)})
        alone = first(SignSeen("1", "slow-drain", "G"), SignSeen("2", "drains-well", "H"))
        self.assertEqual(alone, {(of["G"],)})

    def test_what_a_drain_takes(self) -> None:
        """Water is poured in until it backs up: a bore of half takes a sixth (Manning: flow as bore to 8/3), read at
        one inlet and not at the other, it is that inlet's pipe, and about how much of its bore is left.
        """
        done = two_inlets()
        of = {r.a.point: r.id for r in done.plan.runs}
        falls = {d.run: d.fall for d in done.drains}
        scenario = Scenario(id="all", name="All", open=("T",))
        model = FlowModel(done.plan, done.layout, scenario, yields=True)
        line = FaultyLine(done.plan, model, done.settled.pipes, done.assembly.minor, {}, True, falls)
        self.assertEqual(set(line.pours()), {"G", "H"})
        whole = line.takes((), "G")
        assert whole is not None
        half = PossibleFault("roots", of["G"], 0.1)
        self.assertAlmostEqual((line.takes([(half, 0.5)], "G") or 0) / whole, 0.5 ** (8 / 3), places=6)
        self.assertEqual(line.takes([(half, 0.5)], "H"), line.takes((), "H"))
        self.assertIsNone(line.takes((), "T"))

        def told(*seen: SeenHere) -> Diagnosis:
            return explain(
                done.plan,
                done.layout,
                done.settled.pipes,
                done.assembly.minor,
                scenario,
                list(seen),
                {},
                [],
                falls,
            )

        slow = SeenHere("1", "G", "takes", whole * 0.5 ** (8 / 3), 0.1 * whole * 0.5 ** (8 / 3))
        good = SeenHere("2", "H", "takes", line.takes((), "H") or 0.0, 0.1 * whole)
        first = told(slow).explanations[0]
        self.assertEqual(first.kinds[0], "roots")  # the likelier of the two, which figures do not tell apart
        both = told(slow, good)
        top = both.explanations[0]
        self.assertEqual(top.places, ((of["G"],),))
        self.assertTrue(top.measured)
        bore = done.settled.pipes[of["G"]].bore
        self.assertAlmostEqual(top.sizes[0] / bore, 0.5, delta=0.06)
        self.assertLess(told(SeenHere("3", "G", "takes", whole, 0.1 * whole)).explanations[0].probability, 0.4)

    def test_a_long_drain(self) -> None:
        """With a gully at every few metres no place is followed down twice: what is asked of each run is asked once."""
        plan = drains(300)
        done = derive(plan)
        model = FlowModel(plan, done.layout, Scenario(id="shut", name="Shut", open=()), yields=True)
        falls = {d.run: d.fall for d in done.drains}
        line = FaultyLine(plan, model, done.settled.pipes, done.assembly.minor, {}, True, falls)
        asked: Counter[str] = Counter()
        whole = line._runs_below

        def counted(place: str) -> frozenset[str]:
            asked[place] += 1
            return whole(place)

        line._runs_below = counted  # type: ignore[method-assign]
        gullies = line.pours()
        self.assertEqual((len(gullies), sum(asked.values())), (150, 0))
        seen = [SeenHere("1", gullies[0], "takes", 1e-3, 1e-4), SeenHere("2", gullies[-1], "takes", 0.0, 1e-5)]
        found = explained(line, seen)
        self.assertLess(len(asked), 60)
        self.assertEqual(set(asked.values()), {1})
        self.assertEqual(found.left_out, ())

    def test_a_drain_among_many_faults(self) -> None:
        """In a job with more faults than are solved, what a gully takes is still weighed against its own drains."""
        plan = demo_job(WASH_ID).plan
        done = derive(plan)
        found = explain(
            plan,
            done.layout,
            done.settled.pipes,
            done.assembly.minor,
            all_scenarios(plan)[0],
            [SeenHere("1", "YG", "takes", 3.3e-4, 3.3e-5), SeenHere("2", "DP1", "takes", 0.01, 0.001)],
            {},
            [],
            {d.run: d.fall for d in done.drains},
        )
        self.assertGreater(found.count, 40)
        self.assertEqual([e.kinds[0] for e in found.explanations[:2]], ["roots", "belly"])
        self.assertGreater(sum(e.probability for e in found.explanations[:2]), 0.6)
        self.assertEqual(found.explanations[0].places, (("R7",),))


class Driven(unittest.TestCase):
    """Pumps in the line and regulators, by what is read."""

    def test_a_pump_that_is_slow_or_worn(self) -> None:
        """At nine tenths of its speed, nine tenths of the flow and 0.81 of the head (affinity laws); worn, the same
        heads at a tenth of its most flow less. Shut in, the slow one shows it more.
        """
        curve = ((0.0, 40.0), (0.002, 30.0), (0.004, 10.0))
        slow, worn = pump_curve_of("pump slow", 0.1, curve), pump_curve_of("pump worn", 0.1, curve)
        self.assertAlmostEqual(slow[0][1], 32.4)
        self.assertAlmostEqual(slow[2][0], 0.0036)
        self.assertEqual(worn[-1], (0.0036, 10.0))
        self.assertAlmostEqual(worn[0][1], 38.0)

    def test_a_booster_that_is_slow(self) -> None:
        """Three tenths of its speed gone, read before and behind it: the pump, and about how much; whether worn or
        slow, one flow does not tell.
        """
        body = spine(3, random.Random(2))
        body["points"][1] = {
            "id": "V",
            "name": "Booster",
            "x": 5.0,
            "y": 0.0,
            "what": {
                "kind": "pump",
                "curve": [{"flow": 0.0, "head": 40.0}, {"flow": 0.002, "head": 30.0}, {"flow": 0.004, "head": 10.0}],
            },
        }
        body["points"][0]["what"]["pressure"] = 150e3
        line = line_with(body, signs_too=False)
        fault = next(f for f in line.candidates() if f.kind == "pump slow")
        self.assertEqual(fault.where, "V")
        there = line.with_faults((fault, 0.3))
        assert there is not None
        read = [SeenHere(p, p, "pressure", line.pressure(there, p) or 0.0, 5e3) for p in ("M", "H1", "H3")]
        found = explained(line, read)
        firsts = {e.kinds[0]: e for e in found.explanations[:2]}
        self.assertEqual(set(firsts), {"pump slow", "pump worn"})  # at one flow nobody tells them apart
        self.assertTrue(all(e.places == (("V",),) for e in firsts.values()))
        self.assertAlmostEqual(firsts["pump slow"].sizes[0], 0.3, delta=0.12)

    def test_air_is_drawn_in_by_what_lifts(self) -> None:
        """A pump that water is pressed into draws in no air; one that lifts it may, and air in the jets says that it is
        air and no slow pump. Common practice.
        """
        pump = {
            "id": "V",
            "name": "Pump",
            "x": 5.0,
            "y": 0.0,
            "what": {
                "kind": "pump",
                "curve": [{"flow": 0.0, "head": 40.0}, {"flow": 0.002, "head": 30.0}, {"flow": 0.004, "head": 10.0}],
            },
        }
        body = spine(3, random.Random(2))
        body["points"][1] = pump
        pressed = line_with(body)
        self.assertNotIn("V", [f.where for f in pressed.candidates() if f.kind == "suction air"])
        body["points"][0]["what"] = {"kind": "tank", "water_level": -2.0}
        line = line_with(body)
        air = next(f for f in line.candidates() if f.kind == "suction air")
        self.assertTrue(air.where == "V" and line.solves(air))
        there = line.with_faults((air, 0.3))
        assert there is not None
        read = [SeenHere(p, p, "flow", line.flow(there, p) or 0.0, 2e-6) for p in ("H1", "H3")]
        jets = SignSeen("1", "air", "line")
        without, with_air = explained(line, read), explained(line, read, [jets])
        self.assertLess(share(without, "suction air"), 0.8)
        self.assertEqual(with_air.explanations[0].kinds, ("suction air",))
        self.assertGreater(share(with_air, "suction air"), share(without, "suction air"))
        self.assertAlmostEqual(with_air.explanations[0].sizes[0], 0.3, delta=0.12)

    def test_a_regulator_that_sticks_low(self) -> None:
        """It holds half of what it should: told by a gauge before and behind."""
        body = spine(3, random.Random(2))
        body["points"][1] = {
            "id": "V",
            "name": "Regulator",
            "x": 5.0,
            "y": 0.0,
            "what": {"kind": "regulator", "pressure": 250e3},
        }
        line = line_with(body, signs_too=False)
        fault = next(f for f in line.candidates() if f.kind == "regulator off")
        there = line.with_faults((fault, 0.5))
        assert there is not None
        rest = line.rest
        self.assertLess(line.pressure(there, "H1") or 0, 0.75 * (line.pressure(rest, "H1") or 0))
        read = [SeenHere(p, p, "pressure", line.pressure(there, p) or 0.0, 4e3) for p in ("M", "H1", "H2")]
        found = explained(line, read)
        top = [e.kinds for e in found.explanations[:3]]
        self.assertIn(("regulator off",), top)


class TheTable(unittest.TestCase):
    """What ships as data."""

    def test_every_fault_has_a_prior(self) -> None:
        """And each that only signs tell has a sign that tells it."""
        self.assertEqual({*FAULTS, *TOLD_BY_SIGNS}, set(PRIORS))
        told = {kind for s in signs().values() for kind in s.shares}
        self.assertLessEqual(set(TOLD_BY_SIGNS), told)

    def test_every_fault_has_words(self) -> None:
        """What it is called, how it is put right, and what broke as the bench calls it."""
        words = fault_words()
        self.assertEqual(set(words), set(PRIORS))
        for w in words.values():
            self.assertTrue(w.title and w.fix.endswith("."), w.fault)
            self.assertIn(w.broke, ("", *get_args(Broke)))
            self.assertTrue(w.opens or w.broke in ("", "leaking valve"), w.fault)

    def test_instruments(self) -> None:
        """Each kind of reading has one; a gauge is off by its class of its scale (EN 837-1)."""
        self.assertEqual({i.what for i in instruments()}, set(READ))
        for i in instruments():
            said = re.search(r"to (\d+) bar .*class ([0-9.]+)", i.name)
            if said:
                self.assertAlmostEqual(i.least, float(said[1]) * 1e5 * float(said[2]) / 100)

    def test_each_sign_is_likelier_with_its_faults(self) -> None:
        """No row speaks against its own fault; far from its place a sign speaks for nothing much."""
        for s in signs().values():
            for kind, told in s.shares.items():
                self.assertGreater(told, USUAL)
                near, far = sign_fit(s, [(kind, True)]), sign_fit(s, [(kind, False)])
                self.assertAlmostEqual(exp(near), told)
                if s.at == "place":
                    self.assertLessEqual(exp(far), 1.5 * USUAL + 1e-9)

    def test_words_for_an_outlet(self) -> None:
        """Nothing is dead, half is weak, all is good; the three share out what people say."""
        for ratio, word in ((0.0, "dead"), (0.5, "weak"), (1.0, "good")):
            best = max(("dead", "weak", "good"), key=lambda w: outlet_fit(w, ratio))
            self.assertEqual(best, word)
        for ratio in (0.0, 0.1, 0.3, 0.85, 1.4):
            self.assertAlmostEqual(sum(exp(outlet_fit(w, ratio)) for w in ("dead", "weak", "good")), 1.02, places=6)

    def test_a_sign_that_is_not_known(self) -> None:
        """It is refused with those that are."""
        with self.assertRaisesRegex(Unknown, "wet"):
            sign_called("wett")

    def test_frozen(self) -> None:
        """A fault that only signs tell changes no flow, whatever its size."""
        line = line_with(spine(2, random.Random(5)))
        fault = PossibleFault("valve passing", "V", 0.1)
        self.assertIs(line.with_faults((fault, 1.0)), line.rest)
        self.assertIs(line.with_faults((replace(fault, kind="belly"), 2.0)), line.rest)
