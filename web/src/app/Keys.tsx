import { Dialog } from "radix-ui";
import { Button } from "../ui/parts";

const keys = [
  ["1 … 7", "the stages, Survey to Record"],
  ["Tab", "to the drawing and through the sheet"],
  ["arrows", "move the cross by a grid step; with Shift by ten"],
  ["Enter", "act at the cross: choose, set down, or draw to it"],
  ["Alt and arrows", "move the chosen point"],
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

export function Keys({ onClose }: { onClose: () => void }) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/45" />
        <Dialog.Content
          className="fixed top-1/2 left-1/2 z-50 max-h-[88vh] w-[min(92vw,30rem)] -translate-x-1/2 -translate-y-1/2 overflow-y-auto border border-line bg-panel p-5"
          aria-describedby={undefined}
        >
          <Dialog.Title className="mb-2 text-lg font-bold">Keys</Dialog.Title>
          <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1.5">
            {keys.map(([key, what]) => (
              <div key={key} className="contents">
                <dt className="font-semibold">{key}</dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close asChild>
            <Button className="mt-4">Close</Button>
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
