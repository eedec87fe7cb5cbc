import { useState } from "react";
import { addStock, removeStock } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { useFormat } from "../../ui/context";
import { Button, Heading, Pick } from "../../ui/parts";
import { Counted, Typed } from "../../ui/Typed";

const MOST = 10000;

/** What is there already: offcuts go first at the saw, fittings in the van are not bought. */
export function StockList() {
  const { plan, derived } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const format = useFormat();
  const rows = derived.bill.filter((r) => r.group === "pipe" || r.group === "fitting");
  const names = new Map(rows.map((r) => [r.item, r.name]));
  const [item, setItem] = useState("");
  const chosen = names.has(item) ? item : (rows[0]?.item ?? "");
  const pipe = rows.find((r) => r.item === chosen)?.group === "pipe";
  const [count, setCount] = useState(1);
  const [fits, setFits] = useState(true);
  const [length, setLength] = useState(1.5);
  if (!rows.length) return null;
  const add = () => edit((p) => addStock(p, { item: chosen, count, length: pipe ? length : null }));
  return (
    <section aria-label="In stock">
      <Heading note="offcuts are cut first; fittings are not bought">In stock</Heading>
      <div className="grid grid-cols-[2fr_1fr_1fr_auto] items-end gap-2">
        <Pick
          label="Part or pipe"
          options={rows.map((r) => [r.item, r.name] as const)}
          value={chosen}
          onPick={setItem}
        />
        <Counted label="How many" low={1} high={MOST} value={count} onValue={setCount} onFits={setFits} />
        {pipe ? <Typed label="Each long" quantity="length" value={length} onValue={setLength} /> : <span />}
        <Button disabled={!fits} onClick={add}>
          Put in
        </Button>
      </div>
      {plan.stock.length > 0 && (
        <ul className="mt-1">
          {plan.stock.map((s, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: stock keeps its order
            <li key={i} className="flex items-center gap-2 border-b border-line py-1">
              <span className="grow">
                {s.count} × {names.get(s.item) ?? s.item}
                {s.length != null && ` of ${format(s.length, "length")}`}
              </span>
              <Button tone="quiet" onClick={() => edit((p) => removeStock(p, i))}>
                Take out
              </Button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
