import type { Plan } from "../api/types";
import table from "./references.json";

/**
 * What points at what in a plan, by the core's own table (core/references.py; the JSON is written by `./run types`): what an edit takes
 * out, brings together or calls otherwise is followed to the last field that names it.
 */

type Item = Record<string, unknown>;
type Reference = { path: string; sort: string; gone: string; holds: string };

const KEYS: Record<string, readonly string[]> = table.keys;
const REFERENCES: readonly Reference[] = table.references;
const MARK = "~";

/** The lists whose entries are names: what each side adds or takes out of them is brought together. */
export const ENTRIES: ReadonlySet<string> = new Set(REFERENCES.filter((r) => r.gone === "entry").map((r) => r.path));

/** What tells the items of each keyed list of a plan apart. */
export const names: Record<string, (item: Item) => string> = Object.fromEntries(
  Object.entries(KEYS).map(([list, fields]) => [list, (item: Item) => fields.map((f) => item[f]).join(" ")]),
);

/** The id a name belongs to: itself, or the thing that a name made of it is of. */
const owner = (name: string): string => name.split(MARK)[0] ?? name;

/** The objects that have the last field of a path, and that field. */
function holders(body: Item, path: string): [Item, string][] {
  const way = path.split(".");
  const last = way.pop() ?? "";
  let level: unknown[] = [body];
  for (const step of way) level = level.flatMap((x) => (x as Item | null)?.[step] ?? []);
  return level.filter((x) => typeof x === "object" && x !== null && last in x).map((x) => [x as Item, last]);
}

const inside = (part: string, paths: readonly { path: string }[]): string[] =>
  paths.filter((p) => p.path.startsWith(`${part}.`)).map((p) => p.path.slice(part.length + 1));

/** Every id of a plan: points, runs, ends, scenarios and zones. */
export const idsOf = (plan: Plan): Set<string> =>
  new Set(table.namings.flatMap((n) => holders(plan as unknown as Item, n.path).map(([x, f]) => String(x[f]))));

/** What a plan names and has not. */
export const dangling = (plan: Plan): Set<string> => {
  const here = idsOf(plan);
  const named = REFERENCES.filter((r) => r.sort !== "nozzle").flatMap((r) =>
    holders(plan as unknown as Item, r.path).flatMap(([x, f]) => [x[f]].flat().map((n) => owner(String(n)))),
  );
  return new Set(named.filter((n) => n && !here.has(n)));
};

/** A plan without the things of these ids and without all that names them: nothing is left to be inherited by what is drawn later. */
export function without(plan: Plan, ids: Iterable<string>): Plan {
  const gone = new Set(ids);
  const found = { ...plan } as unknown as Item;
  const goes = (part: string, item: Item): boolean => {
    const mine = inside(part, table.namings);
    const wants = inside(
      part,
      REFERENCES.filter((r) => r.gone === "item"),
    );
    const does =
      (mine.includes("id") && gone.has(String(item.id))) ||
      wants.some((w) => holders(item, w).some(([x, f]) => gone.has(owner(String(x[f])))));
    if (does) for (const path of mine) for (const [x, f] of holders(item, path)) gone.add(String(x[f]));
    return does;
  };
  for (let more = true; more; ) {
    more = false; // what goes may take others with it
    for (const part of Object.keys(KEYS)) {
      const items = (found[part] ?? []) as Item[];
      const left = items.filter((item) => !goes(part, item));
      if (left.length === items.length) continue;
      found[part] = left;
      more = true;
    }
  }
  return renamedBy(found, (name) => (gone.has(owner(name)) ? "" : name)) as unknown as Plan;
}

/** A plan after a thing became another kind: without what was chosen for the kind it was, or held while it was an outlet. */
export function become(plan: Plan, point: string, outlet: boolean): Plan {
  const ends = plan.runs.flatMap((r) => [r.a, r.b]).filter((e) => e.point === point);
  const gone = new Set([point, ...ends.map((e) => e.id)]);
  const over = REFERENCES.filter((r) => r.holds === "kind" || (r.holds === "outlet" && !outlet));
  const items = over.filter((r) => r.gone === "item");
  const found = { ...plan } as unknown as Item;
  for (const part of Object.keys(KEYS)) {
    const wants = inside(part, items);
    const all = (found[part] ?? []) as Item[];
    const left = all.filter((x) => !wants.some((w) => holders(x, w).some(([y, f]) => gone.has(owner(String(y[f]))))));
    if (left.length < all.length) found[part] = left;
  }
  const rest = over.filter((r) => r.gone !== "item");
  return renamedBy(found, (name) => (gone.has(owner(name)) ? "" : name), rest) as unknown as Plan;
}

/** A plan in which things are called otherwise, wherever they are named. */
export function renaming(plan: Plan, ids: ReadonlyMap<string, string>): Plan {
  if (!ids.size) return plan;
  const other = (name: string) => {
    const own = owner(name);
    return (ids.get(own) ?? own) + name.slice(own.length);
  };
  const named = structuredClone(plan) as unknown as Item;
  for (const { path } of table.namings) for (const [x, f] of holders(named, path)) x[f] = other(String(x[f]));
  return renamedBy(named, other) as unknown as Plan;
}

/** A plan with every name in it changed by a rule; an entry of a list that becomes "" leaves it. What does not change stays the same object. */
function renamedBy(body: Item, rule: (name: string) => string, over: readonly Reference[] = REFERENCES): Item {
  const change = (value: unknown, path: string): unknown => {
    if (Array.isArray(value)) {
      const items = value.map((v) => change(v, path));
      return items.every((v, i) => v === value[i]) ? value : items;
    }
    if (typeof value !== "object" || value === null) return value;
    let found = value as Item;
    for (const [key, v] of Object.entries(value)) {
      const here = path ? `${path}.${key}` : key;
      const reference = over.find((r) => r.path === here && r.sort !== "nozzle");
      if (!reference && !over.some((r) => r.path.startsWith(`${here}.`))) continue;
      const next = !reference
        ? change(v, here)
        : Array.isArray(v)
          ? v.map((n) => rule(String(n))).filter(Boolean)
          : rule(String(v));
      if (Array.isArray(v) && Array.isArray(next) && v.length === next.length && v.every((n, i) => n === next[i]))
        continue;
      if (next !== v) found = { ...found, [key]: next };
    }
    return found;
  };
  return change(body, "") as Item;
}
