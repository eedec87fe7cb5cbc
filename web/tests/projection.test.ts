import assert from "node:assert/strict";
import { test } from "node:test";
import {
  AXES,
  alongRun,
  changeTo,
  flat,
  lifted,
  type Projection,
  placeOf,
  seen,
  seenPlan,
  turned,
  viewWords,
} from "../src/drawing/projection";
import { empty, point, run } from "./plans";

const ways: Projection[] = [
  { kind: "above" },
  ...[0, 1, 2, 3, 0.7].map((q): Projection => ({ kind: "side", along: (q * Math.PI) / 2 })),
  ...[0, 1, 2, 3].map((turn): Projection => ({ kind: "standing", turn })),
];

/** A row of numbers that looks random and is the same every time. */
function* numbers(seed: number): Generator<number> {
  let n = seed;
  for (;;) {
    n = (n * 1103515245 + 12345) % 2147483648;
    yield (n / 2147483648) * 200 - 100;
  }
}

const next = (row: Generator<number>): number => row.next().value as number;

test("a spot of any view goes back to a place that is seen there", () => {
  const row = numbers(7);
  for (const how of ways)
    for (let i = 0; i < 200; i += 1) {
      const from = { x: next(row), y: next(row), z: next(row) };
      const axis = Object.values(AXES)[i % 3] as { x: number; y: number; z: number };
      const far = next(row);
      const spot =
        how.kind === "standing"
          ? flat(how, { x: from.x + far * axis.x, y: from.y + far * axis.y, z: from.z + far * axis.z })
          : { x: next(row), y: next(row) };
      const back = flat(how, lifted(how, spot, from));
      assert.ok(Math.hypot(back.x - spot.x, back.y - spot.y) < 1e-9, JSON.stringify({ how, spot, back }));
    }
});

test("standing, a length along each of the three axes is true, and each is seen another way", () => {
  for (const turn of [0, 1, 2, 3]) {
    const how: Projection = { kind: "standing", turn };
    const spots = Object.values(AXES).map((way) => seen(how, way));
    for (const s of spots) assert.ok(Math.abs(Math.hypot(s.x, s.y) - 1) < 1e-12);
    for (const [i, a] of spots.entries())
      for (const b of spots.slice(i + 1))
        assert.ok(Math.abs(a.x * b.y - a.y * b.x) > 0.8, "two axes lie on each other");
  }
});

test("what stays is what a view cannot show: the level from above, the distance from a side", () => {
  const from = { x: 3, y: 4, z: -2 };
  assert.equal(lifted({ kind: "above" }, { x: 9, y: 9 }, from).z, -2);
  const south = lifted({ kind: "side", along: 0 }, { x: 5, y: 1 }, from);
  assert.deepEqual(south, { x: 5, y: 4, z: 1 });
  const east = lifted({ kind: "side", along: Math.PI / 2 }, { x: 5, y: 1 }, from);
  assert.ok(Math.abs(east.x - 3) < 1e-12 && Math.abs(east.y - 5) < 1e-12 && east.z === 1);
});

test("two points above one another are one spot from above and two from a side and standing", () => {
  const low = { ...point("L", "bend", 2, 3), depth: 2 };
  const high = { ...point("H", "bend", 2, 3), depth: 0 };
  const whole = { ...empty, points: [low, high], runs: [run("R", "L", "H")] };
  const apart = (how: Projection) => {
    const [a, b] = seenPlan(how, whole).points;
    return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0;
  };
  assert.equal(apart({ kind: "above" }), 0);
  assert.equal(apart({ kind: "side", along: 0 }), 2);
  assert.equal(apart({ kind: "standing", turn: 2 }), 2);
});

test("a point that goes to a place keeps its ground and takes its depth from it", () => {
  const p = { ...point("A", "bend", 1, 1), ground: 10, depth: 0.6 };
  assert.deepEqual(changeTo(p, { ...placeOf(p), z: 8.2 }), { x: 1, y: 1, depth: 1.8 });
});

test("a view along a run shows its true length, and four turns come round", () => {
  const whole = {
    ...empty,
    points: [point("A", "bend", 0, 0), point("B", "bend", 3, 4), point("C", "bend", 0, 0)],
    runs: [run("R", "A", "B"), run("S", "A", "C")],
  };
  const how = alongRun(whole, "R");
  assert.ok(how);
  const [a, b] = seenPlan(how, whole).points;
  assert.ok(a && b && Math.abs(b.x - a.x - 5) < 1e-9);
  assert.equal(alongRun(whole, "S"), null);
  let side: Projection = { kind: "side", along: 0 };
  const words = [0, 1, 2, 3].map(() => {
    const said = viewWords(side);
    side = turned(side);
    return said;
  });
  assert.deepEqual(words, ["seen from the south", "seen from the east", "seen from the north", "seen from the west"]);
  assert.deepEqual(side, { kind: "side", along: 0 });
});
