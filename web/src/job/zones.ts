import { newId } from "../api/id";
import type { Plan, Zone } from "../api/types";

/** Edits of what the controller opens: its zones, and when it waters. */

/** Zones as they were proposed, each new. */
export const setZones = (plan: Plan, zones: readonly Zone[]): Plan => ({
  ...plan,
  zones: zones.map((z) => ({ ...z, id: newId("Z") })),
});

/** Heads put into a zone of that name, new or there already, and taken out of every other. */
export function putInZone(plan: Plan, heads: readonly string[], name: string): Plan {
  const mine = new Set(heads);
  const others = plan.zones.map((z) => ({ ...z, heads: (z.heads ?? []).filter((h) => !mine.has(h)) }));
  if (others.some((z) => z.name === name))
    return { ...plan, zones: others.map((z) => (z.name === name ? { ...z, heads: [...z.heads, ...heads] } : z)) };
  return { ...plan, zones: [...others, { id: newId("Z"), name, heads: [...heads], valve: "" }] };
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
