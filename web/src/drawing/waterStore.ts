import { create } from "zustand";

type Standing = {
  /** How high the water of each body stands while what happens is followed; null while nothing is. */
  levels: Record<string, number> | null;
  stand: (levels: Record<string, number> | null) => void;
};

/** The water's levels at the moment that is looked at: shown in the drawing, and no part of the job. */
export const useWater = create<Standing>((set) => ({ levels: null, stand: (levels) => set({ levels }) }));
