import type { PlanProblem, Stage, StageAnswer } from "../api/types";

/** What follows from one revision of the plan, as far as it was answered: the parts of the stages that were asked for. */
export type Derived = {
  [P in Exclude<keyof StageAnswer, "standing" | "stage" | "wire" | "changeover" | "problems">]-?: NonNullable<
    StageAnswer[P]
  >;
} & {
  wire: StageAnswer["wire"];
  changeover: StageAnswer["changeover"];
  /** The problems up to each stage that was answered: an answer of one stage never replaces those of another. */
  problems: Partial<Record<Stage, readonly PlanProblem[]>>;
};

export const nothingDerived: Derived = {
  revision: 0,
  problems: {},
  says: {},
  lines: { lines: {}, comes_by: {}, series: {}, systems: [], emitters: {}, loops: false, waters: {} },
  cautions: [],
  sizes: { choices: {}, flows: {} },
  house: { method: "", expected: [], waits: [], problems: [] },
  drains: [],
  drained_to: [],
  surges: {},
  inverts: {},
  watered: {},
  dripped: {},
  shut: {},
  rounds: { bodies: [], jets: [], air: [], back: [], drains: [], manifolds: [], pits: [], problems: [] },
  wire: null,
  joints: [],
  parts: [],
  tubing: [],
  bill: [],
  trench: { runs: [], dig: 0, bed: 0, bed_weight: 0, fill: 0, over: 0, deep: [], backfill: [] },
  cuts: { pieces: [], nests: [], arcs: [], problems: [] },
  work: [],
  groups: [],
  changeover: null,
  sections: [],
  tins: [],
};

/** Add the parts of an answer to those already known of the same revision. */
export function withAnswer(known: Derived, answer: StageAnswer): Derived {
  const parts = Object.entries(answer).filter(([key, part]) => key in known && part !== null);
  const same = known.revision === answer.revision ? known : nothingDerived;
  return {
    ...same,
    ...Object.fromEntries(parts),
    says: { ...same.says, ...answer.says },
    problems: { ...same.problems, [answer.stage]: answer.problems },
  };
}

const STAGES: readonly Stage[] = ["survey", "size", "join", "cut", "make", "prove", "keep"];
const none: readonly PlanProblem[] = [];

/** The problems to show in a stage: its own answer, or until that arrives the answer of the nearest stage, later ones first. */
export function problemsAt({ problems }: Pick<Derived, "problems">, stage: Stage): readonly PlanProblem[] {
  const at = STAGES.indexOf(stage);
  const order = [...STAGES.slice(at), ...STAGES.slice(0, at).reverse()];
  return order.map((s) => problems[s]).find((found) => found !== undefined) ?? none;
}
