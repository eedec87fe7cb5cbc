"""A changeover is rehearsed on the drawing: what floods, what is under pressure, what leaves the house dry."""

from __future__ import annotations

import json
import random
import unittest
from collections import defaultdict
from collections.abc import Iterator
from itertools import product
from typing import Any

from hydrarch.core.base.errors import HydrarchError, Unknown
from hydrarch.core.changeover.rehearsal import MINUTES, Changeover
from hydrarch.core.derivation.chain import derive
from hydrarch.core.editing.common_fields import GroupChange, change_all
from hydrarch.core.editing.new_service import new_service, temporary_loop
from hydrarch.core.hydraulics.flow import FlowModel
from hydrarch.core.plan.document import Plan, Scenario
from hydrarch.core.plan.references import ids_of, without


def _end(name: str, point: str, port: str = "") -> dict[str, str]:
    return {"id": name, "point": point, "port": port}


def _point(name: str, x: float, kind: str, *, old: bool = True, **what: Any) -> dict[str, Any]:
    return {
        "id": name,
        "name": name,
        "x": x,
        "y": 0.0,
        "what": {"kind": kind, **what},
        "existing": {"known": ""} if old else None,
    }


def _pipe(name: str, a: dict[str, str], b: dict[str, str], *, old: bool = True) -> dict[str, Any]:
    said: dict[str, Any] = {"series": "copper-l", "size": "3/4"} if old else {"series": "pe100-sdr11", "size": "25"}
    return {"id": name, "a": a, "b": b, "existing": {"known": ""} if old else None, **said}


def service(*, street: bool = True, loop: bool = False, turns: str = "yes") -> dict[str, Any]:
    """A lead service from a main to a house with a kitchen tap and a garden tap, a new one drawn beside it."""
    points = [
        _point("Main", 0.0, "mains", pressure=400e3),
        _point("Street", 1.0, "valve", turns=turns),
        _point("Stop", 20.0, "valve", turns="yes"),
        _point("Hall", 22.0, "junction"),
        _point("Kitchen", 24.0, "tap"),
        _point("Garden", 22.5, "tap"),
    ]
    points[-1]["depth"] = -0.3
    runs = [
        _pipe("r1", _end("e1", "Main", "out"), _end("e2", "Street", "in")),
        _pipe("r2", _end("e3", "Stop", "out"), _end("e4", "Hall")),
        _pipe("r3", _end("e5", "Hall"), _end("e6", "Kitchen")),
        _pipe("r4", _end("e7", "Hall"), _end("e8", "Garden")),
        _pipe("new", _end("n1", "Street", "out"), _end("n2", "Stop", "in"), old=False),
    ]
    a, first = _end("o1", "Street", "out"), "Street"
    if not street:
        points.pop(1)
        runs[0]["b"] = _end("e2", "Joint")
        points.append(_point("Joint", 1.0, "junction"))
        runs[-1]["a"], a, first = _end("n1", "Joint"), _end("o1", "Joint"), "Joint"
    assert first
    old: dict[str, Any] = {
        "id": "old",
        "what": "old",
        "a": a,
        "b": _end("o2", "Stop", "in"),
        "series": "lead",
        "size": "3/4",
    }
    leaving = [old]
    if loop:
        hose: dict[str, Any] = {"id": "hose", "what": "loop", "a": _end("h1", "Garden"), "b": None, "pressure": 300e3}
        leaving.append({**hose, "series": "pe100-sdr11", "size": "25", "length": 30.0})
    return {"name": "Service", "points": points, "runs": runs, "leaving": leaving}


def rehearsed(body: dict[str, Any]) -> Changeover:
    """The rehearsal of a plan."""
    found = derive(Plan.model_validate(body)).changed_over
    assert found is not None
    return found


def order_of(found: Changeover) -> list[tuple[str, str]]:
    """What is done where, in order."""
    return [(s.act.do, s.act.thing or s.act.end) for s in found.steps]


def acts(*steps: tuple[str, str]) -> list[dict[str, str]]:
    """Steps as a plan has them."""
    turned = ("shut", "open", "let_down")
    return [{"do": do, "thing": at if do in turned else "", "end": "" if do in turned else at} for do, at in steps]


