import { useState } from "react";
import { api, Refused } from "../../api/client";
import type { ProblemDocument } from "../../api/types";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { nameOf } from "../../job/kinds";
import { useReference } from "../../ui/context";
import { Said } from "../../ui/Messages";
import { Button, Fold, Pick } from "../../ui/parts";
import { Typed, Words } from "../../ui/Typed";

/** Where the drawing lies on the earth: by one of its spots, as a phone or a map shows that place. */
export function OnEarth() {
  const reference = useReference();
  const { plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const [spot, setSpot] = useState("");
  const [text, setText] = useState("");
  const [turn, setTurn] = useState(plan.tie?.turn ?? 0);
  const [problem, setProblem] = useState<ProblemDocument | null>(null);
  const at = plan.points.find((p) => p.id === spot);
  const tie = async () => {
    try {
      const found = await api.readPlace(text, at?.x ?? 0, at?.y ?? 0, turn);
      edit((p) => ({ ...p, tie: found.tie }));
      setProblem(null);
      setText("");
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setProblem(error.problem);
    }
  };
  return (
    <Fold title="Where on earth it lies" note={plan.tie ? "said" : "not said"} folded>
      <p className="text-[0.875rem] text-muted">
        {plan.tie
          ? `The drawing's origin lies at ${plan.tie.latitude.toFixed(6)}, ${plan.tie.longitude.toFixed(6)}. Points in degrees are set down by that, and maps go out there.`
          : "Say it, and points in degrees are set down where they are, and maps go out where the job lies."}
      </p>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <Pick
          label="The place of"
          className="min-w-36 flex-1"
          options={[["", "the drawing's origin"], ...plan.points.map((p) => [p.id, nameOf(reference, p)] as const)]}
          value={spot}
          onPick={setSpot}
        />
        <Words
          label="Latitude and longitude"
          className="min-w-44 flex-1"
          hint="51.4779, -0.0015"
          value={text}
          onValue={setText}
          live
        />
        <Typed
          label="Its north, right of true north"
          quantity="bearing"
          value={turn}
          onValue={setTurn}
          className="min-w-28"
        />
        <Button disabled={!text.trim()} onClick={() => void tie()}>
          Say it lies there
        </Button>
        {plan.tie && <Button onClick={() => edit((p) => ({ ...p, tie: null }))}>Take it back</Button>}
      </div>
      {problem && <Said problem={problem} />}
    </Fold>
  );
}
