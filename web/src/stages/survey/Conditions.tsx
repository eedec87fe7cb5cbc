import { useState } from "react";
import { api } from "../../api/client";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat, useReference } from "../../ui/context";
import { Button, Pick } from "../../ui/parts";
import { Fields } from "../Fields";
import { Practices } from "./Practices";

/** The job's conditions, limits and house practice. */
export function Conditions() {
  const { plan } = useReadyJob();
  const format = useFormat();
  const [said, setSaid] = useState("");
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const set = (change: Record<string, unknown>) => edit((p) => ({ ...p, conditions: { ...p.conditions, ...change } }));
  const fromWeather = async () => {
    const found = await api.weather(24);
    set({ air_temperature: found.temperature, humidity: found.humidity });
    setSaid(
      `Simulated feed: down to ${format(found.temperature, "temperature")}, up to ${format(found.humidity, "humidity")} damp in the next 24 h.`,
    );
  };
  return (
    <>
      <Pick
        label="Pipe where none is chosen"
        className="mb-2"
        options={reference.series.filter((s) => s.kind === "pressure").map((s) => [s.id, s.name] as const)}
        value={plan.conditions.series}
        onPick={(series) => set({ series })}
      />
      <Pick
        label="What the shop sells"
        className="mb-2"
        options={reference.markets.map((m) => [m.market, m.title] as const)}
        value={plan.conditions.market}
        onPick={(market) => set({ market })}
      />
      <Fields
        fields={reference.conditions.filter((f) => f.name !== "series" && f.name !== "market")}
        values={plan.conditions}
        onChange={set}
      />
      <div className="mt-2">
        <Button onClick={() => void fromWeather()}>Take the coldest hour to come from the weather feed</Button>
        {said && (
          <p role="status" className="text-[13px] text-muted">
            {said}
          </p>
        )}
      </div>
      <Practices />
    </>
  );
}
