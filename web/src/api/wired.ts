import { api, Refused } from "./client";
import { page } from "./id";
import { kept, onKept, plain } from "./kept";
import { Live, type News } from "./live";
import { type Boxed, Outbox } from "./outbox";
import type { Answered } from "./types";

/** The outbox and the news of this page, wired to the server and the browser. */

type Listener<T> = (told: T) => void;

class Told<T> {
  private listeners = new Set<Listener<T>>();
  hear = (listener: Listener<T>): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  tell(told: T): void {
    for (const l of this.listeners) l(told);
  }
}

const boxChanges = new Told<Boxed>();
const answers = new Told<{ job: string; answer: Answered }>();

export const outbox = new Outbox({
  shelf: kept,
  send: api.say,
  problemOf: (error) => (error instanceof Refused ? error.problem : null),
  now: Date.now,
  later: (act, ms) => void setTimeout(act, ms),
  onChange: (boxed) => boxChanges.tell(boxed),
  onAnswer: (job, answer) => answers.tell({ job, answer }),
});
onKept(() => outbox.keptNow());
export const onBoxed = boxChanges.hear;
export const onAnswered = answers.hear;

/** Tabs of a browser pass news to each other; a browser without such a channel opens a stream for each tab. */
const channel = "BroadcastChannel" in globalThis ? new BroadcastChannel("hydrarch.live") : null;

export const live = new Live({
  page,
  shelf: channel ? plain : { get: () => null, put: () => true, drop: () => {}, keys: () => [] },
  channel: {
    post: (news) => channel?.postMessage(news),
    hear: (take) => channel?.addEventListener("message", (e) => take(e.data as News)),
  },
  open: (onNews, onOpen) => openStream(onNews, onOpen),
  now: Date.now,
  every: (act, ms) => void setInterval(act, ms),
});

/** A stream the server refuses (a passphrase it wants again) is closed for good by the browser: it is opened anew. */
function openStream(onNews: (news: News) => void, onOpen: () => void): { close: () => void } {
  let stream: EventSource;
  let over = false;
  const start = () => {
    if (over) return;
    stream = new EventSource("/api/live");
    stream.onmessage = (e) => onNews(JSON.parse(e.data) as News);
    stream.onopen = onOpen;
    stream.onerror = () => {
      if (stream.readyState === EventSource.CLOSED) setTimeout(start, 5_000);
    };
  };
  start();
  return {
    close: () => {
      over = true;
      stream.close();
    },
  };
}

addEventListener("online", () => void outbox.send(true));
addEventListener("storage", () => boxChanges.tell(outbox.boxed()));
addEventListener("pagehide", () => live.leave());
addEventListener("pageshow", (e) => e.persisted && void outbox.send(true));
void kept.ready().then(() => outbox.send(true));
