"""Plans at random, sensible or not: the whole chain goes through, and laws hold that no plan can break."""

import random
import unittest
from typing import Any

from hypothesis import example, given, settings
from pydantic import ValidationError

from hydrarch.core.base.errors import HydrarchError
from hydrarch.core.catalogue.guidance import practices
from hydrarch.core.catalogue.pipes import series, series_list
from hydrarch.core.commissioning.tightness import flush_plan, hold_plan
from hydrarch.core.commissioning.walk import leak_walk
from hydrarch.core.components.base import kind_named, kinds
from hydrarch.core.components.drains import DrainEnd, Inlet
from hydrarch.core.components.fixtures import Fixture
from hydrarch.core.derivation.chain import Derived, derive, where_it_stands
from hydrarch.core.joining.assembly import node_views
from hydrarch.core.making.steps import procedure
from hydrarch.core.plan.document import Plan
from hydrarch.core.plan.upgrades import read_plan
from hydrarch.core.record.events import Event
from hydrarch.core.record.states import mark_joints
from hydrarch.core.record.went_wrong import went_wrong
from hydrarch.core.report.working import WORKINGS, working
from hydrarch.core.sizing.compare import compare_sizes
from hydrarch.core.sizing.select import solve_all
from hydrarch.formats.calendar import calendar_text, clocks
from hydrarch.formats.sheet import sheet_html
from tests.core.plans import RANDOMS

INLETS = [k.name for k in kinds().values() if issubclass(k.model, Inlet)]
FIXTURES = [k.name for k in kinds().values() if issubclass(k.model, Fixture)]
ENDS = [k.name for k in kinds().values() if issubclass(k.model, DrainEnd)]
LATER = {*INLETS, *ENDS, *FIXTURES, "washer", "expansion_tank"} - {
    "drain_inlet",
    "outfall",
}  # not known to plans of format 1
KINDS = [k for k in kinds() if k not in ("mark", "equipment", "sump", "pitless") and k not in LATER]
PRESSURE = [(f.id, p.size) for f in series_list() if f.kind == "pressure" for p in f.sizes]
DRAINS = [(f.id, p.size) for f in series_list() if f.kind == "drain" for p in f.sizes]


def named_otherwise(plan: Plan, rng: random.Random) -> Plan:
    """The plan with other kinds of inlets and ends of drains, which have the same ports."""
    same = {"drain_inlet": INLETS, "outfall": ENDS}
    points = [
        p
        if (name := p.kind.name) not in same
        else p.model_copy(update={"what": kind_named(rng.choice(same[name])).start})
        for p in plan.points
    ]
    return plan.model_copy(update={"points": tuple(points)})


def drawn(rng: random.Random) -> Plan | None:
    """A plan drawn by someone in a hurry: any kinds of point, runs that may cross and close rings, any pipe; None if
    refused. What is chosen at random may be a strategy's, which makes a plan that breaks a law smaller.
    """
    count, drain = rng.randrange(2, 9), rng.random() < 0.25
    points: list[dict[str, Any]] = [
        {
            "id": f"P{i}",
            "x": rng.choice([0.0, 5.0, 10.0, 20.0, rng.uniform(0, 60)]),
            "y": rng.choice([0.0, 5.0, rng.uniform(0, 40)]),
            "ground": rng.uniform(-5, 15),
            "depth": rng.choice([0.0, 0.4, 2.0, -1.0]),
            "what": {"kind": rng.choice(["drain_inlet", "outfall", "junction", "bend"] if drain else KINDS)},
        }
        for i in range(count)
    ]
    if not drain:
        points[0]["what"] = {"kind": rng.choice(["tank", "mains", "well_pump"])}
    pairs = [(rng.randrange(0, i), i) for i in range(1, count) if rng.random() < 0.9]
    pairs += [tuple(rng.sample(range(count), 2)) for _ in range(rng.randrange(0, 2))]  # type: ignore[misc]
    runs: list[dict[str, Any]] = [{"id": f"R{n}", "a": f"P{a}", "b": f"P{b}"} for n, (a, b) in enumerate(pairs)]
    usual = rng.choice(PRESSURE)
    for run in runs:
        if rng.random() < 0.6:
            run["series"], size = rng.choice(DRAINS) if drain else rng.choice(PRESSURE) if rng.random() < 0.4 else usual
            if rng.random() < 0.6:
                run["size"] = size
    for run in runs if not drain else ():
        if rng.random() < 0.15:
            run["situation"] = "in well"
    house = {q: rng.choice([o.option for o in v.options]) for q, v in practices().items() if rng.random() < 0.3}
    conditions = {
        "crew": rng.choice("1234"),
        "air_temperature": rng.uniform(262, 309),
        "closing": rng.choice([0.0, 5.0]),
        "friction": rng.choice(["hazen-williams", "darcy-weisbach"]),
        "series": rng.choice(PRESSURE)[0],
    }
    whole = {
        "format": "hydrarch/plan/1",
        "name": "any",
        "units": rng.choice(["us", "metric"]),
        "points": points,
        "runs": runs,
        "practices": house,
    }
    try:
        return named_otherwise(read_plan({**whole, "conditions": conditions}), rng)
    except ValidationError:
        return None  # two runs that do not hold together: refused with a reason, which other tests look at


