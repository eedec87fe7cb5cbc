import { create } from "zustand";

/** How the model is looked at: what is cut away, what is measured, and how far the build is played. */

export type Axis = "east" | "north" | "up";
export type Ask = { kind: "fit" } | { kind: "from"; way: "above" | "south" | "east" | "standing" };
type Spot = readonly [number, number, number];

type State = {
  /** Whether the model is shown in place of the drawing. */
  on: boolean;
  /** A plane across an axis: what lies beyond this share (0 to 1) of the line's extent is cut away; null for none. */
  section: { axis: Axis; share: number } | null;
  glass: boolean;
  labelled: boolean;
  measuring: boolean;
  picks: Spot[];
  /** Joints that are made already in the playback; null where all is shown as built. */
  step: number | null;
  /** How far the joint in hand still is from home: 1 apart, 0 home. */
  apart: number;
  playing: boolean;
  asked: Ask | null;
  show: (on: boolean) => void;
  set: (more: Partial<Omit<State, "show" | "set" | "pick">>) => void;
  pick: (spot: Spot) => void;
};

export const useModel = create<State>((set, get) => ({
  on: false,
  section: null,
  glass: false,
  labelled: true,
  measuring: false,
  picks: [],
  step: null,
  apart: 0,
  playing: false,
  asked: null,
  show: (on) => set({ on, playing: false }),
  set: (more) => set(more),
  pick: (spot) => set({ picks: get().picks.length === 1 ? [...get().picks, spot] : [spot] }),
}));