class Proposed(unittest.TestCase):
    """The order that is worked out."""

    def test_without_a_loop_the_house_is_dry_for_as_long_as_it_takes_to_cut_and_join(self) -> None:
        """Shut, let down, cut, house side first, street on: common practice."""
        found = rehearsed(service())
        done = order_of(found)
        self.assertEqual(done[:2], [("shut", "Street"), ("let_down", "Kitchen")])  # common practice
        self.assertLess(done.index(("join", "n2")), done.index(("join", "n1")), "the house's side first")
        self.assertLess(done.index(("take_off", "o1")), done.index(("join", "n1")))
        cut_and_join = 2 * MINUTES["take_off"] + 2 * MINUTES["join"]
        self.assertEqual(found.dry_minutes, MINUTES["let_down"] + cut_and_join + MINUTES["open"])
        self.assertEqual([p.code for p in found.problems], ["changeover-dry"])
        self.assertIn("58 minutes", found.problems[0].says)

    def test_a_loop_from_a_neighbour_keeps_the_house_in_water(self) -> None:
        """No tap is dry at any step."""
        found = rehearsed(service(loop=True))
        self.assertEqual(found.dry_minutes, 0.0)
        self.assertEqual(found.problems, ())
        for step in found.steps:
            self.assertEqual(step.dry, ())
            self.assertTrue(all(t.gives and t.gives > 2e-4 for t in step.taps), step.says)
        done = order_of(found)
        self.assertLess(done.index(("connect", "h1")), done.index(("shut", "Street")))
        self.assertEqual(done[-1], ("disconnect", "h1"))
        self.assertEqual(len(found.bring), 1)
        self.assertIn("30.00 m", found.bring[0])

    def test_what_the_house_gets_in_the_end_is_what_the_new_line_gives(self) -> None:
        """The last step is the finished line, solved by itself; what comes to a point goes from it."""
        body = service()
        plan = Plan.model_validate({**body, "leaving": []})
        derived = derive(plan)
        one = Scenario(id="one", name="One", open=("Kitchen",))
        flow = FlowModel(plan, derived.layout, one, yields=True).solve(derived.settled.pipes, {})
        last = {t.point: t.gives for t in rehearsed(body).steps[-1].taps}
        self.assertAlmostEqual(last["Kitchen"] or 0.0, flow.outlets["Kitchen"].flow, places=9)
        for point in ("Street", "Stop", "Hall"):  # what comes to a point goes from it
            net = 0.0
            for run in plan.runs:
                if point in run.points:
                    net += flow.runs[run.id].flow * (1 if run.b.point == point else -1)
            self.assertAlmostEqual(net, 0.0, places=8)

    def test_unknown_pipe_gives_no_figure(self) -> None:
        """No pressure said: not known, and told."""
        body = service(loop=True)
        body["leaving"][1]["pressure"] = 0.0
        found = rehearsed(body)
        fed_by_loop = next(s for s in found.steps if s.act.do == "take_off")
        self.assertEqual([t.gives for t in fed_by_loop.taps], [None])
        self.assertIn("changeover-unknown", [p.code for p in found.problems])

    def test_a_supply_too_low_to_reach_the_tap_leaves_it_dry(self) -> None:
        """A hose from a lower house does not count as water."""
        body = service(loop=True)
        body["leaving"][1]["pressure"] = 4e3  # 0.4 m of water, the tap stands 1.6 m above the pipe
        found = rehearsed(body)
        self.assertGreater(found.dry_minutes, 0.0)
        self.assertIn("changeover-dry", [p.code for p in found.problems])
        self.assertEqual(found.least_minutes, found.dry_minutes, "what is solved counts for the best order too")

    def test_no_tap_to_watch_is_told(self) -> None:
        """With the loop on the only tap nothing shows whether the house has water."""
        body = service(loop=True)
        body["points"] = [p for p in body["points"] if p["id"] != "Kitchen"]
        body["runs"] = [r for r in body["runs"] if r["id"] != "r3"]
        found = rehearsed(body)
        self.assertEqual(found.kept, ())
        self.assertIn("changeover-no-tap", [p.code for p in found.problems])

    def test_no_order_is_said_with_the_place_that_cannot_be_shut_off(self) -> None:
        """The place and the reason are shown."""
        for body, place in ((service(street=False), "Joint"), (service(turns="no"), "Street")):
            found = rehearsed(body)
            self.assertEqual((found.order, found.least_minutes, found.steps), ((), None, ()))
            self.assertEqual(
                [(p.code, p.where, p.severity) for p in found.problems], [("changeover-no-order", place, "stop")]
            )

    def test_a_valve_nobody_tried_is_told(self) -> None:
        """An old valve may be seized."""
        told = [(p.code, p.where) for p in rehearsed(service(turns="not tried")).problems]
        self.assertIn(("changeover-untried", "Street"), told)

    def test_lead_is_told_where_it_is_cut(self) -> None:
        """Common practice."""
        cuts = [s for s in rehearsed(service()).steps if s.act.do == "take_off"]
        self.assertTrue(cuts)
        self.assertTrue(all("Lead: gloves" in s.note for s in cuts))


