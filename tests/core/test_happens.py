"""What happens if: water is neither made nor lost, levels go as the laws say, and what is reported is what came of it."""

import unittest
from collections.abc import Iterator
from functools import cache

import numpy as np
from scipy.integrate import solve_ivp

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.base.progress import TookTooLong
from hydrarch.core.circulation.happens import AT, Trace, happens
from hydrarch.core.circulation.laws import evaporation, standpipe
from hydrarch.core.circulation.mishaps import MISHAPS, freezes, mishaps_of
from hydrarch.core.circulation.standing import WaterStanding
from hydrarch.core.components.basins import Basin
from hydrarch.core.derivation.chain import Derivation, derive, where_it_stands
from hydrarch.core.plan.basin_shapes import shape_of
from hydrarch.core.plan.document import Plan, Point
from hydrarch.core.record.events import Event
from hydrarch.core.record.states import mark_joints
from hydrarch.demo import cedar_tub, show_tank, swimming_pond
from tests.core.plans import draw
from tests.core.waters import Things, cover, over_sump, thing, tub


@cache
def worked_out(text: str) -> Derivation:
    """What follows from a plan, once for all that may befall it."""
    return derive(Plan.model_validate_json(text), strict=True)


def let(plan: Plan, mishap: str, where: str = "", hours: float = 1.0) -> Trace:
    """What comes of a mishap."""
    d = worked_out(plan.model_dump_json())
    return happens(plan, d.settled.pipes, d.assembly.minor, mishap, where, hours)  # type: ignore[arg-type]


def throttled(opening: float = 0.3, cold: float = 278.15) -> Plan:
    """The show tank with its return's valve turned down, in the cold."""
    plan = show_tank()
    points = tuple(replace_what(p, {"opening": opening}) if p.id == "V1" else p for p in plan.points)
    conditions = plan.conditions.model_copy(update={"water_temperature": cold})
    return Plan.model_validate(
        {**plan.model_dump(), "points": [p.model_dump() for p in points], "conditions": conditions.model_dump()}
    )


def everything() -> Iterator[tuple[str, Plan, str, str]]:
    """Every mishap at every thing it can befall, in the three jobs of the camp and a tank over its sump."""
    for name, plan in (
        ("pond", swimming_pond()),
        ("tub", cedar_tub()),
        ("tank", show_tank()),
        ("sump", over_sump()),
        ("low", throttled()),
    ):
        d = worked_out(plan.model_dump_json())
        for mishap, things in mishaps_of(plan, d.settled.pipes, d.assembly.minor).items():
            if name == "low" and mishap != "outlet opens":
                continue  # it is there for what can befall it alone
            for where in things[:2] or ("",):
                yield name, plan, mishap, where


class Books(unittest.TestCase):
    """Water is neither made nor lost."""

    def test_every_simulated_run_balances(self) -> None:
        """What was there, less what ran over, out and off, is what is there, to a millionth of it."""
        seen = set()
        for name, plan, mishap, where in everything():
            with self.subTest(job=name, mishap=mishap, where=where):
                trace = let(plan, mishap, where, 10.0 if mishap == "power fails" else 1.0)
                whole = sum(shape_of(p).volume(trace.levels[p.id][0]) for p in plan.points if isinstance(p.what, Basin))
                self.assertLessEqual(abs(trace.lost), 1e-6 * whole)
                self.assertTrue(all(np.isfinite(levels).all() for levels in trace.levels.values()))
                self.assertEqual(len(trace.times), len(next(iter(trace.levels.values()))))
                self.assertTrue((np.diff(trace.times) >= 0).all())
                seen.add(mishap)
        self.assertEqual(seen, set(MISHAPS))


