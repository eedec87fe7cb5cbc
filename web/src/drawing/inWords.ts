import type { Plan, PlanProblem, Readiness, Reference } from "../api/types";
import type { Derived } from "../job/derived";
import { isMadeAsDrawn } from "../job/folded";
import { kindOf, namesOf } from "../job/kinds";
import type { Formatter } from "../ui/format";
import type { Spot } from "./geometry";

/** The drawing for someone who does not see it: what is chosen, in words, and the way from one thing to the next along the pipe. */

export type Told = {
  plan: Plan;
  reference: Reference;
  derived: Derived;
  readiness: Readiness | null;
  problems: readonly PlanProblem[];
  format: Formatter;
};

/** A chosen thing or pipe: what it is, where its pipes lead, how far its joints are, and what is wrong there. */
export function spoken(told: Told, id: string | null): string {
  const { plan, reference, derived, format } = told;
  const names = namesOf(reference, plan);
  const point = plan.points.find((p) => p.id === id);
  const run = plan.runs.find((r) => r.id === id);
  const pipe = (r: Plan["runs"][number]) => {
    const line = derived.lines.lines[r.id];
    const choice = derived.sizes.choices[r.id];
    const series = reference.series.find((s) => s.id === choice?.series)?.short;
    return [line && !r.coupled && format(line.length, "length"), series && choice && `${series} ${choice.size}`]
      .filter(Boolean)
      .join(", ");
  };
  const with_ = (words: string) => (words ? `, ${words}` : "");
  if (point) {
    const title = kindOf(reference, point.what)?.title ?? "";
    const name = names.get(point.id) ?? "";
    const ways = plan.runs.flatMap((r) => {
      const other = r.a.point === point.id ? r.b.point : r.b.point === point.id ? r.a.point : null;
      return other ? [`${r.coupled ? "screwed to" : "pipe to"} ${names.get(other)}${with_(pipe(r))}`] : [];
    });
    const what = name.toLowerCase().startsWith(title.toLowerCase()) ? name : `${name}, ${title.toLowerCase()}`;
    return sentences([what, ...ways, ...standing(told, id)]);
  }
  if (run) {
    const ends = `from ${names.get(run.a.point)} to ${names.get(run.b.point)}`;
    return sentences([`Pipe ${ends}${with_(pipe(run))}`, ...standing(told, id)]);
  }
  return "";
}

function standing({ derived, readiness, problems }: Told, id: string | null): string[] {
  const joints = derived.joints.filter((j) => (j.point ?? j.run) === id);
  const made = joints.filter((j) => isMadeAsDrawn(readiness?.joints[j.id]));
  const wrong = problems.filter((p) => p.where === id);
  return [
    ...(joints.length && readiness ? [`${made.length} of ${joints.length} joints made`] : []),
    ...wrong.map((p) => `Problem: ${p.says.replace(/\.$/, "")}`),
  ];
}

const sentences = (parts: readonly string[]): string =>
  parts.map((p) => `${p.charAt(0).toUpperCase()}${p.slice(1)}.`).join(" ");

/** The thing at the other end of the pipe that leads most the way asked for; null where none leads that way. */
export function along(plan: Plan, spots: ReadonlyMap<string, Spot>, from: string, way: Spot): string | null {
  const here = spots.get(from);
  let best: { id: string; off: number } | null = null;
  for (const r of plan.runs) {
    const id = r.a.point === from ? r.b.point : r.b.point === from ? r.a.point : null;
    const there = id ? spots.get(id) : undefined;
    if (!here || !id || !there) continue;
    const [dx, dy] = [there.x - here.x, there.y - here.y];
    const off = Math.abs(Math.atan2(way.x * dy - way.y * dx, way.x * dx + way.y * dy));
    if (off <= MOST && (!best || off < best.off)) best = { id, off };
  }
  return best?.id ?? null;
}

const MOST = (80 / 180) * Math.PI; // a way off by more leads elsewhere
