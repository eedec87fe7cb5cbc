import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import type { BranchWay, Market } from "../api/types";
import { money } from "../ui/format";
import { Button, Heading, Row, Table } from "../ui/parts";
import type { Chosen } from "./ThingPick";

/** The same two things as a branch: taken off the middle of the first pipe. */
export function Branching({ line, off, market }: { line: Chosen; off: Chosen; market: Market }) {
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["branch", line, off, market],
    queryFn: () => api.benchBranch({ line, off, market }),
    enabled: open,
  });
  return (
    <section aria-label="Branch off" className="mt-3">
      <Button aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close the branches" : "Or branch it off the middle of the first pipe"}
      </Button>
      {open && query.data && <BranchTable ways={query.data} />}
    </section>
  );
}

/** The ways to take a branch off a line, fewest joints first. */
export function BranchTable({ ways }: { ways: readonly BranchWay[] }) {
  return (
    <>
      <Heading note="fewest joints first">Ways to branch</Heading>
      {ways.length === 0 && <p>No tee or saddle of ours takes these two.</p>}
      <Table caption="Ways to branch" head={["joints", "parts", "price"]} numbers={[2]}>
        {ways.map((w) => (
          <Row key={w.says}>
            <td>{w.joints}</td>
            <td>
              {w.says}
              <span className="block text-[0.8125rem] text-muted">{w.why}</span>
            </td>
            <td className="text-right">{money(w.price)}</td>
          </Row>
        ))}
      </Table>
    </>
  );
}
