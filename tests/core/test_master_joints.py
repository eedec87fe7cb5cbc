"""Join this to that, as a master answers: what comes first, what may follow, and what is never offered as sound.

Common practice.
"""

import unittest

from hydrarch.core.derivation.chain import derive
from hydrarch.core.joining.answer import answer
from hydrarch.core.joining.branches import branch
from hydrarch.core.joining.constraints import Constraints
from hydrarch.core.joining.pipe_or_end import PipeOrEnd
from hydrarch.core.joining.question import read_question
from hydrarch.core.joining.ways import Way, Ways, join
from tests.core.plans import draw, point


def ask(words: str, **limits: bool) -> Ways:
    """The answer to a question in words."""
    return answer(read_question(words), Constraints(**limits))  # type: ignore[arg-type]


def read(words: str) -> Ways:
    """The answer to a question in words that also say what is fixed or goes between."""
    return answer(read_question(words), Constraints())


def parts_with_last(way: Way) -> list[str]:
    """The fittings of a way that ends in one."""
    return [p.name for p in way.parts[1:]]


def parts(way: Way) -> list[str]:
    """The fittings of a way."""
    return [p.name for p in way.parts[1:-1]]


def methods(way: Way) -> list[str]:
    """How its joints are made."""
    return [j.method for j in way.joints]


