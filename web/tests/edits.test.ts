import assert from "node:assert/strict";
import { test } from "node:test";
import type { Plan, What } from "../src/api/types";
import type { Derived } from "../src/job/derived";
import {
  addExtras,
  addPoint,
  addRun,
  addScenario,
  changeKind,
  choosePort,
  chooseWay,
  removePoint,
  removeRun,
  replacePoint,
  splitRun,
  toggleOpen,
  turnRound,
} from "../src/job/edits";
import { newWhat, portsOf } from "../src/job/kinds";
import { putInZone } from "../src/job/zones";
import { demo, empty, noLines, point, reference, run } from "./plans";

const line: Plan = {
  ...empty,
  points: [point("K1", "tank"), point("J1", "junction", 5), point("T1", "tap", 9)],
  runs: [run("R1", "K1", "J1", ["out", "line"]), run("R2", "J1", "T1", ["line", "in"])],
};
const system = { id: "R1", sort: "supply", runs: ["R1", "R2"], points: ["K1", "J1", "T1"], sources: ["K1"] };
const lines: Derived["lines"] = { ...noLines, comes_by: { R1: "a", R2: "a" }, systems: [system as never] };

const ids = (plan: Plan) => [...plan.points.map((p) => p.id), ...plan.runs.flatMap((r) => [r.id, r.a.id, r.b.id])];
const whole = (plan: Plan) => {
  assert.equal(new Set(ids(plan)).size, ids(plan).length);
  for (const r of plan.runs) for (const e of [r.a, r.b]) assert.ok(plan.points.some((p) => p.id === e.point));
};

test("a run parted keeps both its ends' names, and its own", () => {
  const [plan, made] = splitRun(line, reference, lines, "R1", "valve", 0.4);
  whole(plan);
  const [first, second] = plan.runs;
  assert.deepEqual([first?.id, first?.a.id, second?.b.id], ["R1", "R1a", "R1b"]);
  assert.deepEqual([first?.b.port, second?.a.port], ["in", "out"]);
  assert.equal(made.what.kind, "valve");
});

test("a run that stands upright is parted at the level between its ends", () => {
  const [low, high] = [
    { ...point("L", "tank", 2, 3), depth: 4 },
    { ...point("H", "tap", 2, 3), depth: 1 },
  ];
  const upright = { ...empty, points: [low, high], runs: [run("R1", "L", "H", ["out", "in"])] };
  const [, made] = splitRun(upright, reference, noLines, "R1", "check_valve", 0.25);
  assert.deepEqual([made.x, made.y, made.depth], [2, 3, 3.25]);
});

test("parted from the side water does not come by, the thing faces the other way", () => {
  const back = { ...lines, comes_by: { R1: "b", R2: "a" } };
  const [plan] = splitRun(line, reference, back, "R1", "check_valve", 0.4);
  assert.deepEqual([plan.runs[0]?.b.port, plan.runs[1]?.a.port], ["out", "in"]);
});

test("a point taken out joins its runs, and the far ends stay who they are", () => {
  const plan = removePoint(line, "J1");
  whole(plan);
  assert.deepEqual(
    plan.runs.map((r) => [r.id, r.a.id, r.b.id]),
    [["R1", "R1a", "R2b"]],
  );
});

test("parting and taking the point out again gives the run back", () => {
  const [parted, made] = splitRun(line, reference, lines, "R2", "bend", 0.5);
  const again = removePoint(parted, made.id);
  assert.deepEqual(again.runs, line.runs);
});

test("a run is drawn the way its water goes: from what is fed, to an inlet that is free", () => {
  const [withPump, pump] = addPoint(line, reference, "pump", { x: 12, y: 0 });
  const [plan, made] = addRun(withPump, reference, lines, "J1", pump.id);
  assert.deepEqual([made?.a.port, made?.b.port], ["line", "in"]);
  const [back, drawn] = addRun(withPump, reference, lines, pump.id, "J1");
  assert.equal(drawn?.a.port, "in", "drawn from the pump back to what is fed, water still goes in at its inlet");
  whole(plan);
  whole(back);
  const [next] = addPoint(plan, reference, "tap", { x: 20, y: 0 });
  const [, second] = addRun(next, reference, lines, pump.id, next.points.at(-1)?.id ?? "");
  assert.equal(second?.a.port, "out");
});

