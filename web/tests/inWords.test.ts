import assert from "node:assert/strict";
import { test } from "node:test";
import type { Plan } from "../src/api/types";
import { along, spoken } from "../src/drawing/inWords";
import { nothingDerived } from "../src/job/derived";
import { formatter } from "../src/ui/format";
import { empty, point, reference, run } from "./plans";

const plan: Plan = {
  ...empty,
  points: [
    { ...point("M", "mains", 0, 0), name: "Street" },
    { ...point("J", "junction", 10, 0), name: "Tee" },
    { ...point("T", "tap", 10, 8), name: "Tap 1" },
    { ...point("U", "tap", 30, 1), name: "Garden" },
  ],
  runs: [run("R1", "M", "J"), run("R2", "J", "T"), run("R3", "J", "U")],
};
const spots = new Map(plan.points.map((p) => [p.id, { x: p.x, y: p.y }]));

test("along the pipe, the way asked for", () => {
  assert.equal(along(plan, spots, "J", { x: 1, y: 0 }), "U");
  assert.equal(along(plan, spots, "J", { x: -1, y: 0 }), "M");
  assert.equal(along(plan, spots, "J", { x: 0, y: 1 }), "T");
  assert.equal(along(plan, spots, "J", { x: 0, y: -1 }), null);
  assert.equal(along(plan, spots, "gone", { x: 1, y: 0 }), null);
});

test("a joint that was drawn otherwise since is not made", () => {
  const joint = (id: string) => ({ id, point: "T", run: null, place: "Tap 1", method: "thread" });
  const state = (id: string, matches: boolean) => [id, { joint: id, state: "cured", matches }];
  const told = {
    plan,
    reference,
    derived: { ...nothingDerived, joints: [joint("a"), joint("b"), joint("c")] } as never,
    readiness: { joints: Object.fromEntries([state("a", true), state("b", false)]) } as never,
    problems: [],
    format: formatter(reference.quantities, "metric"),
  };
  assert.equal(spoken(told, "T"), "Tap 1. Pipe to Tee. 1 of 3 joints made.");
});

test("what is chosen, in words", () => {
  const told = {
    plan,
    reference,
    derived: nothingDerived,
    readiness: null,
    problems: [{ where: "J", says: "It is too fast." }] as never,
    format: formatter(reference.quantities, "metric"),
  };
  assert.equal(spoken(told, "T"), "Tap 1. Pipe to Tee.");
  assert.equal(
    spoken(told, "J"),
    "Tee, junction. Pipe to Street. Pipe to Tap 1. Pipe to Garden. Problem: It is too fast.",
  );
  assert.equal(spoken(told, "R3"), "Pipe from Tee to Garden.");
  assert.equal(spoken(told, null), "");
  assert.equal(spoken(told, "gone"), "");
});
