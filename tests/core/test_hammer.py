"""Water hammer in a whole plan: every run's surge, and which of them a crew is told of."""

import unittest
from typing import Any

from hydrarch.core.derivation.chain import Derived, derive
from hydrarch.core.hydraulics.static import static_pressure
from hydrarch.core.hydraulics.surge import joukowsky, wave_speed
from hydrarch.core.hydraulics.water import water
from hydrarch.core.plan.document import Plan
from tests.core.plans import make_plan, point

WARM = 293.15


def mains_line(closing: float = 0.1, pressure: float = 5e5, source: str = "mains", **tap: Any) -> Plan:
    """A source, 40 m of thin PVC, a tee, and two taps; only the first is open in the one scenario."""
    given: dict[str, Any] = {"pressure": pressure} if source == "mains" else {"water_level": 0.0}
    spots = [
        point("M", 0, 0, source, **given),
        point("J", 40, 0, "junction"),
        point("A", 60, 0, "tap", height=0.0, needs=1e5, **{"flow": 8e-4, **tap}),
        point("B", 40, 20, "tap", height=0.0, needs=1e5),
    ]
    return make_plan(
        spots,
        [("M", "J"), ("J", "A"), ("J", "B")],
        runs_more=[
            {"series": "pvc-sdr26", "size": "1-1/4"},
            {"series": "pvc40", "size": "3/4"},
            {"series": "pvc40", "size": "1/2"},
        ],
        scenarios=[{"id": "one", "name": "First tap", "open": ["A"]}],
        conditions={"closing": closing, "water_temperature": WARM},
    )


def told(done: Derived) -> dict[str, str]:
    """Where surges are told of, and how."""
    return {p.where: p.says for p in done.problems() if p.code == "surge"}


class PlanSurges(unittest.TestCase):
    """Surges of a plan."""

    def test_peak_is_rest_and_rise(self) -> None:
        """A valve shut faster than the wave returns takes a run to its pressure at rest and ρ·a·v (Joukowsky 1898)."""
        plan = mains_line(closing=0.01)
        done = derive(plan)
        rest = static_pressure(plan, done.layout)
        item, flow = done.settled.pipes["R2"], done.sizes.flows["one"].runs["R2"]
        rise = joukowsky(wave_speed(item, WARM), flow.velocity, water(WARM).density)
        self.assertAlmostEqual(done.surges["R2"].peak, max(rest["J"], rest["A"]) + rise, places=3)

    def test_still_runs_have_none(self) -> None:
        """No water moves to the shut tap, so nothing stops there."""
        self.assertEqual(set(derive(mains_line()).surges), {"R1", "R2"})

    def test_a_slow_valve_is_gentle(self) -> None:
        """The slower the job's fastest valve, the lower every peak; none falls below the pressure at rest."""
        peaks = [derive(mains_line(closing=c)).surges["R1"].peak for c in (0.01, 1.0, 4.0, 16.0)]
        self.assertEqual(peaks, sorted(peaks, reverse=True))
        self.assertLess(peaks[-1], peaks[0])
        self.assertGreater(peaks[-1], 5e5)

    def test_a_pump_may_trip_at_once(self) -> None:
        """Where a pump feeds the line a slow valve is no comfort: the current may fail."""
        # type: float, float
        slow, fast = (derive(mains_line(closing=c, source="well_pump")).surges["R2"].peak for c in (20.0, 0.01))
        self.assertEqual(slow, fast)

    def test_the_worst_run_of_each_series_is_told(self) -> None:
        """At a high pressure both series go beyond their limits: one problem each, at the run where the excess is
        greatest.
        """
        done = derive(mains_line(closing=0.01, pressure=11e5, flow=1.2e-3))
        over = {r: s.peak / s.limit for r, s in done.surges.items() if s.peak > s.limit}
        self.assertEqual(set(told(done)), set(over))
        self.assertIn("is stopped in 0.01 s", told(done)["R1"])

    def test_nothing_is_told_within_the_limits(self) -> None:
        """Little water, slowly stopped, is no matter."""
        done = derive(mains_line(closing=5.0, pressure=3e5, flow=1e-4))
        self.assertTrue(all(s.peak <= s.limit for s in done.surges.values()))
        self.assertEqual(told(done), {})
