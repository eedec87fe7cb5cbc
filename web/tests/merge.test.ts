import assert from "node:assert/strict";
import { test } from "node:test";
import type { Plan } from "../src/api/types";
import { addPoint, addRun, changePoint, changeRun, removePoint } from "../src/job/edits";
import { merge, same } from "../src/job/merge";
import { dangling } from "../src/job/references";
import { did, nothing, redo, undo } from "../src/job/undo";
import { putInZone } from "../src/job/zones";
import { demo, empty, noLines, point, reference, run } from "./plans";

const base = {
  ...empty,
  points: [point("K1", "tank"), point("J1", "junction", 5), point("T1", "tap", 9)],
  runs: [run("R1", "K1", "J1", ["out", "line"]), run("R2", "J1", "T1", ["line", "in"])],
};

test("changes at different things come together, whichever side wins", () => {
  const mine = changePoint(base, "K1", { name: "Tank" });
  const theirs = changePoint(base, "T1", { x: 12 });
  for (const wins of ["mine", "theirs"] as const) {
    const { plan, both } = merge(base, mine, theirs, wins);
    assert.deepEqual(both, []);
    assert.equal(plan.points.find((p) => p.id === "K1")?.name, "Tank");
    assert.equal(plan.points.find((p) => p.id === "T1")?.x, 12);
  }
});

test("different fields of one point come together", () => {
  const { plan, both } = merge(
    base,
    changePoint(base, "T1", { name: "Tap" }),
    changePoint(base, "T1", { y: 3 }),
    "mine",
  );
  assert.deepEqual(both, []);
  const tap = plan.points.find((p) => p.id === "T1");
  assert.deepEqual([tap?.name, tap?.y], ["Tap", 3]);
});

test("the same field changed otherwise is told, and goes to the side that wins", () => {
  const [mine, theirs] = [changePoint(base, "T1", { x: 1 }), changePoint(base, "T1", { x: 2 })];
  const [one, two] = [merge(base, mine, theirs, "mine"), merge(base, mine, theirs, "theirs")];
  assert.deepEqual([one.both, two.both], [["T1"], ["T1"]]);
  assert.deepEqual([one.plan.points[2]?.x, two.plan.points[2]?.x], [1, 2]);
});

test("the same change on both sides is no clash", () => {
  const mine = changePoint(base, "T1", { x: 1 });
  assert.deepEqual(merge(base, mine, structuredClone(mine), "mine"), { plan: mine, both: [] });
});

test("things both drew under one name are both kept, under names of their own", () => {
  const mine = addRun(
    { ...base, points: [...base.points, point("B1", "bend", 1, 1)] },
    reference,
    noLines,
    "J1",
    "B1",
  )[0];
  const theirs = addRun(
    { ...base, points: [...base.points, point("B1", "bend", 7, 7)] },
    reference,
    noLines,
    "J1",
    "B1",
  )[0];
  const { plan, both } = merge(base, mine, theirs, "mine");
  assert.deepEqual(both, []);
  assert.equal(plan.points.length, 5);
  assert.equal(plan.runs.length, 4);
  const ids = [...plan.points.map((p) => p.id), ...plan.runs.flatMap((r) => [r.id, r.a.id, r.b.id])];
  assert.equal(new Set(ids).size, ids.length);
  for (const r of plan.runs)
    for (const e of [r.a, r.b])
      assert.ok(
        plan.points.some((p) => p.id === e.point),
        e.point,
      );
});

test("a head both drew goes into the zone of whoever put it there, and no other", () => {
  const zoned = (at: number): [Plan, string] => {
    const [drawn, head] = addPoint(base, reference, "sprinkler", { x: at, y: 3 });
    return [drawn, head.id];
  };
  const [mineDrawn, mine] = zoned(3);
  const [theirs, other] = zoned(30);
  const { plan } = merge(base, putInZone(mineDrawn, [mine], "Lawn"), theirs, "mine");
  assert.deepEqual(
    plan.zones.map((z) => z.heads),
    [[mine]],
  );
  assert.ok(plan.points.some((p) => p.id === other));
});

