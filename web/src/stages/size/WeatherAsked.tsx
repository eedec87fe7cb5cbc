import type { Plan } from "../../api/types";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { changeWatering } from "../../job/zones";
import { Pick } from "../../ui/parts";
import { Typed } from "../../ui/Typed";

type Weather = NonNullable<Plan["watering"]["weather"]>;
const MILD: Weather = { warmest: 298.15, coldest: 286.15, dampest: null, driest: null, wind: null, sun: null };
const DEGREES = { low: 220, high: 335, limits: "weather on earth is from −53 to 61 °C (−64 to 143 °F)" };
const DAMP = { low: 0, high: 1, limits: "from 0 to 100 %" };

/** The days to water for: what the feed foretells, or the crew's own figures; what is not known of them is left blank. */
export function WeatherAsked() {
  const { plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const mine = plan.watering.weather ?? null;
  const own = (change: Partial<Weather>) =>
    edit((p) => changeWatering(p, { weather: { ...(p.watering.weather ?? MILD), ...change } }));
  return (
    <div className="mt-2 grid grid-cols-2 gap-2">
      <Pick
        label="Weather"
        className="col-span-2"
        options={[
          ["feed", "what the feed foretells for the week"],
          ["own", "the figures below"],
        ]}
        value={mine ? "own" : "feed"}
        onPick={(v) => edit((p) => changeWatering(p, { weather: v === "own" ? (p.watering.weather ?? MILD) : null }))}
      />
      {mine && (
        <>
          <Typed
            label="Warmest of the day"
            quantity="temperature"
            value={mine.warmest}
            {...DEGREES}
            onValue={(warmest) => own({ warmest })}
          />
          <Typed
            label="Coldest of the day"
            quantity="temperature"
            value={mine.coldest}
            {...DEGREES}
            onValue={(coldest) => own({ coldest })}
          />
          <Typed
            label="Dampest, blank if not known"
            quantity="humidity"
            value={mine.dampest ?? null}
            {...DAMP}
            onValue={(dampest) => own({ dampest })}
            onClear={() => own({ dampest: null })}
          />
          <Typed
            label="Driest, blank if not known"
            quantity="humidity"
            value={mine.driest ?? null}
            {...DAMP}
            onValue={(driest) => own({ driest })}
            onClear={() => own({ driest: null })}
          />
          <Typed
            label="Wind, blank if not known"
            quantity="wind"
            value={mine.wind ?? null}
            low={0}
            high={60}
            limits="from calm to 60 m/s (134 mph)"
            onValue={(wind) => own({ wind })}
            onClear={() => own({ wind: null })}
          />
          <Typed
            label="Hours of sun, blank if not known"
            quantity="hours"
            value={mine.sun ?? null}
            low={0}
            high={86400}
            limits="from none to 24 h"
            onValue={(sun) => own({ sun })}
            onClear={() => own({ sun: null })}
          />
        </>
      )}
      <Typed
        label="Height above the sea"
        quantity="length"
        value={plan.watering.altitude}
        low={-430}
        high={6000}
        limits="from −430 to 6,000 m (−1,400 to 19,700 ft)"
        onValue={(altitude) => edit((p) => changeWatering(p, { altitude }))}
      />
    </div>
  );
}
