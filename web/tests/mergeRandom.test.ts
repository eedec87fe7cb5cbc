import assert from "node:assert/strict";
import { test } from "node:test";
import type { Plan } from "../src/api/types";
import {
  addPoint,
  addRun,
  changeKind,
  changePoint,
  changeRun,
  removePoint,
  removeRun,
  splitRun,
  toggleOpen,
} from "../src/job/edits";
import { merge, same } from "../src/job/merge";
import { dangling } from "../src/job/references";
import { putInZone } from "../src/job/zones";
import { demo, noLines, reference } from "./plans";

/** Random sequences of edits by two people on one plan, and what must be so however they are brought together. */

type Dice = { below: (n: number) => number; one: <T>(of: readonly T[]) => T | undefined };

/** Numbers that are the same for a seed (mulberry32). */
function dice(seed: number): Dice {
  let state = seed;
  const next = () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  const below = (n: number) => Math.floor(next() * n);
  return { below, one: (of) => of[below(of.length)] };
}

const KINDS = ["bend", "junction", "valve", "sprinkler", "tap", "tank", "check_valve"];

const EDITS: ((plan: Plan, d: Dice) => Plan)[] = [
  (p, d) => addPoint(p, reference, d.one(KINDS) ?? "bend", { x: d.below(90), y: d.below(90) })[0],
  (p, d) => addRun(p, reference, noLines, d.one(p.points)?.id ?? "", d.one(p.points)?.id ?? "")[0],
  (p, d) => removePoint(p, d.one(p.points)?.id ?? ""),
  (p, d) => removeRun(p, d.one(p.runs)?.id ?? ""),
  (p, d) => changePoint(p, d.one(p.points)?.id ?? "", { x: d.below(90) }),
  (p, d) => changePoint(p, d.one(p.points)?.id ?? "", { name: `Called ${d.below(5)}` }),
  (p, d) => changeRun(p, d.one(p.runs)?.id ?? "", { size: d.one(["1", "1-1/2", null]) ?? null }),
  (p, d) => (p.runs.length ? splitRun(p, reference, noLines, d.one(p.runs)?.id ?? "", "valve", 0.4)[0] : p),
  (p, d) => changeKind(p, reference, d.one(p.points)?.id ?? "", { kind: "junction" } as never, noLines),
  (p, d) => toggleOpen(p, p.scenarios[0]?.id ?? "", d.one(p.points.filter((q) => q.what.kind === "tap"))?.id ?? ""),
  (p, d) =>
    putInZone(
      p,
      p.points.filter((q) => q.what.kind === "sprinkler" && d.below(3) === 0).map((q) => q.id),
      d.one(["A", "B"]) ?? "A",
    ),
];

const edited = (plan: Plan, d: Dice, times: number): Plan => {
  let now = plan;
  for (let n = 0; n < times; n++) now = (d.one(EDITS) ?? ((p) => p))(now, d);
  return now;
};

const byId = <T extends { id: string }>(items: readonly T[]) => new Map(items.map((i) => [i.id, i]));
const idsOf = (p: Plan) => [...p.points.map((x) => x.id), ...p.runs.flatMap((r) => [r.id, r.a.id, r.b.id])];
/** A plan with what stands in it in one order: which of two edits came first says nothing. */
const sorted = (p: Plan): Plan => {
  const by = <T extends { id: string }>(items: readonly T[]) => [...items].sort((a, b) => a.id.localeCompare(b.id));
  const scenarios = by(p.scenarios).map((s) => ({ ...s, open: [...s.open].sort() }));
  const zones = by(p.zones).map((z) => ({ ...z, heads: [...z.heads].sort() }));
  return { ...p, points: by(p.points), runs: by(p.runs), scenarios, zones };
};
const heads = (p: Plan) => new Map(p.zones.map((z) => [z.id, new Set(z.heads)]));

function holds(base: Plan, mine: Plan, theirs: Plan, wins: "mine" | "theirs"): Plan {
  const { plan, both } = merge(base, mine, theirs, wins);
  assert.deepEqual([...dangling(plan)], [], "all that is named is there");
  const twice = idsOf(plan).filter((id, n, all) => all.indexOf(id) !== n);
  assert.deepEqual(twice, [], "no id stands twice");
  const [b, m, t, now] = [base, mine, theirs, plan].map((p) => byId(p.points)) as [
    Map<string, Plan["points"][number]>,
    Map<string, Plan["points"][number]>,
    Map<string, Plan["points"][number]>,
    Map<string, Plan["points"][number]>,
  ];
  for (const id of now.keys()) assert.ok(m.has(id) || t.has(id), `${id} is somebody's`);
  for (const [id, was] of b) {
    if (m.has(id) && t.has(id)) assert.ok(now.has(id), `${id}, which both kept, is there`);
    if (same(was, m.get(id)) && same(was, t.get(id)))
      assert.ok(same(was, now.get(id)), `${id}, untouched, is as it was`);
    if (!m.has(id) && !t.has(id)) assert.ok(!now.has(id), `${id}, which both took out, is gone`);
  }
  for (const side of [m, t])
    for (const id of side.keys()) if (!b.has(id)) assert.ok(now.has(id), `${id}, new, is there`);
  const [hm, ht, hb] = [heads(mine), heads(theirs), heads(base)];
  for (const [zone, inside] of heads(plan))
    for (const head of inside)
      assert.ok(
        [hm, ht].some((h) => h.get(zone)?.has(head)) || hb.get(zone)?.has(head),
        `${head} was put into ${zone}`,
      );
  for (const r of plan.runs) {
    const said = [...mine.runs, ...theirs.runs].filter((x) => x.id === r.id);
    for (const side of ["a", "b"] as const)
      assert.ok(
        said.some((x) => x[side].point === r[side].point && x[side].port === r[side].port),
        `${r.id} leads where somebody led it`,
      );
  }
  assert.ok(both.every((x) => typeof x === "string"));
  return plan;
}

test("what two people drew at random comes together whole, whoever wins", () => {
  for (let seed = 1; seed <= 400; seed++) {
    const d = dice(seed);
    const zoned = {
      ...demo,
      zones: [{ ...demo.zones[0], id: "zone-a", name: "A", heads: [] } as Plan["zones"][number]],
    };
    const base = edited(zoned, d, 4);
    const [mine, theirs] = [edited(base, d, 1 + d.below(6)), edited(base, d, 1 + d.below(6))];
    try {
      const one = holds(base, mine, theirs, "mine");
      const two = holds(base, theirs, mine, "theirs");
      const things = (p: Plan) => [...p.points, ...p.runs].map((x) => x.id).sort();
      assert.deepEqual(things(one), things(two), "the same things from either side");
      holds(base, mine, theirs, "theirs");
      assert.ok(same(sorted(merge(base, mine, base, "mine").plan), sorted(mine)), "nobody else drew: it is mine");
      assert.ok(same(sorted(merge(base, base, theirs, "mine").plan), sorted(theirs)), "I drew nothing: it is theirs");
    } catch (error) {
      throw new Error(`seed ${seed}: ${(error as Error).message}`);
    }
  }
});
