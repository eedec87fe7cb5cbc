import assert from "node:assert/strict";
import { readdirSync, readFileSync } from "node:fs";
import { test } from "node:test";
import type { Plan, Run } from "../src/api/types";
import type { Derived } from "../src/job/derived";
import { addPoint, addRun, changeKind, removePoint, removeRun, splitRun } from "../src/job/edits";
import { newWhat } from "../src/job/kinds";
import { idsOf } from "../src/job/references";
import { empty, noLines, point, reference, run } from "./plans";

/** Edits that the core does too: both run the same cases, tests/cases/edits. */

type End = [id: string, point: string, port: string];
type Short = {
  points: [id: string, kind: string, x: number, y: number, level: number][];
  runs: [id: string, ...a: End, ...b: End][];
  names?: Record<string, string>;
  numbers?: Record<string, number>;
  pipe?: Partial<Run>;
  open?: string[];
  zoned?: string[];
  ways?: string[];
  nodes?: string[];
};
type Case = {
  name: string;
  plan: Short;
  fed?: string[];
  comes?: Record<string, string>;
  edit: { do: string } & Record<string, string & string[] & number>;
  result: unknown;
};

const folder = `${process.env.HYDRARCH_CASES}/edits`;
const files = readdirSync(folder).filter((f) => f.endsWith(".json"));
const cases = files.flatMap((f) => JSON.parse(readFileSync(`${folder}/${f}`, "utf-8")) as Case[]);

const whole = (short: Short): Plan => ({
  ...empty,
  points: short.points.map(([id, kind, x, y, level]) => ({
    ...point(id, kind, x, y),
    depth: -level,
    name: short.names?.[id] ?? "",
    number: short.numbers?.[id] ?? null,
  })),
  runs: short.runs.map(([id, a, pa, qa, b, pb, qb]) => ({
    ...run(id, pa, pb, [qa, qb]),
    a: { id: a, point: pa, port: qa },
    b: { id: b, point: pb, port: qb },
    ...short.pipe,
  })),
  scenarios: short.open ? [{ id: "all", name: "All", open: short.open, turned: [] }] : [],
  zones: short.zoned ? [{ id: "zone", name: "Lawn", heads: short.zoned, valve: "" }] : [],
  ways: (short.ways ?? []).map((end) => ({ end, fittings: [] })),
  nodes: (short.nodes ?? []).map((p) => ({ point: p, how: "fitting" as const, fittings: [] })),
});

function told(before: Plan, after: Plan) {
  const old = idsOf(before);
  const names = new Map<string, string>();
  const called = (id: string) => {
    if (old.has(id)) return id;
    if (!names.has(id)) names.set(id, `new${names.size + 1}`);
    return names.get(id) as string;
  };
  return {
    points: after.points.map((p) => [called(p.id), p.what.kind, p.x, p.y, p.ground - p.depth]),
    runs: after.runs.map((r) => [called(r.id), ...[r.a, r.b].flatMap((e) => [called(e.id), called(e.point), e.port])]),
    pipes: after.runs.map((r) => [r.series, r.size, r.situation]),
    ...(after.scenarios[0] ? { open: after.scenarios[0].open.map(called) } : {}),
    ...(after.zones[0] ? { zoned: after.zones[0].heads.map(called) } : {}),
    ways: after.ways.map((w) => w.end),
    nodes: after.nodes.map((n) => n.point),
  };
}

function edited(plan: Plan, { edit, comes = {}, fed = [] }: Case): Plan {
  const system = { id: "s", sort: "supply", runs: [], points: fed, sources: ["a source"] };
  const lines: Derived["lines"] = { ...noLines, comes_by: comes, systems: [system as never] };
  if (edit.do === "split") return splitRun(plan, reference, lines, edit.run ?? "", edit.with ?? "", edit.share ?? 0)[0];
  if (edit.do === "draw") return addRun(plan, reference, lines, edit.from ?? "", edit.to ?? "")[0];
  if (edit.do === "become")
    return changeKind(plan, reference, edit.point ?? "", newWhat(reference, edit.kind ?? ""), lines);
  assert.equal(edit.do, "remove");
  const bare = (edit.runs ?? []).reduce((p, id) => removeRun(p, id), plan);
  return (edit.points ?? []).reduce((p, id) => removePoint(p, id), bare);
}

for (const each of cases)
  test(`as the core does it: ${each.edit.do}, ${each.name}`, () => {
    const plan = whole(each.plan);
    if (each.edit.do === "set") {
      const [, made] = addPoint(plan, reference, each.edit.kind ?? "", { x: 50, y: 50 });
      assert.deepEqual(made.name || made.number, each.result);
      return;
    }
    assert.deepEqual(told(plan, edited(plan, each)), each.result);
  });