class Gurgling(unittest.TestCase):
    """A siphon to which less comes than it takes."""

    def test_it_takes_what_comes(self) -> None:
        """The show tank's return turned down to three tenths, its spare drain blocked: the main one draws air, takes
        what comes, and few steps do.
        """
        body = show_tank().model_dump(mode="json")
        next(p for p in body["points"] if p["id"] == "V1")["what"]["opening"] = 0.3
        trace = let(Plan.model_validate(body), "drain blocked", "O2", 24.0)
        self.assertIn("it draws air, and gurgles", " ".join(h.says for h in trace.happened))
        late = [level for t, level in zip(trace.times, trace.levels["T"], strict=True) if t > 3600]
        self.assertLess(max(late) - min(late), 2e-3, "it stands at its open end")
        self.assertLess(trace.steps, 2000)


class AsTheLawsSay(unittest.TestCase):
    """Levels against an integration of the same laws by a general-purpose library."""

    def test_a_tank_runs_down_to_its_standpipe(self) -> None:
        """With the pump stopped behind a check valve a tank falls by Francis' weir alone: as scipy integrates it,
        within a tenth of a millimetre.
        """
        plan = over_sump(check=True)
        trace = let(plan, "pump stops", hours=0.5)
        area, c = 1.2 * 0.6, plan.conditions
        gone = evaporation(area, c.water_temperature, c.air_temperature, c.humidity)
        start = float(np.interp(AT, trace.times, trace.levels["T"]))

        def falls(_: float, level: np.ndarray) -> list[float]:
            return [-(standpipe(level[0] - 1.43, 0.04) + standpipe(level[0] - 1.445, 0.04) + gone) / area]

        later = np.array([10.0, 60.0, 300.0, 1200.0])
        found = solve_ivp(falls, (0, 1200), [start], t_eval=later, rtol=1e-10, atol=1e-12)
        for t, level in zip(later, found.y[0], strict=True):
            self.assertAlmostEqual(float(np.interp(AT + t, trace.times, trace.levels["T"])), level, delta=5e-4)

    def test_what_runs_over_is_what_runs_back(self) -> None:
        """A siphon left to itself brings what was calculated for it, and what the sump has no room for runs over; a
        hole keeps it back.
        """
        plan = over_sump()
        (back,) = derive(plan).rounds.back
        trace = let(plan, "pump stops")
        over = back.from_bodies - back.room
        lower = float(np.interp(AT, trace.times, trace.levels["S"])) - 0.3
        self.assertAlmostEqual(trace.spilled["S"], over + lower * 0.405, delta=0.004)
        self.assertIn("runs over the rim of", trace.says)
        self.assertTrue(any("hole that lets air in" in h for h in trace.helps))
        self.assertTrue(any(h.bad and h.where == "S" for h in trace.happened))
        kept = let(over_sump(hole_=0.40), "pump stops")
        self.assertEqual(sum(kept.spilled.values()), 0.0)
        self.assertIn("nothing runs over and no pump draws air", kept.says)

    def test_evaporation_and_a_float(self) -> None:
        """A still pond falls by what evaporates; with a float valve it stands where that shuts, and what came in is
        what went off.
        """
        spots: Things = [
            thing("W", "basin", 0, 0, 0, use="garden pond", long=4.0, wide=3.0, depth=1.0, below_rim=0.1),
            thing("S", "skimmer", -2, 0, -0.1),
            thing("P", "pump", -3, 0, -0.1),
            thing("R", "returns", 2, 0, -0.2),
        ]
        ways = [("S", "P"), ("P", "R")]
        warm = {"series": "pvc40", "water_temperature": 298.15, "air_temperature": 298.15, "humidity": 0.5}
        bare = let(draw(spots, ways, conditions=warm), "nothing", hours=24)
        fell = bare.levels["W"][0] - bare.levels["W"][-1]
        self.assertAlmostEqual(fell, 86400 * evaporation(1.0, 298.15, 298.15, 0.5), delta=1e-5)
        topped = draw(
            [*spots, thing("M", "mains", 9, 0, 0), thing("F", "top_up", 0, 1, 0.05, stops=0.1)],
            [*ways, ("M", "F")],
            conditions=warm,
        )
        kept = let(topped, "nothing", hours=24)
        self.assertLess(kept.levels["W"][0] - kept.levels["W"][-1], 0.002)
        self.assertGreater(kept.levels["W"][-1], bare.levels["W"][-1] + fell / 2)

    def test_steps_do_not_matter(self) -> None:
        """With a day asked for instead of an hour the first hour is the same."""
        plan = show_tank()
        short, long = let(plan, "power fails", hours=1.0), let(plan, "power fails", hours=24.0)
        for body in short.levels:
            for t in (300.0, 700.0, 3000.0):
                one, two = (float(np.interp(t, x.times, x.levels[body])) for x in (short, long))
                self.assertAlmostEqual(one, two, delta=1e-3)


