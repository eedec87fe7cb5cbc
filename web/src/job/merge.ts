import { newId } from "../api/id";
import type { Plan } from "../api/types";
import { dangling, ENTRIES, idsOf, names, renaming, without } from "./references";

/**
 * Three-way merge of plans by what things are called: points, runs and the rest are the same thing where their ids are.
 *
 * It serves whoever saved second, whoever undoes a change others have since built on, and a page that was reloaded.
 */

type Json = unknown;
type Item = Record<string, Json>;

/** What both sides changed, each otherwise: the id of the thing, or the name of the part of the plan. */
export type Merged = { plan: Plan; both: string[] };

const isObject = (v: Json): v is Item => typeof v === "object" && v !== null && !Array.isArray(v);

export function same(a: Json, b: Json): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((x, i) => same(x, b[i]));
  if (!isObject(a) || !isObject(b)) return false;
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  return [...keys].every((k) => same(a[k], b[k]));
}

/** Bring my change, from `base` to `mine`, onto `theirs`. Where both changed the same thing otherwise, `wins` says whose stands. */
export function merge(base: Plan, mine: Plan, theirs: Plan, wins: "mine" | "theirs"): Merged {
  const both = new Set<string>();

  const value = (about: string, path: string, b: Json, m: Json, t: Json): Json => {
    if (same(m, t) || same(b, m)) return t;
    if (same(b, t)) return m;
    const name = names[path];
    if (name && [b, m, t].every(Array.isArray)) return list(path, name, b as Item[], m as Item[], t as Item[]);
    if (ENTRIES.has(path.replaceAll("..", ".")) && [b, m, t].every(Array.isArray))
      return set(b as string[], m as string[], t as string[]);
    if (isObject(b) && isObject(m) && isObject(t) && !whole(path, b, m, t)) {
      const found: Item = {};
      for (const k of new Set([...Object.keys(t), ...Object.keys(m)])) {
        const v = value(about || k, path ? `${path}.${k}` : k, b[k], m[k], t[k]);
        if (v !== undefined) found[k] = v;
      }
      return found;
    }
    both.add(about);
    return wins === "mine" ? m : t;
  };

  const list = (path: string, name: (item: Item) => string, b: Item[], m: Item[], t: Item[]): Item[] => {
    const [bs, ms, ts] = [b, m, t].map((items) => new Map(items.map((i) => [name(i), i])));
    const found: Item[] = [];
    for (const key of new Set([...(ts as Map<string, Item>).keys(), ...(ms as Map<string, Item>).keys()])) {
      const kept = value(key, `${path}.`, bs?.get(key), ms?.get(key), ts?.get(key));
      if (kept !== undefined) found.push(kept as Item);
    }
    return found;
  };

  const apart = renaming(mine, clashing(base, mine, theirs));
  const brought = value("", "", base, apart, theirs) as Plan;
  const plan = ownEnds(brought, wins === "mine" ? apart : theirs, both);
  return {
    plan: closed(plan, wins === "mine" ? apart : theirs, wins === "mine" ? theirs : apart, both),
    both: [...both].sort(),
  };
}

/** Ends of runs, and things of two kinds, are not mixed of two halves. */
const whole = (path: string, ...items: Item[]): boolean =>
  path === "runs..a" || path === "runs..b" || (path === "points..what" && new Set(items.map((i) => i.kind)).size > 1);

function set(base: string[], mine: string[], theirs: string[]): string[] {
  const gone = new Set(base.filter((x) => !mine.includes(x)));
  return [...theirs.filter((x) => !gone.has(x)), ...mine.filter((x) => !base.includes(x) && !theirs.includes(x))];
}

/** New ids for what both drew under one id since `base`, each something else, as pages did that numbered what they drew. */
function clashing(base: Plan, mine: Plan, theirs: Plan): Map<string, string> {
  const [old, others] = [idsOf(base), idsOf(theirs)];
  const found = new Map<string, string>();
  const apart = (id: string, alike: boolean) => {
    if (!old.has(id) && others.has(id) && !alike && !found.has(id)) found.set(id, newId(id.slice(0, 1)));
  };
  const there = new Map<string, Json>(
    [...theirs.points, ...theirs.runs, ...theirs.scenarios, ...theirs.zones].map((x) => [x.id, x]),
  );
  for (const x of [...mine.points, ...mine.scenarios, ...mine.zones]) apart(x.id, same(x, there.get(x.id)));
  for (const r of mine.runs) {
    const alike = same(r, there.get(r.id)) && !found.has(r.a.point) && !found.has(r.b.point);
    for (const id of [r.id, r.a.id, r.b.id]) apart(id, alike);
  }
  return found;
}

/**
 * A plan in which each end of a run is one: where both sides parted one run, its far end went on to a new run of each. It stays with the
 * side that wins; the other's is a new end.
 */
function ownEnds(plan: Plan, winner: Plan, both: Set<string>): Plan {
  const at = new Map<string, string[]>();
  for (const r of plan.runs) for (const e of [r.a, r.b]) at.set(e.id, [...(at.get(e.id) ?? []), r.id]);
  if ([...at.values()].every((runs) => runs.length === 1)) return plan;
  const held = new Map(winner.runs.flatMap((r) => [[r.a.id, r.id] as const, [r.b.id, r.id] as const]));
  const own = <E extends { id: string }>(run: string, end: E): E => {
    const runs = at.get(end.id) ?? [];
    const keeps = runs.find((r) => r === held.get(end.id)) ?? runs[0];
    if (runs.length === 1 || run === keeps) return end;
    both.add(run);
    return { ...end, id: newId("E") };
  };
  const runs = plan.runs.map((r) => {
    const [a, b] = [own(r.id, r.a), own(r.id, r.b)];
    return a === r.a && b === r.b ? r : { ...r, a, b };
  });
  return { ...plan, runs };
}

/** A plan in which all that is named is there: one side drew to, or chose for, what the other deleted. */
function closed(plan: Plan, winner: Plan, other: Plan, both: Set<string>): Plan {
  const missing = dangling(plan);
  if (!missing.size) return plan;
  const points = [...plan.points];
  for (const run of plan.runs.filter((r) => missing.has(r.a.point) || missing.has(r.b.point))) {
    both.add(run.id);
    if (!winner.runs.some((r) => r.id === run.id)) continue;
    const wanted = [run.a.point, run.b.point].filter((p) => !points.some((x) => x.id === p));
    const from = [winner, other].find((side) => wanted.every((id) => side.points.some((p) => p.id === id)));
    points.push(...wanted.flatMap((id) => from?.points.find((p) => p.id === id) ?? []));
  }
  const whole = { ...plan, points };
  return without(whole, dangling(whole));
}
