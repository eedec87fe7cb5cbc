import { useNames, useReadyJob } from "../../job/hooks";
import { useFormat } from "../../ui/context";
import { Heading, Row, Table } from "../../ui/parts";

/** Every scenario in a row: what it draws, its worst placed outlet, its fastest run. */
export function ScenarioTable() {
  const { derived } = useReadyJob();
  const format = useFormat();
  const name = useNames();
  const flows = Object.values(derived.sizes.flows);
  if (flows.length < 2) return null;
  return (
    <section aria-label="Scenarios side by side">
      <Heading>Scenarios side by side</Heading>
      <Table
        caption="Scenarios"
        head={[
          "scenario",
          `draws, ${format.unit("flow")}`,
          "worst placed",
          `to spare, ${format.unit("pressure")}`,
          `fastest, ${format.unit("velocity")}`,
        ]}
        numbers={[1, 3, 4]}
      >
        {flows.map((f) => {
          const worst = f.worst ? f.outlets[f.worst] : undefined;
          return (
            <Row key={f.scenario}>
              <td>{f.name}</td>
              <td className="text-right">
                {format.bare(
                  Object.values(f.outlets).reduce((s, o) => s + o.flow, 0),
                  "flow",
                )}
              </td>
              <td>{worst ? name.get(worst.point) : "–"}</td>
              <td className={`text-right ${worst?.short ? "font-bold text-dry" : ""}`}>
                {worst ? format.bare(worst.margin, "pressure") : "–"}
              </td>
              <td className="text-right">
                {format.bare(Math.max(0, ...Object.values(f.runs).map((r) => r.velocity)), "velocity")}
              </td>
            </Row>
          );
        })}
      </Table>
    </section>
  );
}
