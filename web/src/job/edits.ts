import { newId } from "../api/id";
import type { NodeView, OwnThing, Plan, Point, Reference, Run, RunEnd, Scenario, Turned, What } from "../api/types";
import type { Derived } from "./derived";
import { airy, has, isOutlet, isPlain, isSource, kindOf, newWhat, portFor } from "./kinds";
import { become, without } from "./references";

/**
 * Edits of a plan: each takes a plan and gives a new one, and leaves the old one alone.
 *
 * A run's end keeps its name while the run is parted, joined or moved: what was made there is recorded under it.
 */

export type Spot = { x: number; y: number };
type Lines = Derived["lines"];

/** The number of a new point without a name: one more than the highest there is. */
const nextNumber = (plan: Plan): number => 1 + Math.max(0, ...plan.points.map((p) => p.number ?? 0));

/** A name of its own for a thing that is called so: its title and the first number that no name has; the crew's own alone has none. */
function nameFor(plan: Plan, title: string, own: boolean): string {
  const taken = new Set(plan.points.map((p) => p.name));
  if (own && !taken.has(title)) return title;
  for (let n = own ? 2 : 1; ; n++) if (!taken.has(`${title} ${n}`)) return `${title} ${n}`;
}

/** How what is drawn first lies in a job of its kind. */
const beginning = (plan: Plan, reference: Reference) => reference.beginnings.find((b) => b.about === plan.about);

/** The ground level a new point takes: that of the nearest point drawn. */
function groundNear(plan: Plan, reference: Reference, at: Spot): { ground: number; depth: number } {
  let best: Point | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const p of plan.points) {
    const d = (p.x - at.x) ** 2 + (p.y - at.y) ** 2;
    if (d < least) [best, least] = [p, d];
  }
  return { ground: best?.ground ?? 0, depth: best?.depth ?? beginning(plan, reference)?.depth ?? 0.6 };
}

/** What is set down: a kind of thing as it begins, or a thing of the crew's own with its numbers and ends. */
export type SetDown = string | OwnThing;

export function addPoint(plan: Plan, reference: Reference, down: SetDown, at: Spot): [Plan, Point] {
  const own = typeof down === "string" ? null : down;
  const begun = own ? undefined : beginning(plan, reference)?.starts[String(down)];
  const what = typeof down === "string" ? { ...newWhat(reference, down), ...begun } : down.what;
  const spec = kindOf(reference, what);
  const id = newId(spec?.letter ?? "P");
  const title = own?.name ?? spec?.title ?? what.kind;
  const point: Point = {
    id,
    x: at.x,
    y: at.y,
    ...groundNear(plan, reference, at),
    name: spec?.role === "line" ? "" : nameFor(plan, title, own !== null),
    number: spec?.role === "line" ? nextNumber(plan) : null,
    what,
    ports: own?.ports ?? {},
    existing: null,
    practices: {},
  };
  const scenarios = plan.scenarios.map((s, i) =>
    i === 0 && spec?.role === "outlet" ? { ...s, open: [...s.open, id] } : s,
  );
  return [{ ...plan, points: [...plan.points, point], scenarios }, point];
}

/** Set a thing down where a plain point is: it takes the place of the bend or junction, and its runs come to its ports. */
export function replacePoint(plan: Plan, reference: Reference, id: string, down: SetDown, lines: Lines): Plan {
  const point = plan.points.find((p) => p.id === id);
  if (!point) return plan;
  const [, made] = addPoint(plan, reference, down, point);
  const role = kindOf(reference, made.what)?.role;
  const scenarios = plan.scenarios.map((s, i) =>
    i === 0 && role === "outlet" && !s.open.includes(id) ? { ...s, open: [...s.open, id] } : s,
  );
  const named = { ...changePoint(plan, id, { name: made.name }), scenarios };
  return changePoint(changeKind(named, reference, id, made.what, lines), id, { ports: made.ports });
}

