import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Comparison } from "../../api/types";
import { fixSizes } from "../../job/edits";
import { useNames, useReadyJob, useSaved } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Chart } from "../../ui/Chart";
import { useFormat } from "../../ui/context";
import { money } from "../../ui/format";
import { Button, Heading, Row, Table } from "../../ui/parts";

const names: Record<string, string> = { rule: "Rule of thumb", computed: "Computed", "least cost": "Least cost" };

/** The crew's rule, the computed sizes and the cheapest proved, side by side, and what a metre of head is worth. */
export function ThreeWays() {
  const { job } = useReadyJob();
  const saved = useSaved();
  const [open, setOpen] = useState(false);
  const [says, setSays] = useState("");
  const queries = useQueryClient();
  const query = useQuery({
    queryKey: ["sizing", job.id, job.revision],
    queryFn: ({ signal }) => api.sizing(job.id, signal, setSays),
    enabled: open && saved,
    placeholderData: (before) => before,
  });
  return (
    <section aria-label="Compare sizing methods">
      <Heading>Compare sizing methods</Heading>
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close" : "Compare rule, computed and least cost"}
      </Button>
      {open && query.isFetching && (
        <p role="status" className="flex items-center gap-2">
          {says || "beginning"} …
          <Button
            onClick={() => {
              void queries.cancelQueries({ queryKey: ["sizing", job.id] });
              setOpen(false);
            }}
          >
            Stop
          </Button>
        </p>
      )}
      {open && query.isError && <p className="text-fault">{query.error.message}</p>}
      {open && query.data && <Compared found={query.data} />}
    </section>
  );
}

function Compared({ found }: { found: Comparison }) {
  const { plan } = useReadyJob();
  const format = useFormat();
  const edit = useJob((s) => s.edit);
  const select = useJob((s) => s.select);
  const name = useNames();
  const differ = plan.runs.filter((r) => new Set(found.ways.map((w) => w.sizes[r.id])).size > 1);
  return (
    <>
      <Table caption="Three ways" head={["", ...found.ways.map((w) => names[w.way] ?? w.way)]} numbers={[1, 2, 3]}>
        {(
          [
            ["pipe", (w) => money(w.pipe)],
            ["fittings, about", (w) => money(w.fittings)],
            ["pumping, all years", (w) => money(w.energy)],
            ["all", (w) => money(w.pipe + w.fittings + w.energy)],
            ["left at the worst", (w) => (w.margin == null ? "–" : format(w.margin, "pressure"))],
            ["worst placed", (w) => name.get(w.worst ?? "") ?? "–"],
            ["holds", (w) => (w.holds ? "yes" : "no")],
            ["proved", (w) => (w.proved ? "yes" : "no")],
          ] as [string, (w: Comparison["ways"][number]) => string][]
        ).map(([label, value]) => (
          <Row key={label}>
            <td>{label}</td>
            {found.ways.map((w) => (
              <td key={w.way} className={`text-right ${label === "holds" && !w.holds ? "font-bold text-dry" : ""}`}>
                {value(w)}
              </td>
            ))}
          </Row>
        ))}
      </Table>
      <p className="mt-1 text-[0.8125rem] text-muted">
        Pipe by length and fittings by count at this job's prices. Not in it: offcuts, risers, equipment, what is used
        up, the digging, anyone's hours.
      </p>
      {found.ways.map((w) => (
        <p key={w.way} className="mt-1 text-[0.8125rem] text-muted">
          <b className="text-ink">{names[w.way]}</b>: {w.says}.{" "}
          {w.way !== "computed" && (
            <Button
              tone="quiet"
              aria-label={`Take the sizes of ${names[w.way]}`}
              onClick={() => edit((p) => fixSizes(p, w.sizes))}
            >
              Take these sizes
            </Button>
          )}
        </p>
      ))}
      {differ.length > 0 && (
        <Table caption="Runs that differ" head={["run", ...found.ways.map((w) => names[w.way] ?? w.way)]}>
          {differ.map((r) => (
            <Row key={r.id}>
              <td>
                <Button tone="quiet" className="text-left" onClick={() => select(r.id)}>
                  {name.get(r.a.point)} – {name.get(r.b.point)}
                </Button>
                <span className="block text-[0.78125rem] text-muted">{found.ways.at(-1)?.why[r.id]}</span>
              </td>
              {found.ways.map((w) => (
                <td key={w.way}>{w.sizes[r.id]}</td>
              ))}
            </Row>
          ))}
        </Table>
      )}
      {found.curve.length > 1 && (
        <>
          <Chart
            title="What head is worth"
            x={{ label: "head at the source", quantity: "head", zero: false }}
            y={{ label: "cost", quantity: null, zero: false }}
            lines={[
              { name: `pipe and fittings, ${found.governs}`, points: found.curve.map((c) => [c.head, c.pipe]) },
              ...(found.curve.some((c) => c.energy > 0)
                ? [
                    {
                      name: "with pumping",
                      points: found.curve.map((c): [number, number] => [c.head, c.pipe + c.energy]),
                    },
                  ]
                : []),
            ]}
            marks={markOf(found)}
          />
          <p className="text-[0.8125rem] text-muted">{found.worth}</p>
        </>
      )}
    </>
  );
}

function markOf(found: Comparison) {
  const { head, curve } = found;
  if (head == null) return [];
  const at = curve.filter((c) => c.head <= head + 1e-9).at(-1);
  const last = curve.at(-1);
  return at && last ? [{ at: [Math.min(head, last.head), at.pipe] as const, label: "you have" }] : [];
}
