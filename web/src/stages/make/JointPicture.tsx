import type { Joint } from "../../api/types";
import { useFormat } from "../../ui/context";

const ink = "var(--color-ink)";
const wall = { fill: "var(--color-panel)", stroke: ink, strokeWidth: 2 } as const;

/** The joint in section with its depth mark: what the hands should see. */
export function JointPicture({ joint }: { joint: Joint }) {
  const format = useFormat();
  const depth = format(joint.depth, "takeoff");
  return (
    <svg
      viewBox="0 0 340 150"
      className="mt-2 w-full max-w-md border border-line bg-panel"
      role="img"
      aria-label={`${joint.method} in section, depth mark ${depth}`}
    >
      {joint.method === "solvent weld" && <Weld />}
      {joint.method === "barb and clamp" && <Barb />}
      {joint.method === "thread" && <Thread />}
      <path d="M172 22V132" stroke="var(--color-dry)" strokeWidth={2.5} strokeDasharray="6 4" />
      <text x={166} y={20} textAnchor="end" fontSize={14} fontWeight={700} fill="var(--color-dry)">
        depth mark {depth}
      </text>
    </svg>
  );
}

function Weld() {
  return (
    <g>
      <path d="M176 36H300V118H176V106L276 102V52L176 48Z" {...wall} />
      <rect x={20} y={48} width={232} height={12} {...wall} />
      <rect x={20} y={94} width={232} height={12} {...wall} />
      <rect x={20} y={61} width={230} height={32} fill="var(--color-water-soft)" />
      <path d="M70 77h54m0 0l-12-7m12 7l-12 7" stroke="var(--color-water)" strokeWidth={4} fill="none" />
      <text x={96} y={126} fontSize={13} fill={ink} textAnchor="middle">
        push, turn, hold
      </text>
    </g>
  );
}

function Barb() {
  return (
    <g>
      <rect x={20} y={44} width={232} height={14} fill="var(--color-pipe-dark)" stroke={ink} />
      <rect x={20} y={96} width={232} height={14} fill="var(--color-pipe-dark)" stroke={ink} />
      <path
        d="M176 60L190 58L190 64L206 58V64L222 58V64L238 58V64H254V46H276V62H320V70H176ZM176 94L190 96V90L206 96V90L222 96V90L238 96V90H254V108H276V92H320V84H176Z"
        {...wall}
      />
      <path d="M188 38h14v6M188 116h14v-6M224 38h14v6M224 116h14v-6" fill="none" stroke={ink} strokeWidth={4} />
      <rect x={20} y={70} width={300} height={14} fill="var(--color-water-soft)" />
      <text x={90} y={134} fontSize={13} fill={ink} textAnchor="middle">
        warm, push to the shoulder
      </text>
    </g>
  );
}

function Thread() {
  const teeth = Array.from({ length: 9 }, (_, i) => 176 + i * 9);
  return (
    <g>
      <path d={`M20 50H176${teeth.map((x) => `L${x + 4} 46L${x + 9} 52`).join("")}V62H20Z`} {...wall} />
      <path d={`M20 104H176${teeth.map((x) => `L${x + 4} 108L${x + 9} 102`).join("")}V92H20Z`} {...wall} />
      <path d="M180 30H310V56H262V46H180ZM180 124H310V98H262V108H180Z" {...wall} />
      <rect x={20} y={64} width={290} height={26} fill="var(--color-water-soft)" />
      <path d="M60 34a26 10 0 0 1 52 0m0 0l-9-3m9 3l4-9" stroke="var(--color-water)" strokeWidth={3} fill="none" />
      <text x={90} y={134} fontSize={13} fill={ink} textAnchor="middle">
        start by hand
      </text>
    </g>
  );
}
