import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Nest } from "../../api/types";
import { Answer } from "../../job/Answer";
import { Derived } from "../../job/Derived";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat, useReference } from "../../ui/context";
import { Button, Heading, Row, Table, Title } from "../../ui/parts";
import { ConditionsHere } from "../ConditionsHere";
import { StageProblems } from "../Problems";
import { ToShop } from "../ToShop";
import { Dug } from "./Dug";
import { Measured } from "./Measured";
import { PriceBook } from "./PriceBook";
import { StockList } from "./StockList";
import { Tins } from "./Tins";

/** Cut: the length of every piece, stop to stop, and the sticks and coils they come from. */
export function CutSheet() {
  const { derived } = useReadyJob();
  const format = useFormat();
  const reference = useReference();
  const select = useJob((s) => s.select);
  const selected = useJob((s) => s.selected);
  const { cuts } = derived;
  return (
    <>
      <Title note="Cut lengths, socket stop to socket stop: what is inside the sockets is counted.">Cut</Title>
      <ToShop />
      <Answer stage="cut" />
      <StageProblems stage="cut" />
      <Heading note={`${cuts.pieces.length} ${cuts.pieces.length === 1 ? "piece" : "pieces"}`}>Pieces</Heading>
      <Table
        caption="Pieces"
        numbers={[0]}
        head={["length", "pipe", "from and to"]}
        of={cuts.pieces}
        row={(p) => (
          <Row key={p.id} selected={selected === p.id}>
            <td className="text-right text-[0.9375rem] font-bold whitespace-nowrap">
              <Derived kind="piece" name={p.id}>
                {format(p.length, "cut")}
              </Derived>
            </td>
            <td className="whitespace-nowrap">
              {reference.series.find((s) => s.id === p.series)?.short} {p.size}
              {p.made && <span className="block text-[0.78125rem] text-muted">with emitters</span>}
              {p.threaded && <span className="block text-[0.78125rem] text-muted">thread both ends</span>}
            </td>
            <td>
              <Button tone="quiet" className="text-left" onClick={() => select(p.id)}>
                {p.a.name === p.b.name ? `riser at ${p.a.name}` : `${p.a.name} – ${p.b.name}`}
              </Button>
              <span className="block text-[0.78125rem] text-muted">
                {p.a.takes || "open end"} · {p.b.takes || "open end"}
                {p.slack > 0 && ` · ${format(p.slack, "takeoff")} of it slack`}
                {p.dry > 0.001 && ` · stands ${format(p.dry, "takeoff")} longer dry`}
              </span>
            </td>
          </Row>
        )}
      />
      <Heading>Sticks and coils</Heading>
      <Nests quick={cuts.nests} />
      {cuts.arcs.length > 0 && <Arcs />}
      <StockList />
      <Dug />
      <PriceBook />
      <Tins />
      <Measured />
      <ConditionsHere title="Saw, offcuts and spares" names={["kerf", "keep", "spares"]} />
    </>
  );
}

/** The corners the pipe takes by itself: laid in an arc, not cut, in a trench that opens inside the corner. */
function Arcs() {
  const { derived } = useReadyJob();
  const format = useFormat();
  const select = useJob((s) => s.select);
  return (
    <>
      <Heading note="laid in an arc, not cut">Bends the pipe makes itself</Heading>
      <Table
        caption="Bends"
        numbers={[1, 2, 3, 4]}
        head={["corner", "turn", "radius", "begins before it", "trench wider"]}
      >
        {derived.cuts.arcs.map((a) => (
          <Row key={a.point}>
            <td>
              <Button tone="quiet" className="text-left" onClick={() => select(a.point)}>
                {a.name}
              </Button>
            </td>
            <td className="text-right whitespace-nowrap">{format(a.turn, "angle")}</td>
            <td className="text-right whitespace-nowrap">{format(a.radius, "cut")}</td>
            <td className="text-right whitespace-nowrap">{format(a.before, "cut")}</td>
            <td className="text-right whitespace-nowrap">{format(a.widening, "cut")}</td>
          </Row>
        ))}
      </Table>
    </>
  );
}

