import { useQuery } from "@tanstack/react-query";
import { api, Refused } from "../api/client";
import { changeWhat } from "../job/edits";
import { nameOf } from "../job/kinds";
import { Chart } from "../ui/Chart";
import { useReference } from "../ui/context";
import type { Formatter } from "../ui/format";
import { Said } from "../ui/Messages";
import { markOf, numeral } from "../ui/numeral";
import { Box, Button, Heading } from "../ui/parts";
import { Typed } from "../ui/Typed";
import { SendToJob } from "./AddToJob";
import { InSight } from "./InSight";
import { useInAddress } from "./inAddress";

type Reading = { pressure: number; volume: number; seconds: string };

/** What does the source give: a gauge at rest and flowing, a bucket and a watch, and a curve with its doubt. */
export function SourceBench({ format }: { format: Formatter }) {
  const reference = useReference();
  const [rest, setRest] = useInAddress("rest", 380e3);
  const [gauge, setGauge] = useInAddress("gauge", 5e3);
  const [readings, setReadings] = useInAddress<Reading[]>("readings", [
    { pressure: 300e3, volume: 0.01, seconds: "18" },
  ]);
  const set = (i: number, change: Partial<Reading>) =>
    setReadings(readings.map((r, n) => (n === i ? { ...r, ...change } : r)));
  const asked = {
    rest,
    gauge_error: gauge,
    readings: readings.map((r) => ({
      pressure: r.pressure,
      volume: r.volume,
      seconds: numeral(r.seconds, markOf(format.system)) ?? 0,
      flow: null,
    })),
  };
  const query = useQuery({
    queryKey: ["supply", asked, format.system],
    queryFn: () => api.benchSupply(asked),
    placeholderData: (b) => b,
  });
  const failed = query.error instanceof Refused ? query.error : null;
  const found = failed ? undefined : query.data;
  const middle = found?.points[Math.floor(found.points.length / 2)];
  return (
    <div className="asks grid gap-5 lg:grid-cols-[minmax(0,24rem)_minmax(0,1fr)]">
      <div>
        <div className="grid grid-cols-2 gap-2">
          <Typed label="Gauge at rest" quantity="pressure" value={rest} onValue={setRest} />
          <Typed label="The gauge's error" quantity="pressure" value={gauge} onValue={setGauge} />
        </div>
        {readings.map((r, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: readings keep their order
          <fieldset key={i} className="mt-3 flex flex-wrap items-end gap-2">
            <legend className="font-semibold">Water running, reading {i + 1}</legend>
            <Typed
              label="Gauge"
              quantity="pressure"
              value={r.pressure}
              onValue={(pressure) => set(i, { pressure })}
              className="flex-1"
            />
            <Typed
              label="Bucket"
              quantity="volume"
              value={r.volume}
              onValue={(volume) => set(i, { volume })}
              className="flex-1"
            />
            <label className="flex flex-1 flex-col text-[0.8125rem] text-muted">
              Full in, s
              <input
                value={r.seconds}
                inputMode="decimal"
                className="min-h-[38px] w-full min-w-16 rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
                onChange={(e) => set(i, { seconds: e.target.value })}
              />
            </label>
            <Button
              aria-label={`Take out reading ${i + 1}`}
              disabled={readings.length < 2}
              onClick={() => setReadings(readings.filter((_, n) => n !== i))}
            >
              ×
            </Button>
          </fieldset>
        ))}
        <Button
          className="mt-2"
          onClick={() =>
            setReadings([...readings, { ...(readings.at(-1) ?? { pressure: 200e3, volume: 0.01 }), seconds: "12" }])
          }
        >
          Another reading
        </Button>
        {failed && <Said problem={failed.problem} />}
      </div>
      <InSight says={found ? `At most ${format(found.most, "flow")}` : ""} />
      <section aria-label="The source" className="answer">
        {found && (
          <>
            <Box tone="water">
              <p className="font-bold">
                At most {format(found.most, "flow")} with no pressure left; {found.says}.
              </p>
              {middle && (
                <p>
                  At {format(middle[0], "flow")} it gives {format(middle[1], "pressure")}, give or take{" "}
                  {format(middle[2], "pressure")}.
                </p>
              )}
            </Box>
            <Chart
              title="What the source gives"
              x={{ label: "flow", quantity: "flow" }}
              y={{ label: "pressure", quantity: "pressure" }}
              lines={[
                { name: "likeliest", points: found.points.map((p) => [p[0], p[1]]) },
                { name: "one in six is below", points: found.points.map((p) => [p[0], p[1] - p[2]]), dash: "3 4" },
                { name: "one in six is above", points: found.points.map((p) => [p[0], p[1] + p[2]]), dash: "3 4" },
              ]}
            />
            <Heading>Into a job</Heading>
            {middle && (
              <>
                <p>
                  A mains tapping takes the same curve: pressure at rest {format(found.rest, "pressure")}, measured flow{" "}
                  {format(middle[0], "flow")}, pressure at that flow {format(middle[1], "pressure")}.
                </p>
                <SendToJob
                  label="Send it to"
                  verb="Send it"
                  done="The mains has it."
                  stage="survey"
                  of={(plan) =>
                    plan.points.flatMap((p) => ("flowing_pressure" in p.what ? [[p.id, nameOf(reference, p)]] : []))
                  }
                  change={async (plan, id) =>
                    changeWhat(plan, id, { pressure: found.rest, flowing: middle[0], flowing_pressure: middle[1] })
                  }
                />
              </>
            )}
          </>
        )}
      </section>
    </div>
  );
}
