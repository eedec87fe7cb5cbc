import type { DBSchema } from "idb";
import { opening } from "./opened";
import type { Second } from "./twice";

/** A database of its own for what was said or drawn and is not with the server: no page of another build stands in its way. */
interface Box extends DBSchema {
  spilt: { key: string; value: string };
}

const tried = opening<Box>("hydrarch.spilt", 1, (db) => void db.createObjectStore("spilt"));

export const box: Second = {
  all: () =>
    tried(async (db) => {
      const { store, done } = db.transaction("spilt");
      const [keys, texts] = await Promise.all([store.getAllKeys(), store.getAll(), done]);
      return keys.map((key, n) => [key, texts[n] ?? ""] as const);
    }, []),
  put: (key, text) =>
    tried(async (db) => {
      const kept = db.transaction("spilt", "readwrite", { durability: "strict" });
      await Promise.all([kept.store.put(text, key), kept.done]); // an end of its own would be nobody's fault
      return true;
    }, false),
  drop: (key) => tried((db) => db.delete("spilt", key), undefined),
};
