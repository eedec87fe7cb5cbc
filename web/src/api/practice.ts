import { verbs } from "./client";
import { keepAnswer, type WaitingPhoto } from "./pantry";
import type { Attempt, AttemptView } from "./types";

/** What the practice ground asks of the server. Whoever practises is named with each: a record is that person's own. */

const { get, post, put, drop } = verbs;
const seg = encodeURIComponent;

export const practiceApi = {
  ground: (person: string) => get("/api/practice", { params: { query: { person } } }),
  exercise: (name: string) => get("/api/practice/exercises/{name}", { params: { path: { name } } }),
  takeIn: (text: string) =>
    post("/api/practice/exercises", { body: text as never, bodySerializer: (b: unknown) => b as string }),
  make: (job: string, title: string) =>
    post("/api/jobs/{job_id}/exercise", { params: { path: { job_id: job } }, body: { title } }),
  dropExercise: (name: string) => drop("/api/practice/exercises/{name}", { params: { path: { name } } }),
  attempt: async (name: string, person: string) =>
    (await get("/api/practice/attempts/{name}", { params: { path: { name }, query: { person } } })) as AttemptView,
  keep: async (attempt: Attempt, person: string) => {
    const found = (await put("/api/practice/attempts/{name}", {
      params: { path: { name: attempt.id }, query: { person } },
      body: attempt,
    })) as AttemptView;
    const path = `/api/practice/attempts/${seg(attempt.id)}?person=${seg(person)}`;
    void keepAnswer({ path, revision: 0, text: JSON.stringify(found), at: Date.now() }); // to go on with it with no signal
    return found;
  },
  dropAttempt: (name: string, person: string) =>
    drop("/api/practice/attempts/{name}", { params: { path: { name }, query: { person } } }),
  photos: (name: string, person: string) =>
    get("/api/practice/attempts/{name}/photos", { params: { path: { name }, query: { person } } }),
  sendPhoto: (attempt: string, { id, about, by, at, body }: WaitingPhoto) =>
    post("/api/practice/attempts/{name}/photos", {
      params: { path: { name: attempt }, query: { id, about, at, person: by } },
      body: body as never,
      bodySerializer: (b: unknown) => b as Blob,
    }),
  dropPhoto: (name: string, photo: string, person: string) =>
    drop("/api/practice/attempts/{name}/photos/{photo}", { params: { path: { name, photo }, query: { person } } }),
};

export const attemptPhotoLink = (attempt: string, photo: string, person: string) =>
  `/api/practice/attempts/${seg(attempt)}/photos/${seg(photo)}?person=${seg(person)}`;
export const exerciseLink = (name: string) => `/api/practice/exercises/${seg(name)}/export`;
export const exerciseSheetLink = (name: string) => `/api/practice/exercises/${seg(name)}/sheet`;
export const practiceRecordLink = (person: string) => `/api/practice/record?person=${seg(person)}`;