class Told(unittest.TestCase):
    """What mattered is reported, when and where."""

    def words(self, trace: Trace) -> str:
        """All that happened."""
        return " | ".join(h.says for h in trace.happened)

    def test_a_night_without_power(self) -> None:
        """The siphon runs back and breaks; in the morning the pump starts."""
        trace = let(over_sump(hole_=0.40), "power fails", hours=10)
        words = self.words(trace)
        for said in ("The power is gone", "siphons back through", "The siphon through", "The power is back"):
            self.assertIn(said, words)
        self.assertLess(words.index("siphons back"), words.index("breaks"))

    def test_a_return_comes_off(self) -> None:
        """The sump runs dry and the pump draws air; what ran out is reported, and what would have helped."""
        trace = let(show_tank(), "return off", hours=1)
        self.assertGreater(trace.left, 0.02)
        self.assertGreater(trace.dry["PU"], 600)
        self.assertIn("draws air", self.words(trace))
        self.assertIn("runs out of the job", trace.says)
        self.assertTrue(trace.helps)

    def test_a_clogged_filter_and_a_shut_valve(self) -> None:
        """The pump moves less, and both figures are reported; a blocked standpipe is taken over by the other one."""
        self.assertIn("moves", self.words(let(swimming_pond(), "filter clogs")))
        self.assertIn("instead of", self.words(let(swimming_pond(), "valve shut")))
        blocked = let(show_tank(), "drain blocked", "O1", 2)
        self.assertEqual(sum(blocked.spilled.values()), 0.0)
        self.assertGreater(max(blocked.levels["T"]), blocked.levels["T"][0])

    def test_only_what_can_be(self) -> None:
        """What cannot befall a thing, or anything, is refused and not answered for another; a long one can be broken
        off.
        """
        plan = show_tank()
        with self.assertRaisesRegex(HydrarchError, "cannot happen to Sump bulkhead"):
            let(plan, "pump stops", "SU")
        with self.assertRaisesRegex(HydrarchError, "nothing on the drawing"):
            let(plan, "filter clogs")
        d = derive(plan)
        with self.assertRaises(TookTooLong):
            happens(plan, d.settled.pipes, d.assembly.minor, "pump stops", late=lambda: True)
        self.assertNotIn(
            "return off",
            {m for m, things in mishaps_of(plan, d.settled.pipes, d.assembly.minor).items() if "D1" in things},
        )

    def test_an_outline_that_is_none(self) -> None:
        """Corners at one place, in a line, or crossing: the job is derived, the fault is reported, and what happens is
        refused in words.
        """
        for corners in (((0, 0), (0, 0), (0, 0)), ((-1, 0), (0, 0), (1, 0)), ((-2, -2), (2, 2), (2, -2), (-2, 2))):
            with self.subTest(corners=corners):
                outline = [{"east": float(e), "north": float(n)} for e, n in corners]
                plan = tub(cover("A", 0.5), cover("B", -0.5), shape="outline", outline=outline)
                d = derive(plan, strict=True)
                self.assertIn("outline-crosses", {p.code for p in d.problems()})
                self.assertEqual(set(mishaps_of(plan, d.settled.pipes, d.assembly.minor)), {"nothing"})
                with self.assertRaisesRegex(HydrarchError, "correct the outline of"):
                    let(plan, "nothing")

    def test_water_in_two_jobs_at_once(self) -> None:
        """A plan whose pump stands, and one whose valve is shut already, are followed as they are."""
        plan = swimming_pond()
        shut = [replace_what(p, {"opening": 0.0}) if p.id == "V1" else p for p in plan.points]
        trace = let(plan.model_copy(update={"points": tuple(shut)}), "nothing")
        self.assertLess(max(trace.flows["PU"]), 1e-5)


