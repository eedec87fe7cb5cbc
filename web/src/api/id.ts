/**
 * Random names. `crypto.randomUUID` is there only on pages of a secure origin, and a phone reaches a shared server by plain HTTP;
 * `crypto.getRandomValues` is there everywhere.
 */
export function uuid(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40; // version 4, RFC 9562
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  return [0, 8, 12, 16, 20].map((from, i, all) => hex.slice(from, all[i + 1])).join("-");
}

const LETTERS = "0123456789abcdefghjkmnpqrstvwxyz";

/** An id that nothing has ever had: a letter that tells people what it is of, then 60 random bits (core/identity.py makes them alike). */
export function newId(stem: string): string {
  const id = stem.slice(0, 4) + [...crypto.getRandomValues(new Uint8Array(12))].map((b) => LETTERS[b & 31]).join("");
  made.add(id);
  return id;
}

const made = new Set<string>();

/** Whether an id was made on this page and never sent: any other that appears in a drawing comes back as what it was. */
export const isNew = (id: string): boolean => made.has(id);
/** Ids that are sent now. */
export const sent = (ids: Iterable<string>): void => {
  for (const id of ids) made.delete(id);
};

/** This page's own name while it is open; the server tells it back with the news, so that a page knows its own. */
export const page: string = uuid();
