import { memo, type ReactNode } from "react";

/** The marks of things, centred on 0, about 24 px across: one for each kind that has its own. A new kind's mark goes in here. */

const ink = "var(--color-ink)";
const water = "var(--color-water)";
const panel = "var(--color-panel)";
const line = {
  fill: "none",
  stroke: ink,
  strokeWidth: 1.9,
  strokeLinecap: "round",
  strokeLinejoin: "round",
} as const;

const marks: Record<string, ReactNode> = {
  well_pump: (
    <g>
      <circle r={15} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-9 1q4.5-6 9 0t9 0" {...line} stroke={water} strokeWidth={2.6} />
    </g>
  ),
  mains: (
    <g>
      <rect x={-12} y={-12} width={24} height={24} rx={3} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-7 5V-5L0 2L7-5V5" {...line} stroke={water} strokeWidth={2.4} />
    </g>
  ),
  tank: (
    <g>
      <path d="M-13-11V12H13V-11" fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-11-3q5.500-5 11 0t11 0V10H-11Z" fill="var(--color-water-soft)" stroke={water} strokeWidth={1.6} />
    </g>
  ),
  tap: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-4-2.500H3.500V4M0-5.500V-2.500" {...line} stroke={water} strokeWidth={2.3} />
    </g>
  ),
  hydrant: (
    <g>
      <rect x={-9} y={-9} width={18} height={18} rx={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5-1H5M0-6V6M-3-6H3" {...line} stroke={water} strokeWidth={2.4} />
    </g>
  ),
  sprinkler: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5 2.500Q0-6.500 5 2.500M0 5V-1" {...line} stroke={water} strokeWidth={2.2} />
    </g>
  ),
  drip: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M0-5.500Q5 1 0 4.500Q-5 1 0-5.500Z" fill={water} />
    </g>
  ),
  basin: (
    <g>
      <path d="M-9-5V3Q-9 8-4 8H4Q9 8 9 3V-5" fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-7.500-1Q-3.500-4 0-1T7.500-1" {...line} stroke={water} strokeWidth={2.2} />
    </g>
  ),
  skimmer: (
    <g>
      <rect x={-9} y={-9} width={18} height={18} rx={3} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-6-3Q-3-6 0-3T6-3M0-1V6M-3 3L0 6L3 3" {...line} stroke={water} strokeWidth={2.2} />
    </g>
  ),
  suction_cover: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5-4H5M-6.500 0H6.500M-5 4H5" {...line} strokeWidth={1.8} />
    </g>
  ),
  returns: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5.500 0H5M1.500-3.500L5 0L1.500 3.500" {...line} stroke={water} strokeWidth={2.4} />
    </g>
  ),
  jet: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5 0H5.500M-2-4.500L5.500 0L-2 4.500" {...line} stroke={water} strokeWidth={2.2} />
    </g>
  ),
  small_jet: (
    <g>
      <circle r={7} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-4 0H4M-1.500-3.500L4 0L-1.500 3.500" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  standpipe: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-2.500 6V-4M2.500 6V-4" {...line} strokeWidth={2} />
      <path d="M-6-3Q-4-5.500-2.500-4M6-3Q4-5.500 2.500-4" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  bulkhead: (
    <g>
      <path d="M-4-9V9" {...line} strokeWidth={4} />
      <path d="M-4-4H6V4H-4Z" fill={panel} stroke={ink} strokeWidth={2} />
    </g>
  ),
  bulkhead_in: (
    <g>
      <path d="M4-9V9" {...line} strokeWidth={4} />
      <path d="M4-4H-6V4H4Z" fill={panel} stroke={ink} strokeWidth={2} />
    </g>
  ),
  top_up: (
    <g>
      <rect x={-9} y={-9} width={18} height={18} rx={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5-4H1V-1" {...line} strokeWidth={2} />
      <circle cx={1} cy={3} r={3} fill={water} />
    </g>
  ),
  blower: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M0-5A5 5 0 1 0 5 0M5 0H8M0-5V-1.500" {...line} strokeWidth={2.2} />
    </g>
  ),
  heater: (
    <g>
      <rect x={-8} y={-8} width={16} height={16} rx={2} fill={panel} stroke={ink} strokeWidth={2} />
      <path
        d="M-4 5Q-6.500 1.500-4-1T-4-5M1 5Q-1.500 1.500 1-1T1-5M6 5Q3.500 1.500 6-1T6-5"
        {...line}
        strokeWidth={1.8}
      />
    </g>
  ),
  bubbler: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5 4H5M0 4V-1" {...line} strokeWidth={2} />
      <path d="M-4-1Q-2-5.500 0-1Q2-5.500 4-1" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  drip_row: (
    <g>
      <path d="M5-7V7" {...line} strokeWidth={3} />
      <path d="M-1-5Q3.500 0.500-1 3.500Q-5.500 0.500-1-5Z" fill={water} />
    </g>
  ),
  valve: (
    <g>
      <rect x={-8} y={-8} width={16} height={16} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M-5 0H5M0-13V-8M-4.500-13H4.500" {...line} strokeWidth={2.2} />
    </g>
  ),
  check_valve: (
    <g>
      <rect x={-8} y={-8} width={16} height={16} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M-4.500-4.500V4.500M-4.500-4L4.500 3.500" {...line} strokeWidth={2.2} />
    </g>
  ),
  union: <path d="M-3.500-8V8M3.500-8V8M-3.500-8H3.500M-3.500 8H3.500" {...line} fill={panel} strokeWidth={2.2} />,
  filter: (
    <g>
      <rect x={-9} y={-8} width={18} height={16} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M-5-5V5M-1.700-5V5M1.700-5V5M5-5V5" {...line} strokeWidth={1.4} />
    </g>
  ),
  backflow: (
    <g>
      <rect x={-10} y={-8} width={20} height={16} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M-6-4V4M-6-3.500L-1 3M2-4V4M2-3.500L7 3" {...line} strokeWidth={2} />
    </g>
  ),
  pump: (
    <g>
      <circle r={10} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5 5Q-6-5 0-5T5 5" {...line} stroke={water} strokeWidth={2.4} />
    </g>
  ),
  regulator: (
    <g>
      <rect x={-9} y={-8} width={18} height={16} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M-5-3H0V3H5" {...line} stroke={water} strokeWidth={2.3} />
    </g>
  ),
  pitless: (
    <g>
      <path d="M-7-10V10M7-10V10" {...line} strokeWidth={2} />
      <path d="M0 10V0H12" {...line} stroke={water} strokeWidth={2.6} />
      <circle r={3} fill={panel} stroke={ink} strokeWidth={1.8} />
    </g>
  ),
  relief: (
    <g>
      <rect x={-7} y={-8} width={14} height={16} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M-4 4L0-4L4 4M0 4V-7" {...line} strokeWidth={1.8} />
    </g>
  ),
  injector: (
    <g>
      <rect x={-9} y={-8} width={18} height={16} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M-7 4H7M0-5V3M-2.500 0.500L0 3L2.500 0.500" {...line} strokeWidth={1.8} />
    </g>
  ),
  vent: (
    <g>
      <rect x={-7} y={-8} width={14} height={16} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M0 5V-3M-3 0L0-4L3 0" {...line} strokeWidth={2} />
    </g>
  ),
  three_way: (
    <g>
      <circle r={9} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-6 0H6M0 0V6" {...line} strokeWidth={2.2} />
    </g>
  ),
  vessel: (
    <g>
      <rect x={-9} y={-12} width={18} height={24} fill={panel} stroke={ink} strokeWidth={2} rx={8} />
      <path d="M-8 2H8" {...line} strokeWidth={1.4} />
      <path d="M-7 3Q0 6 7 3V5Q6 10 0 10T-7 5Z" fill={water} />
    </g>
  ),
  expansion_tank: (
    <g>
      <circle r={10} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-9 0H9" {...line} strokeWidth={1.6} strokeDasharray="3 2" />
      <path d="M-8 3Q0 6 8 3Q7 10 0 10T-8 3Z" fill={water} />
    </g>
  ),
  drain_inlet: (
    <g>
      <rect x={-9} y={-9} width={18} height={18} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5-5V1M0-5V1M5-5V1" {...line} strokeWidth={1.6} />
      <path d="M0 2V7M-2.500 4.500L0 7L2.500 4.500" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  outfall: (
    <g>
      <path d="M-9-8H1V8H-9" fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5 0H2Q9 0 9 9" {...line} stroke={water} strokeWidth={2.6} />
    </g>
  ),
  downpipe: (
    <g>
      <rect x={-6} y={-10} width={12} height={20} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-9-10H9" {...line} strokeWidth={2.4} />
      <path d="M0-6V5M-3 2L0 5L3 2" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  channel_drain: (
    <g>
      <rect x={-14} y={-6} width={28} height={12} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-9-3V3M-4.500-3V3M0-3V3M4.500-3V3M9-3V3" {...line} strokeWidth={1.6} />
    </g>
  ),
  floor_drain: (
    <g>
      <circle r={10} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5-4V2M0-6V1M5-4V2" {...line} strokeWidth={1.6} />
      <path d="M-4 5q4 4 8 0" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  waste: (
    <g>
      <path d="M-11-10V10" {...line} strokeWidth={3.4} />
      <path d="M-11-5H9V5H-11" fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-6 0H5M2-3L5 0L2 3" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  washer: (
    <g>
      <rect x={-10} y={-11} width={20} height={22} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <circle cy={2} r={6} fill={panel} stroke={ink} strokeWidth={1.8} />
      <path d="M-4 3q2-3 4 0t4 0" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  laundry_standpipe: (
    <g>
      <path d="M-4-11V4q0 5 5 5t5-5V1" {...line} strokeWidth={3} />
      <path d="M-4-11V-2" {...line} stroke={water} strokeWidth={1.8} />
    </g>
  ),
  sewer_connection: (
    <g>
      <circle r={11} fill={panel} stroke={ink} strokeWidth={2} />
      <circle r={6} fill={panel} stroke={ink} strokeWidth={1.8} />
      <path d="M-4 1q2-3 4 0t4 0" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  soakaway: (
    <g>
      <rect x={-11} y={-9} width={22} height={18} fill={panel} stroke={ink} strokeWidth={2} strokeDasharray="4 3" />
      <path d="M-5-4V4M0-4V6M5-4V4M-2 4L0 6L2 4" {...line} stroke={water} strokeWidth={1.8} />
    </g>
  ),
  pop_up: (
    <g>
      <path d="M-9 9V2H9V9" fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-7-5H7M0 2V-4" {...line} strokeWidth={2.2} />
      <path d="M-9-1q2-4 4-2M9-1q-2-4-4-2" {...line} stroke={water} strokeWidth={1.8} />
    </g>
  ),
  wash_basin: (
    <g>
      <path d="M-10-5H10Q10 7 0 7T-10-5Z" fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M0-11V-7M-4-9H4" {...line} strokeWidth={2} />
      <path d="M-4 1q2-3 4 0t4 0" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  shower: (
    <g>
      <rect x={-10} y={-10} width={20} height={20} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-5-5H5" {...line} strokeWidth={2.4} />
      <path d="M-4-1V1M0 0V2M4-1V1M-4 5V7M0 6V8M4 5V7" {...line} stroke={water} strokeWidth={1.8} />
    </g>
  ),
  bath: (
    <g>
      <path d="M-13-6H13V2Q13 8 7 8H-7Q-13 8-13 2Z" fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-8 0q4-3 8 0t8 0" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  closet: (
    <g>
      <rect x={-8} y={-11} width={16} height={6} fill={panel} stroke={ink} strokeWidth={2} />
      <ellipse cy={3} rx={7} ry={8} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-3 3q1.500-2.500 3 0t3 0" {...line} stroke={water} strokeWidth={1.8} />
    </g>
  ),
  bidet: (
    <g>
      <ellipse rx={8} ry={10} fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M0-6V-2M0 6V0M-2.500 2L0-0.500L2.500 2" {...line} stroke={water} strokeWidth={1.8} />
    </g>
  ),
  kitchen_sink: (
    <g>
      <rect x={-12} y={-9} width={24} height={18} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M0-9V9" {...line} strokeWidth={1.6} />
      <path d="M-9 2q1.500-2.500 3 0t3 0M3 2q1.500-2.500 3 0t3 0" {...line} stroke={water} strokeWidth={1.8} />
    </g>
  ),
  laundry_tap: (
    <g>
      <rect x={-9} y={-10} width={18} height={20} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <circle cy={2} r={5} fill={panel} stroke={ink} strokeWidth={1.8} />
      <path d="M-5-6.500H0" {...line} stroke={water} strokeWidth={2.2} />
    </g>
  ),
  dishwasher: (
    <g>
      <rect x={-9} y={-10} width={18} height={20} fill={panel} stroke={ink} strokeWidth={2} rx={2} />
      <path d="M-5-2H5M-5 3H5M-5 7H5" {...line} strokeWidth={1.6} />
      <path d="M-5-6.500H0" {...line} stroke={water} strokeWidth={2.2} />
    </g>
  ),
  garden_tap: (
    <g>
      <path d="M-10-10V10" {...line} strokeWidth={3.4} />
      <path d="M-10-2H4V5M-3-2V-8M-7-8H1" {...line} strokeWidth={2.2} />
      <path d="M4 8V11" {...line} stroke={water} strokeWidth={2.2} />
    </g>
  ),
  cap: <path d="M-4-8H4V8H-4" fill={panel} stroke={ink} strokeWidth={2.2} />,
  junction: <circle r={5} fill={panel} stroke={ink} strokeWidth={2.2} />,
  bend: <circle r={4} fill={panel} stroke={ink} strokeWidth={1.8} />,
  sump: (
    <g>
      <path d="M-11-10V11H11V-10" fill={panel} stroke={ink} strokeWidth={2} />
      <path d="M-10 1q5-4 10 0t10 0V10H-10Z" fill="var(--color-water-soft)" />
      <circle cy={5} r={4} fill={panel} stroke={ink} strokeWidth={1.8} />
      <path d="M0 1V-12M-3-9L0-12L3-9" {...line} stroke={water} strokeWidth={2} />
    </g>
  ),
  equipment: (
    <g>
      <rect x={-12} y={-9} width={24} height={18} fill={panel} stroke={ink} strokeWidth={2} rx={3} />
      <path d="M-12 0H-6M6 0H12" {...line} strokeWidth={2.4} />
      <circle r={5} fill="none" stroke={water} strokeWidth={2} />
    </g>
  ),
  mark: <path d="M-6-6L6 6M-6 6L6-6" {...line} strokeWidth={2.2} strokeOpacity={0.6} />,
};

/** The mark of a thing; a kind without one of its own shows its letter. */
export const PointGlyph = memo(function PointGlyph({ kind, letter = "" }: { kind: string; letter?: string }) {
  return (
    marks[kind] ?? (
      <g>
        <circle r={11} fill={panel} stroke={ink} strokeWidth={2} />
        <text y={4.5} textAnchor="middle" fontSize={12} fontWeight={700} fill={ink}>
          {letter}
        </text>
      </g>
    )
  );
});
