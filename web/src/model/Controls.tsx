import { useRef, useState } from "react";
import { Button, Pick } from "../ui/parts";
import { type Axis, useModel } from "./modelStore";
import type { Model } from "./readModel";

const SIDES = [
  ["standing", "Standing"],
  ["above", "From above"],
  ["south", "From the south"],
  ["east", "From the east"],
] as const;

/** What is done with the view: fit it, look from a side, cut it open, measure in it, take a picture of it. */
export function Controls({ model, name }: { model: Model; name: string }) {
  const { section, glass, labelled, measuring, set } = useModel();
  const grounded = model.alike.some((a) => a.material === "ground");
  return (
    <div
      className="flex flex-wrap items-center gap-1 border-line border-t bg-panel px-2 py-1"
      role="group"
      aria-label="Model"
    >
      <Button onClick={() => set({ asked: { kind: "fit" } })}>Fit</Button>
      <Pick
        label="Look"
        hideLabel
        className="w-40"
        options={[["", "Look from …"], ...SIDES]}
        value=""
        onPick={(way) => way && set({ asked: { kind: "from", way: way as (typeof SIDES)[number][0] } })}
      />
      <Pick
        label="Cut away"
        hideLabel
        className="w-40"
        options={[
          ["", "Whole"],
          ["east", "Cut across east"],
          ["north", "Cut across north"],
          ["up", "Cut level"],
        ]}
        value={section?.axis ?? ""}
        onPick={(axis) => set({ section: axis ? { axis: axis as Axis, share: section?.share ?? 0.5 } : null })}
      />
      {section && (
        <input
          type="range"
          aria-label="Where it is cut"
          min={0}
          max={1}
          step={0.002}
          value={section.share}
          className="w-40 accent-water"
          onChange={(e) => set({ section: { ...section, share: Number(e.target.value) } })}
        />
      )}
      <Button
        aria-pressed={measuring}
        tone={measuring ? "main" : "plain"}
        onClick={() => set({ measuring: !measuring, picks: [] })}
      >
        Measure
      </Button>
      <Button aria-pressed={labelled} onClick={() => set({ labelled: !labelled })}>
        Labels
      </Button>
      {grounded && (
        <Button aria-pressed={glass} onClick={() => set({ glass: !glass })}>
          {glass ? "Show the ground" : "Hide the ground"}
        </Button>
      )}
      <span className="grow" />
      <Picture name={name} />
    </div>
  );
}

const canvas = () => document.querySelector<HTMLCanvasElement>("[data-model] canvas");

function save(blob: Blob, file: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = file;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

const CLIP = 8000; // ms of a clip

/** A picture of the view, and where the browser can, a short clip of it as it turns or is played. */
function Picture({ name }: { name: string }) {
  const [left, setLeft] = useState(false);
  const recorder = useRef<MediaRecorder | null>(null);
  const able = typeof MediaRecorder !== "undefined" && MediaRecorder.isTypeSupported("video/webm");
  const film = () => {
    const shown = canvas();
    if (recorder.current) return recorder.current.stop();
    if (!shown) return;
    const made = new MediaRecorder(shown.captureStream(30), { mimeType: "video/webm" });
    const parts: Blob[] = [];
    made.ondataavailable = (e) => parts.push(e.data);
    made.onstop = () => {
      recorder.current = null;
      setLeft(false);
      save(new Blob(parts, { type: "video/webm" }), `${name}.webm`);
    };
    recorder.current = made;
    setLeft(true);
    made.start();
    setTimeout(() => made.state === "recording" && made.stop(), CLIP);
  };
  return (
    <>
      <Button onClick={() => canvas()?.toBlob((b) => b && save(b, `${name}.png`))}>Save picture</Button>
      {able && <Button onClick={film}>{left ? "Stop the clip" : "Record clip"}</Button>}
    </>
  );
}
