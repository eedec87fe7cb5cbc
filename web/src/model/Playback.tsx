import { useEffect } from "react";
import { useJob } from "../job/jobStore";
import { wait } from "../ui/format";
import { Button } from "../ui/parts";
import { useModel } from "./modelStore";
import type { Model } from "./readModel";

const HOME = 900; // ms that a part takes to go home
const REST = 500; // ms that it lies there before the next

/** The build in its order, joint by joint: played, or dragged by hand along its time line. */
export function Playback({ model }: { model: Model }) {
  const { step, apart, playing, set } = useModel();
  const selected = useJob((s) => s.selected);
  const last = model.moves.length - 1;
  const move = step === null ? null : model.moves[step];
  useEffect(() => {
    if (!playing) return;
    if (matchMedia("(prefers-reduced-motion: reduce)").matches) {
      const timer = setInterval(() => {
        const { step: at } = useModel.getState();
        if ((at ?? 0) >= last) set({ playing: false, apart: 0 });
        else set({ step: (at ?? -1) + 1, apart: 0 });
      }, HOME + REST);
      return () => clearInterval(timer);
    }
    let [frame, before] = [0, performance.now()];
    const run = (now: number) => {
      const { step: at, apart: left } = useModel.getState();
      const gone = (now - before) / HOME;
      before = now;
      if (left > -REST / HOME) set({ apart: left - gone });
      else if ((at ?? 0) < last) set({ step: (at ?? 0) + 1, apart: 1 });
      else set({ playing: false, apart: 0 });
      frame = requestAnimationFrame(run);
    };
    frame = requestAnimationFrame(run);
    return () => cancelAnimationFrame(frame);
  }, [playing, last, set]);
  if (last < 0) return null;
  const from = Math.max(
    0,
    model.moves.findIndex((m) => m.joint === selected),
  );
  return (
    <div className="border-line border-t bg-panel px-2 py-1" role="group" aria-label="The build, step by step">
      <div className="flex flex-wrap items-center gap-2">
        {step === null ? (
          <Button onClick={() => set({ step: from, apart: 1 })}>Play the build</Button>
        ) : (
          <>
            <Button tone="main" onClick={() => set({ playing: !playing })}>
              {playing ? "Pause" : "Play"}
            </Button>
            <Button
              aria-label="One joint back"
              disabled={step === 0}
              onClick={() => set({ step: step - 1, apart: 0, playing: false })}
            >
              ‹
            </Button>
            <Button
              aria-label="One joint on"
              disabled={step === last}
              onClick={() => set({ step: step + 1, apart: 1, playing: false })}
            >
              ›
            </Button>
            <input
              type="range"
              aria-label="Joint in the order of work"
              min={0}
              max={last}
              value={step}
              className="min-w-32 grow accent-water"
              onChange={(e) => set({ step: Number(e.target.value), apart: 0, playing: false })}
            />
            <Button onClick={() => set({ step: null, playing: false, apart: 0 })}>As built</Button>
          </>
        )}
      </div>
      {move && step !== null && (
        <div className="flex flex-wrap items-center gap-x-4">
          <p className="min-w-52 grow" role="status">
            <b>
              {step + 1} of {last + 1}: {move.says}
            </b>{" "}
            <span className="text-muted">
              {move.method}
              {move.turn && `, ${move.turn}`}; {move.why}. Hand {move.hand}
              {move.start >= 60 && `, ${wait(move.start)} into the work`}.
            </span>
          </p>
          <label className="flex items-center gap-2 text-[0.8125rem] text-muted">
            Apart
            <input
              type="range"
              aria-label="How far apart"
              min={0}
              max={1}
              step={0.01}
              value={Math.min(1, Math.max(0, apart))}
              className="w-28 accent-water"
              onChange={(e) => set({ apart: Number(e.target.value), playing: false })}
            />
          </label>
        </div>
      )}
    </div>
  );
}
