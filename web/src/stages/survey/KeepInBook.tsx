import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answered } from "../../api/answered";
import { api, Refused } from "../../api/client";
import type { KindView, OwnThing, Point, ProblemDocument } from "../../api/types";
import { Said } from "../../ui/Messages";
import { Button } from "../../ui/parts";
import { Words } from "../../ui/Typed";

/** Keep a thing with its numbers and ends in the crew's book, to be set down again in any job. */
export function KeepInBook({ point, kind }: { point: Point; kind: KindView }) {
  const queries = useQueryClient();
  const [name, setName] = useState<string | null>(null);
  const [kept, setKept] = useState("");
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const keep = async () => {
    const thing: OwnThing = { name: (name ?? "").trim(), what: point.what, ports: point.ports, note: "" };
    try {
      await answered(
        queries,
        "book",
        await api.addToBook(JSON.stringify({ format: "hydrarch/book/1", things: [thing] })),
      );
      setKept(thing.name);
      setName(null);
      setFault(null);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem);
    }
  };
  if (name === null)
    return (
      <p className="mt-2">
        <Button onClick={() => setName(point.name || kind.title)}>Save to crew parts</Button>
        {kept && (
          <span className="ml-2 text-[0.8125rem] text-muted" role="status">
            {kept} is saved. Place it from "Crew parts".
          </span>
        )}
      </p>
    );
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2">
      <Words label="Name in the book" value={name} onValue={setName} />
      <Button tone="main" onClick={() => void keep()}>
        Keep
      </Button>
      <Button tone="quiet" onClick={() => setName(null)}>
        Leave it
      </Button>
      {fault && <Said problem={fault} />}
    </div>
  );
}
