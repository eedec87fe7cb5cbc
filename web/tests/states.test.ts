import assert from "node:assert/strict";
import { test } from "node:test";
import { stateTone } from "../src/drawing/joints";

test("each state of a joint is told by a letter and words of its own, not by its colour alone", () => {
  const tones = Object.values(stateTone);
  assert.equal(new Set(tones.map((t) => t.letter)).size, tones.length);
  assert.equal(new Set(tones.map((t) => t.words)).size, tones.length);
  assert.ok(tones.every((t) => t.letter.length === 1));
});
