import { inOrder } from "../api/clock";
import type { Entry } from "../api/outbox";
import type { Gate, JointState, Procedures, Said, Section, Standing, StateName } from "../api/types";

/**
 * Where a job stands with what was said here and is not yet with the server.
 *
 * A joint made with no signal reads made, and its clocks run by the seconds the server gave for it beforehand. What takes judgement is not
 * guessed: no test proves anything, and no gate of a section that was touched opens, until the server has answered.
 */
export function folded(
  standing: Standing,
  waiting: readonly Entry[],
  procedures: Procedures | null,
  sections: readonly Pick<Section, "id" | "joints" | "later">[],
  now: number,
): Standing {
  if (!waiting.length) return standing;
  const { readiness } = standing;
  const joints: Record<string, JointState> = { ...readiness.joints };
  const touched = new Set<string>();
  const stepped = { ...readiness.stepped };
  const said = waiting.map((e) => e.event).sort(inOrder);
  for (const event of said) {
    if (event.section) touched.add(event.section);
    if (event.kind === "stepped" && event.of) {
      if (event.count) stepped[event.of] = { at: event.at, by: event.by };
      else delete stepped[event.of];
    }
    // a mend of a record is about the joints of that record
    const about =
      event.kind === "mended" && !event.joints.length
        ? Object.values(joints).flatMap((j) => (j.leak?.event === event.of ? [j.joint] : []))
        : event.joints;
    for (const joint of about) {
      joints[joint] = after(joints[joint] ?? planned(joint), event, procedures, now);
      for (const s of sections) if (s.joints.includes(joint)) touched.add(s.id);
    }
  }
  const shut: Gate = { open: false, why: waits(said.length), from_time: null };
  const changed = [...touched].flatMap((id) => {
    const [was, section] = [readiness.sections[id], sections.find((s) => s.id === id)];
    if (!was || !section) return [];
    const mine = section.joints.filter((j) => !section.later.includes(j));
    const unmade = mine.filter((j) => !isMade(joints[j]));
    const dry = mine.filter((j) => joints[j]?.state === "dry");
    const curing = mine.filter((j) => joints[j]?.state === "setting" || joints[j]?.state === "curing");
    return [[id, { ...was, unmade, dry, curing, proved: false, fill: shut, pressurise: shut, bury: shut }] as const];
  });
  const hand = readiness.hand_over;
  const told = { ...hand, done: false, says: [waits(said.length), ...hand.says] };
  return {
    ...standing,
    readiness: {
      ...readiness,
      joints,
      stepped,
      sections: { ...readiness.sections, ...Object.fromEntries(changed) },
      hand_over: told,
    },
  };
}

const waits = (count: number): string =>
  `${count} ${count === 1 ? "thing" : "things"} said here and not yet with the server, which judges when it has ${count === 1 ? "it" : "them"}`;

/** A joint to which nothing was done. */
export const planned = (joint: string): JointState => ({
  joint,
  state: "planned",
  by: "",
  at: null,
  set_at: null,
  cured_at: null,
  matches: true,
  overrides: [],
  looked: null,
  looked_over: false,
  fill_at: null,
  proved: false,
  purpose: "",
  others: [],
  event: "",
  clash: "",
  level: null,
  level_at: null,
  level_by: "",
  leak: null,
  mend: null,
  covered: false,
  times: 0,
  rushed: false,
});

/** Whether a joint is made as it is drawn; one that was drawn otherwise since is not. */
export const isMadeAsDrawn = (joint: JointState | undefined): boolean => isMade(joint) && joint?.matches === true;

const isMade = (joint: JointState | undefined): boolean =>
  joint !== undefined && joint.state !== "planned" && joint.state !== "dry";

const said = ({ id, by, at }: Said) => ({ event: id, by, at });

function after(was: JointState, event: Said, procedures: Procedures | null, now: number): JointState {
  const { at, by } = event;
  switch (event.kind) {
    case "made": {
      const cure = procedures?.kinds[procedures.of[was.joint] ?? -1]?.cure ?? null;
      const until = (seconds: number | undefined) => at + (seconds ?? 0);
      const [set_at, cured_at] = [until(cure?.set), until(cure?.cure)];
      const state: StateName = now < set_at ? "setting" : now < cured_at ? "curing" : "cured";
      // where its clocks are not known it is left alone until the server tells them
      const clocks = procedures
        ? { state, set_at, cured_at, fill_at: until(cure?.fill) }
        : { state: "setting" as StateName };
      const { level, level_at, level_by } = was; // read as it was set down, it stays; what is made anew lies anew
      const read = isMade(was) ? {} : { level, level_at, level_by };
      return { ...planned(was.joint), overrides: was.overrides, by, at, ...read, ...clocks };
    }
    case "dry_fitted":
    case "left_dry":
      if (isMade(was)) return was;
      return { ...was, state: "dry", by, at, purpose: event.kind === "left_dry" ? event.note.trim() : "" };
    case "undone":
      return { ...planned(was.joint), overrides: was.overrides, by, at };
    case "levelled":
      return { ...was, level: event.level ?? null, level_at: at, level_by: by };
    case "leaked":
      return { ...was, state: isMade(was) ? "leaks" : was.state, proved: false, looked: null, leak: said(event) };
    case "mended":
      return {
        ...was,
        state: isMade(was) ? (event.count ? "setting" : "cured") : was.state, // its clocks are the server's to tell
        proved: false,
        looked: null,
        leak: null,
        mend: { ...said(event), says: event.note.trim(), opened: event.count !== 0 },
      };
    case "looked":
      return isMade(was) ? { ...was, looked: at, looked_over: Boolean(event.override) } : was;
    default:
      return was;
  }
}
