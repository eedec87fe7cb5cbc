import type { Plan, Point } from "../api/types";
import type { Spot } from "./geometry";

/**
 * The one drawing seen three ways: from above, from a side, or standing (isometric, with true lengths along its three axes).
 *
 * A view of it is flat: x to the right, y up, in metres. Only the projection changes; what is drawn is the same plan.
 */

export type Projection =
  | { kind: "above" }
  /** `along` is the direction (rad from east, anticlockwise) that goes to the right: seen from the south it is 0. */
  | { kind: "side"; along: number }
  /** `turn` is how many quarters the plan is turned anticlockwise before it is looked at from the south-east. */
  | { kind: "standing"; turn: number };

export type Place = { x: number; y: number; z: number };

const COS30 = Math.sqrt(3) / 2;
const SIN30 = 0.5;

/** The level of a point's pipe. */
export const levelOf = (p: Point): number => p.ground - p.depth;

export const placeOf = (p: Point): Place => ({ x: p.x, y: p.y, z: levelOf(p) });

const quarters = (turn: number): [number, number] => {
  const [cos, sin] = [
    [1, 0],
    [0, 1],
    [-1, 0],
    [0, -1],
  ][((turn % 4) + 4) % 4] as [number, number];
  return [cos, sin];
};

/** Where a place is seen. */
export function flat(how: Projection, at: Place): Spot {
  if (how.kind === "above") return { x: at.x, y: at.y };
  if (how.kind === "side") return { x: at.x * Math.cos(how.along) + at.y * Math.sin(how.along), y: at.z };
  const [cos, sin] = quarters(how.turn);
  const [x, y] = [at.x * cos - at.y * sin, at.x * sin + at.y * cos];
  return { x: (x + y) * COS30, y: (y - x) * SIN30 + at.z };
}

export const AXES = {
  east: { x: 1, y: 0, z: 0 },
  north: { x: 0, y: 1, z: 0 },
  up: { x: 0, y: 0, z: 1 },
} as const;

/** How a way in space is seen. */
export const seen = (how: Projection, way: Place): Spot => flat(how, way);

/**
 * The place a spot of the view stands for, as near to `from` as the view leaves open.
 *
 * From above its level stays, from a side its distance from who looks; standing, it goes along the one axis it goes most.
 */
export function lifted(how: Projection, spot: Spot, from: Place): Place {
  if (how.kind === "above") return { ...from, x: spot.x, y: spot.y };
  const old = flat(how, from);
  const [dx, dy] = [spot.x - old.x, spot.y - old.y];
  if (how.kind === "side")
    return {
      x: from.x + dx * Math.cos(how.along),
      y: from.y + dx * Math.sin(how.along),
      z: from.z + dy,
    };
  let best = { along: 0, way: AXES.up as Place };
  for (const way of Object.values(AXES)) {
    const s = seen(how, way);
    const along = dx * s.x + dy * s.y;
    if (Math.abs(along) > Math.abs(best.along)) best = { along, way };
  }
  const { along, way } = best;
  return { x: from.x + along * way.x, y: from.y + along * way.y, z: from.z + along * way.z };
}

/** A plan as it is seen: every point at its spot of the view. Nothing of it may be saved. */
export function seenPlan(how: Projection, plan: Plan): Plan {
  if (how.kind === "above") return plan;
  return { ...plan, points: plan.points.map((p) => ({ ...p, ...flat(how, placeOf(p)) })) };
}

const tidy = (n: number): number => Math.round(n * 1e4) / 1e4;

/** What changes of a point that goes to a place: where it is, and its depth under the same ground. */
export function changeTo(p: Point, to: Place): Pick<Point, "x" | "y" | "depth"> {
  return { x: tidy(to.x), y: tidy(to.y), depth: tidy(p.ground - to.z) };
}

const EIGHTH = Math.PI / 4;
const FROM = ["south", "south-east", "east", "north-east", "north", "north-west", "west", "south-west"];

/** A view in words. */
export function viewWords(how: Projection): string {
  if (how.kind === "above") return "seen from above";
  if (how.kind === "standing") return "standing, with true lengths along its axes";
  const eighth = how.along / EIGHTH;
  const whole = Math.round(eighth);
  if (Math.abs(eighth - whole) < 1e-6) return `seen from the ${FROM[((whole % 8) + 8) % 8]}`;
  return "seen along the run chosen";
}

/** The next way to look at it, and what a turn does. */
export const nextKind = (how: Projection): Projection =>
  how.kind === "above"
    ? { kind: "side", along: 0 }
    : how.kind === "side"
      ? { kind: "standing", turn: 0 }
      : { kind: "above" };

export const turned = (how: Projection): Projection =>
  how.kind === "side"
    ? { kind: "side", along: (Math.round(how.along / (Math.PI / 2) + 1) % 4) * (Math.PI / 2) }
    : how.kind === "standing"
      ? { kind: "standing", turn: (how.turn + 1) % 4 }
      : how;

/** The side view that shows a run in its true length; null for one that stands upright or lies on itself. */
export function alongRun(plan: Plan, id: string): Projection | null {
  const run = plan.runs.find((r) => r.id === id);
  const [a, b] = [run?.a.point, run?.b.point].map((end) => plan.points.find((p) => p.id === end));
  if (!a || !b || Math.hypot(b.x - a.x, b.y - a.y) < 1e-6) return null;
  return { kind: "side", along: Math.atan2(b.y - a.y, b.x - a.x) };
}
