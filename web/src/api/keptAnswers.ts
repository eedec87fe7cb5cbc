import type { Middleware } from "openapi-fetch";
import { keepAnswer, keptAnswer } from "./pantry";
import { signalFound, signalLost } from "./signal";

/**
 * What was asked before is answered with no signal as it was answered then: but only while it is about the same revision of the job, so
 * that no answer is shown to another question.
 */

/** Answers that are of a moment, or too long for what they are worth without a signal. */
const PASSING =
  /\/(live|standing|progress|export|nests|events|watered|profile|pictures|revisions|here|sessions|photos\/)\b/;
/** A job itself is kept whole, by the page that has it open. */
const WHOLE = /^\/api\/jobs\/[^/]+$/;
const OF_JOB = /^\/api\/jobs\/([^/]+)\/(?!glance)/;

const revisions = new Map<string, number>();
/** The revision of a job that questions about it are asked of from now on. */
export const askAbout = (job: string, revision: number): void => void revisions.set(job, revision);

const revisionOf = (path: string): number => revisions.get(decodeURIComponent(OF_JOB.exec(path)?.[1] ?? "")) ?? 0;

const pathOf = (request: Request): string | null => {
  const { pathname, search } = new URL(request.url);
  return request.method === "GET" && !PASSING.test(pathname) && !WHOLE.test(pathname) ? pathname + search : null;
};

export const keeping: Middleware = {
  onResponse: async ({ request, response }) => {
    signalFound();
    const path = pathOf(request);
    if (path && response.ok && response.headers.get("content-type")?.startsWith("application/json"))
      void response
        .clone()
        .text()
        .then((text) => keepAnswer({ path, revision: revisionOf(path), text, at: Date.now() }))
        .catch(() => {});
    return undefined;
  },
  onError: async ({ request, error }) => {
    if (error instanceof DOMException && error.name === "AbortError") return undefined;
    signalLost();
    const path = pathOf(request);
    const found = path ? await keptAnswer(path) : undefined;
    if (!path || !found || found.revision !== revisionOf(path)) return undefined;
    return new Response(found.text, { headers: { "content-type": "application/json", "x-kept": "yes" } });
  },
};
