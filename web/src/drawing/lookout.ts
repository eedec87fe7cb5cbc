import type { Plan, Point, Reference, Run } from "../api/types";
import type { Derived } from "../job/derived";
import { isPlain, nameOf } from "../job/kinds";
import { GRIDS, nearestOn, pointMap, type Snap, type Spot, toScreen, toWorld, type View } from "./geometry";
import { levelOf } from "./projection";
import { bring } from "./snapping";
import type { Tool } from "./toolStore";

/** What lies under a press, and what a press would do there: said before it is done, and done as it was said. */

export type Hit = { kind: "point"; point: Point } | { kind: "run"; id: string; share: number } | { kind: "nothing" };
export type Foreseen = { place: Spot; found: Hit; says: string };

const NEAR = 8; // px within which a place is brought in line with a thing
const MIDDLE = 8; // px within which the middle of a pipe is meant
const SAME = 0.005; // m within which two places are one

type Seen = {
  plan: Plan;
  /** The plan as it is seen: its points at their spots of the view. */
  shown: Plan;
  view: View;
  tool: Tool;
  snapping: Snap;
  /** Where the line under way comes from. */
  from: Point | null;
  reference: Reference;
  lines: Derived["lines"];
  length: (metres: number) => string;
};

export function lookout({ plan, shown, view, tool, snapping, from, reference, lines, length }: Seen) {
  const points = pointMap(plan);
  const spots = pointMap(shown);
  const seenFrom = from ? (spots.get(from.id) ?? null) : null;

  /** All points within reach of a press, the nearest first. */
  const near = (at: Spot, reach: number): Point[] =>
    shown.points
      .map((p) => ({ p, d: Math.hypot(toScreen(view, p).x - at.x, toScreen(view, p).y - at.y) }))
      .filter(({ d }) => d <= reach)
      .sort((a, b) => a.d - b.d)
      .flatMap(({ p }) => points.get(p.id) ?? []);

  const hit = (at: Spot, coarse: boolean): Hit => {
    const [point] = near(at, coarse ? 24 : 14);
    if (point) return { kind: "point", point };
    let best: Hit = { kind: "nothing" };
    let least = coarse ? 18 : 10;
    for (const run of plan.runs) {
      const [a, b] = [spots.get(run.a.point), spots.get(run.b.point)];
      if (!a || !b) continue;
      const [p, q] = [toScreen(view, a), toScreen(view, b)];
      const there = nearestOn(p, q, at);
      if (there.distance > least) continue;
      least = there.distance;
      const share = Math.hypot(there.at.x - p.x, there.at.y - p.y) / (Math.hypot(q.x - p.x, q.y - p.y) || 1);
      const middle = snapping.line && Math.abs(share - 0.5) * Math.hypot(q.x - p.x, q.y - p.y) <= MIDDLE;
      best = { kind: "run", id: run.id, share: middle ? 0.5 : onGrid(plan, run, share, snapping.grid) };
    }
    return best;
  };

  /** The way (of length 1, as it is seen) the last pipe comes to where the line comes from. */
  const comes = (): Spot | null => {
    const run = from && [...plan.runs].reverse().find((r) => r.a.point === from.id || r.b.point === from.id);
    const far = run && spots.get(run.a.point === from.id ? run.b.point : run.a.point);
    if (!far || !seenFrom) return null;
    const long = Math.hypot(seenFrom.x - far.x, seenFrom.y - far.y);
    return long > 1e-6 ? { x: (seenFrom.x - far.x) / long, y: (seenFrom.y - far.y) / long } : null;
  };

  /** What a press would do with the tool in hand, and what brought it there: said before, and done as it was said. */
  const foresee = (at: Spot, coarse: boolean): Foreseen => {
    const grid = GRIDS[plan.units].find(([step]) => step === snapping.grid)?.[1] ?? "";
    const brought = bring(toWorld(view, at), {
      settings: snapping,
      from: seenFrom,
      way: comes(),
      others: shown.points.map((p) => ({ x: p.x, y: p.y, name: nameOf(reference, p) })),
      reach: NEAR / view.scale,
      grid,
    });
    const place = brought.at;
    let touched = hit(at, coarse);
    // what is set down beside a corner stands beside it, unless the press was on the corner's own mark
    const on = tool.kind === "place" && touched.kind === "point" ? spots.get(touched.point.id) : null;
    if (on) {
      const c = toScreen(view, on);
      const beside = Math.hypot(c.x - at.x, c.y - at.y) > (coarse ? 16 : 10);
      if (beside && Math.hypot(on.x - place.x, on.y - place.y) > SAME) touched = { kind: "nothing" };
    }
    // what the grid brings to the very place of a thing is that thing: nothing is set down unseen on top of another
    const there =
      touched.kind === "nothing" ? shown.points.find((p) => Math.hypot(p.x - place.x, p.y - place.y) < SAME) : null;
    const same = there ? points.get(there.id) : undefined;
    const found: Hit = same && tool.kind !== "select" ? { kind: "point", point: same } : touched;
    return { place, found, says: found.kind === "nothing" ? brought.says : told(found) };
  };

  const told = (found: Hit): string => {
    if (found.kind === "point") {
      const name = nameOf(reference, found.point);
      if (tool.kind === "pipe") return tool.from ? `joins ${name}` : `from ${name}`;
      if (tool.kind === "part") return `goes on from ${name}`;
      return isPlain(reference, found.point) ? `takes the place of ${name}` : `${name} stands here: it would be chosen`;
    }
    if (found.kind !== "run") return "";
    const line = lines.lines[found.id];
    const run = plan.runs.find((r) => r.id === found.id);
    const start = plan.points.find((p) => p.id === run?.a.point);
    const where =
      found.share === 0.5
        ? "in its middle"
        : line && start
          ? `${length(line.drawn * found.share)} from ${nameOf(reference, start)}`
          : "";
    return `into the pipe, ${where}`;
  };

  return { near, hit, foresee };
}

/** A share of a run brought to the grid along it, and never onto one of its ends. */
function onGrid(plan: Plan, run: Run, share: number, grid: number | null): number {
  const [a, b] = [run.a.point, run.b.point].map((id) => plan.points.find((p) => p.id === id));
  if (!a || !b) return share;
  const length = Math.hypot(b.x - a.x, b.y - a.y, levelOf(b) - levelOf(a));
  if (!grid || length < 2 * grid) return share;
  const steps = Math.round((share * length) / grid);
  return (Math.min(Math.max(steps, 1), Math.ceil(length / grid) - 1) * grid) / length;
}
