import { useNames, useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { nameOf } from "../../job/kinds";
import { useFormat, useReference } from "../../ui/context";
import { Button, Row, Table } from "../../ui/parts";

export function PointsTable() {
  const { plan } = useReadyJob();
  const format = useFormat();
  const reference = useReference();
  const select = useJob((s) => s.select);
  return (
    <Table
      caption="Points"
      numbers={[1, 2]}
      head={["point", `ground, ${format.unit("level")}`, `depth, ${format.unit("depth")}`]}
      of={plan.points}
      row={(p) => (
        <Row key={p.id}>
          <td>
            <Button tone="quiet" onClick={() => select(p.id)}>
              {nameOf(reference, p)}
            </Button>
          </td>
          <td className="text-right">{format.bare(p.ground, "level")}</td>
          <td className="text-right">{format.bare(p.depth, "depth")}</td>
        </Row>
      )}
    />
  );
}

export function RunsTable() {
  const { plan, derived } = useReadyJob();
  const format = useFormat();
  const reference = useReference();
  const select = useJob((s) => s.select);
  const name = useNames();
  return (
    <Table
      caption="Runs"
      numbers={[2]}
      head={["run", "pipe", `length, ${format.unit("length")}`]}
      of={plan.runs}
      row={(r) => (
        <Row key={r.id}>
          <td>
            <Button tone="quiet" className="text-left" onClick={() => select(r.id)}>
              {name.get(r.a.point)} – {name.get(r.b.point)}
            </Button>
          </td>
          <td>
            {r.coupled
              ? "screwed together"
              : reference.series.find(
                  (s) => s.id === (r.series ?? derived.lines.series[r.id] ?? plan.conditions.series),
                )?.short}{" "}
            {r.size ?? ""}
          </td>
          <td className="text-right">{format.bare(derived.lines.lines[r.id]?.length, "length")}</td>
        </Row>
      )}
    />
  );
}
