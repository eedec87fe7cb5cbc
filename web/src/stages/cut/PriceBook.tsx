import { useState } from "react";
import { api } from "../../api/client";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Heading } from "../../ui/parts";
import { Words } from "../../ui/Typed";
import { CsvFile } from "../CsvFile";
import { TwoShops } from "./TwoShops";

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
        out={{ name: "prices", take: "Take it as CSV" }}
        read="Read prices: CSV or XLSX"
        label="Price book file"
        onFile={async (file) => {
          setTold("");
          const { prices, currency } = await api.readPrices(file);
          const many = Object.keys(prices).length;
          if (currency && plan.currency && own && currency !== plan.currency) {
            setTold(`Not imported: this book is in ${currency}, and your prices here are in ${plan.currency}.`);
            return;
          }
          const unsaid = plan.currency ? `; the book names no currency, so they count as ${plan.currency}` : "";
          setTold(`${many} ${many === 1 ? "price" : "prices"} imported${currency ? `, in ${currency}` : unsaid}.`);
          edit((p) => ({ ...p, prices: { ...p.prices, ...prices }, currency: currency || p.currency }));
        }}
      />
      {told && <p role="status">{told}</p>}
      <Words
        label="Currency of your prices: three letters, such as EUR or USD"
        value={plan.currency}
        onValue={(said) => {
          const currency = said.trim().toUpperCase();
          if (/^([A-Z]{3})?$/.test(currency)) {
            setTold("");
            edit((p) => ({ ...p, currency }));
          } else setTold(`${said.trim()} is no currency: type its three letters.`);
        }}
      />
      <p className="text-[0.8125rem] text-muted">
        Mark the rows you filled in with "own"; the others stay starting figures.
      </p>
      {own > 0 && <TwoShops />}
    </section>
  );
}
