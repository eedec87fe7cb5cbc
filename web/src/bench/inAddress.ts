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
    return (
      Object.keys(wanted).every((k) => k in got && alike(got[k], wanted[k])) &&
      Object.keys(got).every((k) => k in wanted || plain(got[k]))
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
    return alike(value, begin) ? (value as T) : begin;
  } catch {
    return begin;
  }
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