test("a tank that is drawn to last still lets its water out", () => {
  const alone = { ...empty, points: [point("T1", "tap"), point("K1", "tank", 9)] };
  const [, made] = addRun(alone, reference, noLines, "T1", "K1");
  assert.deepEqual([made?.a.port, made?.b.port], ["in", "out"]);
});

test("air comes to a jet's port for air, and water to the other, also where a ring goes on from jet to jet", () => {
  const ports = (plan: Plan) => plan.runs.map((r) => [r.a.port, r.b.port].join(" "));
  const jets = ["A", "B"].map((id) => point(id, "jet"));
  const things = [
    point("BL", "blower"),
    point("CV", "check_valve"),
    point("L", "bend"),
    point("J", "junction"),
    ...jets,
  ];
  let plan: Plan = { ...empty, points: things };
  for (const [from, to] of [
    ["J", "A"],
    ["A", "B"],
    ["BL", "CV"],
    ["CV", "L"],
    ["L", "A"],
    ["A", "B"],
    ["B", "L"],
  ] as const)
    [plan] = addRun(plan, reference, noLines, from, to);
  assert.deepEqual(ports(plan), ["line water", "water water", "out in", "out line", "line air", "air line"]);
  const [parted] = splitRun(plan, reference, noLines, plan.runs[4]?.id ?? "", "jet", 0.5);
  assert.deepEqual(ports(parted).slice(4, 6), ["line air", "air air"]);
});

test("no run from a point to itself, or beside another", () => {
  assert.equal(addRun(line, reference, lines, "J1", "J1")[1], null);
  assert.equal(addRun(line, reference, lines, "J1", "K1")[1], null);
});

test("a thing is turned round with one key, and back with another", () => {
  const [plan, made] = splitRun(line, reference, lines, "R1", "check_valve", 0.4);
  const turned = turnRound(plan, reference, made.id);
  assert.deepEqual([turned.runs[0]?.b.port, turned.runs[1]?.a.port], ["out", "in"]);
  assert.deepEqual(turnRound(turned, reference, made.id), plan);
  assert.equal(turnRound(line, reference, "J1"), line);
});

test("a bend becomes a thing with its runs at its ports, and is opened in the first scenario if it is an outlet", () => {
  const plan = replacePoint(addScenario(line, reference, "All"), reference, "J1", "valve", lines);
  assert.deepEqual([plan.runs[0]?.b.port, plan.runs[1]?.a.port], ["in", "out"]);
  const tap = replacePoint(addScenario(line, reference, "All"), reference, "J1", "tap", lines);
  assert.deepEqual(tap.scenarios[0]?.open, ["T1", "J1"]);
});

test("another kind forgets the ends of the one before", () => {
  const chosen = choosePort(line, "T1", "in", "bspp:female:3/4");
  assert.deepEqual(chosen.points[2]?.ports, { in: "bspp:female:3/4" });
  assert.deepEqual(choosePort(chosen, "T1", "in", null).points[2]?.ports, {});
  assert.deepEqual(changeKind(chosen, reference, "T1", newWhat(reference, "cap"), lines).points[2]?.ports, {});
});

test("a thing with ports of its own has those", () => {
  const what = {
    ...newWhat(reference, "equipment"),
    own_ports: [{ name: "side", role: "any", end: "bsp:male:1", height: 0 }],
  } as What;
  assert.deepEqual(
    portsOf(reference, what).map((p) => [p.name, p.way, p.given.both]),
    [["side", "any", "bsp:male:1"]],
  );
});

test("what hangs on a run or a point goes with it", () => {
  const plan = chooseWay(
    { ...addScenario(line, reference, "All"), nodes: [{ point: "T1", how: "fitting", fittings: [] }] },
    "R2b",
    ["x"],
  );
  const gone = removePoint(plan, "T1");
  assert.deepEqual([gone.ways, gone.nodes, gone.scenarios[0]?.open], [[], [], []]);
  assert.deepEqual(removeRun(plan, "R2").ways, []);
});

