import { useState } from "react";
import type { FaultFinding, NextLook } from "../../api/types";
import { useReadyJob, useSay } from "../../job/hooks";
import { has, isPiped, namesOf } from "../../job/kinds";
import { newEvent } from "../../job/newEvent";
import { useFormat, useReference } from "../../ui/context";
import { Said } from "../../ui/Messages";
import { Box, Button, Pick } from "../../ui/parts";
import { Typed } from "../../ui/Typed";
import { quantityOf, READ, useNames } from "./faultWords";

type NextReadingProps = { finding: FaultFinding; again: () => Promise<void> };

/** What to read next, what each explanation would give there, and the reading typed in. */
export function NextReading({ finding, again }: NextReadingProps) {
  const { found } = finding;
  const { plan } = useReadyJob();
  const reference = useReference();
  const format = useFormat();
  const name = useNames();
  const { say, fault } = useSay();
  const [other, setOther] = useState<string | null>(null);
  const [what, setWhat] = useState<NextLook["what"]>(found.next?.what ?? "pressure");
  const [shut, setShut] = useState(found.next?.shut ?? "");
  const [value, setValue] = useState<number | null>(null);
  const [doubt, setDoubt] = useState<number | null>(null);
  const [instrument, setInstrument] = useState("");
  const point = other ?? found.next?.point ?? "";
  const pours = found.pours.includes(point);
  const read = what === "takes" && !pours ? "flow" : what;
  const named = namesOf(reference, plan);
  const here = !other && found.next;
  const valves = plan.points.filter((p) => has(reference, p, "opens-zone"));
  const offered = finding.instruments.filter((i) => i.what === read);
  const used = offered.find((i) => i.name === instrument) ?? offered[0];
  const off = doubt ?? Math.max((used?.share ?? 0) * (value ?? 0), used?.least ?? 0);
  const enter = async () => {
    if (value === null || !point) return;
    const ok = await say([
      newEvent("observed", {
        of: point,
        seen: {
          what: read,
          value,
          error: off,
          instrument: used?.name ?? "",
          scenario: finding.scenario,
          shut,
          word: "",
        },
      }),
    ]);
    if (ok) await again();
  };
  return (
    <Box tone="water">
      <p className="font-semibold" role="status">
        {here
          ? `Next: ${here.shut ? `shut ${name(here.shut)} and ` : ""}read ${READ[here.what]} at ${name(here.point)}, about ${Math.round(here.minutes)} min.`
          : other
            ? `Read at ${name(other)}.`
            : "No other place tells more: look at the first explanations, valve by valve."}
      </p>
      {here && found.readings.length > 0 && (
        <p>
          {found.explanations
            .slice(0, 3)
            .map((e, n) =>
              e.at_next == null ? "" : `Fault ${n + 1} gives ${format(e.at_next, quantityOf(here.what))}`,
            )
            .filter(Boolean)
            .join(", ")}
          .
        </p>
      )}
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Pick
          label="At"
          options={plan.points.filter((p) => isPiped(reference, p)).map((p) => [p.id, named.get(p.id) ?? ""] as const)}
          value={point}
          onPick={setOther}
        />
        <Pick
          label="Read"
          options={[
            ["pressure", "pressure, running"],
            ["flow", "flow"],
            ...(pours ? [["takes", "what the drain takes"] as const] : []),
          ]}
          value={read}
          onPick={(v) => {
            setWhat(v as NextLook["what"]);
            setValue(null);
            setDoubt(null);
          }}
        />
        {valves.length > 0 && (
          <Pick
            label="Shut meanwhile"
            className="col-span-2"
            options={[["", "nothing else"], ...valves.map((p) => [p.id, named.get(p.id) ?? ""] as const)]}
            value={shut}
            onPick={setShut}
          />
        )}
        <Pick
          label="Read with"
          className="col-span-2"
          options={offered.map((i) => [i.name, i.name] as const)}
          value={used?.name ?? ""}
          onPick={(name) => {
            setInstrument(name);
            setDoubt(null);
          }}
        />
        <Typed label="It shows" quantity={quantityOf(read)} value={value} hint="" low={0} onValue={setValue} />
        <Typed label="Give or take" quantity={quantityOf(read)} value={off} low={0} onValue={setDoubt} />
      </div>
      {fault && <Said problem={fault} />}
      <Button className="mt-2" tone="main" disabled={value === null || !point || off <= 0} onClick={() => void enter()}>
        Enter the reading
      </Button>
    </Box>
  );
}
