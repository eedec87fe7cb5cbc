import { Dialog } from "radix-ui";
import { useState } from "react";
import { kept } from "../api/kept";
import { stateTone } from "../drawing/joints";
import { DialogFrame } from "../ui/DialogFrame";
import { Check } from "../ui/parts";

const keys = [
  ["1 … 7", "the stages, Survey to Record"],
  ["Tab", "to the drawing and through the sheet"],
  ["arrows", "move the cross by a grid step; with Shift by ten"],
  ["Ctrl and arrows", "choose the next thing along the pipe, that way"],
  ["Enter", "act at the cross: choose, set down, or draw to it"],
  ["Alt and arrows", "move the chosen point"],
  ["/ or Ctrl K", "find anything: actions, components, what is drawn, jobs, bench questions"],
  ["b", "draw by measure"],
  ["n", "next problem"],
  ["p", "draw pipe"],
  ["m", "move and choose"],
  ["g", "choose several things"],
  ["v", "look from above, from a side, standing"],
  ["r", "turn a side or standing view"],
  ["Esc", "end the pipe, put the tool down"],
  ["t", "turn what is chosen round"],
  ["Delete", "delete what is chosen"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["+ and −", "zoom"],
  ["?", "this list"],
] as const;

/** Whether single letters and digits act: a person who speaks to the page, or whose hand shakes, switches them off. */
export const letters = {
  on: () => kept.get("hydrarch.letters") !== "off",
  set: (on: boolean) => void kept.put("hydrarch.letters", on ? "on" : "off"),
};

export function Keys({ onClose }: { onClose: () => void }) {
  const [on, setOn] = useState(letters.on);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <DialogFrame title="Keys" width="max-w-[30rem]" close="Close">
        <Check
          label="Single letters, digits and signs act; Ctrl with a letter always does"
          checked={on}
          onChange={(e) => {
            letters.set(e.target.checked);
            setOn(e.target.checked);
          }}
        />
        <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1.5">
          {keys.map(([key, what]) => (
            <div key={key} className="contents">
              <dt className="font-semibold">{key}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
        <h3 className="mt-3 font-semibold">Letters on crowded joints</h3>
        <p>
          {Object.values(stateTone)
            .filter((tone) => tone.letter !== "·")
            .map((tone) => `${tone.letter} ${tone.words}`)
            .join(" · ")}
        </p>
      </DialogFrame>
    </Dialog.Root>
  );
}
