import { useState } from "react";
import { api } from "../../api/client";
import type { TwoShops as Found } from "../../api/types";
import { useReadyJob, useSaved } from "../../job/hooks";
import { money } from "../../ui/format";
import { Row, Table } from "../../ui/parts";
import { CsvFile } from "../CsvFile";

/** The list by your own prices and by another shop's book, side by side; nothing of the other book is kept. */
export function TwoShops() {
  const { job } = useReadyJob();
  const saved = useSaved();
  const [found, setFound] = useState<Found | null>(null);
  return (
    <section aria-label="Another shop" className="mt-2">
      {saved ? (
        <CsvFile
          read="Compare with another shop's prices"
          label="Another shop's price book"
          onFile={async (file) => {
            setFound(null);
            setFound(await api.comparePrices(job.id, file));
          }}
        />
      ) : (
        <p className="text-muted">Another shop can be compared once your prices are saved.</p>
      )}
      {found && <Compared found={found} />}
    </section>
  );
}

function Compared({ found }: { found: Found }) {
  const priced = found.rows.filter((r) => r.here !== null || r.there !== null);
  const rest = [
    found.only_here > 0 && `${found.only_here} only in yours`,
    found.only_there > 0 && `${found.only_there} only in the other`,
    found.unpriced > 0 && `${found.unpriced} in neither`,
  ].filter(Boolean);
  return (
    <>
      <p role="status" className="mt-1">
        {found.alike === false
          ? "The two books are in different currencies: only the rows are shown, and no sum."
          : found.both === 0
            ? "No part of this list has a price in both books."
            : `${found.both} ${found.both === 1 ? "row has" : "rows have"} a price in both: ${money(found.here)} with yours, ${money(found.there)} with the other, ${money(found.split)} if each is bought where it costs less.`}
        {rest.length > 0 && ` Not in the sums: ${rest.join(", ")}.`}
        {found.alike === null && found.both > 0 && " One of the books names no currency: check that they are the same."}
      </p>
      {priced.length > 0 && (
        <Table caption="Two shops" numbers={[1, 2, 3]} head={["part", "to buy", "yours", "other"]}>
          {priced.map((r) => (
            <Row key={`${r.item} ${r.name}`}>
              <td>{r.name}</td>
              <td className="text-right whitespace-nowrap">
                {r.count} {r.unit && (r.count === 1 ? r.unit : `${r.unit}s`)}
              </td>
              <Price value={r.here} less={less(r.here, r.there)} />
              <Price value={r.there} less={less(r.there, r.here)} />
            </Row>
          ))}
        </Table>
      )}
    </>
  );
}

const less = (one: number | null, two: number | null) => one !== null && two !== null && one < two;

function Price({ value, less: cheaper }: { value: number | null; less: boolean }) {
  return <td className={`text-right ${cheaper ? "font-bold" : ""}`}>{value === null ? "–" : money(value)}</td>;
}
