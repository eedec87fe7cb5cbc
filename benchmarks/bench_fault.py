"""Made-up faults on random lines and the demo's, looked for with at most five readings: how often the true one comes
first, and whether the stated probabilities are kept.

All are solved by SciPy's root-finder (tests/core/test_diagnosis); a fault with which that does not come to its end is
left out, and counted.

.venv/bin/python -m benchmarks.bench_fault [faults]
"""

from __future__ import annotations

import random
import sys
import time
from collections.abc import Callable

from benchmarks.bench_scale import tapped
from benchmarks.timing import spin
from hydrarch.core.building.together import all_scenarios
from hydrarch.core.derivation.chain import derive
from hydrarch.core.diagnosis.candidates import FaultyLine, PossibleFault
from hydrarch.core.diagnosis.explain import Diagnosis, explained
from hydrarch.core.diagnosis.weighing import SeenHere
from hydrarch.core.hydraulics.flow import FlowModel
from hydrarch.core.plan.document import Scenario
from hydrarch.demo import BEDS_ID, DEMO_ID, GATE_ID, MEADOW_ID, RISERS_ID, demo_job
from tests.core.test_diagnosis import by_root_finding, line_of, spine

_GAUGE, _NOTICED, _READINGS = 5e3, 0.05, 5
Shows = Callable[[str, str], float]


def lines(chance: random.Random) -> list[tuple[str, FaultyLine]]:
    """20 random lines and five of the demo's."""
    found = [(f"random {n}", line_of(spine(chance.randint(2, 4), chance))[0]) for n in range(20)]
    for name in (MEADOW_ID, DEMO_ID, GATE_ID, BEDS_ID, RISERS_ID):
        plan = demo_job(name).plan
        done = derive(plan)
        scenario: Scenario = next(s for s in all_scenarios(plan) if s.open)
        model = FlowModel(plan, done.layout, scenario, yields=True)
        found.append((name, FaultyLine(plan, model, done.settled.pipes, done.assembly.minor, {})))
    return found


def shown_by(line: FaultyLine, fault: PossibleFault, size: float) -> Shows | None:
    """What instruments would show with a fault in the line; None where it cannot be. Raises `AssertionError` where the
    root-finder does not come to its end.
    """
    if line.with_faults((fault, size)) is None:
        return None
    there = by_root_finding(line, fault, size)

    def shows(point: str, what: str) -> float:
        return (line.flow(there, point) if what == "flow" else line.pressure(there, point)) or 0.0

    return shows


def looked_for(line: FaultyLine, shows: Shows, chance: random.Random) -> tuple[Diagnosis, int]:
    """Read where the crew notices most, and then where the next look says."""
    spots = [p.id for p in line.plan.outlets if p.id in line.model.open]
    first = max(spots, key=lambda p: abs(shows(p, "pressure") / max(line.pressure(line.rest, p) or 0.0, 1e3) - 1))
    seen: list[SeenHere] = []
    look: tuple[str, str] | None = (first, "pressure")
    while look is not None and len(seen) < _READINGS:
        point, what = look
        true = shows(point, what)
        doubt = _GAUGE if what == "pressure" else max(0.02 * abs(true), 2e-6)
        value = max(true + chance.gauss(0, doubt), 0.0)
        seen.append(SeenHere(str(len(seen)), point, "pressure" if what == "pressure" else "flow", value, doubt))
        found = explained(line, seen)
        look = next(((x.point, x.what) for x in found.looks if not x.shut), None)
    return found, len(seen)


def of_300_runs() -> float:
    """How long (s) it takes to weigh a line of 300 runs with a tap at every tee, 40 of its faults solved, by three
    gauges. Budget: 2 s.
    """
    plan = tapped(300)
    done = derive(plan)
    taps = tuple(p.id for p in plan.outlets)
    began = time.perf_counter()
    model = FlowModel(plan, done.layout, Scenario(id="all", name="All", open=taps), yields=True)
    line = FaultyLine(plan, model, done.settled.pipes, done.assembly.minor, {})
    fault = next(f for f in line.candidates() if f.kind == "leak" and f.where == plan.runs[150].id)
    there = line.with_faults((fault, float(line.sizes_of(fault)[4])))
    assert there is not None
    spots = random.Random(1).sample(taps, 3)
    explained(line, [SeenHere(p, p, "pressure", line.pressure(there, p) or 0.0, _GAUGE) for p in spots])
    return time.perf_counter() - began


def main() -> int:
    """Print ranks, the Brier score, and what the stated probabilities came to in ten bins."""
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 500
    chance = random.Random(1)
    known = lines(chance)
    ranks: list[int] = []
    told: list[tuple[float, bool]] = []
    began, answers, gave_up = time.perf_counter(), 0, 0
    while len(ranks) < many:
        _, line = chance.choice(known)
        every = line.candidates()
        fault = chance.choices(every, [f.prior for f in every])[0]
        sizes = line.sizes_of(fault)
        size = float(chance.uniform(sizes[0], sizes[-1]))
        try:
            shows = shown_by(line, fault, size)
        except AssertionError:
            gave_up += 1
            continue
        if shows is None:
            continue
        spots = [p.id for p in line.plan.outlets if p.id in line.model.open]
        noticed = (shows(p, "pressure") / max(line.pressure(line.rest, p) or 0.0, 1e3) - 1 for p in spots)
        if max((abs(x) for x in noticed), default=0.0) < _NOTICED:
            continue
        found, count = looked_for(line, shows, chance)
        answers += count
        here = [e.kinds == (fault.kind,) and fault.where in e.places[0] for e in found.explanations]
        ranks.append(here.index(True) if True in here else 99)
        told += [(e.probability, so) for e, so in zip(found.explanations, here, strict=True)]
    took = time.perf_counter() - began
    first, third = (sum(r < n for r in ranks) / many for n in (1, 3))
    brier = sum((p - so) ** 2 for p, so in told) / len(told)
    print(f"{many} faults on {len(known)} lines: first {first:.0%}, in the first three {third:.0%}; Brier {brier:.3f}")
    for low in range(10):
        mine = [so for p, so in told if low <= min(p, 0.999) * 10 < low + 1]
        if mine:
            print(f"  stated {low * 10}-{low * 10 + 10} %: {len(mine)} times, so in {sum(mine) / len(mine):.0%}")
    print(f"{gave_up} faults more at which the root-finder did not come to its end")
    print(f"{took / max(answers, 1) / spin():.0f} spins an answer")
    large = of_300_runs()
    print(f"300 runs, 40 faults solved: {large:.1f} s, {large / spin():.0f} spins (budget 2 s)")
    return 0 if first >= 0.7 and third >= 0.9 else 1


if __name__ == "__main__":
    sys.exit(main())
