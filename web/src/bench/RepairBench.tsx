import { useQuery } from "@tanstack/react-query";
import { api, Refused } from "../api/client";
import type { Market, Mending, Reference, RepairIn } from "../api/types";
import { Cautions } from "../ui/Cautions";
import { useFormat } from "../ui/context";
import { clockTime, type Formatter, money, wait } from "../ui/format";
import { Said } from "../ui/Messages";
import { Box, Check, Heading, Pick } from "../ui/parts";
import { Typed } from "../ui/Typed";
import { useNow } from "../ui/useNow";
import { AddToJob } from "./AddToJob";
import { useInAddress } from "./inAddress";
import { MendedSo } from "./MendedSo";

const BROKE = ["nick", "split", "burst", "hole", "leak at a joint", "rusted tee", "leaking valve"] as const;
const LIES = ["in ground", "in wall", "in ceiling", "in the open"] as const;
const UNKNOWN = "";

/** It broke: every way to make it whole in the room there is, with what to cut out, what goes in and how, and what it waits for. */
export function RepairBench({
  reference,
  format,
  market,
}: {
  reference: Reference;
  format: Formatter;
  market: Market;
}) {
  const [broke, setBroke] = useInAddress<string>("broke", "split");
  const [series, setSeries] = useInAddress("series", UNKNOWN);
  const [size, setSize] = useInAddress("size", UNKNOWN);
  const [lies, setLies] = useInAddress<string>("lies", "in ground");
  const [ends, setEnds] = useInAddress<string>("ends", "held");
  const [long, setLong] = useInAddress("long", 0.1);
  const [bare, setBare] = useInAddress<number | null>("bare", null);
  const [pressure, setPressure] = useInAddress<number | null>("pressure", null);
  const [more, setMore] = useInAddress("more", { wet: false, potable: false });
  const [of] = useInAddress("of", "");
  const [where] = useInAddress("where", "");
  const [weather, setWeather] = useInAddress("weather", { temperature: 288.15, humidity: 0.5 });
  const family = reference.series.find((s) => s.id === series);
  const mine = family?.sizes.find((s) => s.size === size)?.size ?? family?.sizes[0]?.size ?? null;
  const asked = {
    broke,
    series: family ? series : null,
    size: family ? mine : null,
    long: broke === "nick" || broke === "hole" ? Math.min(long, 0.3) : long,
    lies,
    ends,
    bare,
    pressure,
    ...more,
    ...weather,
    units: format.system,
    market,
  } as RepairIn;
  const query = useQuery({
    queryKey: ["repair", asked],
    queryFn: () => api.benchRepair(asked),
    placeholderData: (b) => b,
  });
  const failed = query.error instanceof Refused ? query.error : null;
  const found = failed ? undefined : query.data;
  return (
    <div className="asks grid grid-cols-[minmax(0,1fr)] gap-5 lg:grid-cols-[minmax(0,24rem)_minmax(0,1fr)]">
      <div className="grid content-start gap-2">
        <Pick label="What broke" options={BROKE.map((b) => [b, b] as const)} value={broke} onPick={setBroke} />
        <div className="grid grid-cols-[2fr_1fr] gap-2">
          <Pick
            label="In what pipe"
            options={[[UNKNOWN, "not identified yet"], ...reference.series.map((s) => [s.id, s.name] as const)]}
            value={family ? series : UNKNOWN}
            onPick={setSeries}
          />
          {family && (
            <Pick
              label="Size"
              options={family.sizes.map((s) => [s.size, s.size] as const)}
              value={mine ?? UNKNOWN}
              onPick={setSize}
            />
          )}
        </div>
        <Typed label="How long the damage is, as you see it" quantity="cut" value={long} onValue={setLong} />
        <Pick label="It lies" options={LIES.map((l) => [l, l] as const)} value={lies} onPick={setLies} />
        <Pick
          label="The pipe on both sides"
          options={[
            ["held", "neither moves nor turns"],
            ["aside", "can be sprung aside by its own width"],
          ]}
          value={ends}
          onPick={setEnds}
        />
        <Typed
          label="Straight, clean pipe beside it"
          quantity="cut"
          value={bare}
          hint="not looked at"
          onValue={setBare}
          onClear={() => setBare(null)}
        />
        <Typed
          label="Pressure it will see"
          quantity="pressure"
          value={pressure}
          hint="not known"
          onValue={setPressure}
          onClear={() => setPressure(null)}
        />
        <Check
          label="It does not run dry"
          checked={more.wet}
          onChange={(e) => setMore((m) => ({ ...m, wet: e.target.checked }))}
        />
        <Check
          label="It carries drinking water"
          checked={more.potable}
          onChange={(e) => setMore((m) => ({ ...m, potable: e.target.checked }))}
        />
        <div className="grid grid-cols-2 gap-2">
          <Typed
            label="Coldest until then"
            quantity="temperature"
            value={weather.temperature}
            onValue={(temperature) => setWeather((w) => ({ ...w, temperature }))}
          />
          <Typed
            label="Dampest until then"
            quantity="humidity"
            value={weather.humidity}
            onValue={(humidity) => setWeather((w) => ({ ...w, humidity }))}
          />
        </div>
        {failed && <Said problem={failed.problem} />}
      </div>
      <section aria-label="How it is mended" className="answer">
        {found?.asks.map((a) => (
          <Box key={a} tone="curing">
            {a}{" "}
            {!family && (
              <a className="text-water underline" href="/bench/identify">
                What pipe is this?
              </a>
            )}
          </Box>
        ))}
        {found?.says.map((s) => (
          <p key={s} className="mt-2">
            {s}
          </p>
        ))}
        {found?.ways.map((m, n) => (
          <OneWay key={m.title} mending={m} first={n === 0} of={of} where={where} />
        ))}
        {of && found && !found.ways.length && <MendedSo of={of} note="" />}
      </section>
    </div>
  );
}

