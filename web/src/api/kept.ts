import { box } from "./box";
import { Twice } from "./twice";

/** What the browser keeps between visits. A browser may refuse to keep (full, or told not to): `put` says whether it did. */
export interface Shelf {
  get(key: string): string | null;
  put(key: string, text: string): boolean;
  drop(key: string): void;
  keys(start: string): string[];
}

/** A shelf that knows whether what was put there last outlives this page. */
export interface SureShelf extends Shelf {
  sure(key: string): boolean;
}

export function shelf(storage: () => Storage): Shelf {
  const tried = <T>(act: (s: Storage) => T, else_: T): T => {
    try {
      return act(storage());
    } catch {
      return else_;
    }
  };
  return {
    get: (key) => tried((s) => s.getItem(key), null),
    put: (key, text) =>
      tried((s) => {
        s.setItem(key, text);
        return true;
      }, false),
    drop: (key) => tried((s) => s.removeItem(key), undefined),
    keys: (start) =>
      tried(
        (s) => Array.from({ length: s.length }, (_, i) => s.key(i) ?? "").filter((k) => k.startsWith(start)),
        [] as string[],
      ),
  };
}

/** The browser's own shelf alone, for what tabs tell each other while they are open. */
export const plain: Shelf = shelf(() => localStorage);

const more = new Set<() => void>();

/** Be told when what was in the page alone is kept. */
export const onKept = (act: () => void): void => void more.add(act);

/** The browser's database, and its own shelf before it: what an earlier page put into the database is had once `ready`. */
export const kept = new Twice(plain, box, () => {
  for (const act of more) act();
});
