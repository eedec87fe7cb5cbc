// What of a plan is in sight: its pipes as they look, where a chosen thing stands, what lights up with it, what is wrong.
import type { Plan, PlanProblem, Reference } from "../api/types";
import type { Derived } from "../job/derived";
import { drawn, pointMap, type Spot, toScreen, type View } from "./geometry";
import type { Segment } from "./Pipe";

/** The corners of a picture that lies beneath: what there is to see of a job in which nothing is drawn yet. */
export function cornersOf(under: Plan["underlay"]): Spot[] {
  if (!under) return [];
  const { x = 0, y = 0, scale = 1, turn = 0, wide, high } = under;
  const corner = (e: number, n: number): Spot => ({
    x: x + scale * (e * Math.cos(turn) - n * Math.sin(turn)),
    y: y + scale * (e * Math.sin(turn) + n * Math.cos(turn)),
  });
  return [corner(0, 0), corner(wide, 0), corner(0, high), corner(wide, high)];
}

const IN_THE_WAY = new Set(["bodies-meet", "no-room", "too-close"]);

/** The points where bodies are in one another's way, or pipe between them is too short. */
export function wrongPlaces(plan: Plan, problems: readonly PlanProblem[]): ReadonlySet<string> {
  const runs = new Map(plan.runs.map((r) => [r.id, r]));
  return new Set(
    problems
      .filter((p) => IN_THE_WAY.has(p.code))
      .flatMap(({ where }) => {
        const run = runs.get(where);
        return run ? [run.a.point, run.b.point] : [where];
      }),
  );
}

/** The runs in view with the look of their pipe: as thick as it is, of its material, or existing. */
export function segmentsOf(
  plan: Plan,
  looks: Derived["sizes"]["choices"],
  series: Record<string, string>,
  reference: Reference,
  view: View,
): Segment[] {
  const points = pointMap(plan);
  return plan.runs.flatMap((run) => {
    const [a, b] = [points.get(run.a.point), points.get(run.b.point)];
    if (!a || !b) return [];
    const look = looks[run.id];
    const id = look?.series ?? series[run.id] ?? run.series ?? plan.conditions.series;
    const family = reference.series.find((s) => s.id === id);
    const outside = family?.sizes.find((s) => s.size === (look?.size ?? run.size))?.outside ?? 0.034;
    const width = Math.max(9, outside * view.scale);
    const [from, to] = [toScreen(view, a), toScreen(view, b)];
    const pattern = run.coupled ? "coupled" : run.existing ? "existing" : (family?.pattern ?? "white");
    return drawn(view, from, to) ? [{ id: run.id, a: from, b: to, pattern, width }] : [];
  });
}

/** Where what is chosen is seen: what is looked at more nearly is that. */
export function chosenSpot(plan: Plan, selected: string | null, { joints }: Derived, view: View): Spot | undefined {
  const joint = joints.find((j) => j.id === selected);
  const at = pointMap(plan);
  const run = plan.runs.find((r) => r.id === (joint?.run ?? selected));
  const point = at.get(joint?.point ?? selected ?? "");
  if (point) return toScreen(view, point);
  const [a, b] = [at.get(run?.a.point ?? ""), at.get(run?.b.point ?? "")];
  return a && b ? toScreen(view, { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 }) : undefined;
}

/** A chosen piece or section lights up all its runs. */
export function highlightOf(selected: string | null, { cuts, sections }: Derived): string[] {
  if (!selected) return [];
  return (cuts.pieces.find((p) => p.id === selected) ?? sections.find((s) => s.id === selected))?.runs ?? [];
}
