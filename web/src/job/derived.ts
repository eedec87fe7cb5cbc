import type { StageAnswer } from "../api/types";

/** What follows from one revision of the plan, as far as it was answered: the parts of the stages that were asked for. */
export type Derived = {
  [P in Exclude<keyof StageAnswer, "standing" | "stage" | "wire">]-?: NonNullable<StageAnswer[P]>;
} & {
  wire: StageAnswer["wire"];
};

export const nothingDerived: Derived = {
  revision: 0,
  problems: [],
  says: {},
  lines: { lines: {}, comes_by: {}, series: {}, systems: [], emitters: {}, loops: false, waters: {} },
  cautions: [],
  sizes: { choices: {}, flows: {} },
  drains: [],
  surges: {},
  watered: {},
  dripped: {},
  shut: {},
  rounds: { bodies: [], jets: [], air: [], back: [], drains: [], manifolds: [], pits: [], problems: [] },
  wire: null,
  joints: [],
  parts: [],
  tubing: [],
  bill: [],
  cuts: { pieces: [], nests: [], arcs: [], problems: [] },
  work: [],
  groups: [],
  sections: [],
  tins: [],
};

/** The parts of an answer laid over those that were known of the same revision. */
export function withAnswer(known: Derived, answer: StageAnswer): Derived {
  const parts = Object.entries(answer).filter(([key, part]) => key in known && part !== null);
  const same = known.revision === answer.revision ? known : nothingDerived;
  return { ...same, ...Object.fromEntries(parts), says: { ...same.says, ...answer.says } };
}
