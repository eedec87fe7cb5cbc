import assert from "node:assert/strict";
import test from "node:test";
import type { EndView } from "../src/api/types";
import { arms, centreOf } from "../src/ways/section";

const socket = (diameter: number): EndView => ({
  name: `solvent:socket:${diameter}`,
  words: "socket",
  system: "solvent",
  gender: "socket",
  size: "1",
  diameter,
  engagement: 0.02,
  enters: false,
});

test("a branch is an arm from the centre, turned by its direction, that begins at the wall of the run", () => {
  const [arm, slant] = arms(
    [
      { end: socket(0.034), stop: 0.018, direction: Math.PI / 2 },
      { end: socket(0.034), stop: 0.04, direction: Math.PI / 4 },
    ],
    socket(0.034),
  );
  assert.equal(arm?.turn, -90);
  assert.equal(slant?.turn, -45);
  assert.equal(Math.round(arm?.reach ?? 0), 38); // its stop and the depth of its socket
  const xs = [...(arm?.outline ?? "").matchAll(/[ML]([\d.-]+) /g)].map((m) => Number(m[1]));
  assert.ok(Math.min(...xs) >= 17 - 3.1, `${Math.min(...xs)}`);
});

test("the centre lies at the first end's stop behind its socket", () => {
  assert.equal(Math.round(centreOf(socket(0.034), 0.018)), 38);
  assert.equal(Math.round(centreOf({ ...socket(0.034), enters: true }, 0.018)), 18);
});
