/** What the browser keeps between visits. A browser may refuse to keep (full, or told not to): `put` says whether it did. */
export interface Shelf {
  get(key: string): string | null;
  put(key: string, text: string): boolean;
  drop(key: string): void;
  keys(start: string): string[];
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

export const kept: Shelf = shelf(() => localStorage);
