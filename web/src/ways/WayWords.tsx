import type { Way } from "../api/types";
import { type Formatter, money } from "../ui/format";

/** A way in words: how many joints, how long it lays, through which parts, and why it ranks where it does. */
export function WayWords({ way, count, format }: { way: Way; count: string; format: Formatter }) {
  const parts = way.parts.slice(1, -1).map((p) => p.name);
  return (
    <>
      <b>{count}</b>
      <span className="text-muted">
        {" "}
        · lays {format(way.length, "takeoff")} · {money(way.price)}
        {way.rating !== null && ` · ${way.rating > 0 ? `carries ${format(way.rating, "pressure")}` : "gravity only"}`} ·{" "}
        {way.can_undo ? "comes apart" : "for good"}
      </span>
      <span className="block">{parts.join(" + ") || "straight in"}</span>
      <span className="block text-[0.8125rem] text-muted">{way.why}</span>
    </>
  );
}

/** How much dearer or cheaper, for choosing: "+2.40", "-0.80", "as dear". */
export const dearer = (more: number): string =>
  Math.abs(more) < 0.005 ? "as dear" : `${more > 0 ? "+" : "−"}${money(Math.abs(more))}`;

export const joints = (count: number): string => `${count} joint${count === 1 ? "" : "s"}`;
