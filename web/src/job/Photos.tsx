import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, photoLink } from "../api/client";
import type { Photo } from "../api/types";
import { live } from "../api/wired";
import { clockTime } from "../ui/format";
import { Heading } from "../ui/parts";
import { useReadyJob } from "./hooks";
import { PhotoRow, TakePhoto, WaitingPhotos } from "./PhotoRow";
import { takePhoto, usePhotoBox } from "./photoBox";

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
  return (
    <section aria-label={title} className="mt-3">
      <Heading note={mine.length ? `${mine.length}` : undefined}>{title}</Heading>
      <Gallery photos={mine} />
      <WaitingPhotos photos={waiting} />
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <TakePhoto onTake={(file) => void takePhoto({ job: job.id }, about, file, "", place)} />
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
  const remove = async (id: string) => {
    await api.dropPhoto(job.id, id);
    await queries.invalidateQueries({ queryKey: ["photos", job.id] });
  };
  const words = (p: Photo) => [names?.get(p.about), p.by, clockTime(p.at), p.note].filter(Boolean).join(", ");
  const taken = (p: Photo) =>
    p.north !== null && p.north !== undefined ? `, taken at ${p.north.toFixed(5)}, ${p.east?.toFixed(5)}` : "";
  return (
    <PhotoRow
      photos={photos.map((p) => ({ ...p, link: photoLink(job.id, p.id), words: words(p), more: taken(p) }))}
      onRemove={remove}
    />
  );
}
