import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import type { EndView, Instead, OtherWay, ShopPart, Way } from "../api/types";
import { chooseNode, chooseWay } from "../job/edits";
import { useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { useFormat } from "../ui/context";
import { Box, Button } from "../ui/parts";
import { Tick } from "../ui/Tick";
import { BranchedDrawing } from "../ways/BranchedDrawing";
import { useLifeSize } from "../ways/LifeSize";
import { SectionDrawing } from "../ways/SectionDrawing";
import { dearer, joints } from "../ways/WayWords";

type CardProps = {
  part: ShopPart;
  count: number;
  open: boolean;
  onOpen: () => void;
  onGot: (count: number) => void;
};

/** One part of the list: a tick for all of it; opened, it is drawn to hold the real one against. */
export function PartCard({ part, count, open, onOpen, onGot }: CardProps) {
  const all = part.got >= count && count > 0;
  return (
    <li
      className={`mb-2 border ${all ? "border-proved bg-proved-soft" : "border-line bg-panel"} ${open ? "outline-2 outline-water" : ""}`}
    >
      <div className="flex min-h-[60px] items-center gap-3 p-2">
        <Tick
          checked={all}
          label={`${part.name}: all ${count} in the basket`}
          onTick={() => onGot(all ? 0 : Math.max(part.got, count))}
        />
        <button type="button" aria-expanded={open} className="min-h-[44px] grow text-left" onClick={onOpen}>
          <span className="mr-2 text-lg font-bold">{count}</span>
          <span className="text-[1rem]">
            {part.name}
            {part.unit && `, ${part.unit}`}
          </span>
          <span className="block text-[0.8125rem] text-muted">
            {part.got > 0 && !all ? `${part.got} in the basket; ` : ""}
            {part.detail}
          </span>
        </button>
      </div>
      {open && <Closer part={part} count={count} onGot={onGot} />}
    </li>
  );
}

/** Each end once, however many openings have it. */
const apart = (ends: readonly (EndView | undefined)[]) => [...new Map(ends.map((e) => [e?.name, e])).values()];

function Closer({ part, count, onGot }: Pick<CardProps, "part" | "count" | "onGot">) {
  const format = useFormat();
  const [scale, control] = useLifeSize();
  const [without, setWithout] = useState(false);
  const [left, right] = part.ends;
  const drawn =
    left && right
      ? ({
          parts: [{ fitting: part.item, name: part.name, material: part.material, left, right, length: part.length }],
          joints: [],
        } as unknown as Way)
      : null;
  return (
    <div className="border-t border-line p-3">
      {drawn && (
        <>
          {part.branches.length > 0 && left && right ? (
            <BranchedDrawing part={part} left={left} right={right} pixelsPerMm={scale} />
          ) : (
            <SectionDrawing way={drawn} pixelsPerMm={scale} step={-1} />
          )}
          <p className="flex flex-wrap justify-between gap-x-4 text-[0.8125rem] text-muted">
            {apart([left, right, ...part.branches.map((b) => b.end)]).map((e) => (
              <span key={e?.name}>
                {e?.words}: {format(e?.diameter, "takeoff")} across, {format(e?.engagement, "takeoff")} deep
              </span>
            ))}
          </p>
          {control}
        </>
      )}
      {part.mistaken.map((m) => (
        <Box key={m.name} tone="dry" className="mt-2">
          <b>Looks like it: {m.name}.</b> {m.says}.
        </Box>
      ))}
      <div className="mt-3 grid grid-cols-2 gap-2">
        <Button big tone="main" onClick={() => onGot(Math.min(part.got + 1, 100_000))}>
          One in the basket
        </Button>
        <Button big disabled={!part.got} onClick={() => onGot(part.got - 1)}>
          One out of it
        </Button>
        {part.ends.length > 0 && (
          <Button big className="col-span-2" aria-expanded={without} onClick={() => setWithout(!without)}>
            Not to be had here
          </Button>
        )}
      </div>
      <p className="mt-1 text-[0.875rem]">
        {part.got} of {count} in the basket.
      </p>
      {without && <Without item={part.item} />}
    </div>
  );
}

/** What else would do, at all places that want the part: what is taken is the job's choice from then on. */
function Without({ item }: { item: string }) {
  const { job } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const format = useFormat();
  const { data, error, isPending } = useQuery({
    queryKey: ["instead", job.id, job.revision, item],
    queryFn: () => api.instead(job.id, item),
  });
  if (isPending) return <p className="mt-2 text-muted">Looking for other ways …</p>;
  if (error) return <p className="mt-2 text-dry">{error.message} Other ways are looked for where it does.</p>;
  const found = new Map<string, { way: OtherWay; places: Instead[] }>();
  for (const place of data ?? [])
    for (const way of place.ways) {
      const key = `${way.how ?? ""} ${way.fittings.join()}`;
      const there = found.get(key);
      if (there) there.places.push(place);
      else found.set(key, { way, places: [place] });
    }
  if (!found.size)
    return <p className="mt-2 text-dry">There is no other way to join without it: it is wanted as it is.</p>;
  return (
    <ul className="mt-2" aria-label="Other ways">
      {[...found.entries()].map(([key, { way, places }]) => (
        <li key={key} className="border-t border-line py-2">
          <p>{way.says}</p>
          <p className="text-[0.8125rem] text-muted">
            {way.joints === 0
              ? "as many joints"
              : `${joints(Math.abs(way.joints))} ${way.joints > 0 ? "more" : "fewer"}`}
            , {dearer(way.price)}
            {Math.abs(way.length) > 5e-4 &&
              `, lays ${format(Math.abs(way.length), "takeoff")} ${way.length > 0 ? "longer" : "shorter"}`}
            ; {way.missing.length ? `to buy: ${way.missing.join(", ")}` : "all of it is at hand or on the list"}
          </p>
          <Button
            className="mt-1 min-h-[44px]"
            onClick={() =>
              edit((p) =>
                places.reduce(
                  (plan, at) =>
                    way.how
                      ? chooseNode(plan, at.point, { how: way.how, fittings: way.fittings })
                      : chooseWay(plan, at.end, way.fittings),
                  p,
                ),
              )
            }
          >
            Use this {places.length > 1 ? `at all ${places.length} places` : `at ${places[0]?.place}`}
          </Button>
        </li>
      ))}
    </ul>
  );
}
