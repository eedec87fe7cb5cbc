import { useId, useState } from "react";
import { Refused } from "../api/client";
import type { WaitingPhoto } from "../api/pantry";
import type { ProblemDocument } from "../api/types";
import { clockTime } from "../ui/format";
import { Said } from "../ui/Messages";
import { Box, Button } from "../ui/parts";
import { discardPhoto } from "./photoBox";

/** A photo as it is shown: where it is fetched, its size, and what it is called; `more` is told of it when it is open. */
export type ShownPhoto = { id: string; link: string; words: string; wide: number; high: number; more?: string };

/** Photos side by side, each opened whole at a press, and taken out from there; one that could not be is told. */
export function PhotoRow({
  photos,
  onRemove,
}: {
  photos: readonly ShownPhoto[];
  onRemove: (id: string) => Promise<void>;
}) {
  const [open, setOpen] = useState<string | null>(null);
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const remove = async (id: string) => {
    try {
      await onRemove(id);
      setFault(null);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem);
    }
  };
  const shown = photos.find((p) => p.id === open);
  return (
    <>
      <ul className="flex flex-wrap gap-2">
        {photos.map((p) => (
          <li key={p.id}>
            <button type="button" aria-pressed={p.id === open} onClick={() => setOpen(p.id === open ? null : p.id)}>
              <img
                src={p.link}
                alt={`Photo: ${p.words}`}
                loading="lazy"
                className="size-20 rounded-[3px] border border-line object-cover"
              />
            </button>
          </li>
        ))}
      </ul>
      {shown && (
        <figure className="mt-2">
          <img
            src={shown.link}
            alt={`Photo: ${shown.words}`}
            width={shown.wide}
            height={shown.high}
            className="h-auto max-h-[60vh] w-auto max-w-full"
          />
          <figcaption className="flex flex-wrap items-center gap-2 text-[0.875rem] text-muted">
            <span className="grow">
              {shown.words}
              {shown.more}
            </span>
            <Button onClick={() => confirm("Take this photo out for good?") && void remove(shown.id)}>
              Take it out
            </Button>
          </figcaption>
        </figure>
      )}
      {fault && <Said problem={fault} />}
    </>
  );
}

/** Photos that are not yet with the server: kept here, or refused with the reason. */
export function WaitingPhotos({ photos }: { photos: readonly WaitingPhoto[] }) {
  return photos.map((p) => (
    <Box key={p.id} tone={p.refused ? "fault" : "water"} role="status">
      {p.refused ? (
        <>
          <p>
            A photo of {clockTime(p.at)} was not accepted: {p.refused}
          </p>
          <Button onClick={() => void discardPhoto(p.id)}>Discard</Button>
        </>
      ) : (
        `A photo of ${clockTime(p.at)} is kept on this device until the server has it.`
      )}
    </Box>
  ));
}

/** Take photos with the camera, or choose them where there is none. */
export function TakePhoto({ onTake, of }: { onTake: (file: File) => void; of?: string }) {
  const input = useId();
  return (
    <label
      htmlFor={input}
      className="relative inline-flex min-h-[44px] cursor-pointer items-center rounded-[4px] border border-edge bg-panel px-3 font-semibold focus-within:outline-2"
    >
      Take a photo
      <input
        id={input}
        type="file"
        accept="image/*"
        capture="environment"
        aria-label={of && `Take a photo, ${of}`}
        className="absolute -inset-px h-[46px] w-[calc(100%+2px)] cursor-pointer opacity-0"
        onChange={(e) => {
          for (const file of e.target.files ?? []) onTake(file);
          e.target.value = "";
        }}
      />
    </label>
  );
}
