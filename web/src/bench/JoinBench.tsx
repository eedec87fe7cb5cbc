import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation, useSearch } from "wouter";
import { api, Refused } from "../api/client";
import type { EndView, JoinIn, Market, PipeOrEnd, Reference, Way, Ways } from "../api/types";
import { JointMark } from "../drawing/joints";
import { Cautions } from "../ui/Cautions";
import type { Formatter } from "../ui/format";
import { Said } from "../ui/Messages";
import { Box, Button, Check, Heading } from "../ui/parts";
import { put } from "../ui/put";
import { Typed } from "../ui/Typed";
import { useLifeSize } from "../ways/LifeSize";
import { SectionDrawing } from "../ways/SectionDrawing";
import { joints, WayWords } from "../ways/WayWords";
import { Wrong } from "../ways/Wrong";
import { AddToJob } from "./AddToJob";
import { AtHand } from "./AtHand";
import { Branching, BranchTable } from "./Branching";
import { FiguredAnswer } from "./FiguredAnswer";
import { HowToMake } from "./HowToMake";
import { InSight } from "./InSight";
import { addressWith, useInAddress } from "./inAddress";
import { type Chosen, ThingPick, thingFrom, thingText } from "./ThingPick";

type JoinProps = { reference: Reference; ends: readonly EndView[]; format: Formatter; market: Market };

const limits = [
  ["serviceable", "serviceable (can be taken apart)"],
  ["no_hot_work", "no flame or iron"],
  ["no_solvent", "no solvent"],
  ["potable", "drinking water"],
  ["buried", "to be buried"],
  ["fixed", "both ends fixed"],
  ["valve", "stop valve between"],
  ["waste", "stop-and-waste between"],
  ["union", "union between"],
] as const;

