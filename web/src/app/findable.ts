// What can be found by its name from anywhere in a job, and how words find it.

/** Something to go to or to do: its title, what sort of thing it is, other names it is found by, and the act. */
export type Findable = { title: string; sort: string; also: readonly string[]; act: () => void };

const MOST = 12;

const worded = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}/-]+/u)
    .filter(Boolean);

/** How well a thing is meant: each word typed begins one of its words; its title before its other names. Nothing where it is not meant. */
function fit(thing: Findable, wanted: readonly string[]): number | null {
  const title = worded(thing.title);
  const others = thing.also.flatMap(worded);
  let cost = 0;
  for (const word of wanted) {
    const at = title.findIndex((t) => t.startsWith(word));
    if (at >= 0) cost += at === 0 ? 0 : 1;
    else if (others.some((t) => t.startsWith(word))) cost += 3;
    else return null;
  }
  return cost + title.length / 100;
}

/** What is meant by some words, the nearest first. */
export function found(things: readonly Findable[], words: string): Findable[] {
  const wanted = worded(words);
  if (!wanted.length) return [];
  return things
    .flatMap((thing) => {
      const cost = fit(thing, wanted);
      return cost === null ? [] : [{ thing, cost }];
    })
    .sort((a, b) => a.cost - b.cost)
    .slice(0, MOST)
    .map(({ thing }) => thing);
}
