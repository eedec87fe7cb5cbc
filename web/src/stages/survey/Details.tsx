import type { Point } from "../../api/types";
import { type Detail, detailHolds, howOf } from "../../drawing/details";
import { useLook } from "../../drawing/viewStore";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Button, Fold, Row, Table } from "../../ui/parts";

/** The details of the drawing: each shown with a press, or put away. */
export function Details() {
  const { plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const { detail, showDetail } = useLook();
  const all = plan.details as Detail[];
  if (!all.length) return null;
  return (
    <Fold title="Details" note={`${all.length}`}>
      <Table caption="Details" head={["detail", "things in it", ""]}>
        {all.map((d) => (
          <Row key={d.name} selected={d.name === detail}>
            <td>
              <Button tone="quiet" onClick={() => showDetail(d.name, howOf(d))}>
                {d.name}
              </Button>
            </td>
            <td>{plan.points.filter((p) => detailHolds(d, p)).length}</td>
            <td className="text-right">
              <Button
                tone="quiet"
                aria-label={`Take out the detail ${d.name}`}
                onClick={() => {
                  if (detail === d.name) showDetail(null);
                  edit((p) => ({ ...p, details: p.details.filter((x) => x.name !== d.name) }));
                }}
              >
                Take out
              </Button>
            </td>
          </Row>
        ))}
      </Table>
    </Fold>
  );
}

/** The details a point belongs to, to go there. */
export function DetailsOf({ point }: { point: Point }) {
  const { plan } = useReadyJob();
  const showDetail = useLook((s) => s.showDetail);
  const mine = (plan.details as Detail[]).filter((d) => detailHolds(d, point));
  if (!mine.length) return null;
  return (
    <p className="mt-2 flex flex-wrap gap-2">
      {mine.map((d) => (
        <Button key={d.name} onClick={() => showDetail(d.name, howOf(d))}>
          Show its detail: {d.name}
        </Button>
      ))}
    </p>
  );
}
