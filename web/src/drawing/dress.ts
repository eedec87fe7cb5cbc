import type { Joint, JointState, Plan, Readiness, Reference, Stage, StateName } from "../api/types";
import type { Derived } from "../job/derived";
import { planned } from "../job/folded";
import { fieldsOf, isOutlet, isPlain, kindOf, nameOf } from "../job/kinds";
import { type Formatter, lies } from "../ui/format";

/** What the one drawing wears in each stage: the words at points and runs, and how joints are shown. */

export const stages: readonly Stage[] = ["survey", "size", "join", "cut", "make", "prove", "keep"];

type Words = { lines: string[]; tone?: string; must?: boolean };

export type Dress = { points: Map<string, Words>; runs: Map<string, Words>; joints: boolean };

export type Worn = {
  stage: Stage;
  plan: Plan;
  derived: Derived;
  readiness: Readiness | null;
  reference: Reference;
  format: Formatter;
  scenario: string;
};

const attention = "var(--color-dry)";

export function dress(worn: Worn): Dress {
  const { stage, plan } = worn;
  const points: Dress["points"] = new Map();
  const runs: Dress["runs"] = new Map();
  const flat = new Set(plan.points.map((p) => p.ground)).size < 2;
  for (const p of plan.points) {
    const words = pointWords(worn, p, flat);
    if (words.lines.length) points.set(p.id, words);
  }
  for (const r of plan.runs) {
    const words = runWords(worn, r);
    if (words) runs.set(r.id, words);
  }
  if (stage === "cut")
    for (const piece of worn.derived.cuts.pieces)
      if (piece.runs[0]) runs.set(piece.runs[0], { lines: [worn.format(piece.length, "cut")] });
  if (stage === "prove") {
    sectionWords(worn, runs);
    for (const [id, words] of testWords(worn)) {
      const there = points.get(id) ?? { lines: [] };
      points.set(id, { ...there, lines: [...there.lines, words], must: true });
    }
  }
  return { points, runs, joints: stage === "join" || stage === "make" || stage === "prove" || stage === "keep" };
}

/** The words at a point; levels only where the ground is not `flat`, all of one level. */
function pointWords(worn: Worn, p: Plan["points"][number], flat: boolean): Words {
  const { stage, derived, reference, format, scenario } = worn;
  if (kindOf(reference, p.what)?.role === "mark") {
    const deep = ["cable", "other pipe"].includes(String(fieldsOf(p.what).what));
    return { lines: [nameOf(reference, p), ...(deep ? [lies(format, p.depth)] : [])] };
  }
  const water = derived.lines.waters[p.id];
  if (water) return { lines: [nameOf(reference, p), `${format(water.level - water.bottom, "length")} of water`] };
  const plain = isPlain(reference, p);
  const lines = plain ? [] : [nameOf(reference, p)];
  let tone: string | undefined;
  if (stage === "survey") {
    const levels = flat ? [] : [format(p.ground, "level")];
    const told = plain || !p.depth ? levels : [...levels, lies(format, p.depth)];
    if (told.length) lines.push(told.join(", "));
  }
  if (stage === "size") {
    const flow = derived.sizes.flows[scenario];
    const out = flow?.outlets[p.id];
    if (out) {
      lines.push(`${format(out.pressure, "pressure")} · ${format(out.flow, "flow")}`);
      if (out.short) tone = attention;
    } else if (isOutlet(reference, p)) lines.push("shut");
    else if (!plain && flow?.points[p.id]) lines.push(format(flow.points[p.id]?.pressure, "pressure"));
  }
  if (stage === "keep") lines.push(`${format(p.x, "length")} E, ${format(p.y, "length")} N`);
  return { lines, tone, must: !plain && stage !== "survey" };
}

function runWords({ stage, derived, reference, format, scenario }: Worn, r: Plan["runs"][number]): Words | null {
  const choice = derived.sizes.choices[r.id];
  const series = reference.series.find((s) => s.id === choice?.series);
  const pipe = series && choice ? `${series.short} ${choice.size}` : "";
  if (stage === "survey") {
    const line = derived.lines.lines[r.id];
    return line && !r.coupled ? { lines: [format(line.length, "length")] } : null;
  }
  if (stage === "size") {
    const f = derived.sizes.flows[scenario]?.runs[r.id];
    const drain = derived.drains.find((d) => d.run === r.id);
    const wrong = drain && !(drain.state?.cleans && drain.state.fits);
    return {
      lines: drain
        ? [pipe, drain.state ? `${drain.falls}, ${format(drain.state.velocity, "velocity")}` : "no fall"]
        : [pipe, f ? format(f.velocity, "velocity") : "no water"],
      tone: f?.fast || wrong ? attention : undefined,
    };
  }
  return stage === "join" && pipe && !r.coupled ? { lines: [pipe] } : null;
}

function sectionWords({ derived, readiness }: Worn, runs: Dress["runs"]): void {
  for (const s of derived.sections) {
    const state = readiness?.sections[s.id];
    const word = !state ? "" : state.buried ? "buried" : state.proved ? "tested" : "not tested";
    const length = (r: string) => derived.lines.lines[r]?.length ?? 0;
    const middle = s.runs.reduce((a, b) => (length(b) > length(a) ? b : a), s.runs[0] ?? "");
    if (middle)
      runs.set(middle, {
        lines: [`${s.letter}: ${word}`],
        tone: state?.proved ? "var(--color-proved)" : attention,
        must: true,
      });
  }
}

/** What hands do at a point for the tests still to come: pump, air, caps, plugs, valves shut. */
function testWords({ derived, readiness }: Worn): Map<string, string> {
  const told = new Map<string, string[]>();
  const say = (point: string, words: string) => point && told.set(point, [...(told.get(point) ?? []), words]);
  for (const s of derived.sections) {
    if (s.fault || s.sort !== "pressure" || !readiness || readiness.sections[s.id]?.proved) continue;
    say(s.spots?.pump ?? "", `test pump ${s.letter}`);
    say(s.spots?.air ?? "", `air out ${s.letter}`);
    for (const cap of s.spots?.caps ?? []) say(cap, `cap ${s.letter}`);
    for (const plug of s.spots?.plugs ?? []) say(plug, `plug ${s.letter}`);
    for (const valve of s.spots?.shut ?? []) say(valve, `shut ${s.letter}`);
  }
  return new Map([...told].map(([id, words]) => [id, words.join(", ")]));
}

/** Where a joint stands: planned where nothing was done to it. */
export function jointState(readiness: Readiness, joint: string): JointState {
  return readiness.joints[joint] ?? planned(joint);
}

const order: StateName[] = ["leaks", "dry", "planned", "setting", "curing", "cured", "proved", "buried"];

/** How far a state is from asking for attention: 0 asks first. */
export const rankOf = (state: StateName): number => order.indexOf(state);

/** The state that asks for attention first among several joints. */
export function worstState(joints: readonly Joint[], readiness: Readiness): StateName {
  const states = joints.map((j) => jointState(readiness, j.id).state);
  return order.find((s) => states.includes(s)) ?? "planned";
}
