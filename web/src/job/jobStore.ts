import { create } from "zustand";
import { api } from "../api/client";
import { fateOf } from "../api/custody";
import { page } from "../api/id";
import { kept, onKept } from "../api/kept";
import type { News } from "../api/live";
import { dropJob, keptJob } from "../api/pantry";
import type {
  JobView,
  LeftOut,
  Plan,
  ProblemDocument,
  Procedures,
  Progress,
  Readiness,
  Stage,
  StageAnswer,
  Standing,
} from "../api/types";
import { type Derived, nothingDerived, withAnswer } from "./derived";
import { keepDraft } from "./drafts";
import { problemOf, savePlan } from "./saving";
import { type Clash, type Saving, Sync } from "./sync";
import type { Along } from "./takeAlong";
import { did, type History, nothing, redo, type Taken, undo } from "./undo";

/** The open job as the page shows it: its plan, what its stages were answered, where it stands, and what is asked of a person. */

type View = { kind: "loading" } | { kind: "failed"; problem: ProblemDocument } | { kind: "ready" };

type State = {
  view: View;
  id: string;
  revision: number;
  plan: Plan | null;
  leftOut: readonly LeftOut[];
  saving: Saving;
  unkept: boolean;
  stage: Stage;
  derived: Derived;
  /** How thick the runs are drawn: by the sizes that were last known. */
  looks: Derived["sizes"]["choices"];
  /** The stages whose parts in `derived` are of this revision. */
  answered: ReadonlySet<Stage>;
  standing: Standing | null;
  progress: Pick<Progress, "stages" | "dry"> | null;
  /** How every joint of a revision is made, to be there with no signal. */
  procedures: { revision: number; all: Procedures } | null;
  history: History;
  clash: Clash | null;
  /** A step back that undoes what others have changed since, and waits for a word. */
  asking: Taken | null;
  notice: ProblemDocument | null;
  selected: string | null;
  open: (id: string, stage: Stage) => Promise<void>;
  show: (stage: Stage) => Promise<void>;
  /** Ask for the parts of another stage than the open one; `quietly` nobody is told where it has no answer. */
  need: (stage: Stage, quietly?: boolean) => Promise<void>;
  edit: (change: (plan: Plan) => Plan) => void;
  undo: () => void;
  redo: () => void;
  answerAsked: (goOn: boolean) => void;
  select: (id: string | null) => void;
  stand: (standing: Standing) => void;
  /** Ask where the job stands now. */
  standAgain: () => Promise<void>;
  news: (news: News) => void;
  settle: (wins: "mine" | "theirs") => void;
  takeBack: (to: number) => Promise<void>;
  dismiss: () => void;
};

const STANDS: readonly Stage[] = ["join", "make", "prove", "keep"];
const SOON = 1_200;

