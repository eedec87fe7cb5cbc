import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import { useReadyJob, useSaved } from "../../job/hooks";
import { Chart } from "../../ui/Chart";
import { useFormat } from "../../ui/context";

/** A pump's curve against the system in every scenario, with the places where they meet. */
export function OperatingChart({ point }: { point: string }) {
  const { job } = useReadyJob();
  const format = useFormat();
  const saved = useSaved();
  const query = useQuery({
    queryKey: ["operating", job.id, job.revision, point],
    queryFn: () => api.operating(job.id, point),
    enabled: saved,
    placeholderData: (before) => before,
  });
  if (!query.data) return null;
  const { name, pump, systems } = query.data;
  return (
    <section aria-label="Pump and system">
      <Chart
        title={`${name} and what it feeds`}
        x={{ label: "flow", quantity: "flow" }}
        y={{ label: "head", quantity: "head" }}
        lines={[
          { name: "pump", points: pump },
          ...systems.map((s) => ({
            name: `${s.scenario}: ${format(s.flow, "flow")} at ${format(s.head, "head")}`,
            points: s.curve,
          })),
        ]}
        marks={systems.map((s) => ({ at: [s.flow, s.head] as const, label: "" }))}
      />
    </section>
  );
}
