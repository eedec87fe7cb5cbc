import type { JointState } from "../api/types";
import { clockTime } from "../ui/format";

/** Two people said otherwise of one joint: both words beside each other, and which of them stands. */
export function TwoWords({ state }: { state: JointState }) {
  if (!state.others.length) return null;
  const when = state.at === null ? "" : `, ${clockTime(state.at)}`;
  return (
    <span className="my-1 block border-dry border-l-4 pl-3">
      <b>Two words on this joint.</b> {state.by || "Somebody"} made it{when}: that stands.{" "}
      {state.others.map((o) => `${o.by || "Somebody"} ${o.what}, ${clockTime(o.at)}.`).join(" ")} Look at it together;
      if it is not as that says, take it back.
    </span>
  );
}
