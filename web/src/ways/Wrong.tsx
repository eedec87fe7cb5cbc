import type { WrongWay } from "../api/types";
import type { Formatter } from "../ui/format";
import { Box } from "../ui/parts";

/** A pair that looks right and leaks, drawn with the gap that gives it away. */
export function Wrong({ wrong, format }: { wrong: WrongWay; format: Formatter }) {
  const [a, b] = [wrong.a.diameter * 1000, wrong.b.diameter * 1000];
  const top = Math.max(a, b) / 2 + 3;
  return (
    <Box tone="dry" className="flex items-center gap-3">
      <svg viewBox={`-2 ${-top} 84 ${2 * top}`} className="h-20 w-36 shrink-0" aria-hidden="true">
        {[-1, 1].map((s) => (
          <g key={s} stroke="var(--color-ink)" strokeWidth={0.8}>
            <rect x={0} y={s > 0 ? a / 2 - 3 : -a / 2} width={46} height={3} fill="var(--color-pipe-white)" />
            <rect x={36} y={s > 0 ? b / 2 : -b / 2 - 3} width={44} height={3} fill="var(--color-soil)" />
          </g>
        ))}
        <path d={`M41 ${-a / 2}V${-b / 2}`} stroke="var(--color-dry)" strokeWidth={1.6} />
      </svg>
      <div>
        <p className="font-bold text-dry">Looks right but leaks</p>
        <p>
          {wrong.a.words} and {wrong.b.words}: {format(wrong.a.diameter, "diameter")} against{" "}
          {format(wrong.b.diameter, "diameter")},{" "}
          {wrong.gap >= 0 ? `${format(wrong.gap, "diameter")} of air` : `${format(-wrong.gap, "diameter")} too tight`}.
        </p>
        <p>{wrong.why}.</p>
      </div>
    </Box>
  );
}
