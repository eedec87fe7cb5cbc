import type { Emission } from "../../api/types";
import { useNames } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { Button, Heading, Row, Table } from "../../ui/parts";

/** What the drip rows give: the chosen one in words, or the least even one; then each with what it passes. */
export function Dripping({ found }: { found: Record<string, Emission> }) {
  const format = useFormat();
  const select = useJob((s) => s.select);
  const selected = useJob((s) => s.selected);
  const name = useNames();
  const rows = Object.values(found);
  const told = found[selected ?? ""] ?? [...rows].sort((a, b) => a.uniformity - b.uniformity)[0];
  if (!told) return null;
  return (
    <section aria-label="Drip row output">
      <Heading note={`${rows.length} ${rows.length === 1 ? "row" : "rows"}`}>Drip row output</Heading>
      <p>
        <b>{name.get(told.point)}</b>
        {told.point !== selected && rows.length > 1 ? ", the least even:" : ":"}
      </p>
      {told.says.map((says) => (
        <p key={says}>{says}</p>
      ))}
      <Table
        caption="Drip rows"
        numbers={[1, 2, 3, 4]}
        head={["row", "emitters", `in all, ${format.unit("emitter")}`, "weakest", "even"]}
        of={rows}
        row={(e) => (
          <Row key={e.point} selected={e.point === selected}>
            <td>
              <Button tone="quiet" onClick={() => select(e.point)}>
                {name.get(e.point)}
              </Button>
            </td>
            <td className="text-right">{e.emitters}</td>
            <td className="text-right">{format.bare(e.flow, "emitter")}</td>
            <td className="text-right">{format.bare(e.least, "emitter")}</td>
            <td className="text-right">{format(e.uniformity, "humidity")}</td>
          </Row>
        )}
      />
    </section>
  );
}
