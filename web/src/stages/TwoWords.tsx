import type { JointState } from "../api/types";
import { clockTime } from "../ui/format";
import { Withdraw } from "./Withdraw";

/** Two people recorded different things of one joint: both, beside each other, each to be withdrawn; and what that means meanwhile. */
export function TwoWords({ state }: { state: JointState }) {
  if (!state.others.length && !state.clash) return null;
  const words = [
    { by: state.by, at: state.at ?? 0, what: "made it", event: state.event },
    ...state.others.map((o) => ({ by: o.by, at: o.at, what: o.what, event: o.event })),
  ];
  return (
    <section aria-label="Conflicting records" className="my-1 border-dry border-l-4 pl-3">
      <p>
        <b>Conflicting records.</b>{" "}
        {state.clash
          ? `${state.clash.charAt(0).toUpperCase()}${state.clash.slice(1)}. It counts as not tested until one is withdrawn or it is made again.`
          : "Two people recorded it as made: it cures from the later time."}
      </p>
      {state.others.length > 0 && (
        <ul>
          {words.map((w) => (
            <li key={w.event}>
              {w.by || "Somebody"} {w.what}, {clockTime(w.at)}. <Withdraw event={w.event} what={`what ${w.by} said`} />
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