class TheCrewsOwn(unittest.TestCase):
    """An order of the crew's own is played until it goes wrong."""

    def stopped(self, *steps: tuple[str, str], **given: Any) -> tuple[int, str, str]:
        """At which step, why, and in what words."""
        found = rehearsed({**service(**given), "changeover": acts(*steps)})
        self.assertTrue(found.agreed)
        self.assertIn("changeover-stops", [p.code for p in found.problems])
        last = found.steps[-1]
        return len(found.steps), last.why, last.stop

    def test_cutting_what_the_street_feeds(self) -> None:
        """It is fed."""
        self.assertEqual(self.stopped(("take_off", "o1"))[:2], (1, "under-pressure"))

    def test_cutting_before_the_pressure_is_let_go(self) -> None:
        """It says which tap to open."""
        at, why, words = self.stopped(("shut", "Street"), ("take_off", "o1"))
        self.assertEqual((at, why), (2, "not-let-down"))
        self.assertIn("open Kitchen first", words)

    def test_opening_the_street_onto_an_open_end(self) -> None:
        """It says where the water comes out."""
        at, why, words = self.stopped(
            ("shut", "Street"), ("let_down", "Kitchen"), ("take_off", "o1"), ("open", "Street")
        )
        self.assertEqual((at, why), (4, "floods"))
        self.assertIn("the open end of the cut at Street", words)

    def test_joining_where_the_old_pipe_still_is(self) -> None:
        """One port takes one pipe."""
        self.assertEqual(self.stopped(("shut", "Street"), ("let_down", "Kitchen"), ("join", "n1"))[:2], (3, "taken"))

    def test_a_valve_that_does_not_turn(self) -> None:
        """It is found at the first turn."""
        self.assertEqual(self.stopped(("shut", "Street"), turns="no")[:2], (1, "stuck"))

    def test_opening_a_neighbours_tap_into_a_hose_that_is_not_on(self) -> None:
        """It runs out."""
        at, why, words = self.stopped(("open", "hose"), loop=True)
        self.assertEqual((at, why), (1, "floods"))
        self.assertIn("the loop", words)

    def test_an_order_that_ends_too_soon(self) -> None:
        """What is left is reported."""
        whole = [(s.act.do, s.act.thing or s.act.end) for s in rehearsed(service()).steps]
        at, why, words = self.stopped(*whole[:-1])
        self.assertEqual((at, why), (len(whole), "unfinished"))
        self.assertIn("still to be done", words)

    def test_a_step_about_what_is_gone_is_not_counted(self) -> None:
        """What the page moves is a step of the order that is gone by."""
        whole = [(s.act.do, s.act.thing or s.act.end) for s in rehearsed(service()).steps]
        found = rehearsed({**service(), "changeover": acts(("shut", "gone"), *whole)})
        self.assertEqual(found.goes_by, tuple(s.act for s in found.steps))
        self.assertEqual(found.steps[-1].why, "")

    def test_many_valves(self) -> None:
        """An order is looked for with the nearest valves, and an old house of fifty is answered with few looks."""
        body, last, x = service(loop=True), ("Hall", ""), 30.0
        for n in range(50):
            body["points"] += [_point(f"V{n}", x, "valve", turns="yes"), _point(f"B{n}", x + 1, "tap")]
            body["runs"] += [
                _pipe(f"p{n}", _end(f"pa{n}", *last), _end(f"pb{n}", f"V{n}", "in")),
                _pipe(f"q{n}", _end(f"qa{n}", f"V{n}", "out"), _end(f"qb{n}", f"B{n}")),
            ]
            last, x = (f"B{n}", ""), x + 5
        found = rehearsed(body)
        self.assertEqual((found.steps[-1].why, found.dry_minutes, len(found.kept)), ("", 0.0, 51))
        self.assertTrue(all(len(s.taps) <= 8 for s in found.steps))

    def test_what_is_taken_off_the_drawing_leaves_the_order_readable(self) -> None:
        """A step about what is gone is skipped."""
        body = {**service(), "changeover": acts(("shut", "Street"), ("take_off", "o1"))}
        whole = Plan.model_validate(body).model_dump(mode="json")
        left = Plan.model_validate_json(json.dumps(without(whole, ["Street"])))
        self.assertEqual((left.leaving, [a.thing for a in left.changeover]), ((), ["", ""]))
        self.assertIsNone(derive(left).changed_over)


