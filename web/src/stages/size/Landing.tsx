import { useState } from "react";
import { api, Refused } from "../../api/client";
import type { Coverage } from "../../api/types";
import { useNames, useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat, useReference } from "../../ui/context";
import { Button, Heading, Pick, Row, Table } from "../../ui/parts";
import { Words } from "../../ui/Typed";

/** Where the water of the heads lands: what a person would say of it, then each head with what reaches it. */
export function Landing({ found }: { found: Coverage }) {
  const format = useFormat();
  const select = useJob((s) => s.select);
  const name = useNames();
  return (
    <section aria-label="Where the water lands">
      <Heading note={`${found.heads.length} ${found.heads.length === 1 ? "head" : "heads"}`}>
        Where the water lands
      </Heading>
      {found.says.map((says) => (
        <p key={says}>{says}</p>
      ))}
      <HowLong key={`${found.scenario} ${found.mean} ${found.scheduling}`} found={found} />
      <Table
        caption="Heads"
        numbers={[1, 2]}
        head={["head", `throws, ${format.unit("length")}`, `flow, ${format.unit("flow")}`]}
        of={found.heads}
        row={(h) => (
          <Row key={h.point}>
            <td>
              <Button tone="quiet" onClick={() => select(h.point)}>
                {name.get(h.point)}
              </Button>
            </td>
            <td className="text-right">{format.bare(h.throw, "length")}</td>
            <td className="text-right">{format.bare(h.flow, "flow")}</td>
          </Row>
        )}
      />
    </section>
  );
}

/** How long they run for one watering, in parts where the soil takes it in slower than it comes. */
function HowLong({ found }: { found: Coverage }) {
  const reference = useReference();
  const { plan } = useReadyJob();
  const { system } = useFormat();
  const [need, setNeed] = useState("");
  const [soil, setSoil] = useState<string>(plan.conditions.soil);
  const [says, setSays] = useState("");
  if (!found.mean) return null;
  const ask = async () => {
    try {
      const { mean, scheduling } = found;
      const told = await api.runTime({ mean: mean ?? 0, scheduling: scheduling ?? null, need, soil, units: system });
      setSays(told.says);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setSays(error.problem.detail);
    }
  };
  return (
    <form
      aria-label="How long to run"
      className="my-2 flex flex-wrap items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (need.trim()) void ask();
      }}
    >
      <Words
        label="Water to bring at once"
        value={need}
        hint={system === "us" ? "1/4 in" : "6 mm"}
        onValue={(v) => {
          setNeed(v);
          setSays("");
        }}
        live
      />
      <Pick
        label="Soil"
        options={reference.soils.map((s) => [s.soil, s.title] as const)}
        value={soil}
        onPick={(v) => {
          setSoil(v);
          setSays("");
        }}
      />
      <Button type="submit" disabled={!need.trim()}>
        How long?
      </Button>
      {says && (
        <p role="status" className="w-full font-semibold">
          {says}
        </p>
      )}
    </form>
  );
}
