import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation } from "wouter";
import { api, Refused } from "../api/client";
import type { IdentifyIn, Reference } from "../api/types";
import type { Formatter } from "../ui/format";
import { Said } from "../ui/Messages";
import { markOf, numeral } from "../ui/numeral";
import { Box, Button, Heading, Pick, Row, Table } from "../ui/parts";
import { Typed } from "../ui/Typed";
import { onRun, runsOf, SendToJob } from "./AddToJob";
import { InSight } from "./InSight";
import { useInAddress } from "./inAddress";
import { thingText } from "./ThingPick";

type Read = { outside: number | null; bore: number | null; wall: number | null };
const sides = ["outside", "bore", "wall"] as const;

/** What pipe is this? From any of outside, bore and wall, with what to measure next. */
export function IdentifyBench({ reference, format }: { reference: Reference; format: Formatter }) {
  const [read, setRead] = useInAddress<Read>("read", { outside: null, bore: null, wall: null });
  const [error, setError] = useInAddress("error", 0.0001);
  const [colour, setColour] = useInAddress("colour", "");
  const [demo, setDemo] = useState({ series: "pvc-sdr21", size: "1", seed: 1 });
  const [threads, setThreads] = useInAddress("threads", "");
  const [pitch, setPitch] = useInAddress<number | null>("pitch", null);
  const [situation, setSituation] = useInAddress("situation", "");
  const [, go] = useLocation();
  const counted = numeral(threads, markOf(format.system));
  const thread = counted !== null || pitch !== null;
  const any = thread || sides.some((s) => read[s] !== null);
  const asked = {
    ...read,
    error,
    colour: colour || null,
    threads_per_inch: counted,
    pitch,
    situation: situation || null,
  } as Partial<IdentifyIn>;
  const query = useQuery({
    queryKey: ["identify", asked, format.system],
    queryFn: () => api.benchIdentify(asked),
    enabled: any,
    placeholderData: (b) => b,
  });
  const sizes = reference.series.find((s) => s.id === demo.series)?.sizes ?? [];
  const caliper = async (what: (typeof sides)[number]) => {
    const got = await api.caliper({ series: demo.series, size: demo.size, what, seed: demo.seed });
    setDemo((d) => ({ ...d, seed: d.seed + 1 }));
    setRead((r) => ({ ...r, [what]: got.value }));
  };
  const likeliest = query.error ? undefined : query.data?.candidates.find((c) => c.series);
  return (
    <div className="asks grid gap-5 lg:grid-cols-[minmax(0,24rem)_minmax(0,1fr)]">
      <div>
        <div className="grid grid-cols-3 gap-2">
          {sides.map((s) => (
            <Typed
              key={s}
              label={s === "outside" ? "Outside" : s === "bore" ? "Bore" : "Wall"}
              quantity="diameter"
              value={read[s]}
              onValue={(v) => setRead((r) => ({ ...r, [s]: v }))}
              onClear={() => setRead((r) => ({ ...r, [s]: null }))}
            />
          ))}
        </div>
        <div className="mt-2 grid grid-cols-2 gap-2">
          <Typed label="The tool's error" quantity="diameter" value={error} onValue={setError} />
          <Pick
            label="Colour"
            options={[
              ["", "not seen"],
              ["white", "white"],
              ["grey", "grey"],
              ["dark", "dark"],
              ["clear", "clear"],
              ["metal", "metal"],
            ]}
            value={colour}
            onPick={setColour}
          />
          <label className="flex flex-col text-[0.8125rem] text-muted">
            Threads to the inch
            <input
              value={threads}
              inputMode="decimal"
              className="min-h-[38px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
              onChange={(e) => setThreads(e.target.value)}
            />
          </label>
          <Typed
            label="or its pitch, crest to crest"
            quantity="diameter"
            value={pitch}
            onValue={setPitch}
            onClear={() => setPitch(null)}
          />
          <Pick
            label="Where it was met"
            options={[["", "not said"], ...reference.situations.map((s) => [s, s] as const)]}
            value={situation}
            onPick={setSituation}
          />
        </div>
        <Heading>Simulated caliper</Heading>
        <p className="text-[0.8125rem] text-muted">
          Stands in for a tool with a wire: put its jaws on a pipe and read.
        </p>
        <div className="mt-1 grid grid-cols-[2fr_1fr] gap-2">
          <Pick
            label="On"
            options={reference.series.map((s) => [s.id, s.name] as const)}
            value={demo.series}
            onPick={(series) =>
              setDemo((d) => ({
                ...d,
                series,
                size: reference.series.find((s) => s.id === series)?.sizes[0]?.size ?? "",
              }))
            }
          />
          <Pick
            label="Size"
            options={sizes.map((s) => [s.size, s.size] as const)}
            value={demo.size}
            onPick={(size) => setDemo((d) => ({ ...d, size }))}
          />
        </div>
        <div className="mt-2 flex gap-2">
          {sides.map((s) => (
            <Button key={s} onClick={() => void caliper(s)}>
              Read {s}
            </Button>
          ))}
        </div>
      </div>
      <InSight says={any && !query.error ? (query.data?.says ?? "") : ""} />
      <section aria-label="Candidates" className="answer">
        {!any && <p className="text-muted">Type what the caliper reads; one reading is enough to begin.</p>}
        {query.error instanceof Refused && <Said problem={query.error.problem} />}
        {query.data && any && (
          <>
            <Box tone="water">
              <p className="font-bold">{query.data.says}</p>
              {query.data.next && <p>Next: {query.data.next}.</p>}
            </Box>
            {likeliest && (
              <SendToJob
                label={`Existing: ${likeliest.name}, in`}
                verb="Write it down"
                done="It is written down there."
                stage="survey"
                of={runsOf}
                change={onRun({
                  series: likeliest.series,
                  size: likeliest.size,
                  existing: { known: `measured: ${likeliest.name}` },
                })}
              />
            )}
            <Table
              caption="Candidates"
              head={
                !thread
                  ? ["pipe", "likely", "outside", "bore", "wall"]
                  : ["thread", "likely", "outside", "crest", "pitch"]
              }
              numbers={[1, 2, 3, 4]}
            >
              {query.data.candidates.map((c) => (
                <Row key={c.name}>
                  <td>
                    <b>{c.name}</b>
                    <span className="block text-[0.8125rem] text-muted">{c.warning}</span>
                    <Button
                      tone="quiet"
                      aria-label={`Join ${c.name} to something`}
                      onClick={() => go(`/bench/join?start=${encodeURIComponent(thingText(c.series, c.size, c.end))}`)}
                    >
                      Join it to …
                    </Button>
                  </td>
                  <td className="text-right">{Math.round(c.likelihood * 100)} %</td>
                  <td className="text-right">{format(c.outside, "diameter")}</td>
                  <td className="text-right">{format(c.bore, "diameter")}</td>
                  <td className="text-right">{format(c.wall, "diameter")}</td>
                </Row>
              ))}
            </Table>
          </>
        )}
      </section>
    </div>
  );
}
