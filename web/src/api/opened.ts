import { type IDBPDatabase, type OpenDBCallbacks, openDB } from "idb";

/** Do something with a database of the browser; `else_` where this browser has none, or will not. */
export type Tried<S> = <T>(act: (db: IDBPDatabase<S>) => Promise<T>, else_: T) => Promise<T>;

/** A database that is opened when it is first used, and anew where it was shut under the page, as by somebody who clears what is kept. */
export function opening<S>(name: string, version: number, upgrade: OpenDBCallbacks<S>["upgrade"]): Tried<S> {
  let opened: Promise<IDBPDatabase<S>> | null = null;
  const once = async <T>(act: (db: IDBPDatabase<S>) => Promise<T>): Promise<T> => {
    const terminated = () => {
      opened = null;
    };
    opened ??= openDB<S>(name, version, { ...(upgrade && { upgrade }), terminated });
    const mine = opened;
    try {
      return await act(await mine);
    } catch (error) {
      if (opened === mine) opened = null;
      throw error;
    }
  };
  return async (act, else_) => {
    try {
      return await once(act);
    } catch {
      return once(act).catch(() => else_);
    }
  };
}
