import assert from "node:assert/strict";
import { test } from "node:test";
import { found } from "../src/app/findable";

const thing = (title: string, ...also: string[]) => ({ title, sort: "", also, act: () => {} });
const things = [thing("Valve", "stopcock"), thing("Check valve", "non-return valve"), thing("Pressure vessel", "tank")];
const titles = (words: string) => found(things, words).map((t) => t.title);

test("a title before another name, its first word before a later one", () => {
  assert.deepEqual(titles("valve"), ["Valve", "Check valve"]);
  assert.deepEqual(titles("stop"), ["Valve"]);
  assert.deepEqual(titles("tank"), ["Pressure vessel"]);
});

test("each word must be meant, in whatever order; nothing typed means nothing", () => {
  assert.deepEqual(titles("valve check"), ["Check valve"]);
  assert.deepEqual(titles("ves pre"), ["Pressure vessel"]);
  assert.deepEqual(titles("valve tank"), []);
  assert.deepEqual(titles("  "), []);
});
