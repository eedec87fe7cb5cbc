import type { QueryClient } from "@tanstack/react-query";

/** Take what a change was answered with as what is known now: what was asked before it must not come after it. */
export async function answered<T>(queries: QueryClient, key: string, data: T): Promise<void> {
  await queries.cancelQueries({ queryKey: [key] });
  queries.setQueryData([key], data);
}
