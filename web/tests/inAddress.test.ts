import assert from "node:assert/strict";
import { test } from "node:test";
import { alike } from "../src/bench/inAddress";

test("what has the shape of what a question begins with is taken", () => {
  assert.ok(alike({ a: 1, b: "x" }, { a: 0, b: "" }));
  assert.ok(alike([{ p: 1 }, { p: 2 }], [{ p: 0 }]));
  assert.ok(alike({ elbow: 2, tee: 1 }, { elbow: 0 }));
  assert.ok(alike(0.02, null));
  assert.ok(alike(null, null));
});

test("what has another shape, or no bounds, is not", () => {
  assert.ok(!alike([], { a: 0 }));
  assert.ok(!alike({ a: "1" }, { a: 0 }));
  assert.ok(!alike({ a: null }, { a: 0 }));
  assert.ok(!alike({ a: Number.POSITIVE_INFINITY }, { a: 0 }));
  assert.ok(!alike({ a: 1, more: { deep: {} } }, { a: 0 }));
  assert.ok(!alike("x".repeat(1000), ""));
  assert.ok(!alike(new Array(1000).fill({ p: 1 }), [{ p: 0 }]));
  assert.ok(!alike({}, null));
  assert.ok(!alike({ elbow: 1, tee: "x" }, { elbow: 0 }));
});
