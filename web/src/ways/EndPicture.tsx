import type { EndView } from "../api/types";

/** An end as the eye meets it from outside, its mouth to the right, in millimetres: told apart by form before a word is read. */

type Form =
  | "male thread"
  | "female thread"
  | "barb"
  | "tube"
  | "socket"
  | "pipe"
  | "nut"
  | "lock"
  | "bell"
  | "band"
  | "flange"
  | "wall"
  | "saddle"
  | "ribbed"
  | "hole";

const THREADS = new Set(["npt", "bsp", "bspp", "hose", "buttress", "cleanout"]);
const NUTS = new Set(["compression", "compression-ips", "compression-cts", "repair", "grip", "rural", "universal"]);

export function formOf({ system, gender }: Pick<EndView, "system" | "gender">): Form {
  if (THREADS.has(system)) return gender === "male" ? "male thread" : "female thread";
  if (system === "punch") return gender === "hole" ? "hole" : "barb";
  if (gender === "insert") return "barb";
  if (gender === "bore") return "tube";
  if (system.startsWith("band")) return gender === "sleeve" ? "band" : "pipe";
  if (system === "bulkhead") return gender === "body" ? "flange" : "wall";
  if (system.startsWith("saddle")) return gender === "clamp" ? "saddle" : "wall";
  if (system === "corrugated") return "ribbed";
  if (system.startsWith("gasket") && gender === "bell") return "bell";
  if (system === "lock" || (system.startsWith("od-") && gender === "socket")) return "lock";
  if (NUTS.has(system) && gender === "socket") return "nut";
  return gender === "socket" || gender === "deep" ? "socket" : "pipe";
}

const FILL = "var(--color-pipe-white)";
const INK = "var(--color-ink)";

/** `r` and `l` are its radius and how far it is gone into (mm), `w` the width of a line. */
type Size = { r: number; l: number; w: number };

const box = (x: number, y: number, wide: number, high: number) => `M${x} ${y}h${wide}v${high}h${-wide}Z`;

/** Both edges of a row of teeth along an axis, from x = 0 to `l`; `taper` is how much of the radius is gone at the mouth. */
function teeth(r: number, l: number, count: number, deep: number, taper: number, square: boolean): string {
  const top: string[] = [];
  const low: string[] = [];
  for (let n = 0; n < count; n += 1) {
    const [a, b] = [(l * n) / count, (l * (n + 1)) / count];
    const [ra, rb] = [r * (1 - (taper * n) / count), r * (1 - (taper * (n + 1)) / count)];
    const mid = square ? a + (b - a) * 0.55 : a + (b - a) / 2;
    top.push(
      square
        ? `L${a} ${-ra}L${mid} ${-ra}L${mid} ${-rb + deep}L${b} ${-rb + deep}`
        : `L${mid} ${-ra}L${b} ${-rb + deep}`,
    );
    low.unshift(
      square ? `L${b} ${rb - deep}L${mid} ${rb - deep}L${mid} ${ra}L${a} ${ra}` : `L${b} ${rb - deep}L${mid} ${ra}`,
    );
  }
  return `M0 ${-r}${top.join("")}${low.join("")}L0 ${r}Z`;
}

/** A barb's teeth slope towards the mouth and stand square behind. */
function barbs(r: number, l: number): string {
  const count = Math.max(2, Math.min(5, Math.round(l / 6)));
  const top: string[] = [];
  const low: string[] = [];
  for (let n = 0; n < count; n += 1) {
    const [a, b] = [(l * n) / count, (l * (n + 1)) / count];
    top.push(`L${a} ${-r * 1.12}L${b} ${-r * 0.88}`);
    low.unshift(`L${b} ${r * 0.88}L${a} ${r * 1.12}`);
  }
  return `M0 ${-r}${top.join("")}${low.join("")}Z`;
}

