"""Rows of emitters: what leaves along the way, against a network with every emitter in it, published formulas and facts
of the trade.
"""

import unittest
from math import floor, pi, sin
from typing import Any

import numpy as np

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.units import FOOT, GALLON
from hydrarch.core.catalogue.pipes import pipe
from hydrarch.core.commissioning.tightness import judge
from hydrarch.core.components.outlets import DripRow
from hydrarch.core.coverage.emission import RULE, flow_variation, lateral, uniformity
from hydrarch.core.coverage.lowhead import drained
from hydrarch.core.cutting.dripparts import drip_parts
from hydrarch.core.derivation.chain import Derivation, derive, where_it_stands
from hydrarch.core.editing.drip_beds import bedded, ringed
from hydrarch.core.hydraulics.links import Emitter, PipeLink
from hydrarch.core.hydraulics.network import Network
from hydrarch.core.hydraulics.regulated import solve_network
from hydrarch.core.hydraulics.spread import Row, barb_length, row_length, share_left
from hydrarch.core.hydraulics.water import water
from hydrarch.core.joining.dripways import ways_beside
from hydrarch.core.plan.document import Plan
from hydrarch.core.record.events import Event, Reading
from hydrarch.core.record.states import mark_joints
from hydrarch.core.report.working import working
from hydrarch.core.sizing.compare import compare_sizes
from hydrarch.core.sizing.feeding import Costs
from tests.core.plans import codes, draw, point

L_H = 1e-3 / 3600


def row(long: float = 60.0, rise: float = 0.0, series: str = "drip-620", **what: Any) -> Plan:
    """A mains at 1.7 bar and a row of emitters on tubing that lies on the ground, rising so much (m) to its end."""
    points = [
        point("M", 0, 0, "mains", pressure=170e3, depth=0.0),
        point("E", long, 0, "drip_row", depth=-rise, **what),
    ]
    return draw(points, [("M", "E")], runs_more=[{"series": series, "size": "1/2", "situation": "on surface"}])


def explicit(done: Derivation) -> tuple[float, float, float]:
    """The same row with a node for each emitter: whole flow, weakest and strongest (m³/s)."""
    plan = done.plan
    what = plan.by_id["E"].what
    assert isinstance(what, DripRow)
    wet, item = water(plan.conditions.water_temperature), done.settled.pipes["R1"]
    line, minor = done.layout.lines["R1"], done.assembly.minor.get("R1", 0.0)
    k = what.each / (what.at_pressure / wet.weight) ** what.exponent
    links, emitters, before, at = [], [], "M", 0.0
    for n in range(what.emitters):
        place = (n + 0.5) * what.spacing
        links.append(
            PipeLink(
                id=f"p{n}",
                start=before,
                stop=f"n{n}",
                length=place - at + barb_length(what, item.bore),
                bore=item.bore,
                minor=minor if n == 0 else 0.0,
            )
        )
        emitters.append(Emitter(f"e{n}", f"n{n}", line.rise * place / line.length, k, what.exponent))
        before, at = f"n{n}", place
    head = done.sizes.flows["all"].points["M"].head
    found = solve_network(Network({"M": head}, {}, tuple(links), (), tuple(emitters)), wet)
    each = np.array([found.flows[e.id] for e in emitters])
    return float(each.sum()), float(each.min()), float(each.max())