/** Join this end to that: the ways to join in order, the best drawn to scale, and the wrong ways that tempt. */
export function JoinBench({ reference, ends, format, market }: JoinProps) {
  const search = new URLSearchParams(useSearch());
  const handed = thingFrom(search.get("start"));
  const other = thingFrom(search.get("stop"));
  const [start, setStart] = useState<Chosen>(handed ?? { series: "pe-sidr7", size: "1", end: null });
  const [stop, setStop] = useState<Chosen>(other ?? { series: "pvc40", size: "1", end: null });
  const words = search.get("ask") ?? "";
  const [said, setSaid] = useState(words);
  const [, go] = useLocation();
  const setWords = (next: string) => {
    if (next !== words) go(addressWith("ask", next || null), { replace: true });
  };
  const [no, setNo] = useInAddress<Partial<Record<(typeof limits)[number][0], boolean>>>("limits", {});
  const [pressure, setPressure] = useInAddress<number | null>("pressure", null);
  const [warm, setWarm] = useInAddress("water", 293.15);
  const [box, setBox] = useInAddress<string[]>("at_hand", []);
  const [pick, setPick] = useState(0);
  const asked: Partial<JoinIn> = {
    units: format.system,
    market,
    ...(words ? { words } : { start, stop }),
    ...no,
    pressure,
    temperature: warm,
    at_hand: box.length ? box : null,
  };
  // words may ask for a size, a length or a time; else they ask to join things
  const figures = useQuery({
    queryKey: ["bench ask", words, format.system],
    queryFn: () => api.benchAsk({ words, units: format.system }),
    enabled: words !== "",
  });
  const figured = words ? figures.data : undefined;
  const query = useQuery({
    queryKey: ["bench join", asked],
    queryFn: () => api.benchJoin(asked),
    placeholderData: (b) => b,
    enabled: words === "" || figures.data === null,
  });
  const answer = figured || (words && figures.error) ? undefined : query.data;
  const way = answer?.ways[Math.min(pick, (answer?.ways.length ?? 1) - 1)];
  // what words were read as stands in the pickers, so that no answer is shown beside another question
  const read = words && answer ? answer.things.map(asChosen) : [];
  // so do the limits that were read from them
  const heard = words && answer ? answer.heard : undefined;
  const [one, two] = [read[0] ?? start, read[1] ?? stop];
  // what is picked stands in the address, so that it can be kept, sent and opened again
  const choose = (a: Chosen, b: Chosen) => {
    setSaid("");
    setPick(0);
    setStart(a);
    setStop(b);
    go(pickedAt(a, b), { replace: true });
  };
  return (
    <div className="asks grid gap-5 lg:grid-cols-[minmax(0,24rem)_minmax(0,1fr)] lg:grid-rows-[auto_1fr]">
      <div>
        <form
          className="mb-4 flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            setPick(0);
            setWords(said.trim());
          }}
        >
          <label className="flex grow flex-col text-[0.8125rem] text-muted">
            Your question
            <input
              value={said}
              placeholder="1 in sch 40 to 1 in poly · branch 3/4 off 2 in pvc · 8 gpm over 1000 ft of SIDR 15 …"
              className="min-h-[40px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
              onChange={(e) => setSaid(e.target.value)}
            />
          </label>
          <Button type="submit" className="min-h-[40px]">
            Ask
          </Button>
        </form>
        {words && figures.error instanceof Refused && <Said problem={figures.error.problem} />}
        {heard && heard.corrected.length > 0 && (
          <p role="status" className="mb-2">
            Read {heard.corrected.map(([was, as]) => `“${was}” as “${as}”`).join(", ")}.
          </p>
        )}
        {heard && heard.ignored.length > 0 && (
          <Box tone="dry">
            <p role="status">
              <b>Ignored:</b> {heard.ignored.join(", ")}. Nothing was read from{" "}
              {heard.ignored.length > 1 ? "these" : "this"}; say it otherwise, or tick it below.
            </p>
          </Box>
        )}
        {query.error instanceof Refused && <Said problem={query.error.problem} />}
        {answer && answer.branches.length > 0 && (
          <section aria-label="Branches" className="answer">
            {answer.advice && <p className="mb-2">{answer.advice}</p>}
            <BranchTable ways={answer.branches} />
          </section>
        )}
        {answer && answer.ways.length > 0 && (
          <section aria-label="Ways" className="answer">
            <Heading note="fewest joints first">Ways to join</Heading>
            {answer.advice && <p className="mb-2">{answer.advice}</p>}
            {answer.ways.map((w, i) => (
              <button
                key={w.parts.map((p) => p.name).join()}
                type="button"
                aria-pressed={w === way}
                className="mb-1 block w-full border border-edge bg-panel p-2 text-left aria-pressed:border-2 aria-pressed:border-water pointer-coarse:min-h-[44px]"
                onClick={() => setPick(i)}
              >
                <WayWords way={w} count={joints(w.joints.length)} format={format} />
              </button>
            ))}
          </section>
        )}
      </div>
      <div className="lg:row-span-2">
        {figured && <FiguredAnswer found={figured} />}
        {answer && !answer.ways.length && !answer.branches.length && (
          <Box tone="dry">
            <p className="font-bold">{answer.says}</p>
            {answer.nearest.length > 0 && <p>What it can be joined to: {answer.nearest.join(", ")}.</p>}
          </Box>
        )}
        {way && answer && (
          <WayView
            key={`${answer.start}${answer.stop}${pick}`}
            way={way}
            title={titleOf(answer, way)}
            format={format}
            asked={asked}
            number={Math.min(pick, answer.ways.length - 1)}
          />
        )}
        <InSight
          says={
            answer
              ? way
                ? `${joints(way.joints.length)}: ${way.joints.map((j) => j.method).join(", ")}`
                : (answer.branches[0]?.says ?? answer.says)
              : ""
          }
        />
        {!words && start.series !== null && <Branching line={start} off={stop} market={market} />}
        {answer?.wrong.map((w) => (
          <Wrong key={w.a.name + w.b.name} wrong={w} format={format} />
        ))}
      </div>
      <section aria-label="Ends and limits">
        <Heading>Ends and limits</Heading>
        <div className="grid gap-3">
          <ThingPick title="Join" reference={reference} ends={ends} value={one} onPick={(v) => choose(v, two)} />
          <ThingPick title="to" reference={reference} ends={ends} value={two} onPick={(v) => choose(one, v)} />
        </div>
        <div className="mt-2 flex flex-wrap gap-x-4">
          {limits.map(([name, label]) => (
            <Check
              key={name}
              label={label}
              checked={(no[name] ?? false) || (heard?.limits.includes(name) ?? false)}
              disabled={heard?.limits.includes(name)}
              onChange={({ target }) => setNo(put(name, target.checked))}
            />
          ))}
        </div>
        <div className="mt-1 grid grid-cols-2 gap-2">
          <Typed
            label="Must stand"
            quantity="pressure"
            value={heard?.pressure ?? pressure}
            onValue={setPressure}
            onClear={() => setPressure(null)}
          />
          <Typed label="at water of" quantity="temperature" value={heard?.temperature ?? warm} onValue={setWarm} />
        </div>
        <AtHand parts={box} onParts={setBox} />
      </section>
    </div>
  );
}