class Replaced(unittest.TestCase):
    """New pipe along an old service at one press."""

    def old(self) -> Plan:
        """A service with a bend in it, all of it there already."""
        body = service()
        body["points"].append({**_point("Bend", 10.0, "bend"), "y": 10.0})
        first = _pipe("l1", _end("x1", "Street", "out"), _end("x2", "Bend"))
        second = _pipe("l2", _end("x3", "Bend"), _end("x4", "Stop", "in"))
        runs = [*(r for r in body["runs"] if r["id"] != "new"), first, second]
        plan = Plan.model_validate({**body, "runs": runs, "leaving": []})
        return change_all(plan, [p.id for p in plan.points], GroupChange(existing=True)).plan

    def test_the_whole_way_is_one_old_pipe(self) -> None:
        """Its length is the sum of what lay there; what is new has ids of its own, and its bend is new too."""
        plan = self.old()
        done = new_service(plan, "l1")
        old = done.plan.leaving[0]
        long = sum(derive(plan).layout.lines[r].length for r in ("l1", "l2"))
        self.assertEqual((old.points, old.series, old.size), (("Street", "Stop"), "copper-l", "3/4"))
        self.assertAlmostEqual(old.length or 0.0, long, places=3)
        fresh = [r for r in done.plan.runs if r.existing is None]
        self.assertEqual({r.id for r in fresh}, set(done.chosen))
        self.assertFalse({i for r in fresh for i in (r.id, r.a.id, r.b.id)} & ids_of(plan))
        self.assertIsNone(done.plan.by_id["Bend"].existing)
        self.assertEqual(rehearsed(done.plan.model_dump()).steps[-1].why, "")

    def test_what_is_not_there_yet_is_not_replaced(self) -> None:
        """Only existing pipe is; a run that is gone is reported."""
        plan = Plan.model_validate({**service(), "leaving": []})
        with self.assertRaisesRegex(HydrarchError, "mark the run as existing"):
            new_service(plan, "new")
        with self.assertRaises(Unknown):
            new_service(plan, "gone")

    def test_a_loop(self) -> None:
        """From another supply, or from one thing to another; a thing that is gone is reported."""
        plan = self.old()
        self.assertIsNone(temporary_loop(plan, ["Garden"]).plan.leaving[0].b)
        both = temporary_loop(plan, ["Street", "Garden"]).plan.leaving[0]
        self.assertEqual(both.points, ("Street", "Garden"))
        with self.assertRaises(Unknown):
            temporary_loop(plan, ["gone"])