class Opened(unittest.TestCase):
    """What is opened wide, and what freezes."""

    def test_an_outlet_opens(self) -> None:
        """A valve that was turned down is opened: the pump moves as much as with the valve open from the start, by the
        same network.
        """
        trace, wide = let(throttled(), "outlet opens", "V1", 0.5), let(throttled(1.0), "nothing", "", 0.5)
        before, after = trace.flows["PU"][0], trace.flows["PU"][-1]
        self.assertGreater(after, before * 1.02)
        self.assertAlmostEqual(after, wide.flows["PU"][-1], delta=0.02 * after)
        self.assertTrue(any("opens" in h.says for h in trace.happened))

    def test_frost(self) -> None:
        """Bare pipe that stays full bursts as late as scipy integrates its cooling and freezing; what has run back to
        the sump does not.
        """
        plan = throttled()
        d = derive(plan, strict=True)
        found = freezes(WaterStanding(plan, d.settled.pipes, d.assembly.minor))
        run, told = max(found.items(), key=lambda x: x[1])
        pipe = d.settled.pipes[run]
        loss, mass = 10.0 * np.pi * pipe.outside, 1000.0 * np.pi * pipe.bore**2 / 4

        def heat(_: float, h: np.ndarray) -> list[float]:  # J/m above ice-cold water
            return [-loss * (max(h[0], 0.0) / (mass * 4186.0) + 5.0)]

        def slush(_: float, h: np.ndarray) -> float:
            return float(h[0] + 0.2 * 334e3 * mass)

        slush.terminal = True  # type: ignore[attr-defined]
        cooled = solve_ivp(heat, (0, 1e6), [mass * 4186.0 * 5.0], events=slush, rtol=1e-9, atol=1e-3, max_step=60.0)
        self.assertAlmostEqual(told, float(np.concatenate(cooled.t_events or [])[0]), delta=0.002 * told)
        trace = let(plan, "frost", "", 9.0)
        burst = [h.where for h in trace.happened if "bursts" in h.says]
        self.assertIn("burst in the frost", trace.says)
        self.assertTrue(burst)
        high = {r.id for r in plan.runs if max(plan.by_id[p].level for p in r.points) > 0.9 + 204.0 + 0.7}
        self.assertFalse(high & set(burst))
        self.assertTrue(any("Drain what lies bare" in h for h in trace.helps))


class LeftDry(unittest.TestCase):
    """What is left dry on purpose, at a hand-over."""

    def test_under_a_pump_it_is_not_for_good(self) -> None:
        """A drain's joint may come out for cleaning; at a return under pump it is reported that it is made before water
        comes.
        """
        plan = show_tank()
        d = derive(plan, strict=True)

        def told(at: str) -> str:
            dry = [j for j in d.assembly.joints if j.point == at and j.method != "bulkhead"]
            done = [
                Event(
                    id=j.id[-20:],
                    kind="left_dry",
                    at=1.7e9 - 1800,
                    by="Ash",
                    joints=mark_joints(dry, [j.id], {}, place=True),
                    note="it comes out for cleaning",
                )
                for j in dry
            ]
            self.assertTrue(done)
            ready = where_it_stands(plan, d, done, 1.7e9)
            self.assertEqual(ready.hand_over.left, len(done))
            self.assertEqual(set(ready.hand_over.first[: len(done)]), {j for e in done for j in e.joints})
            return ready.hand_over.says[0]

        self.assertNotIn("under a pump", told("B1"))
        self.assertIn("under a pump, so made before water comes", told("B4"))


def replace_what(point: Point, update: dict[str, float]) -> Point:
    """A point whose thing has other numbers."""
    return point.model_copy(update={"what": point.what.model_copy(update=update)})


if __name__ == "__main__":
    unittest.main()