class Along(unittest.TestCase):
    """What a row draws and how its pressure falls."""

    def test_like_a_network_of_every_emitter(self) -> None:
        """Level, uphill and downhill: whole flow, weakest and strongest to a percent of the explicit network's; three
        where a row is far too long, and weaker then, not stronger.
        """
        rows = (
            (20.0, 0.0, "in line", 0.01),
            (60.0, 0.0, "in line", 0.01),
            (60.0, 3.0, "in line", 0.01),
            (60.0, -3.0, "in line", 0.01),
            (60.0, 0.0, "on the tubing", 0.01),
            (110.0, 0.0, "in line", 0.03),
            (130.0, 0.0, "on the tubing", 0.03),
        )
        for long, rise, built, within in rows:
            done = derive(row(long, rise, built=built))
            mine = done.dripped["all"]["E"]
            for got, want in zip((mine.flow, mine.least, mine.most), explicit(done), strict=True):
                self.assertAlmostEqual(got / want, 1.0, delta=within, msg=f"{long} m, {rise} m up")
            self.assertAlmostEqual(done.sizes.flows["all"].outlets["E"].flow / mine.flow, 1.0, delta=1e-4)

    def test_christiansen(self) -> None:
        """Christiansen's factor for many outlets is 1/(m + 1) (1942); by hand for two: half a spacing with all, one
        with half, the rest with none.
        """
        many = Row(
            point="E",
            start="M",
            runs=("R",),
            lengths=(100.0,),
            places=tuple((n + 0.5) * 0.1 for n in range(1000)),
            level=0.0,
        )
        self.assertAlmostEqual(share_left(many, 0, 100, 1.852), 1 / 2.852, places=4)
        two = Row(point="E", start="M", runs=("R",), lengths=(2.0,), places=(0.5, 1.5), level=0.0)
        self.assertAlmostEqual(share_left(two, 0, 2, 2.0), (0.5 * 1 + 1.0 * 0.25 + 0.5 * 0) / 2)
        self.assertAlmostEqual(
            (share_left(two, 0, 1, 2.0) + share_left(two, 1, 2, 2.0)) / 2, share_left(two, 0, 2, 2.0)
        )

    def test_as_many_as_fit(self) -> None:
        """9.0 m at 0.3 m takes 30, half a spacing in; a crew's own number stays; those that have no room are reported."""
        self.assertEqual(derive(row(9.0)).dripped["all"]["E"].emitters, 30)
        self.assertEqual(derive(row(9.0, count=12.0)).dripped["all"]["E"].emitters, 12)
        self.assertIn("9.00 m", codes(row(9.0, count=40.0))["row-crowded"])
        self.assertNotIn("row-crowded", codes(row(9.0, count=30.0)))

    def test_those_that_compensate(self) -> None:
        """Each passes its flow at any pressure from its least on, and only the maker's variation is left of
        unevenness.
        """
        e = derive(row(60.0, exponent=0.0, variation=0.05)).dripped["all"]["E"]
        self.assertAlmostEqual(e.flow / L_H, 400.0)
        self.assertAlmostEqual(e.uniformity, 1 - 1.27 * 0.05)
        self.assertEqual(e.variation, 0.0)

    def test_its_working_comes_to_what_is_shown(self) -> None:
        """Length as it is calculated, C, bore and flow of the working, by hand by the formula beside them, come to the
        loss that is reported.
        """
        done = derive(row(60.0))
        told = working(done.plan, done, "loss", "R1", "all")
        told_of = dict(told.inputs)
        worked = next(v for k, v in told_of.items() if k.startswith("L is calculated"))
        item, run = pipe("drip-620", "1/2"), done.sizes.flows["all"].runs["R1"]
        long = float(str(worked).split()[0])
        k = done.assembly.minor.get("R1", 0.0)
        h = 10.67 * long * run.flow**1.852 / (150**1.852 * item.bore**4.8704) + k * run.velocity**2 / (2 * 9.80665)
        self.assertAlmostEqual(h / run.loss, 1.0, delta=2e-3)

    def test_the_cheapest_by_hand(self) -> None:
        """Two rows of emitters that compensate behind a header of three runs: every choice of size tried by the full
        model, none that holds is cheaper.

        Where they do not compensate the cheapest is found but not called proved.
        """
        points = [point("M", 0, 0, "mains", pressure=130e3, depth=0.0), point("A", 60, 0, "junction", depth=0.0)]
        points += [point(n, x, y, "drip_row", depth=0.0, exponent=0.0) for n, x, y in (("E", 90, 0), ("F", 60, 30))]
        tube = {"series": "drip-620", "size": "1/2", "situation": "on surface"}
        for exponent in (0.0, 0.5):
            for p in points[2:]:
                p["what"]["exponent"] = exponent
            done = derive(
                draw(points, [("M", "A"), ("A", "E"), ("A", "F")], runs_more=[{"series": "pvc40"}, tube, tube])
            )
            found = compare_sizes(done.plan, done.layout, done.assembly.minor, done.sizes)
            way = next(w for w in found.ways if w.way == "least cost")
            self.assertTrue(way.holds)
            self.assertEqual(way.proved, exponent == 0.0, way.says)
            costs = Costs(done.plan, done.layout, done.assembly.minor, done.sizes)
            held = []
            for item in costs.options["R1"]:
                pipes = {**done.sizes.pipes(), "R1": item}
                flow = costs.scenarios[0].solve(pipes, dict(costs.minor))
                if min(o.margin for o in flow.outlets.values()) >= 0 and not any(r.fast for r in flow.runs.values()):
                    held.append((costs.price("R1", item), item.size))
            self.assertEqual(way.sizes["R1"], min(held)[1])

    def test_where_a_row_begins(self) -> None:
        """Back over plain bends to the tee: the header's own flow is not taken for the row's."""
        points = [
            point("M", 0, 0, "mains", pressure=170e3, depth=0.0),
            point("J", 5, 0, "junction", depth=0.0),
            point("B", 5, 5, "bend", depth=0.0),
            point("E", 10, 5, "drip_row", depth=0.0),
            point("F", 20, 0, "drip_row", depth=0.0),
        ]
        more = [{"series": "drip-620", "size": "1/2", "situation": "on surface"}] * 4
        done = derive(draw(points, [("M", "J"), ("J", "B"), ("B", "E"), ("J", "F")], runs_more=more))
        found = done.dripped["all"]
        self.assertEqual((found["E"].emitters, found["F"].emitters), (33, 50))
        flow = done.sizes.flows["all"].runs
        self.assertAlmostEqual(flow["R1"].flow, found["E"].flow + found["F"].flow, places=8)
        self.assertLess(flow["R3"].loss, flow["R2"].loss, "less is left in the pipe beyond the bend")


