import { memo } from "react";
import type { Lines } from "../api/types";
import { toScreen, type View } from "./geometry";
import { flat, type Projection } from "./projection";

/** The emitters of drip rows: a drop each, where they sit along the tubing. */
export const Emitters = memo(function Emitters({
  of,
  how,
  view,
}: {
  of: Lines["emitters"];
  how: Projection;
  view: View;
}) {
  return (
    <g pointerEvents="none" fill="none" stroke="var(--color-water)" strokeWidth={5} strokeLinecap="round">
      {Object.entries(of).map(([row, places]) => {
        const spots = places.map(([x = 0, y = 0, z = 0]) => toScreen(view, flat(how, { x, y, z })));
        return <path key={row} d={spots.map((s) => `M${s.x} ${s.y}h.01`).join("")} data-emitters={row} />;
      })}
    </g>
  );
});
