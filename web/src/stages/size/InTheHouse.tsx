import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../../api/client";
import type { Derived } from "../../job/derived";
import { useNames, useReadyJob, useSaved } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { Button, Heading, Row, Table } from "../../ui/parts";

type ExpectedFlow = Derived["house"]["expected"][number];

/** Whether a run carries what the one before it in the list does: the line goes on with nothing between. */
const alike = (e: ExpectedFlow, before: ExpectedFlow | undefined) =>
  before?.fixtures === e.fixtures && before.units === e.units;

/** What is expected to run together in a house's pipes, beside everything open; and how long hot water takes to come. */
export function InTheHouse() {
  const { plan, derived } = useReadyJob();
  const format = useFormat();
  const select = useJob((s) => s.select);
  const name = useNames();
  const { expected, waits, method } = derived.house;
  if (!expected.length) return null;
  const ends = new Map(plan.runs.map((r) => [r.id, `${name.get(r.a.point)} – ${name.get(r.b.point)}`]));
  return (
    <>
      <section aria-label="What runs together">
        <Heading note={method}>What runs together</Heading>
        <Table
          caption="What runs together"
          numbers={[1, 2, 3, 4]}
          head={[
            "run",
            "sides beyond",
            "units",
            `expected, ${format.unit("flow")}`,
            `all open, ${format.unit("flow")}`,
          ]}
          of={expected.filter((e, n) => e.fixtures > 1 && !alike(e, expected[n - 1]))}
          row={(e) => (
            <Row key={e.run}>
              <td>
                <Button tone="quiet" className="text-left" onClick={() => select(e.run)}>
                  {ends.get(e.run)}
                </Button>
              </td>
              <td className="text-right">{e.fixtures}</td>
              <td className="text-right">{format.bare(e.units, "ratio")}</td>
              <td className="text-right">{format.bare(e.flow, "flow")}</td>
              <td className="text-right">{format.bare(e.all_open, "flow")}</td>
            </Row>
          )}
        />
      </section>
      {waits.length > 0 && (
        <section aria-label="Wait for hot water">
          <Heading>Wait for hot water</Heading>
          <Table
            caption="Wait for hot water"
            numbers={[1, 2, 3]}
            head={["hot side", "cooled water", "runs away in", "pipe"]}
            of={waits}
            row={(w) => (
              <Row key={w.point} className={w.late ? "text-dry" : ""}>
                <td>
                  <Button tone="quiet" onClick={() => select(w.point)}>
                    {name.get(w.point)}
                  </Button>
                  {w.late && " (long)"}
                </td>
                <td className="text-right">{format(w.volume, "volume")}</td>
                <td className="text-right">{format(w.seconds, "seconds")}</td>
                <td className="text-right">{format(w.length, "length")}</td>
              </Row>
            )}
          />
        </section>
      )}
      <EveryTwo />
    </>
  );
}

const SHOWN = 12;

/** Every two fixtures open together and nothing else: what each has, the worst placed first. */
function EveryTwo() {
  const { job } = useReadyJob();
  const saved = useSaved();
  const format = useFormat();
  const name = useNames();
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["two-open", job.id, job.revision],
    queryFn: () => api.twoOpen(job.id),
    enabled: open && saved,
    retry: false,
  });
  const found = query.data;
  return (
    <section aria-label="Every two at once">
      <Heading>Every two at once</Heading>
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close" : "Open every two fixtures together"}
      </Button>
      {open && query.isFetching && <p role="status">opening one pair after another …</p>}
      {open && query.isError && (
        <p className="text-fault">
          {query.error instanceof Refused ? query.error.problem.detail : query.error.message}
        </p>
      )}
      {open && found && (
        <>
          <p role="status">
            {!found.pairs.length
              ? "No two fixtures have water."
              : found.short
                ? `${found.short} of ${found.pairs.length} pairs are short.`
                : `None of ${found.pairs.length} pairs is short.`}
            {found.left_out > 0 && ` ${found.left_out} more were not worked out.`}
            {found.pairs.length > SHOWN && ` The ${SHOWN} worst placed:`}
          </p>
          <Table
            caption="Every two at once"
            numbers={[1, 2]}
            head={["open together", `to spare, ${format.unit("pressure")}`, `falls by, ${format.unit("pressure")}`]}
            of={found.pairs.slice(0, SHOWN)}
            row={(x) => (
              <Row key={`${x.one} ${x.two}`} className={x.short ? "text-dry" : ""}>
                <td>
                  {name.get(x.one)}, {name.get(x.two)}
                  {x.short && " (short)"}
                </td>
                <td className="text-right">{x.margins.map((m) => format.bare(m, "pressure")).join(", ")}</td>
                <td className="text-right">{x.drops.map((m) => format.bare(m, "pressure")).join(", ")}</td>
              </Row>
            )}
          />
        </>
      )}
    </section>
  );
}
