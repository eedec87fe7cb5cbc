import type { Way } from "../api/types";
import type { Formatter } from "../ui/format";

/** A way in words: how many joints, how long it lays, through which parts, and why it ranks where it does. */
export function WayWords({ way, count, format }: { way: Way; count: string; format: Formatter }) {
  const parts = way.parts.slice(1, -1).map((p) => p.name);
  return (
    <>
      <b>{count}</b>
      <span className="text-muted">
        {" "}
        · lays {format(way.length, "takeoff")} · {way.can_undo ? "can be undone" : "for good"}
      </span>
      <span className="block">{parts.join(" + ") || "straight in"}</span>
      <span className="block text-[13px] text-muted">{way.why}</span>
    </>
  );
}

export const joints = (count: number): string => `${count} joint${count === 1 ? "" : "s"}`;
