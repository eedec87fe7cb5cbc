import { useState } from "react";
import { api } from "../../api/client";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Heading } from "../../ui/parts";
import { CsvFile } from "../CsvFile";

/** The price book out as CSV for the shop to fill in, and back again. */
export function PriceBook() {
  const { plan } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const [told, setTold] = useState("");
  const own = Object.keys(plan.prices ?? {}).length;
  return (
    <section aria-label="Price book">
      <Heading note={`${own} prices of your own`}>Price book</Heading>
      <CsvFile
        name="prices"
        take="Take it as CSV"
        read="Read prices from CSV"
        label="Price book file"
        onFile={async (file) => {
          setTold("");
          const prices = await api.readPrices(file);
          const many = Object.keys(prices).length;
          setTold(`${many} ${many === 1 ? "price" : "prices"} taken.`);
          edit((p) => ({ ...p, prices: { ...p.prices, ...prices } }));
        }}
      />
      {told && <p role="status">{told}</p>}
      <p className="text-[13px] text-muted">
        Mark the rows you filled in with "own"; the others stay starting figures.
      </p>
    </section>
  );
}
