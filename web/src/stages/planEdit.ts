import type { HubView, KindName, Plan, Point, Reference, Run, Scenario, What } from "../api/types";

/** Edits of a plan: each takes a plan and gives a new one, and leaves the old one alone. */

export type Place = { x: number; y: number };

const numbered = (taken: Iterable<string>, stem: string): string => {
  const used = new Set(taken);
  let n = 1;
  while (used.has(`${stem}${n}`)) n += 1;
  return `${stem}${n}`;
};

const stems: Partial<Record<KindName, string>> = {
  well_pump: "W",
  mains: "M",
  tank: "K",
  junction: "J",
  bend: "B",
  valve: "V",
  check_valve: "CV",
  union: "U",
  filter: "F",
  backflow: "BP",
  pump: "P",
  regulator: "PR",
  vent: "AV",
  three_way: "TW",
  vessel: "PV",
  cap: "C",
  tap: "T",
  sprinkler: "S",
  drip: "D",
  drain_inlet: "G",
  outfall: "O",
};

export const titles = (reference: Reference) => new Map(reference.kinds.map((k) => [k.kind, k.title]));

export function newWhat(reference: Reference, kind: KindName): What {
  const spec = reference.kinds.find((k) => k.kind === kind);
  const fields = Object.fromEntries((spec?.fields ?? []).map((f) => [f.name, f.default]));
  return { kind, ...fields } as What;
}

/** The ground level a new point takes: that of the nearest point drawn. */
function groundNear(plan: Plan, at: Place): { ground: number; depth: number } {
  let best: Point | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const p of plan.points ?? []) {
    const d = (p.x - at.x) ** 2 + (p.y - at.y) ** 2;
    if (d < least) [best, least] = [p, d];
  }
  return { ground: best?.ground ?? 0, depth: best?.depth ?? 0.6 };
}

const outletKinds = new Set<KindName>(["tap", "sprinkler", "drip"]);
export const isOutlet = (p: Point) => outletKinds.has(p.what.kind);
export const isSource = (p: Point) => ["well_pump", "mains", "tank"].includes(p.what.kind);

export function addPoint(plan: Plan, reference: Reference, kind: KindName, at: Place): [Plan, Point] {
  const id = numbered(
    plan.points.map((p) => p.id),
    stems[kind] ?? "P",
  );
  const title = titles(reference).get(kind) ?? kind;
  const same = plan.points.filter((p) => p.what.kind === kind).length;
  const point: Point = {
    id,
    x: at.x,
    y: at.y,
    ...groundNear(plan, at),
    name: kind === "bend" || kind === "junction" ? "" : `${title} ${same + 1}`,
    what: newWhat(reference, kind),
  };
  const scenarios = (plan.scenarios ?? []).map((s, i) =>
    i === 0 && outletKinds.has(kind) ? { ...s, open: [...(s.open ?? []), id] } : s,
  );
  return [{ ...plan, points: [...plan.points, point], scenarios }, point];
}

export function addRun(plan: Plan, a: string, b: string): [Plan, Run | null] {
  const there = plan.runs.some((r) => (r.a === a && r.b === b) || (r.a === b && r.b === a));
  if (a === b || there) return [plan, null];
  const last = [...plan.runs].reverse().find((r) => [r.a, r.b].some((p) => p === a || p === b));
  const run: Run = {
    id: numbered(
      plan.runs.map((r) => r.id),
      "R",
    ),
    a,
    b,
    situation: last?.situation ?? "buried",
    series: last?.series ?? null,
    size: null,
    measured_length: null,
  };
  return [{ ...plan, runs: [...plan.runs, run] }, run];
}

export const changePoint = (plan: Plan, id: string, change: Partial<Point>): Plan => ({
  ...plan,
  points: plan.points.map((p) => (p.id === id ? { ...p, ...change } : p)),
});

export const changeWhat = (plan: Plan, id: string, change: Record<string, unknown>): Plan => ({
  ...plan,
  points: plan.points.map((p) => (p.id === id ? { ...p, what: { ...p.what, ...change } as What } : p)),
});

export const changeRun = (plan: Plan, id: string, change: Partial<Run>): Plan => ({
  ...plan,
  runs: plan.runs.map((r) => (r.id === id ? { ...r, ...change } : r)),
});

/** Give runs fixed sizes, as a way to size found them. */
export const fixSizes = (plan: Plan, sizes: Record<string, string>): Plan => ({
  ...plan,
  runs: plan.runs.map((r) => (sizes[r.id] ? { ...r, size: sizes[r.id] ?? null } : r)),
});

export const changeScenario = (plan: Plan, id: string, change: Partial<Scenario>): Plan => ({
  ...plan,
  scenarios: plan.scenarios.map((s) => (s.id === id ? { ...s, ...change } : s)),
});

export function toggleOpen(plan: Plan, scenario: string, point: string): Plan {
  const s = plan.scenarios.find((x) => x.id === scenario);
  if (!s) return plan;
  const open = s.open.includes(point) ? s.open.filter((p) => p !== point) : [...s.open, point];
  return changeScenario(plan, scenario, { open });
}

