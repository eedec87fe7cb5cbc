import { useState } from "react";
import { api } from "../../api/client";
import { useAsked } from "../../job/asked";
import { useFormat } from "../../ui/context";
import { Button, Check, Heading } from "../../ui/parts";
import { Counted, Typed } from "../../ui/Typed";

/** A ring of jets laid round a tub at one press: the core sets jets, tees and pipe, and the crew leads its own pipe to the ring's tee. */
export function JetRing({ at }: { at: string }) {
  const { says, ask } = useAsked();
  const format = useFormat();
  const [jets, setJets] = useState(6);
  const [below, setBelow] = useState(format.system === "us" ? 0.3048 : 0.3);
  const [small, setSmall] = useState(false);
  const [air, setAir] = useState(true);
  const lay = () =>
    ask((before) =>
      api.group(
        "jet-ring",
        { chosen: [at], jets, below: `${format.number(below, "length")} ${format.unit("length")}`, small, air },
        before,
      ),
    );
  return (
    <section aria-label="Jets in a ring">
      <Heading>Jets in a ring</Heading>
      <div className="grid grid-cols-2 gap-2">
        <Counted label="How many" value={jets} low={2} high={24} onValue={setJets} />
        <Typed label="Below the water" quantity="cut" value={below} onValue={setBelow} />
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <Check label="small bodies" checked={small} onChange={(e) => setSmall(e.target.checked)} />
        <Check label="with air" checked={air} onChange={(e) => setAir(e.target.checked)} />
        <Button onClick={() => void lay()}>Lay the ring</Button>
      </div>
      {says && (
        <p role="status" className="text-[0.8125rem]">
          {says}
        </p>
      )}
    </section>
  );
}
