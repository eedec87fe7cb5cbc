import { useState } from "react";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Button, Heading, Pick } from "../../ui/parts";
import { Typed } from "../../ui/Typed";

/** "I measured this fitting": the crew's own centre-to-stop distance, used wherever that fitting is. */
export function Measured() {
  const { plan, derived } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const used = [...new Map(derived.parts.map((p) => [p.fitting, p.name])).entries()];
  const [chosen, setChosen] = useState("");
  const [port, setPort] = useState("0");
  const fitting = used.some(([id]) => id === chosen) ? chosen : (used[0]?.[0] ?? "");
  const name = new Map(used);
  const set = (stop: number) =>
    edit((p) => ({
      ...p,
      measured: [
        ...p.measured.filter((m) => m.fitting !== fitting || m.port !== Number(port)),
        { fitting, port: Number(port), stop },
      ],
    }));
  if (!used.length) return null;
  return (
    <section aria-label="Measured fittings">
      <Heading>I measured this fitting</Heading>
      <p className="text-[0.8125rem] text-muted">
        From the fitting's centre to where the pipe stops inside it. Take-offs of the catalogue are by geometry: your
        rule is better. Openings that are alike share one measure.
      </p>
      <div className="mt-1 grid grid-cols-[2fr_1fr_1fr] items-end gap-2">
        <Pick label="Fitting" options={used} value={fitting} onPick={setChosen} />
        <Pick
          label="Opening"
          options={[
            ["0", "first"],
            ["1", "second"],
            ["2", "branch"],
            ["3", "fourth"],
          ]}
          value={port}
          onPick={setPort}
        />
        <Typed
          label="Centre to stop"
          quantity="takeoff"
          value={plan.measured.find((m) => m.fitting === fitting && m.port === Number(port))?.stop ?? null}
          hint="catalogue"
          onValue={set}
        />
      </div>
      {plan.measured.map((m) => (
        <p key={`${m.fitting}${m.port}`} className="mt-1 flex items-center justify-between text-[0.875rem]">
          {name.get(m.fitting) ?? m.fitting}, opening {m.port + 1}
          <Button
            tone="quiet"
            onClick={() =>
              edit((p) => ({ ...p, measured: p.measured.filter((x) => x.fitting !== m.fitting || x.port !== m.port) }))
            }
          >
            Back to the catalogue's
          </Button>
        </p>
      ))}
    </section>
  );
}
