import type { Outline } from "../api/types";

/** A joint as the core drew it: cut along its axis, from outside, and looking at its end. */

const ink = "var(--color-ink)";
type Dress = { fill: string; line?: number; words?: string };
const dress: Record<string, Dress> = {
  water: { fill: "var(--color-water-soft)", line: 0, words: "water" },
  fitting: { fill: "var(--color-soil)", words: "fitting" },
  bore: { fill: "var(--color-paper)" },
  pipe: { fill: "var(--color-pipe-white)", words: "pipe" },
  wall: { fill: "var(--color-muted)", words: "wall" },
  flange: { fill: "var(--color-soil)", words: "flange" },
  nut: { fill: "var(--color-pipe-grey)", words: "nut" },
  sleeve: { fill: "var(--color-pipe-dark)", words: "sleeve" },
  band: { fill: "var(--color-pipe-grey)", words: "band" },
  clamp: { fill: "var(--color-pipe-dark)", words: "clamp" },
  seal: { fill: "var(--color-dry)", words: "seal" },
  gasket: { fill: "var(--color-dry)", words: "gasket" },
  ring: { fill: ink, words: "grip ring" },
  tape: { fill: "var(--color-water)", words: "tape" },
  cement: { fill: "var(--color-curing)", words: "cement" },
  lip: { fill: "var(--color-curing)", words: "bead outside" },
  melt: { fill: "var(--color-curing)", words: "bead inside" },
  mark: { fill: "var(--color-fault)", line: 0, words: "depth mark" },
  "index on pipe": { fill: "var(--color-water)", line: 0, words: "index lines" },
  "index on fitting": { fill: "var(--color-water)", line: 0 },
};

const titles: [Outline["picture"], string][] = [
  ["cut", "Cut along the axis"],
  ["outside", "From outside"],
  ["round", "Looking at the end"],
];

export function JointPicture({ outlines, title }: { outlines: readonly Outline[]; title: string }) {
  const words = [...new Set(outlines.map((o) => dress[o.part]?.words).filter(Boolean))];
  return (
    <figure aria-label={title}>
      <div className="flex flex-wrap items-end gap-x-3 gap-y-1.5">
        {titles.map(([picture, says]) => {
          const shown = outlines.filter((o) => o.picture === picture);
          return shown.length ? <Picture key={picture} outlines={shown} says={says} picture={picture} /> : null;
        })}
      </div>
      <figcaption className="mt-1 flex flex-wrap gap-x-3 text-[0.8125rem] text-muted">
        {words.map((w) => (
          <span key={w} className="inline-flex items-center gap-1">
            <svg width="12" height="12" aria-hidden="true">
              <rect
                width="12"
                height="12"
                fill={Object.values(dress).find((d) => d.words === w)?.fill}
                stroke={ink}
                strokeWidth="1"
              />
            </svg>
            {w}
          </span>
        ))}
      </figcaption>
    </figure>
  );
}

const widths = {
  cut: "w-72 max-w-full grow basis-56 small:basis-full",
  outside: "w-72 max-w-full grow basis-56 small:w-0 small:basis-0",
  round: "w-40 small:w-36",
};
type PictureProps = { outlines: readonly Outline[]; says: string; picture: Outline["picture"] };

function Picture({ outlines, says, picture }: PictureProps) {
  const xs = outlines.flatMap((o) => o.corners.map(([x]) => (x ?? 0) * 1000));
  const ys = outlines.flatMap((o) => o.corners.map(([, y]) => -(y ?? 0) * 1000));
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [across, down] = [Math.max(...xs) - left, Math.max(...ys) - top];
  const rim = 0.03 * Math.max(across, down);
  const line = 0.006 * Math.max(across, down);
  return (
    <div className={widths[picture]}>
      <p className="text-[0.8125rem] text-muted">{says}</p>
      <svg
        viewBox={`${left - rim} ${top - rim} ${across + 2 * rim} ${down + 2 * rim}`}
        className="max-h-52 w-full small:max-h-36 rounded-[4px] border border-line bg-paper"
        role="img"
        aria-label={says}
      >
        {picture !== "round" && (
          <line
            x1={left}
            x2={left + across}
            y1={0}
            y2={0}
            stroke="var(--color-muted)"
            strokeWidth={line / 2}
            strokeDasharray={`${line * 8} ${line * 2}`}
          />
        )}
        {outlines.map((o, n) => {
          const look = dress[o.part];
          return (
            <path
              // biome-ignore lint/suspicious/noArrayIndexKey: outlines of one joint do not move
              key={n}
              d={`M${o.corners.map(([x, y]) => `${((x ?? 0) * 1000).toFixed(3)} ${(-(y ?? 0) * 1000).toFixed(3)}`).join("L")}Z`}
              fill={look?.fill ?? "var(--color-panel)"}
              stroke={ink}
              strokeWidth={look?.line === 0 ? 0 : line}
              strokeLinejoin="round"
            />
          );
        })}
      </svg>
    </div>
  );
}
