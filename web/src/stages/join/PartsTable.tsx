import { memo, useState } from "react";
import type { BillRow } from "../../api/types";
import { removeExtra, setPrice } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { money } from "../../ui/format";
import { markOf, numeral } from "../../ui/numeral";
import { Button, Heading, Row, Table } from "../../ui/parts";
import { ToShop } from "../ToShop";

const groups = [
  ["fitting", "Fittings"],
  ["added", "Added by hand"],
  ["riser", "Risers"],
  ["pipe", "Pipe"],
  ["equipment", "Equipment"],
  ["consumable", "Used up"],
] as const;

/** The parts list with its prices: starting figures until the crew puts its own over them. */
export const PartsTable = memo(function PartsTable() {
  const { derived } = useReadyJob();
  const priced = derived.bill.filter((r) => r.price != null);
  const { plan } = useReadyJob();
  const sum = (own: boolean) => priced.filter((r) => r.own === own).reduce((s, r) => s + (r.price ?? 0), 0);
  const own = priced.filter((r) => r.own).length;
  const without = groups
    .flatMap(([group, title]) => {
      const count = derived.bill.filter((r) => r.group === group && r.price == null).length;
      return count ? [`${title.toLowerCase()} (${count} ${count === 1 ? "line" : "lines"})`] : [];
    })
    .join(", ");
  return (
    <section aria-label="Parts list">
      <ToShop />
      {groups.map(([group, title]) => {
        const rows = derived.bill.filter((r) => r.group === group);
        if (!rows.length) return null;
        return (
          <div key={group}>
            <Heading note={group === "fitting" ? `${rows.reduce((n, r) => n + r.count, 0)} in all` : undefined}>
              {title}
            </Heading>
            <Table caption={title} head={["count", "part", "each", "price"]} numbers={[2, 3]}>
              {rows.map((r) => (
                <BillLine key={r.item + r.detail} row={r} />
              ))}
            </Table>
          </div>
        );
      })}
      <p className="mt-3 text-[0.8125rem] text-muted">
        {own > 0 && (
          <>
            {own} of {priced.length} lines at your own prices:{" "}
            <b className="text-ink">
              {money(sum(true))} {plan.currency}
            </b>
            .{" "}
          </>
        )}
        {own < priced.length && (
          <>
            {own ? "The others" : "All"} at starting prices from memory, in no currency: about{" "}
            <b className="text-ink">{money(sum(false))}</b>. Put your shop's over them.
          </>
        )}
        {without && <> Not in it, for no price of them is known: {without}; nor the digging, nor anyone's hours.</>}
      </p>
    </section>
  );
});

function BillLine({ row }: { row: BillRow }) {
  const edit = useJob((s) => s.edit);
  return (
    <Row>
      <td className="w-20 whitespace-nowrap">
        <b>{row.count}</b> {row.unit}
        {row.unit && row.count !== 1 ? "s" : ""}
        {row.have > 0 && <span className="block text-[0.78125rem] text-muted">{row.have} in stock</span>}
        {row.spare > 0 && <span className="block text-[0.78125rem] text-muted">+{row.spare} spare</span>}
      </td>
      <td>
        {row.name}
        {row.detail && <span className="block text-[0.78125rem] text-muted">{row.detail}</span>}
        {row.group === "added" && (
          <Button tone="quiet" onClick={() => edit((p) => removeExtra(p, row.item, row.detail))}>
            Take off the list
          </Button>
        )}
      </td>
      <td className="text-right whitespace-nowrap">{row.each != null && <Price row={row} each={row.each} />}</td>
      <td className="text-right whitespace-nowrap">
        {row.price == null ? "" : `${row.own || !row.price ? "" : "≈ "}${money(row.price)}`}
      </td>
    </Row>
  );
}

/** The price of one: a button that opens into a field. */
function Price({ row, each }: { row: BillRow; each: number }) {
  const edit = useJob((s) => s.edit);
  const [text, setText] = useState<string | null>(null);
  const [says, setSays] = useState("");
  const { units } = useReadyJob().plan;
  const unit = row.per ? ` per ${row.per}` : "";
  if (text === null)
    return (
      <Button
        tone="quiet"
        className={row.own ? "font-semibold" : "text-muted!"}
        aria-label={`Price of ${row.name}: ${money(each)}${unit}${row.own ? ", yours" : ", a starting figure"}; change`}
        onClick={() => setText(money(each))}
      >
        {row.own ? "" : "≈ "}
        {money(each)}
        {unit}
      </Button>
    );
  const commit = () => {
    const price = numeral(text, markOf(units));
    if (!text.trim()) edit((p) => setPrice(p, row.item, null));
    else if (price === null || price < 0) {
      setSays(`${text.trim()} is not a price. Type a number such as 2.40, without thousands commas.`);
      return;
    } else if (price !== each) edit((p) => setPrice(p, row.item, price / row.metres)); // kept for a metre
    setSays("");
    setText(null);
  };
  return (
    <>
      <input
        aria-label={`Your price of ${row.name}${unit}; empty goes back to the starting figure`}
        inputMode="decimal"
        className="w-20 border border-edge bg-panel px-1 text-right"
        value={text}
        ref={(e) => e?.focus()}
        onChange={(e) => setText(e.target.value)}
        onBlur={commit}
        onKeyDown={(e) => e.key === "Enter" && commit()}
      />
      {says && (
        <span role="alert" className="block text-[0.8125rem] text-fault">
          {says}
        </span>
      )}
    </>
  );
}