export const useJob = create<State>((set, get) => {
  let timer: ReturnType<typeof setTimeout> | undefined;

  const sync = new Sync({
    save: (job, revision, plan, base) => savePlan(job, revision, plan, base, get().stage),
    open: (job) => api.job(job, get().stage),
    page,
    problemOf,
    shelf: kept,
    later: (act, ms) => void setTimeout(act, ms),
    onChange: ({ revision, plan, saving, clash, unkept }) => set({ revision, plan, saving, clash, unkept }),
    onAnswer: (found) => answer(found),
    onRefused: (notice, plan, saved) => {
      const { history } = get();
      const step = history.done.at(-1);
      const back = step?.after === plan ? step.before : saved;
      // a step made here stands in Redo; any other drawing is kept beside the saved one until a person sees to it
      if (step?.after !== plan)
        keepDraft(kept, { job: get().id, plan, base: saved, problem: notice, at: Date.now() / 1000 });
      set({
        notice,
        history:
          step?.after === plan ? { done: history.done.slice(0, -1), undone: [step, ...history.undone] } : history,
      });
      return back;
    },
    onGone: (problem) => set({ view: { kind: "failed", problem } }),
  });

  onKept(() => sync.keptNow());

  /** Take in what a stage was answered, and ask for the open one where that was another. */
  const answer = (found: StageAnswer) => {
    const { derived, stage, answered } = get();
    const mine = sync.state?.revision ?? 0;
    if (found.revision < mine) return;
    if (found.revision > mine) return void sync.news(found.revision);
    const newer = found.revision > derived.revision;
    set({
      derived: withAnswer(derived, found),
      answered: new Set([...(newer ? [] : answered), found.stage]),
      ...(found.sizes ? { looks: found.sizes.choices } : {}),
    });
    if (found.standing) get().stand(found.standing);
    else if (newer) lookSoon();
    if (newer && found.stage !== stage) void get().show(stage);
  };

  /** How far the job is, once nothing was changed for a moment: it takes all stages. */
  const lookSoon = (ms = SOON) => {
    clearTimeout(timer);
    const { id } = get();
    timer = setTimeout(async () => {
      if (get().id !== id || get().saving !== "saved") return;
      if (get().stage === "join") return void get().standAgain();
      try {
        const progress = await api.progress(id);
        if (get().id !== id) return;
        set({ progress });
        void sync.news(progress.revision);
      } catch (error) {
        if (!problemOf(error)) throw error;
      }
    }, ms);
  };

  const ready = (view: JobView) => {
    set({ id: view.id, leftOut: view.left_out, view: { kind: "ready" } });
    answer(view.answer);
  };

  /** The job as it was taken along: the server does not answer. */
  const asTaken = ({ id, revision, plan, leftOut, derived, looks, answered, standing, procedures }: Along) => {
    sync.start({ id, revision, plan });
    const all = procedures && { revision, all: procedures };
    set({ leftOut, derived, looks, answered: new Set(answered), procedures: all, view: { kind: "ready" } });
    if (standing) get().stand(standing);
  };

  const turn = (taken: Taken | null, sure: boolean) => {
    if (!taken) return;
    if (taken.both.length && !sure) set({ asking: taken });
    else {
      set({ history: taken.history, asking: null, notice: null });
      sync.change(taken.plan);
    }
  };

  return {
    view: { kind: "loading" },
    id: "",
    revision: 0,
    plan: null,
    leftOut: [],
    saving: "saved",
    unkept: false,
    stage: "survey",
    derived: nothingDerived,
    looks: {},
    answered: new Set(),
    standing: null,
    progress: null,
    procedures: null,
    history: nothing,
    clash: null,
    asking: null,
    notice: null,
    selected: null,

    open: async (id, stage) => {
      sync.stop();
      set({
        view: { kind: "loading" },
        id,
        revision: 0,
        plan: null,
        stage,
        derived: nothingDerived,
        looks: {},
        answered: new Set(),
        standing: null,
        progress: null,
        procedures: null,
        history: nothing,
        clash: null,
        asking: null,
        notice: null,
        selected: null,
        saving: "saved",
      });
      try {
        const view = await api.job(id, stage);
        await kept.ready();
        if (get().id !== id) return;
        sync.start(view);
        ready(view);
        lookSoon(50);
      } catch (error) {
        const problem = problemOf(error);
        if (!problem) throw error;
        const fate = fateOf(problem);
        if (fate.kind === "gone") void dropJob(id); // nobody keeps a copy of what was taken away
        const along = fate.kind === "waits" && fate.why !== "locked" ? await keptJob(id) : undefined;
        await kept.ready();
        if (get().id !== id || get().view.kind !== "loading") return;
        if (along) asTaken(along as Along);
        else set({ view: { kind: "failed", problem } });
      }
    },

    show: async (stage) => {
      const { answered, revision, derived } = get();
      set({ stage });
      if (!answered.has(stage) || derived.revision !== revision) await get().need(stage);
      else if (STANDS.includes(stage)) await get().standAgain();
    },

    need: async (stage, quietly = false) => {
      const { id, answered, revision } = get();
      if (!id || !sync.state || (answered.has(stage) && get().derived.revision === revision)) return;
      try {
        const found = await api.stage(id, stage);
        if (get().id === id) answer(found);
        if (get().notice?.status === 0) set({ notice: null });
      } catch (error) {
        const notice = problemOf(error);
        if (!notice) throw error;
        if (quietly) return;
        set({ notice });
        setTimeout(() => get().id === id && get().stage === stage && void get().need(stage), 3_000);
      }
    },

    edit: (change) => {
      const { plan, history } = get();
      if (!plan) return;
      const next = change(plan);
      if (next === plan) return;
      set({ history: did(history, plan, next), notice: null });
      sync.change(next);
    },

    undo: () => {
      const { plan, history } = get();
      if (plan) turn(undo(history, plan), false);
    },

    redo: () => {
      const { plan, history } = get();
      if (plan) turn(redo(history, plan), false);
    },

    answerAsked: (goOn) => {
      const { asking } = get();
      if (goOn) turn(asking, true);
      else set({ asking: null });
    },

    select: (selected) => set({ selected }),

    stand: (told) => {
      const { standing: was } = get();
      const zoned = told.stage === "prove" || !was; // any other stage was not told the zones and the clocks: those known stay
      const standing = zoned ? told : { ...told, zones: was.zones, clocks: was.clocks };
      set({ standing, progress: progressOf(standing.readiness) });
    },

    news: ({ job, what, revision, by }) => {
      const state = get();
      if (what === "again") {
        if (state.view.kind === "ready") {
          lookSoon(200);
          void get().standAgain();
        }
        return;
      }
      if (job !== state.id || by === page || state.view.kind !== "ready") return;
      if (what === "plan") void sync.news(revision);
      if (what === "events") void get().standAgain();
      if (what === "gone") set({ view: { kind: "failed", problem: gone } });
    },

    settle: (wins) => {
      const before = get().plan;
      const found = sync.settle(wins);
      if (found && before) set({ history: did(get().history, before, found.plan) });
      void get().show(get().stage);
    },

    takeBack: async (to) => {
      const { id, revision, stage } = get();
      try {
        const view = await api.takeBack(id, to, revision, stage);
        if (get().id !== id) return;
        sync.took(view);
        ready(view);
      } catch (error) {
        const notice = problemOf(error);
        if (!notice) throw error;
        set({ notice });
      }
    },

    dismiss: () => set({ notice: null }),

    standAgain: async () => {
      const { id, stage } = get();
      if (!STANDS.includes(stage)) return lookSoon(200);
      try {
        const found = await api.standing(id, stage);
        if (get().id === id && get().stage === stage) get().stand(found);
      } catch (error) {
        if (!problemOf(error)) throw error;
      }
    },
  };
});

const progressOf = (ready: Readiness): Pick<Progress, "stages" | "dry"> => ({
  stages: ready.stages as Progress["stages"],
  dry: Object.values(ready.joints).filter((j) => j.state === "dry").length,
});

const gone: ProblemDocument = {
  type: "/problems/not-there",
  title: "This job was deleted",
  status: 404,
  detail: "Someone deleted it while it was open here.",
  mend: "Its file, if somebody exported one, starts it again.",
  places: [],
  extra: {},
};
