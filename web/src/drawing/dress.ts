import type { JobView, Joint, JointState, Plan, Readiness, Reference, StateName } from "../api/types";
import { isOutlet } from "../stages/planEdit";
import type { Formatter } from "../ui/format";

/** What the one drawing wears in each stage: the words at points and runs, and how joints are shown. */

export type Stage = Reference["problem_stages"][string];
export const stages: readonly Stage[] = ["survey", "size", "join", "cut", "make", "prove", "keep"];

export type Dress = {
  points: Map<string, { lines: string[]; tone?: string; must?: boolean }>;
  runs: Map<string, { lines: string[]; tone?: string; must?: boolean }>;
  joints: boolean;
};

export function dress(
  stage: Stage,
  plan: Plan,
  job: JobView,
  reference: Reference,
  format: Formatter,
  scenario: string,
): Dress {
  const points: Dress["points"] = new Map();
  const runs: Dress["runs"] = new Map();
  const { derived, readiness } = job;
  const flow = derived.sizes.flows[scenario];
  for (const p of plan.points) {
    const plain = p.what.kind === "bend" || p.what.kind === "junction";
    const lines = plain ? [] : [p.name || p.id];
    let tone: string | undefined;
    if (stage === "survey")
      lines.push(plain ? format(p.ground, "level") : `${format(p.ground, "level")}, ${format(p.depth, "depth")} deep`);
    if (stage === "size") {
      const out = flow?.outlets[p.id];
      if (out) {
        lines.push(`${format(out.pressure, "pressure")} · ${format(out.flow, "flow")}`);
        if (out.margin < -1) tone = "var(--color-dry)";
      } else if (isOutlet(p)) lines.push("shut");
      else if (!plain && flow?.points[p.id]) lines.push(format(flow.points[p.id]?.pressure, "pressure"));
    }
    if (stage === "keep") lines.push(`${format(p.x, "length")} E, ${format(p.y, "length")} N`);
    if (lines.length) points.set(p.id, { lines, tone, must: !plain && stage !== "survey" });
  }
  const drains = new Map(derived.drains.map((d) => [d.run, d]));
  for (const r of plan.runs) {
    const choice = derived.sizes.choices[r.id];
    const series = reference.series.find((s) => s.id === choice?.series);
    const pipe = series && choice ? `${series.short} ${choice.size}` : "";
    const line = derived.layout.lines[r.id];
    if (stage === "survey" && line) runs.set(r.id, { lines: [format(line.length, "length")] });
    if (stage === "size") {
      const f = flow?.runs[r.id];
      const drain = drains.get(r.id);
      const fast = f && f.velocity > plan.conditions.max_velocity * 1.0000001;
      const wrong = drain && !(drain.state?.cleans && drain.state.fits);
      runs.set(r.id, {
        lines: drain
          ? [pipe, drain.state ? `${drain.falls}, ${format(drain.state.velocity, "velocity")}` : "no fall"]
          : [pipe, f ? format(f.velocity, "velocity") : "no water"],
        tone: fast || wrong ? "var(--color-dry)" : undefined,
      });
    }
    if (stage === "join" && pipe) runs.set(r.id, { lines: [pipe] });
  }
  if (stage === "cut")
    for (const piece of derived.cuts.pieces)
      if (piece.runs[0]) runs.set(piece.runs[0], { lines: [format(piece.length, "cut")] });
  if (stage === "prove")
    derived.sections.forEach((s, i) => {
      const state = readiness.sections[s.id];
      const word = !state ? "" : state.buried ? "buried" : state.proved ? "proved" : "not proved";
      const length = (r: string) => derived.layout.lines[r]?.length ?? 0;
      const middle = s.runs.reduce((a, b) => (length(b) > length(a) ? b : a), s.runs[0] ?? "");
      if (middle)
        runs.set(middle, {
          lines: [`${String.fromCharCode(65 + i)}: ${word}`],
          tone: state?.proved ? "var(--color-proved)" : "var(--color-dry)",
          must: true,
        });
    });
  return { points, runs, joints: stage === "join" || stage === "make" || stage === "prove" || stage === "keep" };
}

/** Where a joint stands: planned where nothing was done to it. */
export function jointState(readiness: Readiness, joint: string): JointState {
  const planned: JointState = {
    joint,
    state: "planned",
    by: "",
    at: null,
    set_at: null,
    cured_at: null,
    fill_at: null,
    looked: null,
    matches: true,
    overrides: [],
    proved: false,
  };
  return readiness.joints[joint] ?? planned;
}

const order: StateName[] = ["dry", "planned", "setting", "curing", "cured", "proved", "buried"];

/** The state that asks for attention first among several joints. */
export function worstState(joints: readonly Joint[], readiness: Readiness): StateName {
  const states = joints.map((j) => jointState(readiness, j.id).state);
  return order.find((s) => states.includes(s)) ?? "planned";
}
