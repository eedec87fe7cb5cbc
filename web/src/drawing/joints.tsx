import type { StateName } from "../api/types";

/** Marks of our own: a disc tells a joint's method in section, its ring tells the state. */

export const stateTone: Record<
  StateName,
  { ring: string; fill: string; ink: string; dash?: string; words: string; letter: string }
> = {
  planned: {
    ring: "var(--color-muted)",
    fill: "var(--color-panel)",
    ink: "var(--color-muted)",
    dash: "2 3",
    words: "planned",
    letter: "·",
  },
  dry: {
    ring: "var(--color-dry)",
    fill: "var(--color-dry-soft)",
    ink: "var(--color-dry)",
    dash: "4 2.5",
    words: "dry-fitted only",
    letter: "D",
  },
  setting: {
    ring: "var(--color-curing)",
    fill: "var(--color-curing-soft)",
    ink: "var(--color-curing)",
    dash: "9 2",
    words: "setting: do not touch",
    letter: "S",
  },
  curing: {
    ring: "var(--color-curing)",
    fill: "var(--color-curing-soft)",
    ink: "var(--color-curing)",
    words: "curing",
    letter: "C",
  },
  cured: {
    ring: "var(--color-curing)",
    fill: "var(--color-panel)",
    ink: "var(--color-ink)",
    words: "made, not tested",
    letter: "M",
  },
  proved: {
    ring: "var(--color-proved)",
    fill: "var(--color-proved)",
    ink: "var(--color-panel)",
    words: "tested",
    letter: "T",
  },
  buried: {
    ring: "var(--color-proved)",
    fill: "var(--color-soil)",
    ink: "var(--color-proved)",
    words: "buried",
    letter: "B",
  },
  leaks: {
    ring: "var(--color-fault)",
    fill: "var(--color-panel)",
    ink: "var(--color-fault)",
    dash: "1.5 3",
    words: "leaks: mend it",
    letter: "L",
  },
};

const methodPath: Record<string, string> = {
  "solvent weld": "M-5-4.5V4.5M5-4.5V4.5M-5 0H5M-5-4.5H-2M-5 4.5H-2M5-4.5H2M5 4.5H2",
  thread: "M-6 3.5L-3.5-3.5L-1 3.5L1.5-3.5L4 3.5L6-2",
  compression: "M-5-4L0-1.5L5-4M-5 4L0 1.5L5 4",
  "socket fusion": "M-5-3Q0-6 5-3M-5 3Q0 6 5 3M0-4V4",
  "washer thread": "M-5 3L-2-3L1 3L4-3M5.500-5V5",
  union: "M-2-5V5M2-5V5M-5 0H-2M2 0H5",
  "push barb": "M-4-4.500L1 0L-4 4.500",
  "shielded band": "M-5-3H5M-5 3H5M-3-5V5M3-5V5",
  "drip compression": "M-5-3L-1-1L5-3M-5 3L-1 1L5 3",
  lock: "M-5-4L0 0L-5 4M1-5V5M4-5V5",
  "repair compression": "M-5-4H5M-5 4H5M-3-4L-3 4M3-4L3 4M0-1.5V1.5",
  "gripping compression": "M-5-4L0-1.5L5-4M-5 4L0 1.5L5 4M-1-5V5",
  "universal compression": "M-5-2L0-1L5-5M-5 2L0 1L5 5",
  "gasket bell": "M-5-4.5H-1L1-3H5M-5 4.5H-1L1 3H5M-3-2a1 1 0 0 0 0 4",
  snap: "M-5-4Q-2.500-1 0-4Q2.500-1 5-4M-5 4Q-2.500 1 0 4Q2.500 1 5 4",
  bulkhead: "M-5-5V5M2-5V5M-5 0H5M-2-3V3",
  saddle: "M-5 3Q0-5 5 3M0-1V-6",
  "push-in": "M-5 3H5M0 5V-4M-2-2L0-5L2-2",
  "barb and clamp": "M-5-4.5L-0.5 0L-5 4.5M0.5-4.5L5 0L0.5 4.5",
};

export function JointDisc({
  method,
  state,
  r = 10,
  wrong = false,
}: {
  method: string;
  state: StateName;
  r?: number;
  wrong?: boolean;
}) {
  const tone = stateTone[state];
  return (
    <g>
      <circle
        r={r}
        fill={tone.fill}
        stroke={wrong ? "var(--color-fault)" : tone.ring}
        strokeWidth={2.2}
        strokeDasharray={wrong ? "1.5 1.5" : tone.dash}
      />
      <path
        d={methodPath[method] ?? "M-4 0H4"}
        transform={`scale(${r / 10})`}
        fill="none"
        stroke={tone.ink}
        strokeWidth={1.9}
        strokeLinejoin="round"
        strokeLinecap="round"
      />
    </g>
  );
}

/** A joint disc for use in text. */
export function JointMark(props: { method: string; state: StateName; size?: number; wrong?: boolean }) {
  const size = props.size ?? 26;
  return (
    <svg width={size} height={size} viewBox="-13 -13 26 26" aria-hidden="true" className="shrink-0">
      <JointDisc method={props.method} state={props.state} wrong={props.wrong} />
    </svg>
  );
}
