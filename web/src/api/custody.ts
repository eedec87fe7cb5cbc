import type { ProblemDocument } from "./types";

/**
 * What an answer means for something said, drawn or photographed here. Nothing leaves this device unless the server says that it has
 * it, or one of its own problem documents refuses this very item. Every other answer, whatever its status and whoever sent it, means
 * that the item waits and is sent again.
 */

/** Why an item waits: no answer at all, a passphrase is wanted, the server is busy, or the answer says nothing about the item. */
export type Waiting = "offline" | "locked" | "busy" | "server";

export type Fate = { kind: "waits"; why: Waiting } | { kind: "clash" } | { kind: "gone" } | { kind: "refused" };

/** The problem documents of ours that are about the item that was sent. A server test compares these with what the server can answer. */
export const REFUSALS: ReadonlySet<string> = new Set(
  ["bad-file", "future", "gate", "invalid", "refused", "reused", "too-large", "unknown", "unnamed"].map(
    (t) => `/problems/${t}`,
  ),
);

export function fateOf({ type, status }: Pick<ProblemDocument, "type" | "status">): Fate {
  if (status === 0) return { kind: "waits", why: "offline" };
  if (type === "/problems/clash") return { kind: "clash" };
  if (type === "/problems/not-there") return { kind: "gone" };
  if (REFUSALS.has(type)) return { kind: "refused" };
  return { kind: "waits", why: status === 401 ? "locked" : status === 429 ? "busy" : "server" };
}
