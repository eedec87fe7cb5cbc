import { useRef, useState } from "react";
import { useFormat } from "../ui/context";
import { axis, csv, extent, type Line, path, valueText } from "./chart";
import { Button, Row, Table } from "./parts";

type Shown = { label: string; quantity: string | null; zero?: boolean };
type ChartProps = {
  title: string;
  x: Shown;
  y: Shown;
  lines: readonly Line[];
  marks?: readonly { at: readonly [number, number]; label: string }[];
};

const dashes = ["", "7 4", "2 4", "10 3 2 3", "4 2"];
const box = { left: 52, right: 12, top: 10, bottom: 34, width: 420, height: 230 };

function download(name: string, text: string, type: string) {
  const url = URL.createObjectURL(new Blob([text], { type }));
  const a = document.createElement("a");
  a.href = url;
  a.download = name;
  a.click();
  URL.revokeObjectURL(url);
}

/** A chart of lines in the crew's units, with its table behind it; both can be taken along. Lines are told by dash and name. */
export function Chart({ title, x, y, lines: given, marks = [] }: ChartProps) {
  const format = useFormat();
  const svg = useRef<SVGSVGElement>(null);
  const [table, setTable] = useState(false);
  const unit = (a: Shown) => (a.quantity ? format.unit(a.quantity) : "");
  const to = (a: Shown, v: number) => (a.quantity ? format.number(v, a.quantity) : v);
  const lines = given.map((l) => ({ ...l, points: l.points.map(([a, b]): [number, number] => [to(x, a), to(y, b)]) }));
  const spots = marks.map((m) => ({ ...m, at: [to(x, m.at[0]), to(y, m.at[1])] as [number, number] }));
  const all = [...lines, { name: "", points: spots.map((m) => m.at) }];
  const across = axis(extent(all, 0, x.zero ?? true), box.left, box.width - box.right);
  const up = axis(extent(all, 1, y.zero ?? true), box.height - box.bottom, box.top);
  const [px, py] = [across.at, up.at];
  const label = (a: Shown) => (unit(a) ? `${a.label}, ${unit(a)}` : a.label);
  const file = title.toLowerCase().replaceAll(/[^a-z0-9]+/g, "-");
  const save = () => {
    if (!svg.current) return;
    const copy = svg.current.cloneNode(true) as SVGSVGElement;
    copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
    copy.setAttribute("width", String(box.width * 2));
    const style = getComputedStyle(document.documentElement);
    const text = copy.outerHTML.replaceAll(/var\((--[a-z-]+)\)/g, (_, name: string) =>
      style.getPropertyValue(name).trim(),
    );
    download(`${file}.svg`, text, "image/svg+xml");
  };
  return (
    <figure className="my-2" aria-label={title}>
      <figcaption className="text-[0.875rem] font-semibold">{title}</figcaption>
      <svg
        ref={svg}
        viewBox={`0 0 ${box.width} ${box.height}`}
        className="w-full max-w-[640px]"
        role="img"
        aria-label={`${title}: ${lines.map((l) => l.name).join(", ")}`}
        fontSize="11"
        fontFamily="sans-serif"
      >
        {across.ticks.map((t) => (
          <g key={t}>
            <path d={`M${px(t)} ${box.top}V${box.height - box.bottom}`} stroke="var(--color-line)" strokeWidth={0.7} />
            <text x={px(t)} y={box.height - box.bottom + 14} textAnchor="middle" fill="var(--color-muted)">
              {across.words(t)}
            </text>
          </g>
        ))}
        {up.ticks.map((t) => (
          <g key={t}>
            <path d={`M${box.left} ${py(t)}H${box.width - box.right}`} stroke="var(--color-line)" strokeWidth={0.7} />
            <text x={box.left - 5} y={py(t) + 4} textAnchor="end" fill="var(--color-muted)">
              {up.words(t)}
            </text>
          </g>
        ))}
        <text x={(box.left + box.width) / 2} y={box.height - 4} textAnchor="middle" fill="var(--color-ink)">
          {label(x)}
        </text>
        <text
          transform={`translate(12 ${(box.height - box.bottom) / 2}) rotate(-90)`}
          textAnchor="middle"
          fill="var(--color-ink)"
        >
          {label(y)}
        </text>
        {lines.map((l, i) => (
          <path
            key={l.name}
            d={path(l.points, px, py)}
            fill="none"
            stroke={l.tone ?? (i ? "var(--color-ink)" : "var(--color-water)")}
            strokeWidth={i ? 1.6 : 2.2}
            strokeDasharray={l.dash ?? dashes[i % dashes.length]}
          />
        ))}
        {spots.map((m) => (
          <g key={m.label + m.at.join()} transform={`translate(${px(m.at[0])} ${py(m.at[1])})`}>
            <circle r={4} fill="var(--color-panel)" stroke="var(--color-dry)" strokeWidth={2} />
            <text
              x={px(m.at[0]) > box.width * 0.7 ? -7 : 7}
              y={-6}
              textAnchor={px(m.at[0]) > box.width * 0.7 ? "end" : "start"}
              fill="var(--color-ink)"
            >
              {m.label}
            </text>
          </g>
        ))}
      </svg>
      <ul className="flex flex-wrap gap-x-4 text-[0.8125rem] text-muted">
        {lines.map((l, i) => (
          <li key={l.name} className="flex items-center gap-1.5">
            <svg width="28" height="8" aria-hidden="true">
              <path
                d="M0 4H28"
                stroke={l.tone ?? (i ? "var(--color-ink)" : "var(--color-water)")}
                strokeWidth={2}
                strokeDasharray={l.dash ?? dashes[i % dashes.length]}
              />
            </svg>
            {l.name}
          </li>
        ))}
      </ul>
      <div className="mt-1 flex gap-2 print:hidden">
        <Button tone="quiet" aria-expanded={table} onClick={() => setTable(!table)}>
          {table ? "Hide the numbers" : "The numbers"}
        </Button>
        <Button
          tone="quiet"
          aria-label={`${title} as CSV`}
          onClick={() => download(`${file}.csv`, csv(label(x), lines), "text/csv")}
        >
          CSV
        </Button>
        <Button tone="quiet" aria-label={`${title} as SVG`} onClick={save}>
          SVG
        </Button>
      </div>
      {table && (
        <Table caption={`${title}, numbers`} head={["line", label(x), label(y)]} numbers={[1, 2]}>
          {lines.flatMap((l) =>
            l.points.map(([a, b]) => (
              <Row key={`${l.name}${a}`}>
                <td>{l.name}</td>
                <td className="text-right">{valueText(a)}</td>
                <td className="text-right">{valueText(b)}</td>
              </Row>
            )),
          )}
        </Table>
      )}
    </figure>
  );
}
