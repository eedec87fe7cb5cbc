import type { ChangeoverAct, Leaving, Plan } from "../api/types";

/** Edits of a changeover: the pipe that leaves, and the order of its steps. */
export function changeLeaving(plan: Plan, id: string, change: Partial<Leaving>): Plan {
  return { ...plan, leaving: plan.leaving.map((x) => (x.id === id ? { ...x, ...change } : x)) };
}

/** Go by an order of the crew's own; by the one that is worked out where it is empty. */
export const setOrder = (plan: Plan, changeover: readonly ChangeoverAct[]): Plan => ({
  ...plan,
  changeover: [...changeover],
});

/** The same acts with one of them a place earlier or later. */
export function shifted(acts: readonly ChangeoverAct[], at: number, by: 1 | -1): ChangeoverAct[] {
  const order = [...acts];
  const [taken] = order.splice(at, 1);
  if (taken) order.splice(at + by, 0, taken);
  return order;
}