function Parts({ form, end, size }: { form: Form; end: EndView; size: Size }) {
  const { r, l, w } = size;
  const line = { fill: "none", stroke: INK, strokeWidth: w };
  const body = { fill: FILL, stroke: INK, strokeWidth: w * 1.3, strokeLinejoin: "round" as const };
  const stem = box(-r * 1.4, -r * 1.15, r * 1.4, r * 2.3);
  const mouth = (x: number, high: number) => <ellipse cx={x} cy={0} rx={high * 0.28} ry={high} {...body} />;
  switch (form) {
    case "male thread": {
      const square = end.system === "buttress";
      const taper = end.system === "npt" || end.system === "bsp" ? 0.1 : 0;
      const coarse = square || end.system === "hose";
      return (
        <>
          <path d={box(-r * 1.4, -r * 1.3, r * 1.4, r * 2.6)} {...body} />
          <path d={`M${-r * 0.95} ${-r * 1.3}v${r * 2.6}M${-r * 0.45} ${-r * 1.3}v${r * 2.6}`} {...line} />
          <path d={teeth(r, l, coarse ? 4 : 8, r * (coarse ? 0.16 : 0.11), taper, square)} {...body} />
        </>
      );
    }
    case "female thread":
      return (
        <>
          <path d={box(-r * 0.4, -r * 1.4, l + r * 0.4, r * 2.8)} {...body} />
          <path d={`M${-r * 0.4} ${-r * 0.55}H${l}M${-r * 0.4} ${r * 0.55}H${l}`} {...line} />
          {mouth(l, r * 1.4)}
          <ellipse cx={l} cy={0} rx={r * 0.28} ry={r} {...body} />
          <path d={`M${l - r * 0.12} ${-r * 0.8}v${r * 1.6}M${l + r * 0.06} ${-r * 0.85}v${r * 1.7}`} {...line} />
        </>
      );
    case "barb":
      return (
        <>
          <path d={box(-r * 1.2, -r * 1.5, r * 1.2, r * 3)} {...body} />
          <path d={barbs(r, l)} {...body} />
        </>
      );
    case "tube":
      return (
        <>
          <path
            d={`M${-r * 1.2} ${-r * 1.22}Q${l / 2} ${-r * 1.1} ${l} ${-r * 1.22}V${r * 1.22}Q${l / 2} ${r * 1.34} ${-r * 1.2} ${r * 1.22}Z`}
            {...body}
            fill="var(--color-pipe-dark)"
          />
          {mouth(l, r * 1.22)}
          <ellipse cx={l} cy={0} rx={r * 0.26} ry={r * 0.94} {...line} />
        </>
      );
    case "socket":
      return (
        <>
          <path d={stem} {...body} />
          <path d={box(0, -r * 1.28, l, r * 2.56)} {...body} />
          <path d={box(l - r * 0.3, -r * 1.42, r * 0.3, r * 2.84)} {...body} />
          {mouth(l, r * 1.42)}
          <ellipse cx={l} cy={0} rx={r * 0.26} ry={r * 1.02} {...body} />
          {end.system.includes("fusion") && (
            <path
              d={`M${l * 0.2} ${-r * 0.5}q${l * 0.1} ${-r * 0.25} ${l * 0.2} 0t${l * 0.2} 0M${l * 0.2} ${r * 0.2}q${l * 0.1} ${-r * 0.25} ${l * 0.2} 0t${l * 0.2} 0`}
              {...line}
            />
          )}
        </>
      );
    case "pipe":
      return (
        <>
          <path
            d={`M${-r * 1.4} ${-r}H${l - r * 0.15}L${l} ${-r * 0.9}V${r * 0.9}L${l - r * 0.15} ${r}H${-r * 1.4}Z`}
            {...body}
            fill={end.system === "lead" || end.system === "cast-iron" ? "var(--color-pipe-grey)" : FILL}
          />
          {mouth(l, r * 0.9)}
          <ellipse cx={l} cy={0} rx={r * 0.2} ry={r * (end.system.startsWith("copper") ? 0.82 : 0.7)} {...line} />
        </>
      );
    case "nut":
      return (
        <>
          <path d={stem} {...body} />
          <path d={box(0, -r * 1.6, l * 0.75, r * 3.2)} {...body} />
          <path d={`M0 ${-r * 0.75}H${l * 0.75}M0 ${r * 0.75}H${l * 0.75}`} {...line} />
          <path d={box(l * 0.75, -r * 1.25, l * 0.25, r * 2.5)} {...body} />
          {mouth(l, r * 1.25)}
          <ellipse cx={l} cy={0} rx={r * 0.26} ry={r} {...body} />
        </>
      );
    case "lock":
      return (
        <>
          <path d={stem} {...body} />
          <path d={box(0, -r * 1.5, l, r * 3)} {...body} />
          {[0.15, 0.3, 0.45, 0.6, 0.75, 0.9].map((s) => (
            <path key={s} d={`M${l * s} ${-r * 1.5}v${r * 3}`} {...line} />
          ))}
          {mouth(l, r * 1.3)}
        </>
      );
    case "bell":
      return (
        <>
          <path d={stem} {...body} />
          <path
            d={`M0 ${-r * 1.15}L${l * 0.3} ${-r * 1.35}H${l * 0.6}q${l * 0.12} ${-r * 0.35} ${l * 0.24} 0H${l}V${r * 1.35}H${l * 0.84}q${-l * 0.12} ${r * 0.35} ${-l * 0.24} 0H${l * 0.3}L0 ${r * 1.15}Z`}
            {...body}
          />
          <path d={`M${l * 0.72} ${-r * 1.45}v${r * 2.9}`} {...line} strokeWidth={w * 2.6} />
          {mouth(l, r * 1.35)}
        </>
      );
    case "band":
      return (
        <>
          <path d={box(0, -r * 1.12, l, r * 2.24)} {...body} fill="var(--color-pipe-dark)" />
          {[0.2, 0.65].map((s) => (
            <path key={s} d={box(l * s, -r * 1.22, l * 0.15, r * 2.44)} {...body} />
          ))}
          {mouth(l, r * 1.12)}
        </>
      );
    case "flange":
      return (
        <>
          <path d={box(0, -r * 1.9, r * 0.3, r * 3.8)} {...body} />
          <path d={box(r * 0.3, -r * 1.9, r * 0.18, r * 3.8)} {...body} fill="var(--color-pipe-dark)" />
          <path d={teeth(r * 1.2, l, 6, r * 0.1, 0, false)} transform={`translate(${r * 0.48} 0)`} {...body} />
          <path d={box(r * 1.1, -r * 1.6, r * 0.5, r * 3.2)} {...body} />
        </>
      );
    case "wall":
      return (
        <>
          <path d={box(0, -r * 2.2, r * 0.5, r * 4.4)} {...body} />
          <ellipse cx={r * 0.5} cy={0} rx={r * 0.26} ry={r} fill={INK} />
        </>
      );
    case "saddle":
      return (
        <>
          <path d={`M${-r * 1.6} ${r * 0.4}A${r * 1.6} ${r * 1.6} 0 0 1 ${r * 1.6} ${r * 0.4}Z`} {...body} />
          <path d={box(-r * 0.6, -r * 2, r * 1.2, r)} {...body} />
          <path d={`M${-r * 2} ${r * 0.4}h${r * 4}v${r * 0.3}h${-r * 4}Z`} {...body} />
          <path
            d={`M${-r * 1.8} ${r * 0.1}v${r * 0.9}M${r * 1.8} ${r * 0.1}v${r * 0.9}`}
            {...line}
            strokeWidth={w * 2}
          />
        </>
      );
    case "ribbed":
      return (
        <>
          <path
            d={`M${-r} ${-r}${Array.from({ length: 6 }, () => `q${(l + r) / 12} ${-r * 0.28} ${(l + r) / 6} 0`).join("")}V${r}${Array.from({ length: 6 }, () => `q${-(l + r) / 12} ${r * 0.28} ${-(l + r) / 6} 0`).join("")}Z`}
            {...body}
          />
          {end.gender === "snap" && <path d={box(l * 0.5, -r * 1.35, l * 0.5, r * 2.7)} {...body} />}
          {mouth(l, end.gender === "snap" ? r * 1.35 : r)}
        </>
      );
    case "hole":
      return (
        <>
          <path d={box(-r * 4, -r * 3, r * 8, r * 6)} {...body} fill="var(--color-pipe-dark)" />
          <circle r={r} fill={FILL} stroke={INK} strokeWidth={w} />
        </>
      );
  }
}

/** How wide and high (mm) an end is drawn, so that many stand at one scale. */
export const roomFor = (e: EndView): { wide: number; high: number } => {
  const [r, l] = [e.diameter * 500, Math.max(e.engagement * 1000, e.diameter * 250)];
  return { wide: l + r * 3.6, high: r * 4.6 };
};

/** One end in a box of `wide` by `high` millimetres. */
export function EndPicture({ end, wide, high }: { end: EndView; wide: number; high: number }) {
  const r = Math.max(end.diameter * 500, 1);
  const l = Math.max(end.engagement * 1000, end.diameter * 250);
  return (
    <svg
      viewBox={`${-wide / 2} ${-high / 2} ${wide} ${high}`}
      className="h-20 w-full"
      aria-hidden="true"
      data-form={formOf(end)}
    >
      <g transform={`translate(${-(l - r * 1.4) / 2} 0)`}>
        <Parts form={formOf(end)} end={end} size={{ r, l, w: Math.max(wide, high) / 110 }} />
      </g>
    </svg>
  );
}
