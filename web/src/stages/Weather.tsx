import { useState } from "react";
import { api, Refused } from "../api/client";
import { withConditions } from "../job/conditions";
import { useJob } from "../job/jobStore";
import { useFormat } from "../ui/context";
import { Button } from "../ui/parts";

/** The coldest hour to come, taken from the simulated weather feed into the job's conditions. */
export function Weather() {
  const format = useFormat();
  const edit = useJob((s) => s.edit);
  const [said, setSaid] = useState("");
  const take = async () => {
    try {
      const { temperature, humidity } = await api.weather(24);
      edit((p) => withConditions(p, { air_temperature: temperature, humidity, weather: "feed" }));
      setSaid(
        `Simulated feed: down to ${format(temperature, "temperature")}, up to ${format(humidity, "humidity")} damp in the next 24 h.`,
      );
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setSaid(error.problem.detail);
    }
  };
  return (
    <div className="mt-2">
      <Button onClick={() => void take()}>Take the coldest hour to come from the weather feed</Button>
      {said && (
        <p role="status" className="text-[0.8125rem] text-muted">
          {said}
        </p>
      )}
    </div>
  );
}
