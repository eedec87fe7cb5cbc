import { create } from "zustand";
import { uuid } from "../api/id";
import { kept, type Shelf } from "../api/kept";
import type { Plan, ProblemDocument } from "../api/types";

/**
 * Drawings that the server would not take. Each stays on this device, beside the saved one, until a person puts it back or discards it.
 */
export type Draft = { key: string; job: string; plan: Plan; base: Plan; problem: ProblemDocument; at: number };

const START = "hydrarch.draft.";

export const useDrafts = create<{ drafts: readonly Draft[] }>(() => ({ drafts: [] }));

/** Keep a refused drawing; `base` is the saved one that it was made on. */
export function keepDraft(shelf: Shelf, draft: Omit<Draft, "key">): void {
  shelf.put(`${START}${draft.job}.${uuid()}`, JSON.stringify(draft));
  lookDrafts(shelf);
}

export function dropDraft(shelf: Shelf, key: string): void {
  shelf.drop(key);
  lookDrafts(shelf);
}

/** Look at what is kept, and tell it; the oldest first. */
export function lookDrafts(shelf: Shelf = kept): void {
  const drafts = shelf.keys(START).flatMap((key) => {
    const draft = read(shelf.get(key));
    return draft ? [{ ...draft, key }] : [];
  });
  useDrafts.setState({ drafts: drafts.sort((a, b) => a.at - b.at) });
}

function read(text: string | null): Omit<Draft, "key"> | null {
  try {
    const draft = JSON.parse(text ?? "null") as Omit<Draft, "key"> | null;
    return draft?.plan?.points && draft.base?.points && draft.job ? draft : null;
  } catch {
    return null;
  }
}
