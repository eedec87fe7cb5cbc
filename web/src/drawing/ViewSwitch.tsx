import { useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { Button, Pick } from "../ui/parts";
import { type Detail, howOf } from "./details";
import { AXES, alongRun, flat, type Projection, seen, turned, viewWords } from "./projection";
import { useLook } from "./viewStore";

const three: readonly (readonly [Projection["kind"], string, Projection])[] = [
  ["above", "Above", { kind: "above" }],
  ["side", "Side", { kind: "side", along: 0 }],
  ["standing", "Standing", { kind: "standing", turn: 0 }],
];

/**
 * From where the drawing is looked at: one of three, turned where that is possible, or along the run that is chosen; or
 * the model in its place.
 */
export function ViewSwitch({ modelled, onModel }: { modelled: boolean; onModel: (on: boolean) => void }) {
  const { how, look, detail, showDetail } = useLook();
  const { plan } = useReadyJob();
  const selected = useJob((s) => s.selected);
  const along = how.kind === "side" && selected ? alongRun(plan, selected) : null;
  return (
    <fieldset className="flex flex-wrap items-center gap-1" aria-label="View">
      <div className="flex max-w-full flex-wrap border border-ink bg-panel">
        {three.map(([kind, words, start]) => (
          <button
            key={kind}
            type="button"
            aria-pressed={how.kind === kind && !modelled}
            className="min-h-[34px] px-[12px] text-[0.875rem] font-semibold aria-pressed:bg-ink aria-pressed:text-panel pointer-coarse:min-h-[44px]"
            onClick={() => {
              onModel(false);
              look(start);
            }}
          >
            {words}
          </button>
        ))}
        <button
          type="button"
          aria-pressed={modelled}
          className="min-h-[34px] px-[12px] text-[0.875rem] font-semibold aria-pressed:bg-ink aria-pressed:text-panel pointer-coarse:min-h-[44px]"
          onClick={() => onModel(true)}
        >
          Model
        </button>
      </div>
      {how.kind !== "above" && !modelled && (
        <Button aria-label={`Turn the view; now ${viewWords(how)}`} onClick={() => look(turned(how))}>
          Turn
        </Button>
      )}
      {plan.details.length > 0 && !modelled && (
        <Pick
          label="Detail"
          hideLabel
          className="w-40"
          options={[["", "The whole"], ...plan.details.map((d) => [d.name, d.name] as const)]}
          value={plan.details.some((d) => d.name === detail) ? (detail ?? "") : ""}
          onPick={(name) => {
            const chosen = (plan.details as Detail[]).find((d) => d.name === name);
            showDetail(chosen?.name ?? null, chosen ? howOf(chosen) : undefined);
          }}
        />
      )}
      {along && !modelled && <Button onClick={() => look(along)}>Along this run</Button>}
    </fieldset>
  );
}

const ENDS = [
  ["N", AXES.north],
  ["E", AXES.east],
  ["up", AXES.up],
] as const;

/** Which way north, east and up are seen: three short arms. */
export function Compass({ how, x, y }: { how: Projection; x: number; y: number }) {
  if (how.kind === "above") return null;
  const origin = flat(how, { x: 0, y: 0, z: 0 });
  return (
    <g transform={`translate(${x} ${y})`} pointerEvents="none" fontSize={12} fill="var(--color-ink)">
      {ENDS.map(([name, way]) => {
        const to = seen(how, way);
        const [dx, dy] = [(to.x - origin.x) * 26, -(to.y - origin.y) * 26];
        if (Math.hypot(dx, dy) < 4) return null;
        return (
          <g key={name}>
            <path d={`M0 0L${dx} ${dy}`} stroke="var(--color-ink)" strokeWidth={1.8} fill="none" />
            <text x={dx * 1.35} y={dy * 1.35 + 4} textAnchor="middle" fontWeight={700}>
              {name}
            </text>
          </g>
        );
      })}
    </g>
  );
}
