import { Box } from "../../ui/parts";
import { Words } from "../../ui/Typed";

type ShutGateProps = { says: string; to: string; reason: string; onReason: (reason: string) => void };

/** A gate that is shut: what stands in the way, and room for the reason to go on all the same. */
export function ShutGate({ says, to, reason, onReason }: ShutGateProps) {
  return (
    <Box tone="dry">
      <p>{says}.</p>
      <Words label={`Reason to ${to} all the same (kept)`} value={reason} onValue={onReason} />
    </Box>
  );
}
