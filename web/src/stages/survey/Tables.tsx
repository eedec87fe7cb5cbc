import { useFormat, useReference } from "../../app/context";
import { useJob, useReadyJob } from "../../app/jobStore";
import { Button, Row, Table } from "../../ui/parts";
import { titles } from "../planEdit";

export function PointsTable() {
  const { plan } = useReadyJob();
  const format = useFormat();
  const reference = useReference();
  const select = useJob((s) => s.select);
  const title = titles(reference);
  return (
    <Table
      caption="Points"
      numbers={[1, 2]}
      head={["point", `ground, ${format.unit("level")}`, `depth, ${format.unit("depth")}`]}
    >
      {plan.points.map((p) => (
        <Row key={p.id}>
          <td>
            <Button tone="quiet" onClick={() => select(p.id)}>
              {p.name || `${title.get(p.what.kind)} ${p.id}`}
            </Button>
          </td>
          <td className="text-right">{format.bare(p.ground, "level")}</td>
          <td className="text-right">{format.bare(p.depth, "depth")}</td>
        </Row>
      ))}
    </Table>
  );
}

export function RunsTable() {
  const { job, plan } = useReadyJob();
  const format = useFormat();
  const reference = useReference();
  const select = useJob((s) => s.select);
  const name = new Map(plan.points.map((p) => [p.id, p.name || p.id]));
  return (
    <Table caption="Runs" numbers={[2]} head={["run", "pipe", `length, ${format.unit("length")}`]}>
      {plan.runs.map((r) => (
        <Row key={r.id}>
          <td>
            <Button tone="quiet" className="text-left" onClick={() => select(r.id)}>
              {name.get(r.a)} – {name.get(r.b)}
            </Button>
          </td>
          <td>
            {reference.series.find((s) => s.id === (r.series ?? plan.conditions.series))?.short} {r.size ?? ""}
          </td>
          <td className="text-right">{format.bare(job.derived.layout.lines[r.id]?.length, "length")}</td>
        </Row>
      ))}
    </Table>
  );
}
