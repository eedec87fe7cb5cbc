import type { Plan, Zone } from "../api/types";

/** Edits of what the controller opens: its zones, and when it waters. */

const numbered = (taken: ReadonlySet<string>, stem: string): string => {
  let n = taken.size + 1;
  while (taken.has(`${stem}-${n}`)) n += 1;
  return `${stem}-${n}`;
};

/** Zones as they were proposed; none has the name of a scenario's id. */
export function setZones(plan: Plan, zones: readonly Zone[]): Plan {
  const taken = new Set(plan.scenarios.map((s) => s.id));
  const named = zones.map((z) => {
    const id = taken.has(z.id) ? numbered(taken, "zone") : z.id;
    taken.add(id);
    return { ...z, id };
  });
  return { ...plan, zones: named };
}

/** Heads put into a zone of that name, new or there already, and taken out of every other. */
export function putInZone(plan: Plan, heads: readonly string[], name: string): Plan {
  const mine = new Set(heads);
  const others = plan.zones.map((z) => ({ ...z, heads: (z.heads ?? []).filter((h) => !mine.has(h)) }));
  if (others.some((z) => z.name === name))
    return { ...plan, zones: others.map((z) => (z.name === name ? { ...z, heads: [...z.heads, ...heads] } : z)) };
  const taken = new Set([...plan.scenarios.map((s) => s.id), ...plan.zones.map((z) => z.id)]);
  return { ...plan, zones: [...others, { id: numbered(taken, "zone"), name, heads: [...heads], valve: "" }] };
}

export const changeZone = (plan: Plan, id: string, change: Partial<Zone>): Plan => ({
  ...plan,
  zones: plan.zones.map((z) => (z.id === id ? { ...z, ...change } : z)),
});

export const removeZone = (plan: Plan, id: string): Plan => ({ ...plan, zones: plan.zones.filter((z) => z.id !== id) });

export const changeWatering = (plan: Plan, change: Partial<Plan["watering"]>): Plan => ({
  ...plan,
  watering: { ...plan.watering, ...change },
});