export function addScenario(plan: Plan, name: string): Plan {
  const id = numbered(
    plan.scenarios.map((s) => s.id),
    "scenario",
  );
  const open = plan.points.filter(isOutlet).map((p) => p.id);
  return { ...plan, scenarios: [...plan.scenarios, { id, name, open }] };
}

export const removeScenario = (plan: Plan, id: string): Plan => ({
  ...plan,
  scenarios: plan.scenarios.filter((s) => s.id !== id),
});

/** The crew's own way of joining a run at a point; null leaves it to Hydrarch again. */
export function chooseWay(plan: Plan, point: string, run: string, fittings: string[] | null): Plan {
  const others = plan.chosen.filter((c) => c.point !== point || c.run !== run);
  return { ...plan, chosen: fittings ? [...others, { point, run, fittings }] : others };
}

/** What the crew wants to stand at a point; null leaves it to Hydrarch again. */
export function chooseHub(plan: Plan, point: string, hub: Pick<HubView, "how" | "fittings"> | null): Plan {
  const others = plan.hubs.filter((h) => h.point !== point);
  return { ...plan, hubs: hub ? [...others, { point, how: hub.how, fittings: hub.fittings }] : others };
}

/** Parts added by hand; the same part for the same purpose counts up. */
export function addExtras(plan: Plan, fittings: readonly string[], note: string): Plan {
  let extras = [...plan.extras];
  for (const fitting of fittings) {
    const there = extras.find((e) => e.fitting === fitting && e.note === note);
    extras = there
      ? extras.map((e) => (e === there ? { ...e, count: e.count + 1 } : e))
      : [...extras, { fitting, count: 1, note }];
  }
  return { ...plan, extras };
}

export const removeExtra = (plan: Plan, fitting: string, note: string): Plan => ({
  ...plan,
  extras: plan.extras.filter((e) => e.fitting !== fitting || e.note !== note),
});

export const addStock = (plan: Plan, row: Plan["stock"][number]): Plan => ({ ...plan, stock: [...plan.stock, row] });

export const removeStock = (plan: Plan, place: number): Plan => ({
  ...plan,
  stock: plan.stock.filter((_, i) => i !== place),
});

/** The crew's own price of a fitting, or of a metre of pipe; null goes back to the starting figure. */
export function setPrice(plan: Plan, item: string, price: number | null): Plan {
  const { [item]: _gone, ...others } = plan.prices ?? {};
  return { ...plan, prices: price === null ? others : { ...others, [item]: price } };
}

/** Removing a point with two runs joins them into one, so that deleting a bend straightens the line. */
export function removePoint(plan: Plan, id: string): Plan {
  const mine = plan.runs.filter((r) => r.a === id || r.b === id);
  let runs = plan.runs.filter((r) => !mine.includes(r));
  const [one, two] = mine;
  if (mine.length === 2 && one && two) {
    const ends = [one, two].map((r) => (r.a === id ? r.b : r.a));
    const [a, b] = ends as [string, string];
    if (a !== b && !runs.some((r) => (r.a === a && r.b === b) || (r.a === b && r.b === a)))
      runs = plan.runs.flatMap((r) => (r === one ? [{ ...one, a, b, measured_length: null }] : r === two ? [] : [r]));
  }
  return {
    ...plan,
    points: plan.points.filter((p) => p.id !== id),
    runs,
    scenarios: plan.scenarios.map((s) => ({ ...s, open: s.open.filter((p) => p !== id) })),
    chosen: plan.chosen.filter((c) => c.point !== id),
    hubs: plan.hubs.filter((h) => h.point !== id),
  };
}

export const removeRun = (plan: Plan, id: string): Plan => ({ ...plan, runs: plan.runs.filter((r) => r.id !== id) });

/** Part a run at a place on it with a new point, keeping the run's own pipe on both sides. */
export function splitRun(plan: Plan, reference: Reference, id: string, kind: KindName, at: Place): [Plan, Point] {
  const run = plan.runs.find((r) => r.id === id);
  const [withPoint, point] = addPoint(plan, reference, kind, at);
  if (!run) return [withPoint, point];
  const between = levelsBetween(plan, run, at);
  const placed = changePoint(withPoint, point.id, between);
  const second: Run = {
    ...run,
    id: numbered(
      plan.runs.map((r) => r.id),
      "R",
    ),
    a: point.id,
    measured_length: null,
  };
  const runs = placed.runs.flatMap((r) => (r.id === id ? [{ ...r, b: point.id, measured_length: null }, second] : [r]));
  return [
    { ...placed, runs },
    { ...point, ...between },
  ];
}

function levelsBetween(plan: Plan, run: Run, at: Place): { ground: number; depth: number } {
  const a = plan.points.find((p) => p.id === run.a);
  const b = plan.points.find((p) => p.id === run.b);
  if (!a || !b) return { ground: 0, depth: 0.6 };
  const whole = Math.hypot(b.x - a.x, b.y - a.y) || 1;
  const share = Math.min(1, Math.hypot(at.x - a.x, at.y - a.y) / whole);
  const mix = (p: number, q: number) => Math.round((p + (q - p) * share) * 1000) / 1000;
  return { ground: mix(a.ground, b.ground), depth: mix(a.depth, b.depth) };
}
