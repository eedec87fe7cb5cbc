import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { Second } from "./spare";

/** A database of its own for what was said or drawn and had no room elsewhere: no page of another build stands in its way. */
interface Spilt extends DBSchema {
  spilt: { key: string; value: string };
}

let opened: Promise<IDBPDatabase<Spilt>> | null = null;

/** Do something with it; `else_` where this browser has none, or will not. */
async function tried<T>(act: (db: IDBPDatabase<Spilt>) => Promise<T>, else_: T): Promise<T> {
  try {
    opened ??= openDB<Spilt>("hydrarch.spilt", 1, { upgrade: (db) => void db.createObjectStore("spilt") });
    return await act(await opened);
  } catch {
    opened = null;
    return else_;
  }
}

export const database: Second = {
  all: () =>
    tried(async (db) => {
      const { store } = db.transaction("spilt");
      const [keys, texts] = await Promise.all([store.getAllKeys(), store.getAll()]);
      return keys.map((key, n) => [key, texts[n] ?? ""] as const);
    }, []),
  put: (key, text) =>
    tried(async (db) => {
      const kept = db.transaction("spilt", "readwrite", { durability: "strict" });
      await kept.store.put(text, key);
      await kept.done;
      return true;
    }, false),
  drop: (key) => tried((db) => db.delete("spilt", key), undefined),
};
