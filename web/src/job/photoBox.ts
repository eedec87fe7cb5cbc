import { create } from "zustand";
import { api, Refused } from "../api/client";
import { rightNow } from "../api/clock";
import { fateOf } from "../api/custody";
import { uuid } from "../api/id";
import { plain } from "../api/kept";
import { marked } from "../api/mark";
import { dropPhoto, keepPhoto, keptPhotos, type WaitingPhoto } from "../api/pantry";
import { practiceApi } from "../api/practice";
import { person } from "./Person";

/**
 * Photos that are not yet with the server: kept in the browser's database, sent one after another in the order they were taken, each by
 * its own name, so that none is kept twice. One leaves only when the server has it, or a person discards it.
 */
type Box = { waiting: readonly WaitingPhoto[]; unkept: boolean };

export const usePhotoBox = create<Box>(() => ({ waiting: [], unkept: false }));

const LONGEST = 1600;
const AGAIN = 15_000;
let sending = false;
/** Whether a photo was taken while others were being sent, so that the box is gone through once more. */
let more = false;
let timer: ReturnType<typeof setTimeout> | undefined;
/** Photos that this browser would not keep: they live in this page alone. */
const here = new Map<string, WaitingPhoto>();
/** What this page has taken and is not with the server, to be kept again should somebody clear what the browser keeps. */
const mine = new Map<string, WaitingPhoto>();
let mark = marked(plain);

/** Keep again what was cleared under this page. */
async function mend(): Promise<void> {
  const before = mark;
  mark = marked(plain);
  if (before !== mark) for (const photo of mine.values()) await put(photo);
}

async function look(): Promise<WaitingPhoto[]> {
  await mend();
  const all = new Map([...(await keptPhotos()), ...here.values()].map((p) => [p.id, p]));
  const waiting = [...all.values()].sort((a, b) => a.at - b.at || a.id.localeCompare(b.id));
  usePhotoBox.setState({ waiting, unkept: here.size > 0 });
  return waiting;
}

async function put(photo: WaitingPhoto): Promise<void> {
  mine.set(photo.id, photo);
  if (await keepPhoto(photo)) here.delete(photo.id);
  else here.set(photo.id, photo);
}

async function drop(id: string): Promise<void> {
  here.delete(id);
  mine.delete(id);
  await dropPhoto(id);
}

/** Where a photo belongs: to a job, or to one's own attempt at an exercise. */
type Of = { job: string } | { attempt: string };

/** Take a photo into the box; what it is of is the id of a joint, a section or a thing, or a result that is measured. */
export async function takePhoto(of: Of, about: string, file: Blob, note: string, place: boolean): Promise<void> {
  const body = place ? file : await small(file);
  await put({ job: "", ...of, id: uuid(), about, by: person(), at: rightNow(), note, place, body, refused: "" });
  await look();
  await sendPhotos();
}

export async function discardPhoto(id: string): Promise<void> {
  await drop(id);
  await look();
}

/** Send all that waits; what the server refuses stays in sight with the reason, and stands in no other's way. */
export async function sendPhotos(): Promise<void> {
  if (sending) {
    more = true;
    return;
  }
  sending = true;
  more = false;
  clearTimeout(timer);
  try {
    for (const photo of await look()) {
      if (photo.refused) continue;
      try {
        await (photo.attempt ? practiceApi.sendPhoto(photo.attempt, photo) : api.sendPhoto(photo));
        await drop(photo.id);
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        if (fateOf(error.problem).kind !== "waits") await put({ ...photo, refused: error.problem.detail });
        else {
          clearTimeout(timer);
          timer = setTimeout(() => void sendPhotos(), AGAIN);
          // a server that fails over one photo may take the next; with no signal or no passphrase none is taken
          const fate = fateOf(error.problem);
          if (fate.kind === "waits" && fate.why !== "server") return;
        }
      }
      await look();
    }
  } finally {
    sending = false;
    if (more) void sendPhotos();
  }
}

/** A photo as large as is kept, and with nothing in it but the picture; as it is where the browser cannot read it. */
async function small(file: Blob): Promise<Blob> {
  try {
    const picture = await createImageBitmap(file);
    const share = Math.min(1, LONGEST / Math.max(picture.width, picture.height));
    const canvas = document.createElement("canvas");
    canvas.width = Math.round(picture.width * share);
    canvas.height = Math.round(picture.height * share);
    canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
    return await new Promise((done) => canvas.toBlob((made) => done(made ?? file), "image/jpeg", 0.85));
  } catch {
    return file;
  }
}

/** Send what waits when the page opens and whenever there is a signal again. */
export function wirePhotos(): void {
  addEventListener("online", () => void sendPhotos());
  addEventListener("pageshow", (e) => e.persisted && void sendPhotos());
  void sendPhotos();
}
