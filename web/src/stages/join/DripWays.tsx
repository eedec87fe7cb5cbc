import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Button, Fold, Row, Table } from "../../ui/parts";

/** The ways to join drip tubing, for the joints this job has on it: that for a new hand first, with the reason. */
export function DripWays() {
  const { derived, plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const { tubing } = derived;
  if (!tubing.length) return null;
  const chosen = plan.practices?.drip_joint ?? "barb";
  const take = (way: string) => edit((p) => ({ ...p, practices: { ...p.practices, drip_joint: way } }));
  return (
    <Fold title="Ways to join the drip tubing" note={`${tubing[0]?.joints} joints`} folded>
      <Table
        caption="Ways to join the drip tubing"
        numbers={[1, 2]}
        head={["way", "min", "price to a barb's"]}
        of={tubing}
        row={(w) => (
          <Row key={w.way}>
            <td>
              <b>{w.title}</b>
              <span className="block">
                Used again: {w.reuse}. Skill: {w.skill}.
              </span>
              <span className="block text-[0.78125rem] text-muted">{w.reason}</span>
              {w.way === chosen ? (
                <b className="block text-proved">This job's tubing is joined so.</b>
              ) : (
                <Button onClick={() => take(w.way)}>Join the tubing so</Button>
              )}
            </td>
            <td className="text-right">{Math.max(1, Math.round(w.seconds / 60))}</td>
            <td className="text-right">{w.times.toFixed(1)}</td>
          </Row>
        )}
      />
      <p className="text-[0.8125rem] text-muted">
        Prices and times from memory. Coils lie an hour in the sun before they are laid; small tubing is softened in hot
        water, never with a flame. Black tubing lasts in light; white stays cool and slows algae under glass.
      </p>
    </Fold>
  );
}
