import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, exportLink, Refused } from "../../api/client";
import type { Plan, Schedule } from "../../api/types";
import { useReadyJob, useSaved } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { changeWatering } from "../../job/zones";
import { useReference } from "../../ui/context";
import { Button, Fold, Pick, Row, Table } from "../../ui/parts";
import { Counted, Words } from "../../ui/Typed";
import { WeatherAsked } from "./WeatherAsked";

/** When zones are watered: what the plants need in the weather to come, and every opening in its turn. */
export function WhenToWater() {
  const { job } = useReadyJob();
  const saved = useSaved();
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["watering", job.id, job.revision],
    queryFn: () => api.watering(job.id),
    enabled: open && saved,
    retry: false,
  });
  return (
    <Fold title="When to water" folded>
      <Asked />
      <WeatherAsked />
      {!open && (
        <Button className="mt-2" onClick={() => setOpen(true)}>
          Work out when
        </Button>
      )}
      {open && query.isError && (
        <p role="alert" className="mt-2 text-fault">
          {query.error instanceof Refused ? query.error.problem.detail : query.error.message}
        </p>
      )}
      {open && query.isPending && <p className="text-muted">working it out …</p>}
      {open && query.data && <Day found={query.data} />}
    </Fold>
  );
}

function Asked() {
  const { plan } = useReadyJob();
  const reference = useReference();
  const edit = useJob((s) => s.edit);
  const { plants, latitude, begins, stations } = plan.watering;
  const [says, setSays] = useState("");
  const hour = `${Math.floor(begins / 3600)}:${String(Math.round((begins % 3600) / 60)).padStart(2, "0")}`;
  const start = (text: string) => {
    const read = /^\s*(\d{1,2})(?:[:.](\d{2}))?\s*$/.exec(text);
    const seconds = read ? Number(read[1]) * 3600 + Number(read[2] ?? 0) * 60 : -1;
    if (seconds < 0 || seconds >= 86400 || Number(read?.[2] ?? 0) > 59) {
      setSays(`${text.trim()} is no time of the day; type one such as 4:30.`);
      return;
    }
    setSays("");
    edit((p) => changeWatering(p, { begins: seconds }));
  };
  return (
    <div className="grid grid-cols-2 gap-2">
      <Pick
        label="What is watered"
        options={reference.plants.map((p) => [p.plant, p.title] as const)}
        value={plants}
        onPick={(v) => edit((p) => changeWatering(p, { plants: v as Plan["watering"]["plants"] }))}
      />
      <Pick
        label="Soil"
        options={reference.soils.map((s) => [s.soil, s.title] as const)}
        value={plan.conditions.soil}
        onPick={(v) => edit((p) => ({ ...p, conditions: { ...p.conditions, soil: v as Plan["conditions"]["soil"] } }))}
      />
      <Counted
        label="Latitude, degrees (south below 0)"
        value={latitude}
        low={-66}
        high={66}
        onValue={(v) => edit((p) => changeWatering(p, { latitude: v }))}
      />
      <Counted
        label="Stations of the controller"
        value={stations}
        low={1}
        high={200}
        onValue={(v) => edit((p) => changeWatering(p, { stations: v }))}
      />
      <Words label="It begins at" value={hour} onValue={start} />
      {says && (
        <p role="alert" className="self-end text-[0.8125rem] text-fault">
          {says}
        </p>
      )}
    </div>
  );
}

function Day({ found }: { found: Schedule }) {
  const { job } = useReadyJob();
  const [told, setTold] = useState("");
  const [why, setWhy] = useState<string | null>(null);
  const give = async (override: string) => {
    try {
      setTold((await api.loadController(job.id, override)).says);
      setWhy(null);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setTold(error.problem.detail);
      setWhy("");
    }
  };
  return (
    <section aria-label="A watering day" className="mt-2">
      <p className="font-semibold">{found.says}</p>
      <p>{found.need.says}</p>
      <p className="text-[0.8125rem] text-muted">Weather: {found.need.weather}.</p>
      <Table
        caption="Zones and how long they run"
        numbers={[0]}
        head={["station", "zone", "how long"]}
        of={found.runs}
        row={(r) => (
          <Row key={r.zone} className={r.fault ? "text-dry" : ""}>
            <td className="text-right">{r.station}</td>
            <td>{r.name}</td>
            <td>{r.fault || r.says}</td>
          </Row>
        )}
      />
      <Table
        caption="Openings"
        numbers={[0, 2]}
        head={["begins", "zone", "minutes"]}
        of={found.openings}
        row={(o) => (
          <Row key={`${o.zone} ${o.begins}`}>
            <td className="text-right whitespace-nowrap">{o.at}</td>
            <td>{o.name}</td>
            <td className="text-right">{Math.round(o.seconds / 60)}</td>
          </Row>
        )}
      />
      <p className="mt-2 flex flex-wrap gap-3">
        <a className="text-water underline pointer-coarse:py-3" href={exportLink(job.id, "watering")}>
          Add to calendar
        </a>
        <a className="text-water underline pointer-coarse:py-3" href={exportLink(job.id, "schedule")}>
          as a table
        </a>
        <Button onClick={() => void give("")}>Give it to the controller</Button>
      </p>
      {told && <p role="status">{told}</p>}
      {why !== null && (
        <div className="flex flex-wrap items-end gap-2">
          <Words label="Water all the same, because" value={why} onValue={setWhy} live />
          <Button tone="dry" disabled={!why.trim()} onClick={() => void give(why)}>
            Give it all the same
          </Button>
        </div>
      )}
    </section>
  );
}
