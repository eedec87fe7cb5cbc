import type { Reference } from "../api/types";

/** An end as its system, what a crew calls that, and its size. */
export type NamedEnd = { system: string; title: string; size: string };

/** What an end of a name is: looked up whole among all there are, never taken apart. */
export function namedEnd(ends: Reference["ends"], name: string | null | undefined): NamedEnd | undefined {
  for (const of of ends)
    for (const size of of.sizes) if (endName(of.name, size) === name) return { system: of.name, title: of.title, size };
  return undefined;
}

/** The name of an end of a system and size. */
export const endName = (system: string, size: string): string => `${system}:${size}`;

/** An end in a crew's words; its bare name where it is none of ours. */
export function endWords(ends: Reference["ends"] | undefined, name: string): string {
  const found = ends && namedEnd(ends, name);
  return found ? `${found.title} ${found.size}` : name;
}