class Anyhow(unittest.TestCase):
    """Whatever stands along a service: what is proposed opens nothing that is fed, and no order of luck beats it."""

    def plans(self) -> Iterator[dict[str, Any]]:
        """Services with and without valves, loops and old taps."""
        for loop, stop, cock in product((False, True), (False, True), (False, True)):
            body = service(loop=loop)
            if not stop:  # no valve in the house
                at = next(i for i, p in enumerate(body["points"]) if p["id"] == "Stop")
                body["points"][at] = _point("Stop", 20.0, "junction")
                ends = [e for r in (*body["runs"], *body["leaving"]) for e in (r["a"], r["b"]) if e]
                for e in ends:
                    e["port"] = "" if e["point"] == "Stop" else e["port"]
            if cock:  # and one before the garden tap
                body["points"].append(_point("Cock", 22.2, "valve", turns="yes"))
                body["runs"][3]["b"] = _end("e8", "Cock", "in")
                body["runs"].append(_pipe("r5", _end("e9", "Cock", "out"), _end("e10", "Garden")))
            yield body

    def water(self, body: dict[str, Any], done: list[tuple[str, str]]) -> set[tuple[str, str]]:
        """Where the water of the sources reaches after these steps, drawn anew from the plan by its own rules."""
        valves = {p["id"] for p in body["points"] if p["what"]["kind"] == "valve"}
        last: dict[str, str] = {}
        for do, at in done:
            last[at] = do if do != "cap" else last.get(at, "")
        graph: dict[tuple[str, str], set[tuple[str, str]]] = defaultdict(set)

        def tie(a: tuple[str, str], b: tuple[str, str]) -> None:
            graph[a].add(b)
            graph[b].add(a)

        gates = {v for v in valves if last.get(v) == "shut"}
        for v in valves - gates:
            tie((v, "in"), (v, "out"))

        def place(end: dict[str, str]) -> tuple[str, str]:
            return (end["point"], end["port"] if end["point"] in valves else "")

        for run in body["runs"]:
            for e in (run["a"], run["b"]):
                tie(("pipe", run["id"]), ("end", e["id"]))
                if run["existing"] or last.get(e["id"]) == "join":
                    tie(("end", e["id"]), place(e))
        for old in body["leaving"]:
            for e in filter(None, (old["a"], old["b"])):
                tie(("pipe", old["id"]), ("end", e["id"]))
                tap = old["what"] == "loop"
                on = last.get(e["id"]) == "connect" if tap else last.get(e["id"]) != "take_off"
                if on and (not tap or last.get(e["point"]) == "open"):
                    tie(("end", e["id"]), place(e))
            if old["what"] == "loop" and last.get(old["id"]) == "open":
                tie(("source", ""), ("pipe", old["id"]))
        tie(("source", ""), ("Main", ""))
        reached, ahead = set[tuple[str, str]](), [("source", "")]
        while ahead:
            spot = ahead.pop()
            if spot not in reached:
                reached.add(spot)
                ahead += graph[spot]
        return reached

    def test_no_end_is_worked_on_while_a_source_reaches_it(self) -> None:
        """The water is drawn anew by the test."""
        for body in self.plans():
            found = rehearsed(body)
            self.assertTrue(found.steps)
            self.assertEqual([s.why for s in found.steps if s.why], [])
            ends = {e["id"]: e for r in (*body["runs"], *body["leaving"]) for e in (r["a"], r["b"]) if e}
            valves = {p["id"] for p in body["points"] if p["what"]["kind"] == "valve"}
            done: list[tuple[str, str]] = []
            for step in found.steps:
                at = step.act.end
                if step.act.do in ("take_off", "join"):
                    e = ends[at]
                    wet = self.water(body, done)
                    spot = (e["point"], e["port"] if e["point"] in valves else "")
                    self.assertNotIn(spot, wet, (step.says, body["points"]))
                done.append((step.act.do, step.act.thing or at))
                reached = self.water(body, done)
                self.assertEqual({p for p in ("Kitchen",) if (p, "") not in reached}, set(step.dry) & {"Kitchen"})

    def test_no_order_by_chance_leaves_the_house_dry_for_less(self) -> None:
        """Steps moved about by chance."""
        chance = random.Random(5)
        ended = 0
        for body in self.plans():
            plan = Plan.model_validate(body)
            best = rehearsed(body)
            for _ in range(12):
                # the proposed order with a few steps moved about
                order = list(best.order)
                for _ in range(chance.randint(1, 4)):
                    order.insert(chance.randrange(len(order)), order.pop(chance.randrange(len(order))))
                done = derive(plan.model_copy(update={"changeover": tuple(order)})).changed_over
                assert done is not None
                if not any(s.why for s in done.steps):
                    ended += 1
                    self.assertGreaterEqual(done.dry_minutes, best.dry_minutes)
        self.assertGreater(ended, 10)


if __name__ == "__main__":
    unittest.main()