def events(done: Derived, rng: random.Random) -> list[Event]:
    """A crew that does things in no order at all."""
    found = [
        Event(
            id=f"{n}",
            kind=rng.choice(("made", "made", "dry_fitted", "looked", "undone")),
            at=1000.0 + n,
            by="Ash",
            joints=mark_joints([j], [j.id], {}, True),
        )
        for n, j in enumerate(done.assembly.joints)
        if rng.random() < 0.7
    ]
    for s in done.sections:
        if rng.random() < 0.4:
            joints = mark_joints(done.assembly.joints, s.joints, {}, False)
            passed = rng.random() < 0.7
            found.append(
                Event(
                    id=f"t {s.id}",
                    kind="tested",
                    at=5e3,
                    by="Ash",
                    joints=joints,
                    section=s.id,
                    pressure=max(s.test, 1.0),
                    ended=6e3,
                    passed=passed,
                )
            )
    return found


class AnyPlan(unittest.TestCase):
    """What holds whatever is drawn."""

    @settings(max_examples=60)
    @given(RANDOMS)
    def test_laws(self, rng: random.Random) -> None:
        """Runs are parted into sections and pieces, joints into the order of work; every problem says what to do; flows
        balance.
        """
        plan = drawn(rng)
        if plan is None:
            return
        done = derive(plan)
        ids = sorted(r.id for r in plan.runs)
        self.assertEqual(sorted(r for s in done.sections for r in s.runs), ids)
        self.assertEqual(sorted(r for p in done.cuts.pieces for r in p.runs), ids)
        self.assertEqual(sorted(t.joint for t in done.work.tasks), sorted(j.id for j in done.assembly.joints))
        self.assertEqual(len({j.id for j in done.assembly.joints}), len(done.assembly.joints))
        self.assertEqual(set(done.sizes.choices), set(ids))
        self.assertTrue(all(p.says and p.mend for p in done.problems()))
        self.assertTrue(all(b.count >= 0 and (b.price or 0.0) >= 0 for b in done.bill))
        self.never_enough_and_too_fast(done)
        for nest in done.cuts.nests:
            self.assertLessEqual(nest.bound, len(nest.sticks))
        for flow in done.sizes.flows.values():
            self.assertLess(flow.residual, 1e-4)

    def never_enough_and_too_fast(self, done: Derived) -> None:
        """A run that is told as too fast, with no larger size made, has the largest that is open to it; nobody reads
        that a smaller one is enough.
        """
        for p in done.problems():
            if p.code == "too-fast" and p.where is not None and done.plan.run_by_id[p.where].size is None:
                choice = done.sizes.choices[p.where]
                self.assertNotIn("enough", choice.says)
                if p.mend.startswith("No larger size of this series is made"):
                    self.assertEqual(choice.size, series(choice.series).sizes[-1].size, choice)

    @settings(max_examples=25)
    @given(RANDOMS)
    def test_all_in_one_place(self, rng: random.Random) -> None:
        """With everything drawn on one spot every stage answers, and each problem says what to do."""
        plan = drawn(rng)
        if plan is None:
            return
        body = plan.model_dump(mode="json")
        for p in body["points"]:
            p |= {"x": 1.0, "y": 1.0, "ground": 0.0, "depth": 0.4}
        here = Plan.model_validate(body)
        self.assertTrue(all(p.says and p.mend for p in derive(here).problems()))

    def test_sizes_and_fittings_come_to_an_end(self) -> None:
        """Plans whose sizes and fittings once chased each other round settle, and their sizes hold with the fittings
        they have.
        """
        flows = derive(
            drawn(random.Random(57275)) or self.fail()
        ).sizes.flows.values()  # an outlet that is cut off from every source
        self.assertTrue(all(f.residual < 1e-4 for f in flows), flows)
        for seed in (225, 315, 345, 576, 686, 947, 1177, 1464):
            plan = drawn(random.Random(seed))
            assert plan is not None
            done = derive(plan)
            codes = {p.code for p in done.problems()}
            self.assertNotIn("sizes-not-settled", codes, seed)
            again = solve_all(plan, done.layout, done.settled.pipes, done.assembly.minor)
            for name, flow in done.sizes.flows.items():
                for run, f in flow.runs.items():
                    self.assertAlmostEqual(again[name].runs[run].flow, f.flow, delta=1e-7 + 1e-6 * abs(f.flow))

    @settings(max_examples=25)
    @example(random.Random(173))  # a loop that no scenario wets
    @example(random.Random(875))  # a tank that stands in the air's line, beside a mains of its own
    @given(RANDOMS)
    def test_everything_can_be_asked(self, rng: random.Random) -> None:
        """Steps, what went wrong, other fittings, workings, walks, tests, the comparison, the sheet and the calendar:
        none breaks.
        """
        plan = drawn(rng)
        if plan is None:
            return
        done = derive(plan)
        said = events(done, rng)
        stands = where_it_stands(plan, done, said, 1e5)
        self.assertEqual(set(stands.joints), {n for e in said for n in e.joints})
        self.assertIn("</html>", sheet_html(plan, done, stands))
        waits = clocks(done.sections, stands, done.assembly.joints)
        if waits:
            self.assertTrue(calendar_text(plan, "any", waits, 1e5).endswith("END:VCALENDAR\r\n"))
        for joint in done.assembly.joints:
            self.assertTrue(procedure(plan, joint, 6e5).steps, joint.method)
        for joint in done.assembly.joints[:4]:
            self.assertEqual(went_wrong(done.assembly, stands.joints, joint.id).joint, joint.id)
        for p in plan.points:
            node_views(plan, done.layout, done.settled.pipes, p.id)
        flows = done.sizes.flows.values()
        walked = {s.joint for f in flows for s in leak_walk(done.layout, done.assembly, done.sections, f, {}, flows)}
        fed = {r for f in flows for r in f.runs}
        for s in done.sections:
            if fed.issuperset(s.runs):
                self.assertLessEqual(set(s.parted), walked, "no test holds these: they are looked at on a walk")
            self.assertGreater(hold_plan(s).hold, 0)
            self.assertGreaterEqual(s.test, s.working - 1)
            self.assertTrue(s.fault or s.sort == "drain" or s.test <= s.limit + 1, s)
            self.assertGreaterEqual(flush_plan(plan, done.layout, done.settled.pipes, s).seconds, 0)
        names: dict[str, list[Any]] = {
            "piece": [p.id for p in done.cuts.pieces],
            "test": [s.id for s in done.sections],
            "cure": [j.id for j in done.assembly.joints],
        }
        for kind in WORKINGS:
            for name in names.get(kind, [r.id for r in plan.runs])[:2]:
                try:
                    self.assertTrue(working(plan, done, kind, name).title)
                except HydrarchError as error:
                    self.assertIn("to show", str(error))
        self.assertGreaterEqual(len(compare_sizes(plan, done.layout, done.assembly.minor, done.sizes).ways), 2)
