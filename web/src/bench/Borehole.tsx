import type { DropPipes, WellIn } from "../api/types";
import type { Formatter } from "../ui/format";

type BoreholeProps = { hole: WellIn; answer: DropPipes | undefined; format: Formatter };

const size = { width: 300, height: 430, top: 62, left: 96 };

/** The hole in section: depths to scale, widths drawn larger. Levels, pump, drop pipe, check valves, pitless adapter, vessel. */
export function Borehole({ hole, answer, format }: BoreholeProps) {
  const y = (depth: number) => size.top + (depth / hole.depth) * (size.height - size.top - 26);
  const centre = size.left + 34;
  const bore = 26;
  const level = answer?.level ?? hole.static;
  const marks = [
    { at: hole.static, text: `at rest ${format(hole.static, "length")}` },
    { at: level, text: `pumping ${format(level, "length")}` },
    { at: hole.pump, text: `pump ${format(hole.pump, "length")}` },
    { at: hole.depth, text: `bottom ${format(hole.depth, "length")}` },
    ...(answer?.checks ?? []).map((c) => ({ at: c.depth, text: `check valve, ${c.body}` })),
  ];
  const placed = spread(marks.map((m) => ({ ...m, y: y(m.at) })).sort((a, b) => a.y - b.y));
  return (
    <svg
      viewBox={`0 0 ${size.width} ${size.height}`}
      className="w-full max-w-[340px]"
      role="img"
      aria-label={`The hole in section: ${marks.map((m) => m.text).join(", ")}`}
      fontSize="11.5"
      fontFamily="inherit"
    >
      <rect
        x={0}
        y={size.top}
        width={size.width}
        height={size.height - size.top}
        fill="var(--color-soil)"
        opacity={0.45}
      />
      <path d={`M0 ${size.top}H${size.width}`} stroke="var(--color-ink)" strokeWidth={2} />
      <rect
        x={centre - bore}
        y={size.top - 14}
        width={bore * 2}
        height={y(hole.depth) - size.top + 14}
        fill="var(--color-panel)"
      />
      <rect
        x={centre - bore}
        y={y(level)}
        width={bore * 2}
        height={y(hole.depth) - y(level)}
        fill="var(--color-water-soft)"
      />
      <path
        d={`M${centre - bore} ${y(hole.static)}H${centre + bore}`}
        stroke="var(--color-water)"
        strokeDasharray="5 3"
        strokeWidth={1.6}
      />
      <path d={`M${centre - bore} ${y(level)}H${centre + bore}`} stroke="var(--color-water)" strokeWidth={2.2} />
      {[-bore, bore].map((x) => (
        <path
          key={x}
          d={`M${centre + x} ${size.top - 14}V${y(hole.depth)}`}
          stroke="var(--color-ink)"
          strokeWidth={3}
        />
      ))}
      <path
        d={`M${centre - 5} ${size.top + 22}V${y(hole.pump) - 12}M${centre + 5} ${size.top + 22}V${y(hole.pump) - 12}`}
        stroke="var(--color-ink)"
        strokeWidth={1.8}
      />
      <rect
        x={centre - 10}
        y={y(hole.pump) - 14}
        width={20}
        height={28}
        rx={3}
        fill="var(--color-panel)"
        stroke="var(--color-ink)"
        strokeWidth={2}
      />
      <path
        d={`M${centre - 5} ${y(hole.pump) + 4}q3-8 5 0t5 0`}
        fill="none"
        stroke="var(--color-water)"
        strokeWidth={2}
      />
      {(answer?.checks ?? []).map((c) => (
        <path
          key={c.depth}
          d={`M${centre - 7} ${y(c.depth) - 24}h14v9h-14zm0 9l14-9`}
          fill="var(--color-panel)"
          stroke="var(--color-ink)"
          strokeWidth={1.6}
        />
      ))}
      <path
        d={`M${centre} ${size.top + 22}H${size.left - 22}V${size.top - 12}`}
        fill="none"
        stroke="var(--color-ink)"
        strokeWidth={5}
      />
      <path
        d={`M${centre} ${size.top + 22}H${size.left - 22}V${size.top - 12}`}
        fill="none"
        stroke="var(--color-panel)"
        strokeWidth={2}
      />
      <circle
        cx={centre - bore}
        cy={size.top + 22}
        r={5}
        fill="var(--color-panel)"
        stroke="var(--color-ink)"
        strokeWidth={2}
      />
      <text x={4} y={size.top + 40} fill="var(--color-ink)">
        pitless
      </text>
      <rect
        x={size.left - 44}
        y={10}
        width={44}
        height={40}
        rx={14}
        fill="var(--color-panel)"
        stroke="var(--color-ink)"
        strokeWidth={2}
      />
      <path
        d={`M${size.left - 42} 32Q${size.left - 22} 37 ${size.left - 2} 32V40Q${size.left - 4} 48 ${size.left - 22} 48T${size.left - 42} 40Z`}
        fill="var(--color-water)"
      />
      <text x={size.left + 6} y={26} fill="var(--color-ink)">
        {answer ? `vessel ${format(answer.vessel.volume, "volume")}` : "vessel"}
      </text>
      {placed.map((m) => (
        <g key={m.text + m.at}>
          <path
            d={`M${centre + bore + 3} ${y(m.at)}L${centre + bore + 16} ${m.y}`}
            stroke="var(--color-muted)"
            strokeWidth={1}
          />
          <text x={centre + bore + 19} y={m.y + 4} fill="var(--color-ink)">
            {m.text}
          </text>
        </g>
      ))}
      <text x={4} y={size.height - 8} fill="var(--color-muted)">
        depths to scale, widths not
      </text>
    </svg>
  );
}

/** Keep labels a line apart. */
function spread<T extends { y: number }>(marks: T[]): T[] {
  let last = Number.NEGATIVE_INFINITY;
  return marks.map((m) => {
    last = Math.max(m.y, last + 15);
    return { ...m, y: last };
  });
}
