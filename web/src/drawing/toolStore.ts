import { create } from "zustand";
import type { Plan } from "../api/types";
import type { SetDown } from "../job/edits";
import { useReference } from "../ui/context";
import { type Snap, type Spot, usualGrid } from "./geometry";

/** The tool in hand while drawing. */
export type Tool =
  | { kind: "select" }
  | { kind: "pipe"; from: string | null }
  | { kind: "place"; what: SetDown }
  /** Several things are chosen, by a frame round them or one after another. */
  | { kind: "frame" }
  /** A part of a drawing is set down again: one that was carried here, or an assembly of the crew's own. */
  | { kind: "part"; part: Plan }
  /** Two places of the picture beneath are pressed, whose distance is known. */
  | { kind: "scale"; spots: readonly Spot[] };

/** What was chosen to snap to; "usual" is the grid of the job's own units. */
type Chosen = { grid: number | null | "usual"; angle: boolean; line: boolean };

type State = {
  tool: Tool;
  snap: Chosen;
  cursor: Spot | null;
  scenario: string | null;
  /** The kinds that are offered to be set down, by what they are to a line; null where nobody chose. */
  group: string | null;
  /** The things chosen together, by id. */
  chosen: readonly string[];
  /** Whether the line by measure is open to be typed. */
  measuring: boolean;
  /** A part in hand to be set down, in this job or in another. */
  carried: Plan | null;
  take: (tool: Tool) => void;
  setSnap: (snap: Partial<Chosen>) => void;
  setCursor: (cursor: Spot | null) => void;
  setScenario: (scenario: string) => void;
  setGroup: (group: string) => void;
  choose: (ids: readonly string[]) => void;
  carry: (part: Plan) => void;
  measure: (open: boolean) => void;
};

export const useTools = create<State>((set) => ({
  tool: { kind: "select" },
  snap: { grid: "usual", angle: false, line: true },
  cursor: null,
  scenario: null,
  group: null,
  chosen: [],
  measuring: false,
  carried: null,
  take: (tool) => set({ tool }),
  setSnap: (snap) => set((s) => ({ snap: { ...s.snap, ...snap } })),
  setCursor: (cursor) => set({ cursor }),
  setScenario: (scenario) => set({ scenario }),
  setGroup: (group) => set({ group }),
  choose: (chosen) => set({ chosen }),
  carry: (carried) => set({ carried, tool: { kind: "part", part: carried } }),
  measure: (measuring) => set({ measuring }),
}));

/** The snapping in force in a job: the usual grid is of its units, and as fine as the sheet it began on. */
export function useSnap({ units, about }: Pick<Plan, "units" | "about">): Snap {
  const { grid, angle, line } = useTools((s) => s.snap);
  const across = useReference().beginnings.find((b) => b.about === about)?.across;
  return { grid: grid === "usual" ? usualGrid(units, across) : grid, angle, line };
}
