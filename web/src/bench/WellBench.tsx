import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../api/client";
import type { DropPipes, Market, WellIn } from "../api/types";
import { Cautions } from "../ui/Cautions";
import { type Formatter, money } from "../ui/format";
import { Said } from "../ui/Messages";
import { Box, Button, Check, Heading, Pick, Row, Table } from "../ui/parts";
import { put } from "../ui/put";
import { Typed } from "../ui/Typed";
import { SendToJob } from "./AddToJob";
import { Borehole } from "./Borehole";
import { useInAddress } from "./inAddress";

const hole: WellIn = {
  depth: 60,
  casing: 0.128,
  static: 14,
  pump: 45,
  test_flow: 1e-3,
  test_drawdown: 6,
  flow: 8e-4,
  pressure: 300e3,
  outlet: "1-1/4",
  pump_weight: 14,
  cable_weight: 0.3,
  horsepower: 1,
  shut_off: 80,
  width: 0.0953,
  aggressive: false,
  iron: false,
  sand: false,
  hoist: true,
  school: "pulling",
  cut_in: 200e3,
  cut_out: 340e3,
  units: "metric",
  market: "both",
};

const numbers = [
  ["depth", "Depth of the well", "length"],
  ["casing", "Inside of the casing", "diameter"],
  ["static", "Water at rest, below ground", "length"],
  ["pump", "Pump set at", "length"],
  ["test_flow", "Test took", "flow"],
  ["test_drawdown", "and drew down by", "length"],
  ["flow", "Flow wanted", "flow"],
  ["pressure", "Pressure at the well head", "pressure"],
  ["shut_off", "Pump's shut-off head", "head"],
  ["width", "Pump's diameter", "diameter"],
  ["cut_in", "Pump starts at", "pressure"],
  ["cut_out", "Pump stops at", "pressure"],
  ["pump_weight", "Pump weighs", "mass"],
  ["cable_weight", "Cable weighs", "mass per length"],
] as const;

const plain = [["horsepower", "Motor, hp"]] as const;

const flags = [
  ["hoist", "a hoist pulls it"],
  ["aggressive", "aggressive water"],
  ["iron", "iron slime"],
  ["sand", "sand"],
] as const;

/** Which drop pipe: the hole drawn to scale, every candidate against every limit, and what else the well needs. */
export function WellBench({ format, market }: { format: Formatter; market: Market }) {
  const [asked, setAsked] = useInAddress<WellIn>("asked", hole);
  const whole = { ...asked, units: format.system, market };
  const query = useQuery({ queryKey: ["well", whole], queryFn: () => api.benchWell(whole), placeholderData: (b) => b });
  const failed = query.error instanceof Refused ? query.error : null;
  const found = failed ? undefined : query.data;
  return (
    <div className="asks grid gap-5 lg:grid-cols-[minmax(0,24rem)_minmax(0,1fr)]">
      <div>
        <div className="grid grid-cols-2 gap-2">
          {numbers.map(([name, label, quantity]) => (
            <Typed
              key={name}
              label={label}
              quantity={quantity}
              value={asked[name]}
              onValue={(v) => setAsked((a) => ({ ...a, [name]: v }))}
            />
          ))}
          {plain.map(([name, label]) => (
            <label key={name} className="flex flex-col text-[0.8125rem] text-muted">
              {label}
              <input
                type="number"
                step="any"
                value={asked[name]}
                className="min-h-[38px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
                onChange={({ target }) => setAsked(put(name, Number(target.value)))}
              />
            </label>
          ))}
        </div>
        <div className="mt-1 flex flex-wrap gap-x-4">
          {flags.map(([name, label]) => (
            <Check
              key={name}
              label={label}
              checked={asked[name]}
              onChange={({ target }) => setAsked(put(name, target.checked))}
            />
          ))}
        </div>
        <Pick
          label="The pump's outlet thread"
          options={["3/4", "1", "1-1/4", "1-1/2", "2", "3"].map((s) => [s, `${s} in`] as const)}
          value={asked.outlet}
          onPick={(outlet) => setAsked((a) => ({ ...a, outlet: outlet as WellIn["outlet"] }))}
        />
        <Pick
          label="Polyethylene in a well"
          options={[
            ["pulling", `not beyond ${format(30.48, "well depth")}: it cannot be unstacked`],
            ["strength", "as deep as its strength allows"],
          ]}
          value={asked.school}
          onPick={(school) => setAsked((a) => ({ ...a, school: school as WellIn["school"] }))}
        />
        {failed && <Said problem={failed.problem} />}
      </div>
      <div className="grid gap-4 xl:grid-cols-[19rem_minmax(0,1fr)]">
        <Borehole hole={asked} answer={found} format={format} />
        {found && <Judged found={found} format={format} asked={whole} />}
      </div>
    </div>
  );
}

