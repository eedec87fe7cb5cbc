import { type Dispatch, type SetStateAction, useEffect, useState } from "react";

const LONGEST = 200; // letters of one text, and things in one list

/** Whether what came by the address has the shape of what the question begins with. */
export function alike(value: unknown, like: unknown): boolean {
  if (like === null || value === null) return value === null ? like === null : plain(value);
  if (Array.isArray(like))
    return (
      Array.isArray(value) &&
      value.length <= LONGEST &&
      value.every((v) => (like.length === 0 ? plain(v) : alike(v, like[0])))
    );
  if (typeof like === "object") {
    if (typeof value !== "object" || Array.isArray(value)) return false;
    const [got, wanted] = [value as Record<string, unknown>, like as Record<string, unknown>];
    const counts = Object.values(wanted).every((v) => typeof v === "number") && Object.keys(wanted).length > 0;
    return (
      Object.keys(wanted).every((k) => k in got && alike(got[k], wanted[k])) &&
      Object.keys(got).every((k) => k in wanted || (plain(got[k]) && (!counts || typeof got[k] === "number")))
    );
  }
  return typeof value === typeof like && plain(value);
}

const plain = (value: unknown): boolean =>
  value === null ||
  typeof value === "boolean" ||
  (typeof value === "number" && Number.isFinite(value)) ||
  (typeof value === "string" && value.length <= LONGEST);

function fromAddress<T>(name: string, begin: T): T {
  const said = new URLSearchParams(location.search).get(name);
  if (!said) return begin;
  try {
    const value: unknown = JSON.parse(said);
    if (alike(value, begin)) return value as T;
  } catch {
    // told below, as what has another shape
  }
  if (!unread.includes(name)) unread.push(name);
  return begin;
}

let unread: string[] = [];

/** Parts of the address that could not be read since this was asked last: what is answered is not what they asked. */
export function takeUnread(): readonly string[] {
  const told = unread;
  unread = [];
  return told;
}

/** The address as it is, with one part of it said otherwise, or left out. */
export function addressWith(name: string, said: string | null): string {
  const address = new URL(location.href);
  if (said === null) address.searchParams.delete(name);
  else address.searchParams.set(name, said);
  return address.pathname + address.search;
}

/** A part of a question that is kept in the page's address, so that the question can be kept and sent. */
export function useInAddress<T>(name: string, begin: T): [T, Dispatch<SetStateAction<T>>] {
  const [value, setValue] = useState(() => fromAddress(name, begin));
  const [first] = useState(() => JSON.stringify(begin));
  useEffect(() => {
    const said = JSON.stringify(value);
    const next = addressWith(name, said === first ? null : said);
    if (next !== location.pathname + location.search) history.replaceState(history.state, "", next);
  }, [name, value, first]);
  return [value, setValue];
}