/** Make another kind of thing of a point: its runs come to the new kind's ports, by the way their water goes. */
export function changeKind(plan: Plan, reference: Reference, id: string, what: What, lines: Lines): Plan {
  const bare = (e: RunEnd) => (e.point === id ? { ...e, port: "" } : e);
  const before = plan.points.find((p) => p.id === id)?.what.kind;
  const outlet = kindOf(reference, what)?.role === "outlet";
  const kept = before === what.kind ? plan : become(plan, id, outlet);
  let next: Plan = {
    ...kept,
    points: plan.points.map((p) => (p.id === id ? { ...p, what, ports: {} } : p)),
    runs: plan.runs.map((r) => ({ ...r, a: bare(r.a), b: bare(r.b) })),
  };
  for (const run of plan.runs)
    for (const side of ["a", "b"] as const) {
      const point = next.points.find((p) => p.id === id);
      if (run[side].point !== id || !point) continue;
      const comes = lines.comes_by[run.id] || "a";
      const far = run[side === "a" ? "b" : "a"];
      const air = airy(reference, next, far.point, far.port);
      const port = portFor(reference, next, point, comes === side ? "out" : "in", air);
      next = changeRun(next, run.id, { [side]: { ...run[side], port } });
    }
  return next;
}

const HUNG: Run["situation"] = "in well";
const UPRIGHT = 0.005; // m within which a run from one height to another stands upright

/**
 * Where a new run lies: down a well, where it goes straight up from its pump or from what hangs there; else as the last, or as in that
 * kind of job.
 */
function lies(plan: Plan, reference: Reference, a: Point, b: Point, last: Run | undefined): Run["situation"] {
  const upright = Math.abs(a.x - b.x) < UPRIGHT && Math.abs(a.y - b.y) < UPRIGHT;
  if (upright && ([a, b].some((p) => has(reference, p, "sunk")) || last?.situation === HUNG)) return HUNG;
  const usual = beginning(plan, reference)?.lies as Run["situation"] | undefined;
  return (last?.situation === HUNG ? undefined : last?.situation) ?? usual ?? "buried";
}

/** Draw a run from one thing to another; the water goes as it is drawn, unless only the far one is fed. */
export function addRun(plan: Plan, reference: Reference, lines: Lines, from: string, to: string): [Plan, Run | null] {
  const [a, b] = [from, to].map((id) => plan.points.find((p) => p.id === id));
  const there = plan.runs.some((r) => joins(r, from, to));
  if (!a || !b || from === to || there) return [plan, null];
  const last = [...plan.runs].reverse().find((r) => [r.a.point, r.b.point].some((p) => p === from || p === to));
  const atStart = plan.runs.filter((r) => r.a.point === from || r.b.point === from);
  const backward = fed(reference, lines, b) && !fed(reference, lines, a);
  const air = [from, to].some((id) => airy(reference, plan, id));
  const run: Run = {
    id: newId("R"),
    a: { id: newId("E"), point: from, port: portFor(reference, plan, a, backward ? "in" : "out", air) },
    b: { id: newId("E"), point: to, port: portFor(reference, plan, b, backward ? "out" : "in", air) },
    situation: lies(plan, reference, a, b, last),
    series: last?.series ?? null,
    size: last && atStart.length === 1 && atStart[0] === last ? last.size : null, // the line goes on; a branch is sized anew
    measured_length: null,
    coupled: false,
    existing: null,
    wheels: false,
    lagging: 0,
    closed: 0,
  };
  return [withTees(reference, { ...plan, runs: [...plan.runs, run] }, [from, to]), run];
}

/** Plain places that more than two runs come to are tees. */
function withTees(reference: Reference, plan: Plan, ids: readonly string[]): Plan {
  const many = (id: string) => plan.runs.filter((r) => r.a.point === id || r.b.point === id).length > 2;
  const points = plan.points.map((p) =>
    ids.includes(p.id) && isPlain(reference, p) && p.what.kind !== TEE && many(p.id)
      ? { ...p, what: newWhat(reference, TEE) }
      : p,
  );
  return { ...plan, points };
}