FIFTY = {
    "1 in sch 40 to 3/4 in sch 40": "PVC reducing coupling 1 × 3/4",
    "2 in sch 40 to 1 in class 200": "PVC reducing coupling 2 × 1",
    "1 in sch 80 to 1 in sch 40": "PVC coupling 1",
    "1-1/2 in sch 40 to 1-1/2 in flexible pvc": "PVC deep-socket coupling 1-1/2",
    "1 in sch 40 to 1 in sidr 7": "PVC female adapter 1 socket × 1 female thread + Insert adapter 1 barb × 1 male thread",
    "1 in sch 40 to 3/4 in sidr 7": "PVC female adapter 1 socket × 3/4 female thread + Insert adapter 3/4 barb × 3/4 male thread",
    "1-1/4 in sidr 15 to 1 in sidr 7": "Insert reducing coupling 1-1/4 × 1",
    "1 in sidr 7 to 3/4 npt female": "Insert adapter 1 barb × 3/4 male thread",
    "25 mm pe100 to 32 mm pe100": "Compression reducing coupling 32 × 25",
    "32 mm pe100 to 1 in sch 40": "Universal coupling 27 to 35 mm",
    "25 mm pe100 to 20 mm ppr": "Compression adapter 25 × 1/2 BSP male + PPR adapter 20 × 1/2 BSP female, brass insert",
    "20 mm ppr to 1/2 npt female": "PPR adapter 20 × 1/2 NPT male, brass insert",
    "25 mm ppr to 3/4 bsp male": "PPR adapter 25 × 3/4 BSP female, brass insert",
    "1 in galvanized to 3/4 galvanized": "Threaded reducing coupling 1 × 3/4 female",
    "1 in galvanized to 1 in sch 40": "Threaded coupling 1 female + PVC male adapter 1 socket × 1 male thread",
    "1/2 in galvanized to 20 mm ppr": "PPR adapter 20 × 1/2 NPT female, brass insert",
    "3/4 copper tube to 3/4 sch 40": "CTS compression adapter 3/4 × 3/4 NPT female + PVC male adapter 3/4 socket × 3/4 male thread",
    "1/2 lead to 1/2 copper tube": "Universal stepped coupling 15 to 22 × 21 to 27 mm",
    "1 in copper-size pe to 1 in sch 40": "CTS compression adapter 1 × 1 NPT female + PVC male adapter 1 socket × 1 male thread",
    "1 in ips poly to 1 in sch 40": "IPS compression adapter 1 × 1 NPT male + PVC female adapter 1 socket × 1 female thread",
    "1 in rural poly to 25 mm pe": "Rural adapter 1 × 1 BSP female + Compression adapter 25 × 1 BSP male",
    "1 in rural poly to 1 bsp female": "Rural adapter 1 × 1 BSP male",
    "50 mm pvc to 1-1/2 in sch 40": "Universal coupling 46 to 61 mm",
    "50 mm pvc to 50 mm pe100": "Metric PVC adapter 50 socket × 1-1/2 BSP male + Compression adapter 50 × 1-1/2 BSP female",
    "4 in sch 40 to 4 in thin-wall sewer": "Transition coupling 4 drain socket × 4 sewer socket",
    "4 in sdr 35 to 6 in sdr 35": "Sewer bell reducer 6 × 4",
    "4 in corrugated to 6 in corrugated": "Corrugated snap reducer 6 × 4",
    "4 in bituminized fibre to 4 in sdr 35": "Shielded band 4 fibre drain × 4 sewer",
    "3 in building drain to 4 in sdr 35": "Drain bell reducer 4 × 3 + Transition bushing 4 drain spigot × 4 sewer socket",
    "2 in cast iron to 2 in building drain": "Shielded band 2 cast-iron × 2 drain",
    "1-1/2 in building drain to 1-1/2 in sch 40": "Drain coupling 1-1/2",
    ".600 drip to .620 drip": "Drip lock coupling 1/2",
    ".820 drip to .600 drip": "Drip lock coupling 1/2 × 3/4",
    "3/4 hose male to 1 in sch 40": "Hose swivel 3/4 female × 3/4 NPT male + Threaded coupling 3/4 female + PVC male adapter 1 socket × 3/4 "
    "male thread",
    "3/4 hose female to 1/2 npt female": "Hose adapter 3/4 male × 3/4 NPT female + Brass reducing nipple 3/4 × 1/2 male thread",
    "pump union male 2 to 2 in sch 40": "Union tail 2 buttress nut × 2 socket, O-ring",
    "pump union male 1-1/2 to 1-1/2 flexible pvc": "Union tail 1-1/2 buttress nut × 1-1/2 spigot, O-ring + PVC coupling 1-1/2 socket × deep socket",
    "3/4 npt male to 3/4 bsp female": "Adapter 3/4 NPT female × 3/4 BSP male",
    "1 npt female to 1 npt female": "Nipple 1 male thread, close",
    "3/4 vinyl to 3/4 npt female": "Vinyl barb adapter 3/4 × 3/4 NPT male",
    "1/2 vinyl to 1/2 sch 40": "Vinyl barb adapter 1/2 × 1/2 NPT male + PVC female adapter 1/2 socket × 1/2 female thread",
    "tank 1 to 1 in sch 40": "Bulkhead 1 × 1 socket",
    "2 in class 200 to 1-1/2 in galvanized": "PVC male adapter 2 socket × 1-1/2 male thread + Threaded coupling 1-1/2 female",
    "3 in sch 40 to 2 in sch 40": "PVC reducing coupling 3 × 2",
    "110 mm pe100 to 4 in sch 40": "",
    ".600 drip to 1/4 drip": "",
}
"""Pairs looked at one by one, and what comes first: common practice. None stands where nothing honest spans them."""


class Fifty(unittest.TestCase):
    """Judged by hand."""

    def test_first_of_each(self) -> None:
        """What a master would take first from the shelf comes first, asked from either end."""
        for words, first in FIFTY.items():
            with self.subTest(words=words):
                start, stop = read_question(words).things
                there, back = join(start, stop), join(stop, start)
                self.assertEqual(" + ".join(parts(there.ways[0])) if there.ways else "", first)
                self.assertEqual(" + ".join(parts(back.ways[0])[::-1]) if back.ways else "", first)
                self.assertTrue(there.ways or there.says)

    def test_what_nobody_would_build_is_no_way(self) -> None:
        """No way takes more than seven joints, and a thin tubing is fed from the side of a wide one."""
        for words in FIFTY:
            for way in ask(words).ways:
                self.assertLessEqual(len(way.joints), 7, words)
        self.assertIn("hole punched in it", ask(".600 drip to 1/4 drip").says)
        self.assertEqual(
            branch(PipeOrEnd("drip-600", "1/2"), PipeOrEnd("drip-170", "1/4"))[0].says,
            "Transfer barb, punched hole × 1/4 tubing",
        )


