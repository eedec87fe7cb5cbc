import { memo } from "react";
import type { Flow, OutletFlow } from "../../api/types";
import { Derived } from "../../job/Derived";
import { useNames, useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { Box, Button, Row, Table } from "../../ui/parts";

/** What is open in a scenario, the worst placed first in words; and what stands shut in it, with what it would give. */
export const Outlets = memo(function Outlets({ flow }: { flow: Flow }) {
  const { derived } = useReadyJob();
  const format = useFormat();
  const name = useNames();
  const worst = flow.worst ? flow.outlets[flow.worst] : null;
  return (
    <section aria-label="Outlets">
      {worst && (
        <Box tone={worst.short ? "dry" : "proved"}>
          The worst placed is <b>{name.get(worst.point)}</b>: {format(worst.pressure, "pressure")} where it wants{" "}
          {format(worst.needs, "pressure")}
          {worst.short ? ". It is short." : `, ${format(worst.margin, "pressure")} to spare.`}
        </Box>
      )}
      <Table
        caption="Outlets"
        numbers={[1, 2, 3]}
        head={["outlet", `pressure, ${format.unit("pressure")}`, "wants", `flow, ${format.unit("flow")}`]}
        of={Object.values(flow.outlets)}
        row={(o) => (
          <Row key={o.point} className={o.short ? "text-dry" : ""}>
            <td>
              {name.get(o.point)}
              {o.short && " (short)"}
            </td>
            <td className="text-right">
              <Derived kind="pressure" name={o.point} scenario={flow.scenario}>
                {format.bare(o.pressure, "pressure")}
              </Derived>
            </td>
            <td className="text-right">{format.bare(o.needs, "pressure")}</td>
            <td className="text-right">{format.bare(o.flow, "flow")}</td>
          </Row>
        )}
      />
      <Shut found={Object.values(derived.shut[flow.scenario] ?? {})} />
    </section>
  );
});

/** Taps and hydrants that are shut: how each would stand if it were opened beside all that is open. */
function Shut({ found }: { found: readonly OutletFlow[] }) {
  const format = useFormat();
  const select = useJob((s) => s.select);
  const name = useNames();
  if (!found.length) return null;
  return (
    <Table
      caption="Shut now, and what each would have if it were opened too"
      numbers={[1, 2, 3]}
      head={["shut; if opened too", format.unit("pressure"), "wants", `flow, ${format.unit("flow")}`]}
      of={found}
      row={(o) => (
        <Row key={o.point} className={o.short ? "text-dry" : "text-muted"}>
          <td>
            <Button tone="quiet" onClick={() => select(o.point)}>
              {name.get(o.point)}
            </Button>
            {o.short && " (too little)"}
          </td>
          <td className="text-right">{format.bare(o.pressure, "pressure")}</td>
          <td className="text-right">{format.bare(o.needs, "pressure")}</td>
          <td className="text-right">{format.bare(o.flow, "flow")}</td>
        </Row>
      )}
    />
  );
}