const pickedAt = (a: Chosen, b: Chosen): string => {
  const address = new URL(location.href);
  for (const name of ["ask", "start", "stop"]) address.searchParams.delete(name);
  const told = [
    ["start", a],
    ["stop", b],
  ].flatMap(([name, v]) => {
    const { series, size, end } = v as Chosen;
    return end || (series && size) ? [[name as string, thingText(series, size ?? "", end)]] : [];
  });
  for (const [name, says] of told) address.searchParams.set(name as string, says as string);
  return address.pathname + address.search;
};

const titleOf = (answer: Ways, way: Way): string => {
  if (answer.kind === "close") return `Close ${way.parts[0]?.name ?? ""}`;
  if (answer.kind === "repair") return `Repair of ${answer.start}`;
  return `${answer.start} to ${answer.stop}`;
};

const asChosen = (thing: PipeOrEnd): Chosen =>
  thing.series && thing.size
    ? { series: thing.series, size: thing.size, end: null }
    : { end: thing.end ?? "", series: null, size: null };

type WayProps = { way: Way; title: string; format: Formatter; asked: Partial<JoinIn>; number: number };

function WayView({ way, title, format, asked, number }: WayProps) {
  const [step, setStep] = useState(0);
  const [how, setHow] = useState(false);
  const [scale, control] = useLifeSize();
  return (
    <section aria-label="The way chosen">
      <h2 className="text-lg font-bold">{title}</h2>
      {way.rating !== null && (
        <p className="text-[0.8125rem] text-muted">
          {way.rating > 0
            ? `Weakest: ${way.weakest}, ${format(way.rating, "pressure")}. What is moulded on the part wins.`
            : "For drains that run by their fall: it carries no pressure."}
        </p>
      )}
      <SectionDrawing way={way} pixelsPerMm={scale} step={step} />
      {control}
      {way.belongs.length > 0 && (
        <p>
          <b>Also take:</b> {way.belongs.join("; ")}.
        </p>
      )}
      {way.closes && (
        <Box tone="water">
          <p>{way.closes}</p>
        </Box>
      )}
      <ol className="mt-2">
        {way.joints.map((j, i) => (
          <li key={`${j.method}${j.says}`}>
            <button
              type="button"
              aria-current={i === step}
              className="flex min-h-[44px] w-full items-center gap-2 border-b border-line text-left aria-[current=true]:bg-dry-soft"
              onClick={() => setStep(i)}
            >
              <JointMark method={j.method} state={i === step ? "dry" : "planned"} />
              <span className="grow">
                <b className="inline-block first-letter:uppercase">{j.method}</b>: {j.says}
                <span className="block text-[0.8125rem] text-muted">{j.tools}</span>
              </span>
            </button>
          </li>
        ))}
      </ol>
      <div className="mt-2 flex gap-2">
        <Button disabled={step === 0} onClick={() => setStep(step - 1)}>
          Joint before
        </Button>
        <Button disabled={step >= way.joints.length - 1} onClick={() => setStep(step + 1)}>
          Next joint
        </Button>
      </div>
      <details className="mt-3" onToggle={(e) => setHow(e.currentTarget.open)}>
        <summary className="inline-flex min-h-[44px] cursor-pointer items-center font-bold">
          How to make joint {step + 1} of {way.joints.length}
        </summary>
        {how && <HowToMake asked={asked} way={number} joint={step} />}
      </details>
      <AddToJob fittings={way.parts.flatMap((p) => (p.fitting ? [p.fitting] : []))} note={title} />
      <Cautions cautions={way.cautions} />
    </section>
  );
}
