import type { Change, Plan } from "../api/types";
import { same } from "./merge";
import { names } from "./references";

/** A change of a plan as it travels: what is put into its lists and what is gone from them, and what else is set. */

type Item = Record<string, unknown>;

/** The change from one plan to another; null where it cannot be told so, as where a list was put in another order. */
export function changeOf(before: Plan, after: Plan): Change | null {
  const [was, now] = [before as unknown as Item, after as unknown as Item];
  const change: Required<Change> = { lists: {}, told: {} };
  if (Object.keys(was).some((part) => now[part] === undefined)) return null;
  for (const [part, value] of Object.entries(now)) {
    if (same(was[part], value)) continue;
    const name = names[part];
    if (!name) {
      change.told[part] = value;
      continue;
    }
    const [old, made] = [was[part], value].map((items) => new Map(((items ?? []) as Item[]).map((x) => [name(x), x])));
    const put = [...(made as Map<string, Item>)].filter(([key, x]) => !same(old?.get(key), x)).map(([, x]) => x);
    const gone = [...(old as Map<string, Item>).keys()].filter((key) => !made?.has(key));
    change.lists[part as keyof typeof change.lists] = { put, gone };
  }
  return same(applied(was, change), now) ? change : null;
}

function applied(before: Item, change: Required<Change>): Item {
  const found: Item = { ...before, ...change.told };
  for (const [part, listed] of Object.entries(change.lists)) {
    const name = names[part];
    if (!name || !listed) continue;
    const kept = new Map(((before[part] ?? []) as Item[]).map((x) => [name(x), x]));
    for (const key of listed.gone ?? []) kept.delete(key);
    for (const x of listed.put ?? []) kept.set(name(x as Item), x as Item);
    found[part] = [...kept.values()];
  }
  return found;
}
