import type { Coverage } from "../../api/types";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { Button, Heading, Row, Table } from "../../ui/parts";

/** Where the water of the heads lands: what a person would say of it, then each head with what reaches it. */
export function Landing({ found }: { found: Coverage }) {
  const { plan } = useReadyJob();
  const format = useFormat();
  const select = useJob((s) => s.select);
  const name = new Map(plan.points.map((p) => [p.id, p.name || p.id]));
  return (
    <section aria-label="Where the water lands">
      <Heading note={`${found.heads.length} ${found.heads.length === 1 ? "head" : "heads"}`}>
        Where the water lands
      </Heading>
      {found.says.map((says) => (
        <p key={says}>{says}</p>
      ))}
      <Table
        caption="Heads"
        numbers={[1, 2]}
        head={["head", `throws, ${format.unit("length")}`, `flow, ${format.unit("flow")}`]}
        of={found.heads}
        row={(h) => (
          <Row key={h.point}>
            <td>
              <Button tone="quiet" onClick={() => select(h.point)}>
                {name.get(h.point)}
              </Button>
            </td>
            <td className="text-right">{format.bare(h.throw, "length")}</td>
            <td className="text-right">{format.bare(h.flow, "flow")}</td>
          </Row>
        )}
      />
    </section>
  );
}
