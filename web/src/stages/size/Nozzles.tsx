import { useState } from "react";
import { api } from "../../api/client";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Fold } from "../../ui/parts";
import { CsvFile } from "../CsvFile";

/** Nozzle tables of the job's own: out as CSV, with the generic set to begin with, and in again. */
export function Nozzles() {
  const { plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const [told, setTold] = useState("");
  return (
    <Fold title="Nozzle tables" note={plan.nozzles.length ? `${plan.nozzles.length} of your own` : "generic"} folded>
      {plan.nozzles.length > 0 && <p>{plan.nozzles.map((n) => n.name).join(", ")}</p>}
      <CsvFile
        out={{ name: "nozzles", take: "Take them as CSV" }}
        read="Read tables: CSV or XLSX"
        label="Nozzle tables file"
        onFile={async (file) => {
          setTold("");
          const found = await api.readNozzles(file);
          const names = new Set(found.map((n) => n.name));
          setTold(`${found.length} ${found.length === 1 ? "table" : "tables"} read: give them to heads in Survey.`);
          edit((p) => ({ ...p, nozzles: [...p.nozzles.filter((n) => !names.has(n.name)), ...found] }));
        }}
      />
      {told && <p role="status">{told}</p>}
    </Fold>
  );
}