class JoinThis(unittest.TestCase):
    """One thing to another."""

    def test_a_way_and_its_mirror_are_one(self) -> None:
        """Between two alike ends no way is offered twice, from the left and from the right."""
        for words in ("valve in 25 mm PE", "1 in sch 80 to 1 in sch 80", "1 in SIDR 7 to itself"):
            seen = [
                tuple(p.fitting for p in w.parts) for w in answer(read_question(words, "elsewhere"), Constraints()).ways
            ]
            self.assertEqual(len({min(s, s[::-1]) for s in seen}), len(seen), words)

    def test_pvc_to_itself(self) -> None:
        """1½ PVC in line: a coupling with two welds; of compression couplings the gripping before the plain."""
        found = ask("1 1/2 in pvc to 1½ in pvc")
        self.assertEqual((parts(found.ways[0]), methods(found.ways[0])), (["PVC coupling 1-1/2"], ["solvent weld"] * 2))
        dry = ask("1 1/2 in pvc to 1½ in pvc", no_solvent=True).ways
        plain = next(n for n, w in enumerate(dry) if "repair compression" in methods(w))
        grips = next(n for n, w in enumerate(dry) if "gripping compression" in methods(w))
        self.assertLess(grips, plain)
        self.assertIn("blocked or held", dry[plain].why)

    def test_a_branch_off_thin_wall(self) -> None:
        """3/4 off a 2 in thin-wall line: the reducing tee first, and no outlet narrower than asked among the first."""
        found = branch(PipeOrEnd("pvc-sdr21", "2"), PipeOrEnd("pvc40", "3/4"))
        self.assertEqual(found[0].says, "PVC reducing tee 2 × 2 × 3/4")
        self.assertFalse(any("narrower" in w.why for w in found[:4]))

    def test_a_branch_off_ppr(self) -> None:
        """20 mm off 32 mm PPR: a fused reducing tee; a bolted saddle never."""
        found = branch(PipeOrEnd("ppr-s2.5", "32"), PipeOrEnd("ppr-s2.5", "20"), most=20)
        self.assertEqual(found[0].says, "PPR reducing tee 32 × 32 × 20")
        self.assertFalse(any("addle" in w.says for w in found))

    def test_ppr_down_two_sizes(self) -> None:
        """32 mm PPR to 20 mm: one reducer and two fusions; cement and PVC never."""
        found = ask("32 mm ppr to 20 mm ppr")
        self.assertEqual(
            (parts(found.ways[0]), methods(found.ways[0])), (["PPR reducing coupling 32 × 20"], ["socket fusion"] * 2)
        )
        self.assertFalse(any("PVC" in p for w in found.ways for p in parts(w)))

    def test_metric_polyethylene_to_a_thread(self) -> None:
        """25 mm PE to a 3/4 BSP female thread: one compression adapter; NPT is tempting and told."""
        found = ask("25 mm PE to 3/4 bsp female")
        self.assertEqual(parts(found.ways[0]), ["Compression adapter 25 × 3/4 BSP male"])
        self.assertFalse(any("NPT" in p for w in found.ways for p in parts(w)))
        self.assertTrue(any("NPT" in w.b.words or "NPT" in w.a.words for w in found.wrong))

    def test_a_valve_in_metric_polyethylene(self) -> None:
        """A ball valve in a 25 mm PE line has compression ends or two adapters; no universal coupling, no PVC,
        no glue.
        """
        spots = [point("A", 0, 0, "tank"), point("V", 10, 0, "valve"), point("T", 20, 0, "tap")]
        runs = [{"series": "pe100-sdr11", "size": "25"}] * 2
        done = derive(draw(spots, [("A", "V"), ("V", "T")], runs_more=runs, conditions={"market": "elsewhere"}))
        here = [p.name for p in done.assembly.parts if p.point == "V"]
        self.assertTrue(here)
        self.assertFalse([p for p in here if "niversal" in p or "PVC" in p])

    def test_schedule_40_to_sewer(self) -> None:
        """4 in schedule 40 has a building drain's outside: a transition coupling to SDR 35, a shielded band
        after it.
        """
        found = ask("4 in sch 40 to 4 in sdr 35")
        self.assertEqual(parts(found.ways[0]), ["Transition coupling 4 drain socket × 4 sewer socket"])
        self.assertTrue(any("shielded band" in methods(w) for w in found.ways))

    def test_sewer_to_thin_wall(self) -> None:
        """SDR 35 and thin-wall sewer share a coupling."""
        self.assertEqual(parts(ask("4 in sdr 35 to 4 in thin-wall sewer").ways[0]), ["Sewer coupling 4"])

    def test_corrugated(self) -> None:
        """Corrugated to thin-wall: a snap adapter, and no cement on polyethylene."""
        found = ask("4 in corrugated to 4 in thin-wall")
        self.assertEqual(methods(found.ways[0])[0], "snap")
        self.assertFalse(any(methods(w)[0] == "solvent weld" for w in found.ways))

    def test_copper_drain_to_sewer(self) -> None:
        """3 in copper drain to 4 in SDR 35: a band by true diameters to schedule 40, a bell reducer, a transition;
        never one band forced.
        """
        found = ask("3 in copper drain to 4 in sdr 35")
        self.assertEqual(parts(found.ways[0])[0], "Shielded band 3 copper drain × 3 drain")
        self.assertEqual(
            parts(found.ways[0])[-2:],
            ["Drain bell reducer 4 × 3", "Transition bushing 4 drain spigot × 4 sewer socket"],
        )
        self.assertEqual(parts(ask("4 in cast iron to 4 in sch 40").ways[0]), ["Shielded band 4 cast-iron × 4 drain"])

    def test_no_way_is_offered_twice(self) -> None:
        """Pipe that offers several ends is joined one way by the same fittings and methods, whichever end is looked at."""
        for words in (
            "4 in sch 40 to 4 in sdr 35",
            "4 in bituminized fibre to 4 in sdr 35",
            "4 in cast iron to 4 in sdr 35",
            "3 in copper drain to 3 in sch 40 drain",
            "25 mm pe to 25 mm pe",
        ):
            seen = [(tuple(parts(w)), tuple(methods(w))) for w in ask(words).ways]
            self.assertEqual(len(set(seen)), len(seen), words)

    def test_a_stop_valve_in_fixed_galvanized(self) -> None:
        """Between two fixed galvanized ends: valve, metal nipple and union with a back-up wrench; never threads
        alone.
        """
        found = read("3/4 in galvanized to 3/4 in galvanized, both fixed, with a new stop valve between")
        self.assertEqual(
            set(parts(found.ways[0])),
            {"Brass ball valve 3/4 female thread", "Nipple 3/4 male thread, close", "Brass union 3/4 female thread"},
        )
        self.assertIn("back-up wrench", found.ways[0].closes)
        for way in found.ways:
            self.assertTrue(any("union" in p.lower() for p in parts(way)), parts(way))
        free = read("3/4 in galvanized to 3/4 in galvanized with a valve between")
        self.assertEqual(parts(free.ways[0]), ["Brass ball valve 3/4 female thread"])

    def test_a_nick_in_a_line_that_cannot_move(self) -> None:
        """1 in that cannot move: a slip coupling first, with the window; a gripping coupling may follow; a coupling
        with a stop never.
        """
        found = read("1 in sch 40 that cannot move to 1 in sch 40")
        self.assertEqual(parts(found.ways[0]), ["PVC slip coupling 1, no stop"])
        self.assertIn("take two of them with a piece as long as the window", found.ways[0].closes)
        names = [p for w in found.ways for p in parts(w)]
        self.assertIn("PVC gripping compression coupling 1", names)
        self.assertNotIn("PVC coupling 1", names)
        only = answer(read_question("1 in pvc to 1 in pvc"), Constraints(at_hand=("pvc-slip-coupling-1",)))
        self.assertEqual(parts(only.ways[0]), ["PVC slip coupling 1, no stop"])

    def test_capping_two_lines_in_one_trench(self) -> None:
        """Socket caps, staggered, the line likelier to go on the easier to reach; a threaded plug where one
        will go on.
        """
        both = answer(read_question("cap a 1/2 in pvc line and a 1 in line in one trench"), Constraints())
        self.assertEqual([parts_with_last(w) for w in both.ways], [["PVC cap 1/2"], ["PVC cap 1"]])
        self.assertIn("Stagger the caps", both.advice)
        alone = answer(read_question("cap a 1 in pvc line"), Constraints())
        self.assertEqual((parts_with_last(alone.ways[0]), alone.advice), (["PVC cap 1"], ""))
        self.assertTrue(any("unscrews" in w.why for w in alone.ways[1:]))
        self.assertEqual(
            parts_with_last(answer(read_question("cap 3/4 galvanized"), Constraints()).ways[0]),
            ["Threaded cap 3/4 female"],
        )
        self.assertEqual(read_question("1 in pvc to 1 in poly").kind, "join")

    def test_three_inch_to_four_inch_sewer(self) -> None:
        """3 in schedule 40 drain to 4 in SDR 35: a bell reducer and a transition; one band is not forced over the
        change of size.
        """
        found = ask("3 in sch 40 to 4 in sdr 35")
        self.assertEqual(
            parts(found.ways[0]), ["Drain bell reducer 4 × 3", "Transition bushing 4 drain spigot × 4 sewer socket"]
        )

    def test_copper_to_copper_size(self) -> None:
        """3/4 copper to copper-size polyethylene: one coupling for 0.875 in before a universal one."""
        found = ask("3/4 copper tube to 3/4 copper-size pe")
        self.assertEqual(parts(found.ways[0]), ["CTS compression coupling 3/4"])
        wide = [n for n, w in enumerate(found.ways) if "niversal" in parts(w)[0]]
        self.assertTrue(wide and wide[0] > 0, "a universal one may follow")
        self.assertIn("for odd and old pipe", found.ways[wide[0]].why)

    def test_lead_is_joined_and_told_of(self) -> None:
        """Lead to polyethylene for drinking water: a universal coupling with the lead caution; it is not refused
        without a way.
        """
        found = ask("lead 1/2 to 25 mm PE", potable=True)
        self.assertIn("Universal coupling", parts(found.ways[0])[0])
        (lead,) = [c for c in found.ways[0].cautions if c.code == "lead"]
        self.assertIn("Replace it whole", lead.text)

    def test_sidr_without_flame(self) -> None:
        """1 in SIDR 7 to itself with no flame on site: hot water and a barb, not "no way"."""
        found = ask("1 in sidr 7 to 1 in sidr 7", no_hot_work=True)
        self.assertEqual(parts(found.ways[0]), ["Insert coupling 1"])

    def test_a_pump_union(self) -> None:
        """Buttress 1-1/2 to PVC: a union tail on its O-ring and a weld, no taper adapter."""
        found = ask("pump union male 1-1/2 to 1-1/2 pvc")
        self.assertEqual(methods(found.ways[0]), ["union", "solvent weld"])
        self.assertFalse(any("thread" in methods(w) for w in found.ways[:1]))

    def test_a_hose_tap_to_drip(self) -> None:
        """A hose tap to half-inch tubing asks which half inch; then a washer swivel, no NPT."""
        with self.assertRaisesRegex(ValueError, "is one of 4 tubings"):
            ask("hose tap 3/4 to 1/2 drip")
        found = ask("hose tap 3/4 to .600 drip")
        self.assertEqual(methods(found.ways[0])[0], "washer thread")
        self.assertFalse(any("NPT" in p for p in parts(found.ways[0])))

    def test_vinyl_on_a_valve(self) -> None:
        """Vinyl tube on a 3/4 thread: a barb adapter, pushed on."""
        self.assertEqual(methods(ask("3/4 vinyl to 3/4 npt female").ways[0]), ["push barb", "thread"])

    def test_a_plain_end_of_a_nipple(self) -> None:
        """A toe nipple's plain end to pipe: a coupling over both."""
        self.assertEqual(parts(ask("3/4 spigot to 3/4 pvc").ways[0]), ["PVC coupling 3/4"])


if __name__ == "__main__":
    unittest.main()
