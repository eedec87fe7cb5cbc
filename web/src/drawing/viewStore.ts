import { create } from "zustand";
import { kept } from "../api/kept";
import type { Projection } from "./projection";

/** How a job is looked at; each remembers its own on this device. */
type State = {
  job: string;
  how: Projection;
  /** The detail that is shown, by name; null for the whole. */
  detail: string | null;
  /** Counts how often something was set down by its numbers: it may lie out of sight. */
  placed: number;
  open: (job: string) => void;
  look: (how: Projection) => void;
  showDetail: (detail: string | null, how?: Projection) => void;
  place: () => void;
};

const key = (job: string) => `hydrarch.view.${job}`;
const ABOVE: Projection = { kind: "above" };

function remembered(job: string): Projection {
  try {
    const how = JSON.parse(kept.get(key(job)) ?? "null") as Projection | null;
    if (how?.kind === "side" && Number.isFinite(how.along)) return how;
    if (how?.kind === "standing" && Number.isFinite(how.turn)) return how;
  } catch {
    // what was kept there is of another form
  }
  return ABOVE;
}

export const useLook = create<State>((set, get) => ({
  job: "",
  how: ABOVE,
  detail: null,
  placed: 0,
  open: (job) => {
    if (get().job !== job) set({ job, how: remembered(job), detail: null });
  },
  look: (how) => {
    kept.put(key(get().job), JSON.stringify(how));
    set({ how });
  },
  place: () => set({ placed: get().placed + 1 }),
  showDetail: (detail, how) => {
    set({ detail });
    if (how) get().look(how);
  },
}));
