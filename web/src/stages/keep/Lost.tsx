import { useSay, useStanding } from "../../job/hooks";
import { newEvent } from "../../job/newEvent";
import { clockTime } from "../../ui/format";
import { Said } from "../../ui/Messages";
import { Box, Button } from "../../ui/parts";

/** Joints that somebody made and the drawing no longer has: they are in the ground all the same. */
export function Lost() {
  const { lost } = useStanding().readiness;
  const { say, fault } = useSay();
  if (!lost.length) return null;
  const gone = (joints: string[]) => say([newEvent("undone", { joints })]);
  return (
    <Box tone="fault" role="note" aria-label="Made, and no longer on the drawing">
      <p className="font-semibold">
        {lost.length === 1 ? "One joint was" : `${lost.length} joints were`} made that the drawing no longer has.
      </p>
      <p>
        Take the change to the drawing back. Or cut {lost.length === 1 ? "it" : "them"} out, or mark{" "}
        {lost.length === 1 ? "it" : "them"} made where the drawing has {lost.length === 1 ? "it" : "them"} now; then say
        so here.
      </p>
      <ul className="text-[0.875rem]">
        {lost.map((j) => (
          <li key={j.joint} className="flex items-center gap-2 py-1">
            <span className="block grow first-letter:uppercase">
              {j.place}, {j.by}, {clockTime(j.at)}
            </span>
            <Button className="shrink-0" onClick={() => void gone([j.joint])}>
              Seen to
            </Button>
          </li>
        ))}
      </ul>
      {fault && <Said problem={fault} />}
    </Box>
  );
}
