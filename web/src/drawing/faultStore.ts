import { create } from "zustand";
import type { FaultFinding } from "../api/types";

type Finding = {
  /** What is looked at in Find the fault; null while it is closed. */
  finding: FaultFinding | null;
  show: (finding: FaultFinding | null) => void;
};

/** What would explain the readings, shown on the drawing while it is looked at. */
export const useFinding = create<Finding>((set) => ({ finding: null, show: (finding) => set({ finding }) }));
