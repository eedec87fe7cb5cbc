import { useQuery } from "@tanstack/react-query";
import { memo, useEffect } from "react";
import { api } from "../api/client";
import type { Body } from "../api/types";
import { useReadyJob, useSaved } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { drawn, type Spot, toScreen, type View } from "./geometry";
import { flat, type Place, type Projection } from "./projection";

/** From this scale (pixels to the metre) on, fittings are drawn as the bodies they are. */
export const NEAR_ENOUGH = 220;

/** The bodies of the plan as it is saved, asked for once one is near enough to hold them. */
export function useBodies(view: View): Shop {
  const { job } = useReadyJob();
  const saved = useSaved();
  const need = useJob((s) => s.need);
  const near = view.scale >= NEAR_ENOUGH;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the pipe beside a fitting is drawn in its size, which is asked anew for every revision
  useEffect(() => {
    if (near && saved) void need("size").then(() => need("cut"));
  }, [near, saved, need, job.revision]);
  const query = useQuery({
    queryKey: ["bodies", job.id, job.revision],
    queryFn: () => api.bodies(job.id),
    enabled: near && saved,
    placeholderData: (before) => before,
  });
  return near ? (query.data ?? nothing) : nothing;
}

type Shop = { bodies: readonly Body[]; joints: Readonly<Record<string, readonly number[]>> };
const nothing: Shop = { bodies: [], joints: {} };

/** Where a joint is seen, in the middle of what holds it; null where that is not known. */
export function jointSpot(joints: Shop["joints"], id: string, how: Projection, view: View): Spot | null {
  const at = joints[id];
  return at ? toScreen(view, flat(how, place(at))) : null;
}

const place = ([x, y, z]: readonly number[]): Place => ({ x: x ?? 0, y: y ?? 0, z: z ?? 0 });

const FILLS: Record<string, string> = {
  pvc: "var(--color-pipe-white)",
  pvc80: "var(--color-pipe-grey)",
  steel: "var(--color-pipe-grey)",
  brass: "var(--color-curing-soft)",
  iron: "var(--color-pipe-grey)",
};

/** `wrong` are the points where bodies meet, pipe is too short for its sockets, or a tool has no room. */
type BodiesProps = { bodies: readonly Body[]; wrong: ReadonlySet<string>; how: Projection; view: View };

/** Fittings to scale, in their places: what lies farther is drawn first, so that what is before it hides it. */
export const Bodies = memo(function Bodies({ bodies, wrong, how, view }: BodiesProps) {
  const far = (b: Body) => depthOf(how, place(b.barrels[0]?.a ?? [0, 0, 0]));
  const rim = (b: Body) => (wrong.has(b.point) ? "var(--color-fault)" : "var(--color-ink)");
  const sorted = [...bodies].sort((a, b) => far(a) - far(b));
  return (
    <g pointerEvents="none" fill="none" strokeLinecap="butt">
      {sorted.map((b) => {
        const lines = b.barrels.map((r) => ({
          a: toScreen(view, flat(how, place(r.a))),
          b: toScreen(view, flat(how, place(r.b))),
          width: Math.max(4, 2 * r.radius * view.scale),
        }));
        if (!lines.some((l) => drawn(view, l.a, l.b))) return null;
        const d = (l: (typeof lines)[number]) => `M${l.a.x} ${l.a.y}L${l.b.x} ${l.b.y}`;
        const middle = lines[0];
        return (
          <g key={b.part} data-body={b.part} data-wrong={wrong.has(b.point) || undefined}>
            <title>{b.name}</title>
            {lines.map((l) => (
              <path key={d(l)} d={d(l)} stroke={rim(b)} strokeWidth={l.width} />
            ))}
            {lines.length > 1 && middle && (
              <circle cx={middle.a.x} cy={middle.a.y} r={middle.width / 2} fill={rim(b)} />
            )}
            {lines.map((l) => (
              <path
                key={`in ${d(l)}`}
                d={inset(l)}
                stroke={FILLS[b.material] ?? "var(--color-paper)"}
                strokeWidth={l.width - 3.2}
              />
            ))}
            {lines.length > 1 && middle && (
              <circle
                cx={middle.a.x}
                cy={middle.a.y}
                r={middle.width / 2 - 1.6}
                fill={FILLS[b.material] ?? "var(--color-paper)"}
              />
            )}
            {b.family.includes("valve") && middle && <Handle at={middle.a} size={middle.width} />}
          </g>
        );
      })}
    </g>
  );
});

/** A barrel drawn shorter at its mouth, so that its rim shows. */
function inset({ a, b }: { a: { x: number; y: number }; b: { x: number; y: number } }): string {
  const long = Math.hypot(b.x - a.x, b.y - a.y) || 1;
  const by = Math.min(1.6, long / 2) / long;
  return `M${a.x} ${a.y}L${b.x - (b.x - a.x) * by} ${b.y - (b.y - a.y) * by}`;
}

function Handle({ at, size }: { at: { x: number; y: number }; size: number }) {
  return (
    <path
      d={`M${at.x} ${at.y}v${-size * 0.8}h${size * 1.1}`}
      stroke="var(--color-water)"
      strokeWidth={Math.max(3, size * 0.16)}
      strokeLinecap="round"
    />
  );
}

/** How near to who looks a place is; what is nearer is larger. */
function depthOf(how: Projection, p: Place): number {
  if (how.kind === "above") return p.z;
  if (how.kind === "side") return p.x * Math.sin(how.along) - p.y * Math.cos(how.along);
  const [cos, sin] = [Math.cos((how.turn * Math.PI) / 2), Math.sin((how.turn * Math.PI) / 2)];
  return p.x * cos - p.y * sin - (p.x * sin + p.y * cos) + p.z;
}
