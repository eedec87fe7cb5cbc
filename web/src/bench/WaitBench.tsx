import { useQuery } from "@tanstack/react-query";
import { api, Refused } from "../api/client";
import type { Reference, Waits } from "../api/types";
import { withConditions } from "../job/conditions";
import { Cautions } from "../ui/Cautions";
import { clockTime, type Formatter, wait } from "../ui/format";
import { Said } from "../ui/Messages";
import { Box, Pick, Row, Table } from "../ui/parts";
import { Typed } from "../ui/Typed";
import { useNow } from "../ui/useNow";
import { SendToJob } from "./AddToJob";
import { useInAddress } from "./inAddress";

/** When may water come in: the waits of one joint, by every school, from now on. */
export function WaitBench({ reference, format }: { reference: Reference; format: Formatter }) {
  const [method, setMethod] = useInAddress("method", "solvent weld");
  const [size, setSize] = useInAddress("size", "1");
  const [asked, setAsked] = useInAddress("asked", { temperature: 288.15, humidity: 0.5, pressure: 6e5 });
  const sizes = reference.waits[method] ?? [];
  const methods = Object.keys(reference.waits).map((m) => [m, `${m.charAt(0).toUpperCase()}${m.slice(1)}`] as const);
  const whole = { method, size: sizes.includes(size) ? size : (sizes[0] ?? ""), ...asked, units: format.system };
  const query = useQuery({ queryKey: ["wait", whole], queryFn: () => api.benchWait(whole), placeholderData: (b) => b });
  const failed = query.error instanceof Refused ? query.error : null;
  const found = failed ? undefined : query.data;
  return (
    <div className="asks grid grid-cols-[minmax(0,1fr)] gap-5 lg:grid-cols-[minmax(0,24rem)_minmax(0,1fr)]">
      <div className="grid content-start gap-2">
        <Pick label="Joint" options={methods} value={method} onPick={setMethod} />
        {sizes.length > 0 && (
          <Pick label="Size" options={sizes.map((s) => [s, s] as const)} value={whole.size} onPick={setSize} />
        )}
        {method === "solvent weld" && (
          <>
            <Typed
              label="Coldest until then"
              quantity="temperature"
              value={asked.temperature}
              onValue={(temperature) => setAsked((a) => ({ ...a, temperature }))}
            />
            <Typed
              label="Dampest until then"
              quantity="humidity"
              value={asked.humidity}
              onValue={(humidity) => setAsked((a) => ({ ...a, humidity }))}
            />
            <Typed
              label="It will be tested at"
              quantity="pressure"
              value={asked.pressure}
              onValue={(pressure) => setAsked((a) => ({ ...a, pressure }))}
            />
          </>
        )}
        {method === "solvent weld" && (
          <SendToJob
            label="These conditions to"
            verb="Send them"
            done="It cures by them."
            stage="make"
            change={async (plan) =>
              withConditions(plan, { air_temperature: asked.temperature, humidity: asked.humidity })
            }
          />
        )}
        {failed && <Said problem={failed.problem} />}
      </div>
      {found && <Answered found={found} />}
    </div>
  );
}

function Answered({ found }: { found: Waits }) {
  const now = useNow(true);
  const usual = found.schools.find((s) => s.usual);
  const then = (seconds: number) => (seconds > 0 ? `${wait(seconds)}, at ${clockTime(now + seconds)}` : "at once");
  return (
    <section aria-label="The waits" className="answer">
      {usual && (
        <Box tone={usual.test > 0 ? "curing" : "proved"}>
          <p className="text-2xl font-bold">
            {usual.test > 0 ? `Fill it slowly in ${then(usual.fill)}` : "Water may come in"}
          </p>
          {usual.test > usual.fill && <p className="text-lg">Full test in {then(usual.test)}.</p>}
          {usual.test > 0 && usual.test === usual.fill && (
            <p className="text-lg">It may take its full test then too.</p>
          )}
          <p className="first-letter:uppercase">{found.says}.</p>
        </Box>
      )}
      {found.hold > 0 && (
        <p className="text-lg">
          Made now: hold it {wait(found.hold)}, let nothing pull on it for {wait(found.set)}
          {found.handle > found.set && `, do not lift or lower it for ${wait(found.handle)}`}.
        </p>
      )}
      {found.schools.length > 1 && (
        <Table caption="What each school waits" head={["school", "fill slowly", "full test"]}>
          {found.schools.map((s) => (
            <Row key={s.option} selected={s.usual}>
              <td>
                <b className="inline-block first-letter:uppercase">{s.says}</b>
                <span className="block text-[0.8125rem] text-muted">
                  {s.usual && "The usual one. "}
                  {s.reason}
                  {s.floored && " The table asks for longer here, and decides."}
                </span>
              </td>
              <td>{then(s.fill)}</td>
              <td>{then(s.test)}</td>
            </Row>
          ))}
        </Table>
      )}
      <p className="mt-2 text-[0.8125rem] text-muted">{found.source}. Where the tin asks for longer, the tin wins.</p>
      <Cautions cautions={found.cautions} />
    </section>
  );
}
