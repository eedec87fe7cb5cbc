import { useState } from "react";
import { useSay, useStanding } from "../../job/hooks";
import { newEvent } from "../../job/newEvent";
import { Person, usePerson } from "../../job/Person";
import { clockTime } from "../../ui/format";
import { Said } from "../../ui/Messages";
import { Box, Button, Heading } from "../../ui/parts";

/** From one hand to another: what stands unfinished is told by the record itself; who hands over says what comes next, who takes over says so. */
export function HandOn() {
  const { handed } = useStanding().readiness;
  const me = usePerson();
  const { say, fault } = useSay();
  const [next, setNext] = useState("");
  const [giving, setGiving] = useState(false);
  return (
    <section aria-label="Hand it on">
      <Heading>Hand it on</Heading>
      {handed && (
        <Box tone={handed.taken_by ? "ink" : "dry"}>
          <p className="font-bold">
            {handed.by} handed it over {clockTime(handed.at)}
            {handed.taken_by
              ? `; ${handed.taken_by} took it ${handed.taken_at ? clockTime(handed.taken_at) : ""}`
              : ", and nobody has taken it yet"}
          </p>
          <p>Next: {handed.next}</p>
          <ul className="list-disc pl-5 text-[0.875rem]">
            {handed.told.map((t) => (
              <li key={t}>{t}</li>
            ))}
          </ul>
          {!handed.taken_by && (
            <Button
              big
              tone="main"
              className="mt-2"
              onClick={() => void say([newEvent("taken_over", { of: handed.id })])}
            >
              I take it over: {me}
            </Button>
          )}
        </Box>
      )}
      {fault && <Said problem={fault} />}
      {giving ? (
        <form
          className="mt-2 grid gap-2"
          onSubmit={async (e) => {
            e.preventDefault();
            if (await say([newEvent("handed_over", { note: next })])) {
              setGiving(false);
              setNext("");
            }
          }}
        >
          <Person />
          <label className="text-[0.8125rem] text-muted">
            What comes next, for whoever takes it
            <textarea
              value={next}
              maxLength={500}
              rows={2}
              className="w-full rounded-[4px] border border-edge bg-panel p-2 text-[0.9375rem] text-ink"
              onChange={(e) => setNext(e.target.value)}
            />
          </label>
          <Button type="submit" big tone="main">
            Hand it over as it stands
          </Button>
        </form>
      ) : (
        <Button className="mt-2" onClick={() => setGiving(true)}>
          Hand it over …
        </Button>
      )}
    </section>
  );
}
