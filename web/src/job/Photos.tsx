import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useId, useState } from "react";
import { api, photoLink, Refused } from "../api/client";
import type { Photo } from "../api/types";
import { live } from "../api/wired";
import { clockTime } from "../ui/format";
import { Box, Button, Heading } from "../ui/parts";
import { useReadyJob } from "./hooks";
import { discardPhoto, takePhoto, usePhotoBox } from "./photoBox";

/** The photos of a job, as others add to them too. */
export function usePhotos(): readonly Photo[] {
  const { job } = useReadyJob();
  const queries = useQueryClient();
  const waiting = usePhotoBox((s) => s.waiting.length);
  const { data } = useQuery({ queryKey: ["photos", job.id, waiting], queryFn: () => api.photos(job.id) });
  useEffect(
    () =>
      live.listen((news) => {
        if (news.what === "photos" && news.job === job.id)
          void queries.invalidateQueries({ queryKey: ["photos", job.id] });
      }),
    [job.id, queries],
  );
  return data ?? [];
}

/** The photos of one joint, section or thing, and taking another. */
export function Photos({ about, title = "Photos" }: { about: string; title?: string }) {
  const { job } = useReadyJob();
  const [place, setPlace] = useState(false);
  const mine = usePhotos().filter((p) => p.about === about);
  const waiting = usePhotoBox((s) => s.waiting).filter((p) => p.job === job.id && p.about === about);
  const input = useId();
  return (
    <section aria-label={title} className="mt-3">
      <Heading note={mine.length ? `${mine.length}` : undefined}>{title}</Heading>
      <Gallery photos={mine} />
      {waiting.map((p) => (
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
      ))}
      <div className="mt-2 flex flex-wrap items-center gap-3">
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
            className="absolute -inset-px h-[46px] w-[calc(100%+2px)] cursor-pointer opacity-0"
            onChange={(e) => {
              for (const file of e.target.files ?? []) void takePhoto(job.id, about, file, "", place);
              e.target.value = "";
            }}
          />
        </label>
        <label className="inline-flex min-h-[44px] items-center gap-2 text-[0.875rem]">
          <input type="checkbox" checked={place} onChange={(e) => setPlace(e.target.checked)} />
          Keep where it was taken
        </label>
      </div>
    </section>
  );
}

/** Photos side by side, each opened whole at a press. */
export function Gallery({ photos, names }: { photos: readonly Photo[]; names?: ReadonlyMap<string, string> }) {
  const { job } = useReadyJob();
  const queries = useQueryClient();
  const [open, setOpen] = useState<string | null>(null);
  const shown = photos.find((p) => p.id === open);
  const remove = async (id: string) => {
    try {
      await api.dropPhoto(job.id, id);
      setOpen(null);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
    }
    await queries.invalidateQueries({ queryKey: ["photos", job.id] });
  };
  const words = (p: Photo) => [names?.get(p.about), p.by, clockTime(p.at), p.note].filter(Boolean).join(", ");
  return (
    <>
      <ul className="flex flex-wrap gap-2">
        {photos.map((p) => (
          <li key={p.id}>
            <button type="button" aria-pressed={p.id === open} onClick={() => setOpen(p.id === open ? null : p.id)}>
              <img
                src={photoLink(job.id, p.id)}
                alt={`Photo: ${words(p)}`}
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
            src={photoLink(job.id, shown.id)}
            alt={`Photo: ${words(shown)}`}
            width={shown.wide}
            height={shown.high}
            className="h-auto max-w-full"
          />
          <figcaption className="flex flex-wrap items-center gap-2 text-[0.875rem] text-muted">
            <span className="grow">
              {words(shown)}
              {shown.north !== null &&
                shown.north !== undefined &&
                `, taken at ${shown.north.toFixed(5)}, ${shown.east?.toFixed(5)}`}
            </span>
            <Button onClick={() => confirm("Take this photo out for good?") && void remove(shown.id)}>
              Take it out
            </Button>
          </figcaption>
        </figure>
      )}
    </>
  );
}
