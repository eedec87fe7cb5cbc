"""Pipe fit for where it lies and what it carries, backflow branch by branch, and each caution at its step."""

import unittest
from typing import Any

from hydrarch.core.base.units import INCH, show
from hydrarch.core.catalogue.guidance import cautions_for
from hydrarch.core.commissioning.thrust import thrust
from hydrarch.core.derivation.chain import derive
from hydrarch.core.making.steps import procedure
from tests.core.plans import codes, draw, point

Spots = list[dict[str, Any]]


def line(run: dict[str, Any], source: str = "well_pump", depth: float = 0.6, **more: Any) -> Any:
    """A source, one run of some pipe, and a tap."""
    spots = [point("A", 0, 0, source, depth=depth), point("B", 20, 0, "tap", depth=depth)]
    return draw(spots, [("A", "B")], runs_more=[run], **more)


class Fit(unittest.TestCase):
    """The catalogue's own knowledge, told where the drawing goes against it."""

    def test_a_place_it_is_not_made_for(self) -> None:
        """Thin-wall pressure pipe on the surface is reported with what it is made for; buried it is not."""
        told = codes(line({"series": "pvc-sdr21", "situation": "on surface"}))
        self.assertIn("It is made for: buried.", told["unfit-place"])
        self.assertNotIn("unfit-place", codes(line({"series": "pvc-sdr21"})))

    def test_refused_is_refused(self) -> None:
        """A house that refuses thin-wall pipe is stopped by it, and one that accepts it is not."""
        run = {"series": "pvc-sdr21"}
        self.assertIn(
            "the crew standards refuse it", codes(line(run, practices={"thinwall": "refuse"}))["thin-refused"]
        )
        self.assertNotIn("thin-refused", codes(line(run)))

    def test_buried_above_the_ground(self) -> None:
        """A buried line 300 mm above ground, or 5 cm deep, is reported so with the figure; at 600 mm nothing is."""
        self.assertIn("300 mm above the ground", codes(line({}, depth=-0.3))["not-buried"])
        self.assertIn("50 mm of cover", codes(line({}, depth=0.05))["thin-cover"])
        self.assertFalse({"not-buried", "thin-cover"} & set(codes(line({}))))

    def test_under_wheels(self) -> None:
        """Thin-wall sewer, thin-wall irrigation and corrugated pipe under a drive are reported, SDR 35 is not; 600 mm
        lies over it at the least.
        """
        for series, told in (
            ("pvc-sdr21", True),
            ("sewer-thin", True),
            ("corrugated", True),
            ("sewer-sdr35", False),
            ("pvc40", False),
        ):
            found = codes(line({"series": series, "wheels": True}))
            self.assertEqual("under-wheels" in found, told, series)
            self.assertNotIn("under-wheels", codes(line({"series": series})))
        self.assertIn("400 mm of cover", codes(line({"wheels": True}, depth=0.4))["thin-cover"])
        self.assertNotIn("thin-cover", codes(line({}, depth=0.4)))

    def test_what_only_pushes_together_is_held(self) -> None:
        """A push-together joint under pressure is reported with the force of its test: p π D² / 4 by statics, and a way
        that grips is silent.
        """
        old, new = {"series": "pvc40", "size": "2", "existing": {"known": "seen"}}, {"series": "pvc40", "size": "2"}
        spots = [
            point("A", 0, 0, "mains", pressure=400e3),
            point("J", 20, 0, "junction", depth=0.6),
            point("B", 30, 0, "tap", depth=0.6),
        ]
        for fittings, told in ((["gasket-ips-coupling-2"], True), (["pvc-coupling-2"], False)):
            plan = draw(
                spots, [("A", "J"), ("J", "B")], runs_more=[old, new], ways=[{"end": "R1b", "fittings": fittings}]
            )
            done = derive(plan)
            found = {p.code: p.says for p in done.problems() if p.where == "J"}
            self.assertEqual("thrust" in found, told, found)
            if told:
                test = max(s.test for s in done.sections)
                self.assertIn(str(show(thrust(test, 2.375 * INCH) / 9.80665, "mass")), found["thrust"])
        self.assertAlmostEqual(thrust(1e6, 0.1), 7853.98, places=2)

    def test_drinking_water(self) -> None:
        """Lead and pipe that is not for drinking water on the way to a tap are reported; on a dead branch they are
        not.
        """
        lead = codes(line({"series": "lead", "size": "1/2", "existing": {"known": ""}}))
        self.assertIn("Lead pipe supplies tap B", lead["lead-in-the-way"])
        vinyl = codes(line({"series": "vinyl", "size": "3/4", "situation": "on surface"}))
        self.assertIn("is not for drinking water", vinyl["not-for-drinking"])
        self.assertFalse({"lead-in-the-way", "not-for-drinking"} & set(codes(line({}))))

    def test_sun_is_told_once(self) -> None:
        """White pipe above ground in several runs is one note that counts them."""
        spots = [
            point("A", 0, 0, "tank"),
            *(point(f"J{n}", 10.0 * n, 0, "bend") for n in (1, 2)),
            point("T", 30, 0, "tap"),
        ]
        plan = draw(spots, [("A", "J1"), ("J1", "J2"), ("J2", "T")], runs_more=[{"situation": "on surface"}] * 3)
        told = [p.says for p in derive(plan).problems() if p.code == "sun"]
        self.assertEqual(len(told), 1)
        self.assertIn("3 runs", told[0])