test("what one side chose for a thing that the other deleted goes with it", () => {
  const mine = { ...putInZone(base, ["T1"], "Lawn"), nodes: [{ point: "T1", how: "fitting" as const, fittings: [] }] };
  const theirs = removePoint(base, "T1");
  for (const wins of ["mine", "theirs"] as const) {
    const { plan } = merge(base, mine, theirs, wins);
    assert.deepEqual([...dangling(plan)], []);
    assert.deepEqual([plan.zones[0]?.heads, plan.nodes], [[], []]);
  }
});

test("a run drawn to a point the other deleted is told; the winner says whether both are there", () => {
  const mine = addRun(
    { ...base, points: [...base.points, point("B1", "bend", 1, 1)] },
    reference,
    noLines,
    "T1",
    "B1",
  )[0];
  const theirs = removePoint(base, "T1");
  const [one, two] = [merge(base, mine, theirs, "mine"), merge(base, mine, theirs, "theirs")];
  assert.ok(one.both.length > 0 && two.both.length > 0);
  assert.ok(one.plan.points.some((p) => p.id === "T1"));
  for (const { plan } of [one, two])
    for (const r of plan.runs) for (const e of [r.a, r.b]) assert.ok(plan.points.some((p) => p.id === e.point));
});

test("an end of a run is taken whole from one side", () => {
  const mine = changeRun(base, "R2", { b: { id: "R2b", point: "K1", port: "in" } });
  const theirs = changeRun(base, "R2", { b: { id: "R2b", point: "T1", port: "out" } });
  const { plan, both } = merge(base, mine, theirs, "theirs");
  assert.deepEqual(both, ["R2"]);
  assert.deepEqual(plan.runs[1]?.b, { id: "R2b", point: "T1", port: "out" });
});

test("what each opens in a scenario is added up", () => {
  const open = (...ids: string[]) => ({ ...base, scenarios: [{ id: "s", name: "All", open: ids, turned: [] }] });
  const { plan, both } = merge(open("A", "B"), open("A", "B", "C"), open("B", "D"), "mine");
  assert.deepEqual(both, []);
  assert.deepEqual(
    plan.scenarios[0]?.open,
    ["B", "D", "C"].filter((p) => plan.points.some((x) => x.id === p)),
  );
});

test("laws over the demo: nothing changed merges to the other side, one side changed to that side", () => {
  const changed = changePoint(demo, demo.points[3]?.id ?? "", { name: "Elsewhere" });
  assert.ok(same(merge(demo, demo, changed, "mine").plan, changed));
  assert.ok(same(merge(demo, changed, demo, "theirs").plan, changed));
  assert.ok(same(merge(changed, demo, changed, "mine").plan, demo));
});

test("undo takes back one's own step and leaves what others did since", () => {
  const mine = changePoint(base, "K1", { name: "Tank" });
  const history = did(nothing, base, mine);
  const now = changePoint(mine, "T1", { x: 40 });
  const back = undo(history, now);
  assert.deepEqual(back?.both, []);
  assert.deepEqual([back?.plan.points[0]?.name, back?.plan.points[2]?.x], ["", 40]);
  const again = redo(back?.history ?? nothing, back?.plan ?? base);
  assert.deepEqual([again?.plan.points[0]?.name, again?.plan.points[2]?.x], ["Tank", 40]);
});

test("undo of what others changed since says so", () => {
  const mine = changePoint(base, "T1", { x: 1 });
  const back = undo(did(nothing, base, mine), changePoint(mine, "T1", { x: 2 }));
  assert.deepEqual(back?.both, ["T1"]);
});

test("two hundred steps are kept, and no more", () => {
  let history = nothing;
  for (let i = 0; i < 300; i += 1) history = did(history, base, base);
  assert.equal(history.done.length, 200);
});
