import { create } from "zustand";
import type { UnitSystem } from "../api/types";
import type { SetDown } from "../job/edits";
import { type Snap, type Spot, usualGrid } from "./geometry";

/** The tool in hand while drawing: nothing, a pipe with where it comes from, or a kind of point to set down. */
export type Tool = { kind: "select" } | { kind: "pipe"; from: string | null } | { kind: "place"; what: SetDown };

/** What was chosen to snap to; "usual" is the grid of the job's own units. */
type Chosen = { grid: number | null | "usual"; angle: boolean };

type State = {
  tool: Tool;
  snap: Chosen;
  cursor: Spot | null;
  scenario: string | null;
  /** The kinds that are offered to be set down, by what they are to a line; null where nobody chose. */
  group: string | null;
  take: (tool: Tool) => void;
  setSnap: (snap: Partial<Chosen>) => void;
  setCursor: (cursor: Spot | null) => void;
  setScenario: (scenario: string) => void;
  setGroup: (group: string) => void;
};

export const useTools = create<State>((set) => ({
  tool: { kind: "select" },
  snap: { grid: "usual", angle: false },
  cursor: null,
  scenario: null,
  group: null,
  take: (tool) => set({ tool }),
  setSnap: (snap) => set((s) => ({ snap: { ...s.snap, ...snap } })),
  setCursor: (cursor) => set({ cursor }),
  setScenario: (scenario) => set({ scenario }),
  setGroup: (group) => set({ group }),
}));

/** The snapping in force in a job of these units. */
export function useSnap(system: UnitSystem): Snap {
  const { grid, angle } = useTools((s) => s.snap);
  return { grid: grid === "usual" ? usualGrid(system) : grid, angle };
}