const TEE = "junction";

const joins = (r: Run, a: string, b: string) =>
  (r.a.point === a && r.b.point === b) || (r.a.point === b && r.b.point === a);

/** Whether water comes to a thing as far as is known: it is a source, or one fills the line it stands in. */
const fed = (reference: Reference, lines: Lines, point: Point): boolean =>
  isSource(reference, point) || lines.systems.some((s) => s.sources.length > 0 && s.points.includes(point.id));

/** Turn a thing round: what came to its inlet comes to its outlet. */
export function turnRound(plan: Plan, reference: Reference, id: string): Plan {
  const point = plan.points.find((p) => p.id === id);
  const ports = point ? (kindOf(reference, point.what)?.ports ?? []) : [];
  const [inlet, outlet] = [ports.find((p) => p.way === "in"), ports.find((p) => p.way === "out")];
  if (!point || !inlet || !outlet) return plan;
  const turn = (e: RunEnd): RunEnd =>
    e.point !== id
      ? e
      : { ...e, port: e.port === inlet.name ? outlet.name : e.port === outlet.name ? inlet.name : e.port };
  return { ...plan, runs: plan.runs.map((r) => ({ ...r, a: turn(r.a), b: turn(r.b) })) };
}

export const changePoint = (plan: Plan, id: string, change: Partial<Point>): Plan => ({
  ...plan,
  points: plan.points.map((p) => (p.id === id ? { ...p, ...change } : p)),
});

export const changeWhat = (plan: Plan, id: string, change: Record<string, unknown>): Plan => ({
  ...plan,
  points: plan.points.map((p) => (p.id === id ? { ...p, what: { ...p.what, ...change } } : p)),
});

/** The end a crew says a port has: null goes back to what its kind has in this market. */
export function choosePort(plan: Plan, id: string, port: string, end: string | null): Plan {
  const point = plan.points.find((p) => p.id === id);
  if (!point) return plan;
  const { [port]: _old, ...others } = point.ports;
  return changePoint(plan, id, { ports: end === null ? others : { ...others, [port]: end } });
}

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

/** A three-way valve set in a scenario otherwise than it is drawn, or as it is drawn (null). */
export function turnIn(plan: Plan, scenario: string, point: string, shut: Turned["shut"] | null): Plan {
  const s = plan.scenarios.find((x) => x.id === scenario);
  if (!s) return plan;
  const others = (s.turned ?? []).filter((t) => t.point && t.point !== point); // without those whose valve is gone
  return changeScenario(plan, scenario, { turned: shut === null ? others : [...others, { point, shut }] });
}

export function addScenario(plan: Plan, reference: Reference, name: string): Plan {
  const id = newId("S");
  const open = plan.points.filter((p) => isOutlet(reference, p)).map((p) => p.id);
  return { ...plan, scenarios: [...plan.scenarios, { id, name, open, turned: [] }] };
}

export const removeScenario = (plan: Plan, id: string): Plan => ({
  ...plan,
  scenarios: plan.scenarios.filter((s) => s.id !== id),
});

/** The crew's own way of joining a run's end; null leaves it to Hydrarch again. */
export function chooseWay(plan: Plan, end: string, fittings: string[] | null): Plan {
  const others = plan.ways.filter((w) => w.end !== end);
  return { ...plan, ways: fittings ? [...others, { end, fittings }] : others };
}

/** What the crew wants to stand at a point; null leaves it to Hydrarch again. */
export function chooseNode(plan: Plan, point: string, node: Pick<NodeView, "how" | "fittings"> | null): Plan {
  const others = plan.nodes.filter((n) => n.point !== point);
  return { ...plan, nodes: node ? [...others, { point, how: node.how, fittings: node.fittings }] : others };
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
  const { [item]: _gone, ...others } = plan.prices;
  return { ...plan, prices: price === null ? others : { ...others, [item]: price } };
}

