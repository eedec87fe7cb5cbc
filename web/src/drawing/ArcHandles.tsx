import { type PointerEvent, useState } from "react";
import type { Head, Point } from "../api/types";
import { changeWhat } from "../job/edits";
import { useJob } from "../job/jobStore";
import { useFormat } from "../ui/context";
import { type Spot, toScreen, type View } from "./geometry";
import { sector } from "./layers";

type Arc = { begins: number; arc: number };

const ROUND = 2 * Math.PI;
const STEP = Math.PI / 36; // 5°, the least arc there is
const OUT = 40; // px from the middle at the least, so that a short throw's handles can be held
const SHARE = 0.55; // of the throw: heads that throw to one another would lie under the handles at its end

/**
 * The two sides of a chosen head's arc, to be taken hold of: its right-hand side turns it, its left-hand side widens it.
 *
 * Nothing of the plan changes until a handle is let go.
 */
export function ArcHandles({ head, view }: { head: Point & { what: Head }; view: View }) {
  const edit = useJob((s) => s.edit);
  const format = useFormat();
  const [held, setHeld] = useState<(Arc & { side: "turn" | "widen" }) | null>(null);
  const stands = { begins: head.what.begins ?? 0, arc: head.what.arc ?? ROUND };
  const { begins, arc } = held ?? stands;
  const c = toScreen(view, head);
  const thrown = head.what.radius * view.scale;
  const r = Math.max(OUT, SHARE * thrown);
  if (stands.arc > ROUND - 1e-6) return null;

  const pulled = (side: "turn" | "widen", e: PointerEvent<SVGGElement>): Arc => {
    const box = (e.currentTarget.ownerSVGElement as SVGSVGElement).getBoundingClientRect();
    const at = toScreenAngle(c, { x: e.clientX - box.left, y: e.clientY - box.top });
    if (side === "turn") return { ...stands, begins: stepped(at) };
    const wide = stepped(at - stands.begins);
    return { ...stands, arc: Math.max(STEP, wide === 0 ? ROUND : wide) };
  };

  const handle = (side: "turn" | "widen", way: number) => (
    <g
      transform={`translate(${c.x + r * Math.cos(way)} ${c.y - r * Math.sin(way)})`}
      className={side === "turn" ? "cursor-grab" : "cursor-ew-resize"}
      data-arc={side}
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
        setHeld({ side, ...stands });
      }}
      onPointerMove={(e) => {
        if (held?.side !== side) return;
        e.stopPropagation();
        setHeld({ side, ...pulled(side, e) });
      }}
      onPointerUp={(e) => {
        if (held?.side !== side) return;
        e.stopPropagation();
        const { begins, arc } = held;
        setHeld(null);
        edit((p) => changeWhat(p, head.id, { begins, arc }));
      }}
      onPointerCancel={() => setHeld(null)}
    >
      <circle r={22} fill="transparent" />
      <circle r={9} fill="var(--color-panel)" stroke="var(--color-water)" strokeWidth={2.5} />
      {side === "widen" && <circle r={3.5} fill="var(--color-water)" />}
    </g>
  );
  return (
    <g>
      {held && (
        <path
          d={sector(c, Math.max(OUT, thrown), begins, arc)}
          fill="var(--color-water)"
          fillOpacity={0.14}
          stroke="var(--color-water)"
          strokeWidth={2}
          pointerEvents="none"
        />
      )}
      <path
        d={[begins, begins + arc].map((w) => `M${c.x} ${c.y}l${r * Math.cos(w)} ${-r * Math.sin(w)}`).join("")}
        stroke="var(--color-water)"
        strokeWidth={1.5}
        pointerEvents="none"
      />
      {handle("turn", begins)}
      {handle("widen", begins + arc)}
      {held && (
        <text
          x={c.x}
          y={c.y - 26}
          textAnchor="middle"
          fontSize={13}
          fontWeight={700}
          fill="var(--color-water)"
          stroke="var(--color-panel)"
          strokeWidth={4}
          paintOrder="stroke"
          pointerEvents="none"
        >
          {format(arc, "angle")}
        </text>
      )}
    </g>
  );
}

/** The way from one spot of the screen to another, rad anticlockwise from east. */
const toScreenAngle = (from: Spot, to: Spot): number => Math.atan2(from.y - to.y, to.x - from.x);

/** A way in steps of 5°, from zero to less than a whole round. */
const stepped = (way: number): number => {
  const steps = Math.round(way / STEP);
  const whole = ROUND / STEP;
  return (((steps % whole) + whole) % whole) * STEP;
};
