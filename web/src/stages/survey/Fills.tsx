import { useState } from "react";
import type { GroupAct } from "../../api/types";
import { useFormat } from "../../ui/context";
import { Button, Fold, Pick } from "../../ui/parts";
import { Words } from "../../ui/Typed";

export type ActProps = { act: (what: GroupAct, body: Record<string, unknown>) => Promise<void> };

/** What the area between chosen corners is filled with. */
export function Fills({ act }: ActProps) {
  return (
    <>
      <Filling act={act} />
      <Bed act={act} />
    </>
  );
}

/** An area between chosen corners, filled with heads that reach one another. */
function Filling({ act }: ActProps) {
  const { system } = useFormat();
  const [spacing, setSpacing] = useState("");
  const [pattern, setPattern] = useState("square");
  return (
    <Fold title="Fill the area between them with heads" folded>
      <div className="flex flex-wrap items-end gap-2">
        <Words
          label="Heads apart by"
          value={spacing}
          hint={system === "us" ? "30 ft" : "9 m"}
          onValue={setSpacing}
          live
        />
        <Pick
          label="Standing"
          options={[
            ["square", "square"],
            ["triangular", "triangular"],
          ]}
          value={pattern}
          onPick={setPattern}
        />
        <Button disabled={!spacing.trim()} onClick={() => void act("fill", { spacing, pattern })}>
          Fill it
        </Button>
      </div>
      <p className="text-[0.8125rem] text-muted">
        Each throws as far as the next stands; at the edge it waters what lies inside.
      </p>
    </Fold>
  );
}

/** A ring of quarter-inch tubing round each chosen pot. */
export function Rings({ act }: ActProps) {
  const us = useFormat().system === "us";
  const [radius, setRadius] = useState("");
  const [spacing, setSpacing] = useState("");
  return (
    <Fold title="A ring of drip tubing round each" folded>
      <div className="flex flex-wrap items-end gap-2">
        <Words label="From the middle" value={radius} hint={us ? "8 in" : "0.2 m"} onValue={setRadius} live />
        <Words label="Emitters apart by" value={spacing} hint={us ? "6 in" : "0.15 m"} onValue={setSpacing} live />
        <Button disabled={!radius.trim() || !spacing.trim()} onClick={() => void act("ring", { radius, spacing })}>
          Lay the rings
        </Button>
      </div>
    </Fold>
  );
}

/** A bed between chosen corners, filled with rows of emitters from its first side on. */
function Bed({ act }: ActProps) {
  const us = useFormat().system === "us";
  const [row, setRow] = useState("");
  const [spacing, setSpacing] = useState("");
  const [each, setEach] = useState("");
  return (
    <Fold title="Fill the bed between them with drip rows" folded>
      <div className="grid grid-cols-2 gap-2">
        <Words label="Rows apart by" value={row} hint={us ? "18 in" : "0.4 m"} onValue={setRow} live />
        <Words label="Emitters apart by" value={spacing} hint={us ? "12 in" : "0.3 m"} onValue={setSpacing} live />
        <Words label="Each passes" value={each} hint={us ? "0.5 gal/h" : "2 L/h"} onValue={setEach} live />
        <Button
          className="self-end"
          disabled={!row.trim() || !spacing.trim()}
          onClick={() => void act("bed", { row, spacing, each })}
        >
          Lay the rows
        </Button>
      </div>
      <p className="text-[0.8125rem] text-muted">
        Tubing along the first side, a row from there every so far, each with a plug. Measure your half-inch tubing
        outside before you buy for it: it comes in several, and one's fittings leak on another.
      </p>
    </Fold>
  );
}
