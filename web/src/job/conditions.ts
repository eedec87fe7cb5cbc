import type { Plan } from "../api/types";

/** A plan with some of its conditions changed: weather that a person types is said from then on, and no longer assumed. */
export function withConditions(plan: Plan, change: Partial<Plan["conditions"]>): Plan {
  const typed = "air_temperature" in change || "humidity" in change;
  const said = typed && !("weather" in change) ? { weather: "said" as const } : {};
  return { ...plan, conditions: { ...plan.conditions, ...said, ...change } };
}
