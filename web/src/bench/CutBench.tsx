import { useQuery } from "@tanstack/react-query";
import { type Dispatch, type SetStateAction, useEffect } from "react";
import { api, Refused } from "../api/client";
import type { CutAnswer, CutIn, EndMark, Reference, Taker } from "../api/types";
import type { Formatter } from "../ui/format";
import { Said } from "../ui/Messages";
import { Box, Heading, Pick, Row, Table } from "../ui/parts";
import { Typed } from "../ui/Typed";
import { onRun, runsOf, SendToJob } from "./AddToJob";
import { InSight } from "./InSight";
import { useInAddress } from "./inAddress";

const ways = [
  ["centres", "centre to centre"],
  ["faces", "face to face of the fittings"],
  ["stops", "socket stop to socket stop"],
  ["offset", "an offset: how far aside"],
] as const;

type End = CutIn["a"];
const start: End = { fitting: "pvc-elbow-90-1", port: 0, stop: null };
const open: End = { fitting: null, port: 0, stop: null };
const nameOf = ({ fitting, port }: Pick<End, "fitting" | "port">) => (fitting ? `${fitting} ${port}` : "");

/** How long to cut one piece: what was measured, what goes on its ends, and what that leaves between the stops. */
export function CutBench({ reference, format }: { reference: Reference; format: Formatter }) {
  const [pipe, setPipe] = useInAddress("pipe", { series: "pvc40", size: "1" });
  const [way, setWay] = useInAddress<string>("way", "centres");
  const [asked, setAsked] = useInAddress("asked", { distance: 1.2, rise: 0.3, roll: 0, angle: Math.PI / 4 });
  const [one, setOne] = useInAddress<End>("one", start);
  const [two, setTwo] = useInAddress<End>("two", start);
  const family = reference.series.find((s) => s.id === pipe.series);
  const takers = useQuery({
    queryKey: ["takers", pipe],
    queryFn: () => api.benchTakers(pipe.series, pipe.size),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const offset = way === "offset";
  // biome-ignore lint/correctness/useExhaustiveDependencies: an offset begins with elbows that turn as it does; after that the crew chooses
  useEffect(() => {
    const elbow = takers.data?.find((t) => t.family === "elbow" && Math.abs(t.angle - asked.angle) < 0.04);
    if (offset && elbow)
      for (const set of [setOne, setTwo]) set({ fitting: elbow.fitting, port: elbow.port, stop: null });
  }, [offset, takers.data]);
  const whole: CutIn = {
    ...pipe,
    a: one,
    b: two,
    measured: offset ? "centres" : (way as CutIn["measured"]),
    distance: offset ? 0 : asked.distance,
    rise: offset ? asked.rise : 0,
    roll: offset ? asked.roll : 0,
    angle: asked.angle,
    units: format.system,
  };
  const query = useQuery({ queryKey: ["cut", whole], queryFn: () => api.benchCut(whole), placeholderData: (b) => b });
  const failed = query.error instanceof Refused ? query.error : null;
  const found = failed ? undefined : query.data;
  const take = (next: typeof pipe) => {
    setPipe(next);
    setOne(open);
    setTwo(open);
  };
  return (
    <div className="asks grid grid-cols-[minmax(0,1fr)] gap-5 lg:grid-cols-[minmax(0,24rem)_minmax(0,1fr)]">
      <div className="grid content-start gap-2">
        <div className="grid grid-cols-[2fr_1fr] gap-2">
          <Pick
            label="Pipe"
            options={reference.series.map((s) => [s.id, s.name] as const)}
            value={pipe.series}
            onPick={(series) => {
              const sizes = reference.series.find((s) => s.id === series)?.sizes ?? [];
              take({ series, size: (sizes.find((s) => s.size === pipe.size) ?? sizes[0])?.size ?? "" });
            }}
          />
          <Pick
            label="Size"
            options={(family?.sizes ?? []).map((s) => [s.size, s.size] as const)}
            value={pipe.size}
            onPick={(size) => take({ ...pipe, size })}
          />
        </div>
        <Pick label="Measured" options={ways} value={way} onPick={setWay} />
        {offset ? (
          <div className="grid grid-cols-3 gap-2">
            <Typed
              label="Up or down"
              quantity="cut"
              value={asked.rise}
              onValue={(rise) => setAsked((a) => ({ ...a, rise }))}
            />
            <Typed
              label="To the side"
              quantity="cut"
              value={asked.roll}
              onValue={(roll) => setAsked((a) => ({ ...a, roll }))}
            />
            <Typed
              label="Elbows turn"
              quantity="angle"
              value={asked.angle}
              onValue={(angle) => setAsked((a) => ({ ...a, angle }))}
            />
          </div>
        ) : (
          <Typed
            label="How far"
            quantity="cut"
            value={asked.distance}
            onValue={(distance) => setAsked((a) => ({ ...a, distance }))}
          />
        )}
        <EndPick title="On the one end" takers={takers.data ?? []} value={one} onPick={setOne} />
        <EndPick title="On the other end" takers={takers.data ?? []} value={two} onPick={setTwo} />
        {failed && <Said problem={failed.problem} />}
      </div>
      {found && (
        <div>
          <Answered found={found} format={format} />
          <InSight says={`Cut it ${format(found.length, "cut")}${found.fits ? "" : ": it does not fit"}`} />
          <SendToJob
            label={`${format(found.centres, "cut")} centre to centre, by the tape, to a run of`}
            verb="Send it"
            done="It has that length."
            stage="cut"
            of={runsOf}
            change={onRun({ measured_length: found.centres })}
          />
        </div>
      )}
    </div>
  );
}

type EndProps = { title: string; takers: readonly Taker[]; value: End; onPick: Dispatch<SetStateAction<End>> };

/** What goes on one end, and the crew's own measure of it where it has one. */
function EndPick({ title, takers, value, onPick }: EndProps) {
  const options = takers.map((t) => [nameOf(t), t.name] as const);
  const taker = takers.find((t) => nameOf(t) === nameOf(value));
  return (
    <fieldset className="grid grid-cols-[2fr_1fr] gap-2">
      <legend className="sr-only">{title}</legend>
      <Pick
        label={title}
        options={[["", "nothing: an open end"], ...options]}
        value={nameOf(value)}
        onPick={(name) => {
          const found = takers.find((t) => nameOf(t) === name);
          onPick(found ? { fitting: found.fitting, port: found.port, stop: null } : open);
        }}
      />
      {taker && (
        <Typed
          label="Centre to stop"
          quantity="takeoff"
          value={value.stop ?? taker.stop}
          onValue={(stop) => onPick((v) => ({ ...v, stop }))}
          onClear={() => onPick((v) => ({ ...v, stop: null }))}
        />
      )}
    </fieldset>
  );
}

function Answered({ found, format }: { found: CutAnswer; format: Formatter }) {
  return (
    <section aria-label="The cut" className="answer">
      <Box tone={found.fits ? "proved" : "dry"}>
        <p className="text-3xl font-bold">Cut it {format(found.length, "cut")}</p>
        <p className="first-letter:uppercase">{found.says}.</p>
        {found.dry > 0 && <p>Fitted dry, the line stands {format(found.dry, "takeoff")} longer.</p>}
        {found.turned != null && (
          <p>
            Along the line the offset takes {format(found.advance, "cut")}
            {found.turned !== 0 && `; roll the elbows ${format(Math.abs(found.turned), "angle")} from upright`}.
          </p>
        )}
      </Box>
      <Figure found={found} format={format} />
      <Heading note="what a tape reads, and what the fittings take up">How it comes about</Heading>
      <Table caption="The sum" head={["what", "how much"]} numbers={[1]}>
        {found.sum.map(([words, value], i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the terms of a sum keep their places
          <Row key={i}>
            <td className="first-letter:uppercase">{words}</td>
            <td className="text-right">{format(value, "diameter")}</td>
          </Row>
        ))}
        <Row>
          <td className="font-bold">Cut length</td>
          <td className="text-right font-bold">{format(found.length, "cut")}</td>
        </Row>
      </Table>
    </section>
  );
}

/** The piece as it lies at the saw, its ends inside what goes on them, with the marks to draw. */
function Figure({ found, format }: { found: CutAnswer; format: Formatter }) {
  const [left, right] = [40, 400];
  const depth = (m: EndMark) => (m.depth > 0 ? 64 : 0);
  const side = (m: EndMark, x: number, s: 1 | -1) =>
    m.depth > 0 && (
      <g>
        <path
          d={`M${x + s * 64} 44H${x - s * 14}V116H${x + s * 64}`}
          fill="none"
          stroke="var(--color-ink)"
          strokeWidth={2}
        />
        <path d={`M${x + s * 64} 34V126`} stroke="var(--color-dry)" strokeWidth={2.5} strokeDasharray="7 5" />
        <text x={x + s * 64} y={24} textAnchor="middle" fontSize={16} fontWeight={700} fill="var(--color-dry)">
          mark at {format(m.depth, "takeoff")}
        </text>
        <text
          x={x - s * 14}
          y={s > 0 ? 138 : 156}
          textAnchor={s > 0 ? "start" : "end"}
          fontSize={14}
          fill="var(--color-muted)"
        >
          {m.name}
        </text>
      </g>
    );
  return (
    <svg
      viewBox="0 0 440 226"
      className="mt-3 w-full max-w-[640px]"
      role="img"
      aria-label={`A piece ${format(found.length, "cut")} long; marks ${format(found.a.depth, "takeoff")} and ${format(found.b.depth, "takeoff")} from its ends`}
    >
      <rect
        x={left}
        y={54}
        width={right - left}
        height={52}
        fill="var(--color-pipe-white)"
        stroke="var(--color-ink)"
        strokeWidth={2}
      />
      <path d={`M${left} 62H${right}M${left} 98H${right}`} stroke="var(--color-muted)" strokeWidth={1} />
      {side(found.a, left, 1)}
      {side(found.b, right, -1)}
      <g stroke="var(--color-water)" strokeWidth={1.5} fill="none">
        <path d={`M${left} 170V192M${right} 170V192M${left} 182H${right}`} />
        <path d={`M${left + 9} 177L${left} 182L${left + 9} 187M${right - 9} 177L${right} 182L${right - 9} 187`} />
      </g>
      <text x={220} y={212} textAnchor="middle" fontSize={20} fontWeight={700} fill="var(--color-water)">
        {format(found.length, "cut")}
      </text>
      {depth(found.a) + depth(found.b) === 0 && (
        <text x={220} y={86} textAnchor="middle" fontSize={13} fill="var(--color-muted)">
          nothing on its ends
        </text>
      )}
    </svg>
  );
}