test("what is drawn has an id that nothing had before, also where the last of its kind was deleted", () => {
  let plan: Plan = empty;
  const seen = new Set<string>();
  for (let i = 0; i < 50; i += 1) {
    const [next, tap] = addPoint(plan, reference, "tap", { x: 0, y: 0 });
    assert.equal(tap.name, "Tap 1", "the label may repeat");
    assert.ok(!seen.has(tap.id));
    seen.add(tap.id);
    plan = removePoint(next, tap.id);
  }
  for (const kind of reference.kinds.map((k) => k.kind)) plan = addPoint(plan, reference, kind, { x: 0, y: 0 })[0];
  whole(plan);
  assert.ok(plan.points.every((p) => !reference.reserved.includes(p.id)));
});

test("a deleted head leaves its zone, and a head drawn after it is in none", () => {
  const [drawn, head] = addPoint(line, reference, "sprinkler", { x: 3, y: 3 });
  const zoned = putInZone(drawn, [head.id], "Lawn");
  const [again, other] = addPoint(removePoint(zoned, head.id), reference, "sprinkler", { x: 30, y: 3 });
  assert.deepEqual(
    again.zones.map((z) => z.heads),
    [[]],
  );
  assert.notEqual(other.id, head.id);
});

test("a thing that becomes another kind forgets what was chosen for the one it was", () => {
  const chosen = chooseWay(
    { ...addScenario(line, reference, "All"), nodes: [{ point: "T1", how: "fitting", fittings: [] }] },
    "R2b",
    ["x"],
  );
  const zoned = chooseWay(putInZone(chosen, ["T1"], "Lawn"), "T1~riser", ["y"]);
  const hydrant = changeKind(zoned, reference, "T1", newWhat(reference, "hydrant"), lines);
  assert.deepEqual([hydrant.ways, hydrant.nodes], [[], []]);
  assert.deepEqual([hydrant.scenarios[0]?.open, hydrant.zones[0]?.heads], [["T1"], ["T1"]]);
  const cap = changeKind(zoned, reference, "T1", newWhat(reference, "cap"), lines);
  assert.deepEqual([cap.scenarios[0]?.open, cap.zones[0]?.heads], [[], []]);
});

test("random edits of the demo keep every name apart and every run at both its ends", () => {
  let seed = 7;
  const random = (n: number) => {
    seed = (seed * 1103515245 + 12345) % 2147483648;
    return seed % n;
  };
  let plan = demo;
  for (let i = 0; i < 300; i += 1) {
    const [p, q] = [random(plan.points.length || 1), random(plan.points.length || 1)].map(
      (n) => plan.points[n]?.id ?? "",
    );
    const r = plan.runs[random(plan.runs.length || 1)]?.id ?? "";
    const kind = reference.kinds[random(reference.kinds.length)]?.kind ?? "bend";
    const edits = [
      () => splitRun(plan, reference, noLines, r, kind, random(101) / 100)[0],
      () => addRun(plan, reference, noLines, p ?? "", q ?? "")[0],
      () => (plan.points.length > 6 ? removePoint(plan, p ?? "") : plan),
      () => turnRound(plan, reference, p ?? ""),
      () => changeKind(plan, reference, p ?? "", newWhat(reference, kind), noLines),
    ];
    plan = edits[random(edits.length)]?.() ?? plan;
    whole(plan);
  }
});

test("parts added by hand count up, and an outlet opens and shuts", () => {
  const plan = addExtras(addExtras(line, ["a", "a"], "bench"), ["a"], "yard");
  assert.deepEqual(
    plan.extras.map((e) => [e.fitting, e.count, e.note]),
    [
      ["a", 2, "bench"],
      ["a", 1, "yard"],
    ],
  );
  const opened = addScenario(line, reference, "All");
  assert.deepEqual(toggleOpen(toggleOpen(opened, "scenario1", "T1"), "scenario1", "T1"), opened);
});
