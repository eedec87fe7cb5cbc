import { pictureLink } from "../api/client";
import type { Plan } from "../api/types";
import { type Spot, toScreen, type View } from "./geometry";

type Beneath = Required<NonNullable<Plan["underlay"]>>;

/** The picture that lies beneath the plan as it is seen from above, and the two places its scale is taken by. */
export function Underlay({ under, spots, view }: { under: Beneath; spots: readonly Spot[]; view: View }) {
  const corner = toScreen(view, { x: under.x, y: under.y });
  const size = under.scale * view.scale;
  const turn = (-under.turn * 180) / Math.PI;
  const marks = spots.map((s) => toScreen(view, s));
  const [a, b] = marks;
  return (
    <g pointerEvents="none">
      <g opacity={under.strength} transform={`translate(${corner.x} ${corner.y}) rotate(${turn})`}>
        <image
          href={pictureLink(under.picture)}
          x={0}
          y={-under.high * size}
          width={under.wide * size}
          height={under.high * size}
          preserveAspectRatio="none"
        />
      </g>
      {a && b && <path d={`M${a.x} ${a.y}L${b.x} ${b.y}`} stroke="var(--color-dry)" strokeWidth={2} />}
      {marks.map((m) => (
        <path
          key={`${m.x} ${m.y}`}
          d={`M${m.x - 9} ${m.y}h18M${m.x} ${m.y - 9}v18`}
          stroke="var(--color-dry)"
          strokeWidth={2.5}
        />
      ))}
    </g>
  );
}