type WayProps = { mending: Mending; first: boolean; of: string; where: string };

function OneWay({ mending: m, first, of, where }: WayProps) {
  const format = useFormat();
  const now = useNow(m.waits.length > 0);
  const facts = [
    `${m.joints} joints`,
    `cut out ${format(m.window, "cut")}`,
    ...(m.piece > 0 ? [`new piece ${format(m.piece, "cut")} of ${m.pipe}`] : []),
    ...(m.bare > 0 ? [`slides onto ${format(m.bare, "cut")} of bare pipe`] : []),
    ...(m.frees > 0 ? [`free ${format(m.frees, "length")} on each side`] : []),
    `fittings ${money(m.price)} at starting prices`,
  ];
  return (
    <details open={first} className="mt-3 border-b border-line pb-2">
      <summary className="cursor-pointer pointer-coarse:min-h-[44px]">
        <b className="text-lg">{m.title}</b>
        <span className="block text-[0.875rem]">{facts.join(" · ")}</span>
      </summary>
      <ol className="mt-1 list-decimal pl-6">
        {m.steps.map((s) => (
          <li key={s} className="py-1">
            {s}
          </li>
        ))}
      </ol>
      {m.waits.map((w) => (
        <p key={w.method} className="mt-1">
          <b className="inline-block first-letter:uppercase">{w.method}:</b> made now, fill it slowly in {wait(w.fill)},
          at {clockTime(now + w.fill)};{" "}
          {w.full > w.fill
            ? `full pressure in ${wait(w.full)}, at ${clockTime(now + w.full)}`
            : "full pressure then too"}
          . <span className="text-muted">{w.says}.</span>
        </p>
      ))}
      <Heading>Buy</Heading>
      <ul>
        {m.names.map(([name, count]) => (
          <li key={name}>
            {count} × {name}
          </li>
        ))}
        {m.piece > 0 && (
          <li>
            {format(m.piece, "cut")} of {m.pipe}, and some to spare
          </li>
        )}
        {m.belongs.map((b) => (
          <li key={b}>{b}</li>
        ))}
      </ul>
      <AddToJob
        fittings={m.buy.flatMap(([id, count]) => Array<string>(count).fill(id))}
        note={where ? `mend at ${where}` : "mend"}
      />
      <Cautions cautions={m.cautions} />
      {of && <MendedSo of={of} note={m.title} />}
    </details>
  );
}