/** Removing a point with two runs joins them into one, so that deleting a bend straightens the line; the far ends stay who they are. */
export function removePoint(plan: Plan, id: string): Plan {
  const mine = plan.runs.filter((r) => r.a.point === id || r.b.point === id);
  const [one, two] = mine;
  if (mine.length !== 2 || !one || !two) return without(plan, [id]);
  const [a, b] = [far(one, id), far(two, id)];
  const beside = plan.runs.some((r) => !mine.includes(r) && joins(r, a.point, b.point));
  if (a.point === b.point || beside) return without(plan, [id]);
  const runs = plan.runs.flatMap((r) => (r === one ? [joined(one, id, b)] : r === two ? [] : [r]));
  return without({ ...plan, runs }, [id, two.id, ...[one, two].map((r) => near(r, id).id)]);
}

const near = (run: Run, point: string): RunEnd => (run.a.point === point ? run.a : run.b);
const far = (run: Run, point: string): RunEnd => (run.a.point === point ? run.b : run.a);

/** A run that goes on to `end` where it came to `point`. */
const joined = (run: Run, point: string, end: RunEnd): Run => ({
  ...run,
  ...(run.a.point === point ? { a: end } : { b: end }),
  measured_length: null,
});

export const removeRun = (plan: Plan, id: string): Plan => without(plan, [id]);

/** Part a run at a place on it with a new point, keeping the run's own pipe, and its ends' names, on both sides. */
export function splitRun(
  plan: Plan,
  reference: Reference,
  lines: Lines,
  id: string,
  down: SetDown,
  share: number,
): [Plan, Point] {
  const run = plan.runs.find((r) => r.id === id);
  const { x, y, ...levels } = placeBetween(plan, run, share);
  const [withPoint, point] = addPoint(plan, reference, down, { x, y });
  if (!run) return [withPoint, point];
  const placed = { ...point, ...levels };
  const comes = lines.comes_by[id] || "a";
  const ports = withPoint.runs.filter((r) => r.id !== id);
  const air = [run.a, run.b].some((e) => airy(reference, plan, e.point, e.port));
  const inlet = portFor(reference, { ...withPoint, runs: ports }, placed, comes === "a" ? "in" : "out", air);
  const first: Run = {
    ...run,
    b: { id: newId("E"), point: point.id, port: inlet },
    measured_length: null,
    coupled: false,
  };
  const outlet = portFor(
    reference,
    { ...withPoint, runs: [...ports, first] },
    placed,
    comes === "a" ? "out" : "in",
    air,
  );
  const rest: Run = {
    ...run,
    id: newId("R"),
    a: { id: newId("E"), point: point.id, port: outlet },
    measured_length: null,
    coupled: false,
  };
  return [
    {
      ...withPoint,
      points: withPoint.points.map((p) => (p.id === point.id ? placed : p)),
      runs: withPoint.runs.flatMap((r) => (r.id === id ? [first, rest] : [r])),
    },
    placed,
  ];
}

/** The place at a share of a run from its first end, on the pipe and with the ground between. */
function placeBetween(plan: Plan, run: Run | undefined, share: number) {
  const a = plan.points.find((p) => p.id === run?.a.point);
  const b = plan.points.find((p) => p.id === run?.b.point);
  if (!a || !b) return { x: 0, y: 0, ground: 0, depth: 0.6 };
  const mix = (p: number, q: number) => Math.round((p + (q - p) * Math.min(1, Math.max(0, share))) * 1e6) / 1e6;
  return { x: mix(a.x, b.x), y: mix(a.y, b.y), ground: mix(a.ground, b.ground), depth: mix(a.depth, b.depth) };
}