class RunningBack(unittest.TestCase):
    """What could run back into drinking water."""

    def branches(self, source: str, guarded: str, outlets: tuple[str, str]) -> dict[str, str]:
        """A source, a tee, and an outlet on each branch, with a preventer on the branches named."""
        spots: Spots = [point("A", 0, 0, source), point("J", 10, 0, "junction")]
        runs = [("A", "J")]
        for n, kind in enumerate(outlets):
            last, y = "J", 10.0 * (n + 1)
            if str(n) in guarded:
                spots.append(point(f"G{n}", 15, y, "backflow"))
                runs.append((last, f"G{n}"))
                last = f"G{n}"
            spots.append(point(f"O{n}", 25, y, kind, **({} if kind == "drip_row" else {"height": 0.0})))
            runs.append((last, f"O{n}"))
        return codes(draw(spots, runs))

    def test_branch_by_branch(self) -> None:
        """A preventer on one branch does not guard the other."""
        self.assertIn("sprinkler O1", self.branches("mains", "0", ("sprinkler", "sprinkler"))["no-backflow"])
        self.assertNotIn("no-backflow", self.branches("mains", "01", ("sprinkler", "sprinkler")))

    def test_all_that_waters(self) -> None:
        """A row of emitters, a drip zone and a bubbler hang on drinking water as a sprinkler does."""
        for kind in ("sprinkler", "drip", "drip_row", "bubbler"):
            with self.subTest(kind=kind):
                self.assertIn("no-backflow", self.branches("mains", "", ("tap", kind)))
                self.assertNotIn("no-backflow", self.branches("mains", "1", ("tap", kind)))

    def test_a_well_that_is_drunk_from(self) -> None:
        """A well that also waters is reported of where taps hang on it, not where it only waters."""
        told = self.branches("well_pump", "", ("sprinkler", "tap"))
        self.assertIn("a well that tap O1 may be drunk from", told["no-backflow"])
        self.assertNotIn("no-backflow", self.branches("well_pump", "", ("sprinkler", "sprinkler")))
        self.assertNotIn("no-backflow", self.branches("well_pump", "0", ("sprinkler", "tap")))

    def test_a_hose_on_the_mains(self) -> None:
        """A tap on a mains is reported that a hose draws back."""
        self.assertIn("vacuum breaker: tap O0", self.branches("mains", "", ("tap", "tap"))["hose-tap"])
        self.assertIn("vacuum breaker: hydrant O0", self.branches("mains", "", ("hydrant", "sprinkler"))["hose-tap"])


class AtItsStep(unittest.TestCase):
    """Cautions where the step is."""

    def test_electricity_at_every_pump(self) -> None:
        """Well pump, pump in the line, sump and equipment each warn of electricity; a tank warns of suction and of
        pits.
        """
        for kind in ("well_pump", "pump", "sump", "equipment"):
            self.assertIn("electric", {c.code for c in cautions_for(kind)}, kind)
        self.assertTrue({"entrapment", "pit"} <= {c.code for c in cautions_for("tank")})

    def test_backflow_before_one_is_drawn(self) -> None:
        """Sprinklers and drip tell of backflow, with the height each kind of device wants."""
        for kind in ("sprinkler", "drip"):
            (told,) = [c.text for c in cautions_for(kind) if c.code == "backflow"]
            self.assertIn("above the highest head", told)

    def test_lead_only_where_lead_is(self) -> None:
        """A universal coupling on lead warns of lead, one on polyethylene does not."""
        for old, warned in (("lead", True), ("copper-l", False)):
            size = {"lead": "1/2", "copper-l": "1/2"}[old]
            spots = [point("A", 0, 0, "mains"), point("J", 10, 0, "bend"), point("T", 20, 0, "tap")]
            runs = [{"series": old, "size": size, "existing": {"known": ""}}, {"series": "pe100-sdr11", "size": "25"}]
            plan = draw(spots, [("A", "J"), ("J", "T")], runs_more=runs)
            joints = [
                j for j in derive(plan).assembly.joints if any((s.pipe or "").startswith(old) for s in (j.a, j.b))
            ]
            self.assertTrue(joints, old)
            for joint in joints:
                self.assertEqual("lead" in {c.code for c in procedure(plan, joint, 6e5).cautions}, warned, old)

    def test_hot_and_frost(self) -> None:
        """Hot water tells of scald and relief, frost of freezing; a cool mild job of neither."""
        hot = line(
            {"series": "ppr-s2.5"},
            conditions={"water_temperature": 333.15, "series": "ppr-s2.5", "market": "elsewhere"},
        )
        cold = line({}, conditions={"air_temperature": 270.0})
        for plan, code in ((hot, "scald"), (cold, "frost")):
            self.assertIn(code, {c.code for c in derive(plan).site_cautions})
            self.assertNotIn(code, {c.code for c in derive(line({})).site_cautions})

    def test_a_vent_is_no_preventer(self) -> None:
        """A vent says what it does and what it is not, and stands on the branch of a tee, not in the line."""
        (told,) = [c.text for c in cautions_for("vent")]
        self.assertIn("no backflow preventer", told)


if __name__ == "__main__":
    unittest.main()
