import { uuid } from "./id";
import type { Shelf } from "./kept";

const HERE = "hydrarch.here";

/** What a shelf is marked with, made where it has none: another mark is another shelf, the old one was cleared. Null where it keeps nothing. */
export function marked(shelf: Shelf): string | null {
  const there = shelf.get(HERE);
  if (there !== null) return there;
  const mark = uuid();
  return shelf.put(HERE, mark) ? mark : null;
}
