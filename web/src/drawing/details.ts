import type { Plan, Point } from "../api/types";
import { levelOf, type Projection } from "./projection";

/** Named details of a plan: a box cut out of it, looked at from a side. */

export type Detail = Required<Plan["details"][number]>;

const MARGIN = 0.15; // m of room round what a detail was made of
const QUARTER = Math.PI / 2;
const SIDES = ["south", "east", "north", "west"] as const;

export const detailHolds = (d: Detail, p: Point): boolean =>
  [p.x, p.y, levelOf(p)].every((v, i) => v >= (d.low[i] ?? 0) && v <= (d.high[i] ?? 0));

/** How a detail is looked at. */
export const howOf = (d: Detail): Projection =>
  d.seen === "above"
    ? { kind: "above" }
    : d.seen === "standing"
      ? { kind: "standing", turn: 0 }
      : { kind: "side", along: SIDES.indexOf(d.seen) * QUARTER };

/** The side that a way of looking is nearest to. */
const seenOf = (how: Projection): Detail["seen"] => {
  if (how.kind !== "side") return how.kind;
  const quarter = Math.round(how.along / QUARTER);
  return SIDES[((quarter % 4) + 4) % 4] ?? "south";
};

/** A detail round some points, as they are looked at now. */
export function detailOf(name: string, points: readonly Point[], how: Projection): Detail {
  const corner = (best: (...n: number[]) => number, by: number): [number, number, number] => [
    best(...points.map((p) => p.x)) + by,
    best(...points.map((p) => p.y)) + by,
    best(...points.map(levelOf)) + by,
  ];
  return { name, low: corner(Math.min, -MARGIN), high: corner(Math.max, MARGIN), seen: seenOf(how) };
}

/** Only what lies in a detail, and the pipe that leaves it. `inside` is what it is fitted to. */
export function cutOut(plan: Plan, detail: Detail | null): { plan: Plan; inside: ReadonlySet<string> } {
  if (!detail) return { plan, inside: new Set(plan.points.map((p) => p.id)) };
  const inside = new Set(plan.points.filter((p) => detailHolds(detail, p)).map((p) => p.id));
  const runs = plan.runs.filter((r) => inside.has(r.a.point) || inside.has(r.b.point));
  const wanted = new Set([...inside, ...runs.flatMap((r) => [r.a.point, r.b.point])]);
  return { plan: { ...plan, runs, points: plan.points.filter((p) => wanted.has(p.id)) }, inside };
}