/** The nests of the last edit, or longer ones where a person waits for them. */
function Nests({ quick }: { quick: readonly Nest[] }) {
  const { job } = useReadyJob();
  const [longer, setLonger] = useState(0);
  const [says, setSays] = useState("");
  const queries = useQueryClient();
  const query = useQuery({
    queryKey: ["nests", job.id, job.revision],
    queryFn: ({ signal }) => api.nests(job.id, signal, setSays),
    enabled: longer === job.revision,
  });
  const nests = query.data && longer === job.revision ? query.data : quick;
  const open = nests.some((n) => n.bound < n.sticks.length);
  return (
    <>
      {nests.map((n) => (
        <NestBars key={`${n.series} ${n.size} ${n.says}`} nest={n} />
      ))}
      {open && !query.isFetching && (
        <Button onClick={() => setLonger(job.revision)}>Look longer for a better nesting</Button>
      )}
      {query.isFetching && (
        <p role="status" className="flex items-center gap-2">
          trying more ways to cut{says && `, ${says}`} …
          <Button
            onClick={() => {
              void queries.cancelQueries({ queryKey: ["nests", job.id] });
              setLonger(0);
            }}
          >
            Stop
          </Button>
        </p>
      )}
    </>
  );
}

/** A label that is shown whole or not at all: one that is wider than its box wraps to a second line, which is out of sight. */
function WholeOrNone({ children }: { children: string }) {
  return (
    <span className="block leading-8">
      <span className="inline-block w-px" />
      <span className="inline-block px-1 whitespace-nowrap" data-label>
        {children}
      </span>
    </span>
  );
}

function NestBars({ nest }: { nest: Nest }) {
  const format = useFormat();
  const reference = useReference();
  const { plan } = useReadyJob();
  const word = nest.coil ? "coil" : "stick";
  const whole = nest.sticks.filter((s) => s.cuts.length === 1 && s.rest === 0);
  const cut = nest.sticks.filter((s) => !whole.includes(s));
  return (
    <section className="mb-4" aria-label={`${nest.series} ${nest.size} ${nest.says}`}>
      <p className="font-semibold">
        {reference.series.find((s) => s.id === nest.series)?.short} {nest.size}
        {nest.says && `, ${nest.says}`}: {nest.sticks.length} {word}
        {nest.sticks.length === 1 ? "" : "s"} of{" "}
        {[...new Set(nest.sticks.map((s) => s.length))].map((long) => format(long, "length")).join(" and ")}
      </p>
      <p className="text-[0.8125rem] text-muted">
        {nest.bound === nest.sticks.length
          ? "no fewer will do"
          : `at least ${nest.bound} are needed; a better nesting may save ${nest.sticks.length - nest.bound}`}
        {!nest.coil && `, ${format(plan.conditions.kerf, "takeoff")} of saw cut counted`}
        {whole.length > 0 && `; ${whole.length} ${whole.length === 1 ? "goes" : "go"} in whole`}
        {nest.kept > 0 && `; ${nest.kept === 1 ? "one remainder is" : `${nest.kept} remainders are`} worth keeping`}
      </p>
      {[
        ...nest.offcuts.map((o) => ({ ...o, there: o.length, bought: false })),
        ...cut.map((s) => ({ ...s, there: s.length, bought: true })),
      ].map((stick, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: sticks keep their order
        <div key={i} className="my-1.5">
          <div
            aria-hidden
            className="flex h-8 border border-ink bg-paper text-[0.75rem]"
            style={{ width: `${Math.min(100, (stick.there / nest.stock) * 100)}%` }}
          >
            {stick.cuts.map(([id, length], n) => (
              <span
                // biome-ignore lint/suspicious/noArrayIndexKey: one piece may be cut twice from a stick
                key={n}
                data-segment={id}
                className="h-full overflow-hidden border-r-2 border-ink bg-panel"
                style={{ width: `${(Number(length) / stick.there) * 100}%` }}
              >
                <WholeOrNone>{format(Number(length), "cut")}</WholeOrNone>
              </span>
            ))}
          </div>
          <p className="text-[0.8125rem]">
            {!stick.bought && `Offcut of ${format(stick.there, "cut")}: `}
            {stick.cuts.map(([, length]) => format(Number(length), "cut")).join(" + ")}
            <span className="text-muted">; {format(stick.rest, "cut")} left</span>
          </p>
        </div>
      ))}
    </section>
  );
}
