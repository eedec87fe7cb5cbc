import { useQuery } from "@tanstack/react-query";
import { api, Refused } from "../api/client";
import type { FusedIn, Reference } from "../api/types";
import type { Formatter } from "../ui/format";
import { Said } from "../ui/Messages";
import { Box, Pick } from "../ui/parts";
import { onRun, runsOf, SendToJob } from "./AddToJob";
import { useInAddress } from "./inAddress";

const mm = (v: number) => v * 1000;

/** A PPR joint before it is made: how deep and how long, and what that leaves of the bore. */
export function FusedBench({ reference, format }: { reference: Reference; format: Formatter }) {
  const [series, setSeries] = useInAddress("series", "ppr-s2.5");
  const [size, setSize] = useInAddress("size", "20");
  const [depth, setDepth] = useInAddress("depth", 0.014);
  const [heating, setHeating] = useInAddress("heating", 5.5);
  const [flow, setFlow] = useInAddress("flow", 2e-4);
  const family = reference.series.find((s) => s.id === series);
  const pipe = family?.sizes.find((s) => s.size === size);
  const asked = { series: series as FusedIn["series"], size, depth, heating, flow };
  const query = useQuery({
    queryKey: ["fused", asked, format.system],
    queryFn: () => api.benchFused(asked),
    placeholderData: (b) => b,
  });
  const failed = query.error instanceof Refused ? query.error : null;
  const found = failed ? undefined : query.data;
  const good = found?.good;
  return (
    <div className="asks grid gap-5 lg:grid-cols-[minmax(0,24rem)_minmax(0,1fr)]">
      <div>
        <div className="grid grid-cols-2 gap-2">
          <Pick
            label="PPR series"
            options={reference.series.filter((s) => s.id.startsWith("ppr")).map((s) => [s.id, s.name] as const)}
            value={series}
            onPick={setSeries}
          />
          <Pick
            label="Size, mm"
            options={(family?.sizes ?? []).map((s) => [s.size, s.size] as const)}
            value={size}
            onPick={setSize}
          />
        </div>
        <Drag label="Pushed in" value={depth} low={0} high={0.03} text={format(depth, "takeoff")} onValue={setDepth} />
        <Drag label="Heated" value={heating} low={0} high={20} text={`${heating.toFixed(1)} s`} onValue={setHeating} />
        <Drag label="Flow through it" value={flow} low={0} high={1e-3} text={format(flow, "flow")} onValue={setFlow} />
        {failed && <Said problem={failed.problem} />}
      </div>
      <section aria-label="The joint" className="answer">
        {found && pipe && (
          <>
            <Box tone={good ? "proved" : "dry"}>
              <p className="font-bold first-letter:uppercase">{found.verdict}.</p>
              <p>
                Of a bore of {format(found.bore, "diameter")} {format(found.left, "diameter")} is left.
                {found.loss != null &&
                  ` It loses ${format(found.loss, "head")}, as ${format(found.same_as, "length")} of straight pipe would.`}
              </p>
            </Box>
            <p>
              Marked at {found.marks.map((m) => format(m, "takeoff")).join(" or ")}
              {found.marks.length > 1 &&
                ": two printed lists differ. Measure the depth of the fitting, and go by that; the first is used here"}
              .
            </p>
            <Drawn outside={mm(pipe.outside)} bore={mm(found.bore)} left={mm(found.left)} depth={mm(depth)} />
            {found.coefficient > 0 && (
              <SendToJob
                label="Such a joint is in"
                verb="Include it"
                done="Its loss is in that pipe."
                stage="size"
                of={runsOf}
                change={onRun({ closed: found.coefficient })}
              />
            )}
            <p className="text-[0.8125rem] text-muted">
              A simple picture of what is seen in joints cut open, not a measurement. {found.source}.
            </p>
          </>
        )}
      </section>
    </div>
  );
}

type DragProps = {
  label: string;
  value: number;
  low: number;
  high: number;
  text: string;
  onValue: (v: number) => void;
};

function Drag({ label, value, low, high, text, onValue }: DragProps) {
  return (
    <label className="mt-2 grid grid-cols-[8rem_minmax(0,1fr)_5.5rem] items-center gap-2">
      {label}
      <input
        type="range"
        min={low}
        max={high}
        step={(high - low) / 120}
        value={value}
        aria-valuetext={text}
        className="min-h-[44px] w-full accent-water"
        onChange={(e) => onValue(Number(e.target.value))}
      />
      <output className="text-right">{text}</output>
    </label>
  );
}

/** The joint in section: socket, pipe, and the ring that has folded inward. */
function Drawn({ outside, bore, left, depth }: { outside: number; bore: number; left: number; depth: number }) {
  const height = outside * 2;
  const bead = (bore - left) / 2;
  return (
    <svg
      viewBox={`-30 ${-height / 2} 70 ${height}`}
      className="w-full max-w-[520px]"
      role="img"
      aria-label={`Section: ${left.toFixed(1)} mm of ${bore.toFixed(1)} mm bore left`}
    >
      {[1, -1].map((s) => (
        <g key={s} transform={`scale(1 ${s})`} stroke="var(--color-ink)" strokeWidth={0.35}>
          <path d={`M-2 ${-outside / 2 - 4}H36V${-bore / 2}H${depth} V${-outside / 2}H-2Z`} fill="var(--color-soil)" />
          <path d={`M-30 ${-outside / 2}H${depth}V${-bore / 2}H-30Z`} fill="var(--color-pipe-grey)" />
          <path
            d={`M${depth - 1.5} ${-bore / 2}Q${depth} ${-bore / 2 + 2 * bead} ${depth + 1.5} ${-bore / 2}Z`}
            fill="var(--color-dry-soft)"
            stroke="var(--color-dry)"
          />
          <ellipse cx={-2.5} cy={-outside / 2 - 0.8} rx={1.6} ry={1} fill="var(--color-soil)" />
        </g>
      ))}
      <path d="M-30 0H40" stroke="var(--color-muted)" strokeWidth={0.25} strokeDasharray="3 1 0.6 1" />
    </svg>
  );
}
