import { create } from "zustand";
import { api, Refused } from "../api/client";
import { drop, keep, queued } from "../api/queue";
import type { EventIn, JobView, Plan, ProblemDocument, Readiness } from "../api/types";

/** The open job: its plan as edited here, what the server derived, and what is still to be sent. */

type Saving = { kind: "saved" } | { kind: "saving" } | { kind: "offline" };

type Clash = { mine: Plan; theirs: Plan; revision: number };

type State = {
  view: { kind: "loading" } | { kind: "failed"; problem: ProblemDocument } | { kind: "ready"; job: JobView };
  plan: Plan | null;
  undone: Plan[];
  done: Plan[];
  saving: Saving;
  waiting: number;
  clash: Clash | null;
  notice: ProblemDocument | null;
  selected: string | null;
  open: (id: string) => Promise<void>;
  show: (job: JobView) => void;
  edit: (change: (plan: Plan) => Plan) => void;
  undo: () => void;
  redo: () => void;
  select: (id: string | null) => void;
  say: (events: EventIn[]) => Promise<ProblemDocument | null>;
  refresh: () => Promise<void>;
  refetch: () => Promise<void>;
  settle: (choice: "mine" | "theirs") => void;
  dismiss: () => void;
};

const mostUndo = 200;
let sending = false;
let retry: ReturnType<typeof setTimeout> | undefined;

export const useJob = create<State>((set, get) => {
  const job = () => {
    const { view } = get();
    return view.kind === "ready" ? view.job : null;
  };

  /** Send the newest plan; if it changed again meanwhile, send that one after it. */
  const push = async () => {
    const current = job();
    const plan = get().plan;
    if (sending || !current || !plan || plan === current.plan || get().clash) return;
    sending = true;
    set({ saving: { kind: "saving" } });
    try {
      const saved = await api.savePlan(current.id, current.revision, plan);
      const same = get().plan === plan;
      if (job()?.id === saved.id) {
        set({ view: { kind: "ready", job: saved }, saving: { kind: "saved" }, ...(same ? { plan: saved.plan } : {}) });
      }
    } catch (error) {
      failed(error, plan);
    } finally {
      sending = false;
    }
    if (get().saving.kind === "saved" && get().plan !== job()?.plan) void push();
  };

  const failed = (error: unknown, plan: Plan) => {
    if (!(error instanceof Refused)) throw error;
    const { problem } = error;
    if (problem.status === 0 || problem.status >= 500) {
      set({ saving: { kind: "offline" } });
      clearTimeout(retry);
      retry = setTimeout(() => void push(), 3000);
    } else if (problem.type === "/problems/clash") {
      const { theirs, revision } = problem.extra as { theirs: Plan; revision: number };
      set({ clash: { mine: plan, theirs, revision }, saving: { kind: "saved" } });
    } else {
      const back = job()?.plan ?? null;
      set({ notice: problem, plan: back, saving: { kind: "saved" }, done: get().done.slice(0, -1) });
    }
  };

  const readiness = (ready: Readiness) => {
    const current = job();
    if (current) set({ view: { kind: "ready", job: { ...current, readiness: ready } } });
  };

  return {
    view: { kind: "loading" },
    plan: null,
    undone: [],
    done: [],
    saving: { kind: "saved" },
    waiting: 0,
    clash: null,
    notice: null,
    selected: null,

    open: async (id) => {
      set({
        view: { kind: "loading" },
        plan: null,
        done: [],
        undone: [],
        selected: null,
        clash: null,
        notice: null,
        saving: { kind: "saved" },
      });
      try {
        get().show(await api.job(id));
        await get().refresh();
      } catch (error) {
        if (error instanceof Refused) set({ view: { kind: "failed", problem: error.problem } });
        else throw error;
      }
    },

    show: (shown) => set({ view: { kind: "ready", job: shown }, plan: shown.plan, waiting: queued(shown.id).length }),

    edit: (change) => {
      const { plan, done } = get();
      if (!plan) return;
      const next = change(plan);
      if (next === plan) return;
      set({ plan: next, done: [...done.slice(-mostUndo), plan], undone: [], notice: null });
      void push();
    },

    undo: () => {
      const { plan, done, undone } = get();
      const back = done.at(-1);
      if (!plan || !back) return;
      set({ plan: back, done: done.slice(0, -1), undone: [...undone, plan] });
      void push();
    },

    redo: () => {
      const { plan, done, undone } = get();
      const again = undone.at(-1);
      if (!plan || !again) return;
      set({ plan: again, undone: undone.slice(0, -1), done: [...done, plan] });
      void push();
    },

    select: (selected) => set({ selected }),

    say: async (events) => {
      const current = job();
      if (!current) return null;
      keep(current.id, events);
      set({ waiting: queued(current.id).length });
      try {
        const all = queued(current.id);
        readiness(await api.say(current.id, all));
        drop(
          current.id,
          all.map((e) => e.id),
        );
        set({ waiting: queued(current.id).length });
        return null;
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        if (error.problem.status === 0 || error.problem.status >= 500) return null;
        drop(
          current.id,
          events.map((e) => e.id),
        );
        set({ waiting: queued(current.id).length });
        return error.problem;
      }
    },

    refresh: async () => {
      const current = job();
      if (!current) return;
      try {
        const left = queued(current.id);
        readiness(left.length ? await api.say(current.id, left) : await api.readiness(current.id));
        drop(
          current.id,
          left.map((e) => e.id),
        );
        set({ waiting: 0 });
        if (get().saving.kind === "offline") void push();
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        if (error.problem.status >= 400 && error.problem.status < 500) set({ notice: error.problem });
      }
    },

    refetch: async () => {
      const current = job();
      if (!current || sending || get().plan !== current.plan) return;
      try {
        const fresh = await api.job(current.id);
        if (fresh.revision !== current.revision) get().show(fresh);
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
      }
    },

    settle: (choice) => {
      const { clash } = get();
      const current = job();
      if (!clash || !current) return;
      const base = { ...current, revision: clash.revision, plan: clash.theirs };
      const plan = choice === "mine" ? clash.mine : clash.theirs;
      set({
        clash: null,
        view: { kind: "ready", job: base },
        plan,
        done: [...get().done, choice === "mine" ? clash.theirs : clash.mine],
      });
      if (choice === "mine") void push();
      else void api.job(current.id).then(get().show);
    },

    dismiss: () => set({ notice: null }),
  };
});

/** The ready job, for parts that are only shown when there is one. */
export function useReadyJob(): { job: JobView; plan: Plan } {
  const view = useJob((s) => s.view);
  const plan = useJob((s) => s.plan);
  if (view.kind !== "ready" || !plan) throw new Error("no job is open");
  return { job: view.job, plan };
}

export const uuid = (): string => crypto.randomUUID();