function Judged({ found, format, asked }: { found: DropPipes; format: Formatter; asked: WellIn }) {
  const [all, setAll] = useState(false);
  const sound = found.candidates.filter((c) => c.rejected.length === 0);
  const out = found.candidates.filter((c) => c.rejected.length > 0);
  return (
    <section aria-label="Drop pipe" className="answer">
      <Box tone={sound.length && !found.pump_wrong.length ? "proved" : "dry"}>
        <p className="font-bold">{found.says}</p>
        {found.head != null && !found.pump_wrong.length && (
          <p>
            The pump makes {format(found.head, "head")} at that flow and draws about{" "}
            {((found.power ?? 0) / 1000).toFixed(2)} kW; its motor twists the string with{" "}
            {format(found.torque, "torque")}, two or three times that at the start.
          </p>
        )}
      </Box>
      <Table
        caption="Drop pipe that stands every limit"
        numbers={[1, 2, 3, 4, 5]}
        head={[
          "pipe",
          `hangs, ${format.unit("mass")}`,
          `may carry, ${format.unit("mass")}`,
          `friction, ${format.unit("head")}`,
          "energy a year",
          "cost a year",
        ]}
      >
        {(all ? sound : sound.slice(0, 6)).map((c) => (
          <Row key={c.series + c.size}>
            <td>
              <b>
                {c.name}, {c.size}
              </b>
              <span className="block text-[0.78125rem] text-muted">
                {c.joint}, {c.sticks === 1 ? "one coil" : `${c.sticks} sticks`}, at the bottom{" "}
                {format(c.bottom_shut, "pressure")} of {format(c.rating, "pressure")}
                {c.minds.length > 0 && `. To mind: ${c.minds.join("; ")}`}
              </span>
            </td>
            <td className="text-right">{format.bare(c.hanging, "mass")}</td>
            <td className="text-right">{format.bare(c.carries, "mass")}</td>
            <td className="text-right">{format.bare(c.friction, "head")}</td>
            <td className="text-right">{money(c.energy)}</td>
            <td className="text-right">{money(c.yearly)}</td>
          </Row>
        ))}
      </Table>
      <p className="mt-1 text-[0.8125rem] text-muted">{found.doubt}</p>
      <Heading
        note={
          <Button tone="quiet" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? "Fewer" : `All ${found.candidates.length}`}
          </Button>
        }
      >
        Ruled out, and by what
      </Heading>
      <ul className="text-[0.875rem]">
        {(all ? out : out.slice(0, 5)).map((c) => (
          <li key={c.series + c.size} className="border-b border-line py-1">
            <b>
              {c.name}, {c.size}
            </b>
            : {c.rejected.join("; ")}.
          </li>
        ))}
      </ul>
      <Heading>Beside the pipe</Heading>
      <ul className="list-disc pl-5">
        {found.checks.map((c) => (
          <li key={c.depth}>
            Check valve at {format(c.depth, "length")}, {c.body}: {c.says}.
          </li>
        ))}
        {found.pitless && <li>{found.pitless}</li>}
        <li>
          Pressure vessel of {format(found.vessel.volume, "volume")}, charged to{" "}
          {format(found.vessel.charge, "pressure")} when empty: it gives {format(found.vessel.drawdown, "volume")}{" "}
          between stop and start, {found.vessel.says}.
        </li>
        <li>The well gives up to {format(found.most, "flow")} before the water comes down to the pump.</li>
      </ul>
      {sound.length > 0 && (
        <SendToJob
          label="Draw this well into"
          verb="Draw it"
          done="Drawn: pump, string, check valves, pitless adapter and vessel; set the pump's own curve there."
          stage="survey"
          change={(plan) => api.layWell(asked, plan)}
        />
      )}
      <Cautions cautions={found.cautions} />
    </section>
  );
}
