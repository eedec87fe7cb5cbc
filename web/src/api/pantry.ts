import type { DBSchema } from "idb";
import { opening } from "./opened";
import { shapes } from "./shapes";

/** What is kept in the browser's database, to be there with no signal: answers, the job as it was last known whole, photos not yet sent. */

/** A job as the server last answered it, for the page that opens it again; `at` is when (ms since 1970). */
export type KeptJob = { id: string; at: number };

/** What is kept of the server's answers, with what they look like to the page that kept it. */
type Shaped<T> = T & { shapes?: string };

/** An answer of the server to a question, about a revision of a job or (0) about none. */
export type KeptAnswer = { path: string; revision: number; text: string; at: number };

/**
 * A photo that is not yet with the server; `refused` says why it would not take it. One of an attempt at an exercise is of no job, and
 * `by` is whose it is.
 */
export type WaitingPhoto = {
  id: string;
  job: string;
  attempt?: string;
  about: string;
  by: string;
  at: number;
  note: string;
  place: boolean;
  body: Blob;
  refused: string;
};

interface Shelves extends DBSchema {
  answers: { key: string; value: Shaped<KeptAnswer> };
  jobs: { key: string; value: Shaped<KeptJob> };
  photos: { key: string; value: WaitingPhoto };
}

const OLDEST = 60 * 86_400_000; // ms after which what was kept is thrown out

const tried = opening<Shelves>("hydrarch", 1, (db) => {
  db.createObjectStore("answers", { keyPath: "path" });
  db.createObjectStore("jobs", { keyPath: "id" });
  db.createObjectStore("photos", { keyPath: "id" });
});

/** A copy, where this page can read it: one of a page to which answers looked otherwise would break it. */
const readable = <T extends { shapes?: string }>(found: T | undefined): T | undefined =>
  found?.shapes === shapes ? found : undefined;

export const keepAnswer = (answer: KeptAnswer): Promise<unknown> =>
  tried((db) => db.put("answers", { ...answer, shapes }), "");
export const keptAnswer = (path: string): Promise<KeptAnswer | undefined> =>
  tried(async (db) => readable(await db.get("answers", path)), undefined);

export const keepJob = (job: KeptJob): Promise<boolean> =>
  tried(async (db) => {
    await db.put("jobs", { ...job, shapes });
    return true;
  }, false);
export const keptJob = (id: string): Promise<KeptJob | undefined> =>
  tried(async (db) => readable(await db.get("jobs", id)), undefined);
export const dropJob = (id: string): Promise<void> => tried((db) => db.delete("jobs", id), undefined);

/** Keep a photo until the server has it; whether it is on the disk. */
export const keepPhoto = (photo: WaitingPhoto): Promise<boolean> =>
  tried(async (db) => {
    const kept = db.transaction("photos", "readwrite", { durability: "strict" });
    await Promise.all([kept.store.put(photo), kept.done]);
    return true;
  }, false);
export const keptPhotos = (): Promise<WaitingPhoto[]> => tried((db) => db.getAll("photos"), []);
export const dropPhoto = (id: string): Promise<void> => tried((db) => db.delete("photos", id), undefined);

/** Throw out what is old, so that it does not grow without end. */
export const throwOutOld = (now: number): Promise<void> =>
  tried(async (db) => {
    for (const store of ["answers", "jobs"] as const) {
      const both = db.transaction(store, "readwrite");
      const sweep = async () => {
        for (let cursor = await both.store.openCursor(); cursor; cursor = await cursor.continue())
          if (cursor.value.at < now - OLDEST) await cursor.delete();
      };
      await Promise.all([sweep(), both.done]);
    }
  }, undefined);