class HowEven(unittest.TestCase):
    """Coefficients and how long a row may be."""

    def test_published(self) -> None:
        """Keller and Karmeli (1974): cv 0.05, two a plant, 3.6 of 4.0 L/h on the mean: 85.96 %. x 0.5 from 130 to 90
        kPa: 16.79 % (by hand).
        """
        self.assertAlmostEqual(100 * uniformity(3.6, 4.0, 0.05, 2), 85.95888475, places=6)
        self.assertAlmostEqual(100 * flow_variation(90**0.5, 130**0.5), 16.79497057, places=6)

    def test_the_longest_is_the_longest(self) -> None:
        """A level row as long as is said still keeps a tenth; one spacing more does not."""
        done = derive(row(60.0))
        longest = done.dripped["all"]["E"].longest
        assert longest is not None
        what, wet = done.plan.by_id["E"].what, water(done.plan.conditions.water_temperature)
        assert isinstance(what, DripRow)
        head = floor(done.sizes.flows["all"].points["M"].head * 10) / 10  # to a decimetre, never more than there is
        for more, keeps in ((0, True), (1, False)):
            heads = lateral(what, pipe("drip-620", "1/2"), head, round(longest / what.spacing) + more, done.plan, wet)
            q = np.maximum(heads, 0.0) ** what.exponent
            self.assertEqual(1 - q.min() / q.max() <= 0.10, keeps)

    def test_rule_of_thumb(self) -> None:
        """30, 200, 480 and 960 ft and gal/h by size (common practice); it is reported beside what is computed, and
        which of them is passed.
        """
        self.assertEqual(RULE, {"1/4": 30.0, "1/2": 200.0, "3/4": 480.0, "1": 960.0})
        e = derive(row(50.0)).dripped["all"]["E"]
        self.assertAlmostEqual(e.rule or 0, 200 * FOOT)
        self.assertIn("within it", e.says[-1])
        self.assertIn("beyond it", derive(row(70.0)).dripped["all"]["E"].says[-1])
        self.assertIn(
            "beyond it", derive(row(30.0, each=3 * GALLON / 3600)).dripped["all"]["E"].says[-1], "more than 200 gal/h"
        )

    def test_an_uneven_row_is_told(self) -> None:
        """200 m of one row waters its end too little, and that is said with the figure; 60 m is left alone."""
        self.assertIn("emission uniformity", codes(row(200.0))["row-uneven"])
        long = next(p.mend for p in derive(row(200.0)).problems() if p.code == "row-uneven")
        self.assertIn("use larger tubing", long)
        self.assertNotIn("row-uneven", codes(row(60.0)))

    def test_a_row_down_a_bank(self) -> None:
        """16 m of fall in 50 m: emitters that do not compensate pass over a fifth apart, which is reported, and the
        rule of thumb is not left to say that all is well; those that compensate are even.
        """
        steep = row(50.0, rise=-16.0, spacing=0.6)
        e = derive(steep).dripped["all"]["E"]
        self.assertGreater(e.variation, 0.2)
        self.assertIn("apart", codes(steep)["row-uneven"])
        mend = next(p.mend for p in derive(steep).problems() if p.code == "row-uneven")
        self.assertIn("terraces", mend)
        self.assertIn("Larger tubing makes it worse", mend)
        self.assertIn("not even enough", e.says[-1])
        self.assertNotIn("row-uneven", codes(row(50.0, rise=-16.0, spacing=0.6, exponent=0.0)))


