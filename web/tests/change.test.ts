import assert from "node:assert/strict";
import { test } from "node:test";
import { changeOf } from "../src/job/change";
import { changePoint, removePoint } from "../src/job/edits";
import { demo } from "./plans";

test("a point that was moved is all that travels", () => {
  const first = demo.points[0];
  assert.ok(first);
  const change = changeOf(demo, changePoint(demo, first.id, { x: first.x + 1 }));
  assert.deepEqual(change, { lists: { points: { put: [{ ...first, x: first.x + 1 }], gone: [] } }, told: {} });
});

test("what is taken out is told by its name, and what is said otherwise as it is now", () => {
  const last = demo.points.at(-1);
  assert.ok(last);
  const change = changeOf(demo, { ...removePoint(demo, last.id), name: "Other" });
  assert.ok(change?.lists?.points?.gone?.includes(last.id));
  assert.deepEqual(change?.told, { name: "Other" });
});

test("another order of things cannot be told so: the plan travels whole", () => {
  assert.equal(changeOf(demo, { ...demo, points: [...demo.points].reverse() }), null);
  assert.deepEqual(changeOf(demo, { ...demo }), { lists: {}, told: {} });
});
