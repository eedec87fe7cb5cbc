import { useState } from "react";
import { api } from "../../api/client";
import { useAsked } from "../../job/asked";
import { useReadyJob } from "../../job/hooks";
import { nameOf } from "../../job/kinds";
import { useFormat, useReference } from "../../ui/context";
import { Button, Check, Fold, Pick } from "../../ui/parts";
import { Typed } from "../../ui/Typed";

const WAYS = ["east", "north", "west", "south"] as const;

/** A room's fixtures set down at one press: the core places their wall plates, hot beside cold, each at its usual height. */
export function RoomSet() {
  const { plan } = useReadyJob();
  const reference = useReference();
  const format = useFormat();
  const { says, ask } = useAsked();
  const fixtures = reference.kinds.filter((k) => k.traits.includes("fixture"));
  const [chosen, setChosen] = useState<readonly string[]>(["wash_basin", "shower", "closet"]);
  const [start, setStart] = useState(plan.points[0]?.id ?? "");
  const [way, setWay] = useState<string>("east");
  const [apart, setApart] = useState(format.system === "us" ? 0.762 : 0.8);
  const [hot, setHot] = useState(true);
  if (!plan.points.length) return null;
  const from = plan.points.some((p) => p.id === start) ? start : (plan.points[0]?.id ?? "");
  const lay = () =>
    ask((before) =>
      api.group(
        "room",
        {
          chosen: [from],
          fixtures: fixtures.map((k) => k.kind).filter((k) => chosen.includes(k)),
          by: `${format.number(apart, "length")} ${format.unit("length")} ${way}`,
          hot,
        },
        before,
      ),
    );
  return (
    <Fold title="A room's fixtures" note="along a wall, at one press" folded={plan.about !== "house"}>
      <fieldset className="flex flex-wrap gap-x-3 gap-y-1">
        <legend className="sr-only">What stands in the room</legend>
        {fixtures.map((k) => (
          <Check
            key={k.kind}
            label={k.title}
            checked={chosen.includes(k.kind)}
            onChange={(e) => setChosen(e.target.checked ? [...chosen, k.kind] : chosen.filter((c) => c !== k.kind))}
          />
        ))}
      </fieldset>
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Pick
          label="From"
          options={plan.points.map((p) => [p.id, nameOf(reference, p)] as const)}
          value={from}
          onPick={setStart}
        />
        <Pick label="Along the wall" options={WAYS.map((w) => [w, w] as const)} value={way} onPick={setWay} />
        <Typed label="Apart by" quantity="length" value={apart} onValue={setApart} />
        <div className="flex items-end">
          <Check label="hot and cold" checked={hot} onChange={(e) => setHot(e.target.checked)} />
        </div>
      </div>
      <Button className="mt-2" disabled={!chosen.length} onClick={() => void lay()}>
        Set them down
      </Button>
      {says && (
        <p role="status" className="text-[0.875rem]">
          {says}
        </p>
      )}
    </Fold>
  );
}