class Beds(unittest.TestCase):
    """A bed laid with rows, and what it takes."""

    def corners(self) -> Plan:
        """Four corners of a bed of 4 by 10 m, drawn one after another."""
        return draw([point(f"C{n}", x, y, "mark") for n, (x, y) in enumerate(((0, 0), (4, 0), (4, 10), (0, 10)))], [])

    def test_by_hand(self) -> None:
        """4 m at 0.5 m is eight rows of 10 m, half a row from its ends; seven pieces of tubing between them."""
        done = bedded(self.corners(), ["C0", "C1", "C2", "C3"], 0.5, 0.3, 2 * L_H)
        ends = [p for p in done.plan.points if isinstance(p.what, DripRow)]
        self.assertEqual((len(ends), len(done.plan.runs)), (8, 15))
        self.assertEqual(sorted(p.x for p in ends), [0.25 + 0.5 * n for n in range(8)])
        self.assertTrue(all(abs(p.y - 10) < 0.03 for p in ends))
        self.assertIn("8 rows", done.says)

    def test_whichever_way_the_corners_were_drawn(self) -> None:
        """The first side is that between the first two corners, with the bed on its left or on its right."""
        corners = ((0, 0), (0, 10), (4, 10), (4, 0))
        plan = draw([point(f"C{n}", x, y, "mark") for n, (x, y) in enumerate(corners)], [])
        done = bedded(plan, ["C0", "C1", "C2", "C3"], 1.0, 0.3)
        ends = [p for p in done.plan.points if isinstance(p.what, DripRow)]
        self.assertEqual(sorted(p.y for p in ends), [0.5 + n for n in range(10)])
        self.assertTrue(all(abs(p.x - 4) < 0.03 for p in ends))

    def test_what_cannot_be_laid(self) -> None:
        """Two corners, corners in a line, rows wider than the bed, too many rows: each refused in words."""
        plan = self.corners()
        for chosen, apart in ((["C0", "C1"], 0.5), (["C0", "C1", "C2", "C3"], 9.0), (["C0", "C1", "C2", "C3"], 0.001)):
            with self.assertRaises(HydrarchError):
                bedded(plan, chosen, apart, 0.3)
        in_line = draw([point(f"C{n}", n, 0, "mark") for n in range(3)], [])
        with self.assertRaises(HydrarchError):
            bedded(in_line, ["C0", "C1", "C2"], 0.5, 0.3)

    def test_a_ring_round_a_pot(self) -> None:
        """Eight sides of quarter-inch tubing 0.2 m from the middle, all but a quarter of the last: by hand, and as many
        emitters as fit.
        """
        plan = draw([point("P", 5, 5, "mark")], [])
        done = ringed(plan, ["P"], 0.2, 0.15)
        (end,) = [p for p in done.plan.points if isinstance(p.what, DripRow)]
        long = row_length(done.plan, end.id)
        side = 2 * 0.2 * sin(pi / 8)
        self.assertAlmostEqual(long, 7 * side + 2 * 0.2 * sin(0.75 * pi / 8), places=3)
        assert isinstance(end.what, DripRow)
        self.assertEqual(end.what.emitters, floor(long / 0.15 + 0.5))
        self.assertEqual({r.series for r in done.plan.runs}, {"drip-170"})
        for pots, radius in (([], 0.2), (["P"], 0.0), (["P"], 9.0)):
            with self.assertRaises(HydrarchError):
                ringed(plan, pots, radius, 0.15)

    def test_parts_by_hand(self) -> None:
        """9 m on feeders of 0.4 m: 30 emitters, 30 barbs, 12 m of feeder from a coil, 2 plugs; stakes every 3 ft of
        loam: 10 and one (common practice).
        """
        done = derive(row(9.0, built="on feeders", feeder=0.4))
        found = {d.item: d.count for d in drip_parts(done.plan)}
        want = {"emitter 5.556e-07": 30, "feeder": 1, "feeder barb": 30, "small stake": 30, "hole plug": 2, "stake": 11}
        self.assertEqual(found, want)
        self.assertIn("12.00 m for 30 feeders", next(d.detail for d in drip_parts(done.plan) if d.item == "feeder"))
        self.assertIn("Quarter-inch barb", {r.name for r in done.bill})
        self.assertNotIn(
            "hole plug", {d.item for d in drip_parts(derive(row(9.0)).plan)}, "what is in the tubing needs no hole"
        )

    def test_emitters_in_the_wrong_pipe(self) -> None:
        """In PVC no emitter sits: it is reported, with what to take."""
        self.assertIn("No emitter fits that pipe", codes(row(9.0, series="pvc40"))["row-tubing"])
        self.assertNotIn("row-tubing", codes(row(9.0)))

    def test_barbs_take_pressure(self) -> None:
        """14.38·d^−1.89 m of tubing for one whose barb stands in from a hole, 0.23 m for one in line (Montalvo, from
        memory): by hand at 15.7 mm.
        """
        on = row(60.0, built="on the tubing")
        item, what = pipe("drip-620", "1/2"), on.by_id["E"].what
        assert isinstance(what, DripRow)
        self.assertAlmostEqual(barb_length(what, 15.748e-3), 14.38 / 15.748**1.89, places=9)
        self.assertAlmostEqual(barb_length(what, item.bore), 0.0784, delta=0.002)
        end = {
            built: derive(row(60.0, built=built)).dripped["all"]["E"].lowest for built in ("on the tubing", "in line")
        }
        self.assertLess(end["in line"], end["on the tubing"])
        factor = share_left(
            Row(point="E", start="M", runs=("R1",), lengths=(10.0,), places=(2.5, 7.5), level=0.0, barb=1.0),
            0.0,
            10.0,
            2.0,
        )
        self.assertAlmostEqual(
            factor,
            (2.5 + 1 + (5 + 1) / 4) / 10,
            msg="whole up to the first and its barb, half up to the second and its barb",
        )

    def test_an_end_that_lets_out(self) -> None:
        """A plug is reported, once for all rows; the mend ends each in a valve for its tubing, however it is joined."""
        self.assertIn("far end of drip row E", codes(row(9.0))["row-no-flush"])
        for way in ("barb", "lock", "compression"):
            plan = row(9.0, end="flush valve").model_copy(update={"practices": {"drip_joint": way}})
            done = derive(plan)
            self.assertIn("flush", done.assembly.parts[-1].fitting)
            self.assertNotIn("row-no-flush", {p.code for p in done.problems()})

    def test_joined_the_way_the_crew_goes(self) -> None:
        """Every joint on tubing that has other ways is made the one chosen, in inch and 16 mm tubing, in both markets;
        inch-size 1 has barbs alone.
        """
        points = [
            point("M", 0, 0, "mains", pressure=200e3),
            point("A", 60, 0, "junction"),
            point("B", 60, 10, "bend"),
            point("C", 90, 0, "drip_row"),
            point("D", 80, 10, "drip_row"),
        ]
        runs = [("M", "A"), ("A", "B"), ("A", "C"), ("B", "D")]
        methods = {"barb": "push barb", "lock": "lock", "compression": "drip compression"}
        for series, size in (("drip-620", "1/2"), ("drip-535", "1/2"), ("drip-820", "3/4"), ("drip-1060", "1")):
            for market in ("north-american", "elsewhere"):
                for way, method in methods.items():
                    plan = draw(
                        points,
                        runs,
                        practices={"drip_joint": way},
                        conditions={"market": market},
                        runs_more=[{"series": series, "size": size}] * 4,
                    )
                    done = derive(plan)
                    made = {
                        j.method
                        for j in done.assembly.joints
                        if "pipe" in j.a.what + j.b.what and "Drip" in j.a.what + j.b.what
                    }
                    with self.subTest(series=series, market=market, way=way):
                        self.assertEqual(made, {method if size != "1" else "push barb"})
                        self.assertNotIn("no-way", {p.code for p in done.problems()})

    def test_half_inch_is_asked(self) -> None:
        """Until it is said to be measured, its outside is reported beside the others of that name; three-quarter tubing
        asks nothing.
        """
        told = codes(row(9.0))["half-inch"]
        self.assertIn("18.0 mm assumed", told)
        self.assertIn("15.7 mm", told)
        self.assertNotIn("half-inch", codes(row(9.0).model_copy(update={"practices": {"half_inch": "measured"}})))

    def test_three_ways_to_join_it(self) -> None:
        """Lock sleeves first, for the new hand (common practice); each for as many joints as there are on the tubing,
        by its seconds.
        """
        done = derive(row(9.0))
        found = ways_beside(done.assembly)
        on_tubing = sum(
            "Drip" in (j.a.what + j.b.what) and "pipe" in (j.a.what + j.b.what) for j in done.assembly.joints
        )
        self.assertEqual([w.way for w in found], ["lock", "barb", "compression"])
        self.assertEqual({w.joints for w in found}, {on_tubing})
        self.assertEqual([w.seconds for w in found], [on_tubing * s for s in (20, 40, 15)])
        self.assertEqual(
            ways_beside(derive(draw([point("M", 0, 0, "mains"), point("T", 5, 0, "tap")], [("M", "T")])).assembly), ()
        )

    def test_low_heads_by_hand(self) -> None:
        """Two heads on 20 m of 1 in pipe that rises 1 m evenly: all of it lies above the lower, and runs out there; a
        check that holds 2 m keeps it.
        """
        spots = [
            point("M", -2, 0, "mains", depth=0.3),
            point("V", 0, 0, "valve", depth=0.3),
            point("A", 1, 0, "sprinkler", depth=0.3),
        ]
        for check in (0.0, 2.0):
            low = {**spots[2], "what": {**spots[2]["what"], "check": check}}
            high = point("B", 21, 0, "sprinkler", ground=1.0, depth=0.3, check=check)
            more = [{"series": "pvc40", "size": "1"}] * 3
            done = derive(draw([*spots[:2], low, high], [("M", "V"), ("V", "A"), ("A", "B")], runs_more=more))
            (found,) = drained(done.plan, done.layout, done.settled.pipes)
            self.assertEqual(found[0], "A")
            bore = pipe("pvc40", "1").bore
            want = (done.layout.lines["R3"].length * 0.7) * 3.14159265 * bore**2 / 4 if check == 0 else 0.0
            self.assertAlmostEqual(found[1], want, delta=1e-6)
            self.assertEqual("low-head" in {p.code for p in done.problems()}, check == 0)

    def test_what_drips_is_proved_by_running_it(self) -> None:
        """No pump is set to it, nothing capped, no gauge judged: at what it sees at work for ten minutes, and looked at
        (common practice).
        """
        done = derive(row(9.0))
        (section,) = done.sections
        self.assertEqual((section.sort, section.caps, section.isolate, section.hold), ("run", (), (), 600.0))
        self.assertAlmostEqual(section.test, section.working)
        with self.assertRaisesRegex(HydrarchError, "it is run"):
            judge([Reading(60.0 * n, 170e3) for n in range(6)], section)
        names, now = [j.id for j in done.assembly.joints], 1e6
        log = [
            Event(
                id=f"m{n}",
                kind="made",
                at=now + n,
                by="Ash",
                joints=mark_joints(done.assembly.joints, [j], {}, place=True),
            )
            for n, j in enumerate(names)
        ]
        for seconds, proves in ((400.0, False), (600.0, True)):
            test = Event(
                id="t",
                kind="tested",
                at=now + 1e5,
                by="Ash",
                joints=mark_joints(done.assembly.joints, names, {}, place=False),
                section=section.id,
                pressure=section.test,
                ended=now + 1e5 + seconds,
                passed=True,
                note="ran it, all dry",
            )
            stands = where_it_stands(done.plan, done, [*log, test], now + 2e5)
            self.assertEqual(stands.sections[section.id].proved, proves)

    def test_its_head_is_asked_for(self) -> None:
        """A row wants a filter before it as a drip zone does."""
        self.assertIn("drip-filter", codes(row(9.0)))

    def test_it_ends_in_fittings(self) -> None:
        """Each row ends in a plug of its tubing, and the tubing is cut as long as it lies."""
        done = derive(bedded(self.corners(), ["C0", "C1", "C2", "C3"], 0.5, 0.3).plan)
        plugs = [p for p in done.assembly.parts if "plug" in p.name]
        self.assertEqual(len(plugs), 8)


if __name__ == "__main__":
    unittest.main()
