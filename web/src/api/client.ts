import createClient, { type FetchOptions } from "openapi-fetch";
import type { FilterKeys, PathsWithMethod } from "openapi-typescript-helpers";
import { heardClock, tick } from "./clock";
import type { ForeignFile } from "./foreignFile";
import { page } from "./id";
import { keeping } from "./keptAnswers";
import type { WaitingPhoto } from "./pantry";
import type {
  Book,
  Change,
  Comparison,
  GroupAct,
  JobSummary,
  JobView,
  Market,
  Nest,
  Paths,
  Plan,
  ProblemDocument,
  Reading,
  Said,
  Stage,
  UnitSystem,
  WellIn,
  Zoned,
} from "./types";

/** An answer that is not the one wanted: the server's problem document, or word that it could not be reached. */
export class Refused extends Error {
  constructor(readonly problem: ProblemDocument) {
    super(problem.detail);
  }
}

export const unreachable: ProblemDocument = {
  type: "/problems/unreachable",
  title: "No answer",
  status: 0,
  detail: "The server does not answer.",
  mend: "Your work is kept here and sent when it does.",
  places: [],
  extra: {},
};

const isProblem = (body: unknown): body is ProblemDocument =>
  typeof body === "object" && body !== null && "detail" in body && "status" in body && "type" in body;

const http = createClient<Paths>({ headers: { "X-Page": page } });

http.use(keeping);

let spoken: UnitSystem = "metric";
http.use({
  onRequest: ({ request }) => {
    request.headers.set("X-Units", spoken);
    return request;
  },
});

// crew parts are changed by several: a change says which state of them it was made on
let parts = "";
http.use({
  onRequest: ({ request, schemaPath }) => {
    if (schemaPath.startsWith("/api/book") && request.method !== "GET" && parts) request.headers.set("If-Match", parts);
    return request;
  },
  onResponse: ({ response, schemaPath }) => {
    if (schemaPath.startsWith("/api/book")) parts = response.headers.get("ETag") ?? parts;
  },
});

/** From now on what is refused is told in these units. */
export const speakIn = (units: UnitSystem): void => {
  spoken = units;
};

type Verb = "get" | "post" | "put" | "patch" | "delete";
type Having<V extends Verb> = PathsWithMethod<Paths, V>;
type Asked<P extends keyof Paths, V extends Verb> = FetchOptions<FilterKeys<Paths[P], V>>;
type Good<R> = R extends { 200: infer G } ? G : R extends { 201: infer G } ? G : never;
type Answer<P extends keyof Paths, V extends keyof Paths[P]> = Paths[P][V] extends { responses: infer R }
  ? Good<R> extends { content: { "application/json": infer B } }
    ? B
    : undefined
  : never;
type Call = (path: string, init: object) => Promise<{ data?: unknown; error?: unknown; response: Response }>;

/** Ask a path of the document; anything but the answer it names, also none at all, is thrown as `Refused`. */
async function got(ask: unknown, path: string, init: object): Promise<unknown> {
  const sent = Date.now();
  let answer: Awaited<ReturnType<Call>>;
  try {
    answer = await (ask as Call)(path, init);
  } catch (error) {
    const unread = error instanceof SyntaxError;
    throw new Refused(unread ? { ...unreachable, status: 502, detail: "The answer could not be read." } : unreachable);
  }
  const { data, error, response } = answer;
  if (ask !== http.GET) heardClock(response, sent); // what was got may have been kept, with the time of then
  const ours = response.headers.get("X-Answered-By") === "hydrarch";
  // a network that wants a log-in, or a proxy, may answer "all well" in the server's place: that is no answer of ours
  if (response.ok && (ask === http.GET ? data === undefined : !ours))
    throw new Refused({ ...unreachable, status: 502, detail: "Something on the way answered in the server's place." });
  if (response.ok) return data;
  const plain = `The server answered ${response.status} ${response.statusText}.`;
  throw new Refused(
    isProblem(error) ? error : { ...unreachable, status: response.status, title: "Not answered", detail: plain },
  );
}

const get = <P extends Having<"get">>(path: P, init: Asked<P, "get">) =>
  got(http.GET, path, init) as Promise<Answer<P, "get">>;
const post = <P extends Having<"post">>(path: P, init: Asked<P, "post">) =>
  got(http.POST, path, init) as Promise<Answer<P, "post">>;
const put = <P extends Having<"put">>(path: P, init: Asked<P, "put">) =>
  got(http.PUT, path, init) as Promise<Answer<P, "put">>;
const patch = <P extends Having<"patch">>(path: P, init: Asked<P, "patch">) =>
  got(http.PATCH, path, init) as Promise<Answer<P, "patch">>;
const drop = <P extends Having<"delete">>(path: P, init: Asked<P, "delete">) => got(http.DELETE, path, init);
/** For the calls of other modules. */
export const verbs = { get, post, put, drop };

type Hear = Record<string, (data: string) => void>;

/** Server-sent events until "done": `hear` has what to do with each of the others; aborting closes the stream, and the server stops. */
function listen(path: string, signal: AbortSignal, hear: Hear): Promise<string> {
  return new Promise((resolve, reject) => {
    const stream = new EventSource(`/api${path}`);
    const fail = (problem: ProblemDocument) => {
      stream.close();
      reject(new Refused(problem));
    };
    signal.addEventListener("abort", () =>
      fail({ ...unreachable, type: "/problems/stopped", detail: "Stopped.", mend: "" }),
    );
    for (const [kind, take] of Object.entries(hear)) stream.addEventListener(kind, (e) => take(e.data));
    stream.addEventListener("fault", (e) => fail({ ...unreachable, status: 500, detail: e.data, mend: "" }));
    stream.addEventListener("error", () => fail(unreachable));
    stream.addEventListener("done", (e) => {
      stream.close();
      resolve(e.data);
    });
  });
}

const work = async <T>(path: string, signal: AbortSignal, onSays: (says: string) => void): Promise<T> =>
  JSON.parse(await listen(path, signal, { says: onSays })) as T;

const seg = encodeURIComponent;
const of = (job: string) => ({ path: { job_id: job } });

type Body<P extends keyof Paths> = Paths[P] extends {
  post: { requestBody: { content: { "application/json": infer B } } };
}
  ? B
  : Paths[P] extends { put: { requestBody: { content: { "application/json": infer B } } } }
    ? B
    : never;
/** What is asked, where the server fills in what is left out. */
type Some<P extends keyof Paths> = Partial<Body<P>>;
const whole = <B>(asked: Partial<B>) => asked as B;

/** The plan as the document has it: kinds of thing are open there too. */
const plain = (plan: Plan) => plan as unknown as Body<"/api/jobs/{job_id}/what-if">;

export const api = {
  jobs: () => get("/api/jobs", {}),
  job: async (job: string, stage: Stage) =>
    (await get("/api/jobs/{job_id}", { params: { ...of(job), query: { stage } } })) as JobView,
  stage: (job: string, stage: Stage) =>
    get("/api/jobs/{job_id}/stages/{stage}", { params: { path: { job_id: job, stage } } }),
  startJob: async (name: string, units: UnitSystem, market: Market | null, about: string, drawn: boolean) =>
    (await post("/api/jobs", { body: { name, units, market, about, drawn } })) as JobView,
  savePlan: (job: string, revision: number, plan: Plan, back: string[], stage: Stage) =>
    put("/api/jobs/{job_id}/plan", {
      params: { ...of(job), query: { stage } },
      body: { revision, plan: plain(plan), back },
    }),
  saveChange: (job: string, revision: number, change: Change, back: string[], stage: Stage) =>
    patch("/api/jobs/{job_id}/plan", { params: { ...of(job), query: { stage } }, body: { revision, change, back } }),
  revisions: (job: string) => get("/api/jobs/{job_id}/revisions", { params: of(job) }),
  takeBack: async (job: string, to: number, revision: number, stage: Stage) =>
    (await post("/api/jobs/{job_id}/revisions", {
      params: { ...of(job), query: { stage } },
      body: { to, revision },
    })) as JobView,
  /** A file goes as it is, so that what is wrong with it is told by where it is in the file. */
  importJob: async (file: Blob) =>
    (await post("/api/import", { body: file as never, bodySerializer: (b: unknown) => b as Blob })) as JobView,
  reference: () => get("/api/reference", {}),
  read: (text: string, quantity: string, system: UnitSystem) => post("/api/read", { body: { text, quantity, system } }),
  working: (job: string, kind: string, name: string, scenario?: string) =>
    get("/api/jobs/{job_id}/working/{kind}/{name}", {
      params: { path: { job_id: job, kind, name }, query: { scenario } },
    }),
  profile: (job: string, start: string, stop: string, scenario: string) =>
    get("/api/jobs/{job_id}/profile", { params: { ...of(job), query: { start, stop, scenario } } }),
  ways: (job: string, end: string) => get("/api/jobs/{job_id}/ways/{end}", { params: { path: { job_id: job, end } } }),
  nodes: (job: string, point: string) =>
    get("/api/jobs/{job_id}/nodes/{point}", { params: { path: { job_id: job, point } } }),
  wrong: (job: string, joint: string) =>
    get("/api/jobs/{job_id}/joints/{joint}/wrong", { params: { path: { job_id: job, joint } } }),
  procedures: (job: string) => get("/api/jobs/{job_id}/procedures", { params: of(job) }),
  procedure: (job: string, joint: string) =>
    get("/api/jobs/{job_id}/joints/{joint}/procedure", { params: { path: { job_id: job, joint } } }),
  glance: (job: string) => get("/api/jobs/{job_id}/glance", { params: of(job) }),
  standing: (job: string, stage: Stage) =>
    get("/api/jobs/{job_id}/standing", { params: { ...of(job), query: { stage } } }),
  progress: (job: string) => get("/api/jobs/{job_id}/progress", { params: of(job) }),
  say: (job: string, events: Said[], stage: Stage) =>
    post("/api/jobs/{job_id}/events", {
      params: { ...of(job), query: { stage, sent: Date.now() / 1000, page, tick: tick() } },
      body: events as Body<"/api/jobs/{job_id}/events">,
    }),
  book: async () => (await get("/api/book", {})) as Book,
  /** A file, or a row, goes as it is, so that what is wrong with it is told by where it is in it. */
  addToBook: async (text: string) =>
    (await post("/api/book", { body: text as never, bodySerializer: (b: unknown) => b as string })) as Book,
  takeOutOfBook: (section: "things" | "fittings" | "pipes" | "assemblies", name: string) =>
    drop("/api/book/{section}/{name}", { params: { path: { section, name } } }) as Promise<Book>,
  sizing: (job: string, signal: AbortSignal, onSays: (says: string) => void) =>
    work<Comparison>(`/jobs/${seg(job)}/sizing/live`, signal, onSays),
  operating: (job: string, point: string) =>
    get("/api/jobs/{job_id}/operating/{point}", { params: { path: { job_id: job, point } } }),
  whatIf: (job: string, plan: Plan) => post("/api/jobs/{job_id}/what-if", { params: of(job), body: plain(plan) }),
  nests: (job: string, signal: AbortSignal, onSays: (says: string) => void) =>
    work<Nest[]>(`/jobs/${seg(job)}/nests/live`, signal, onSays),
  readPrices: (file: ForeignFile) => post("/api/prices", { body: file }),
  comparePrices: (job: string, file: ForeignFile) =>
    post("/api/jobs/{job_id}/prices/compare", { params: { path: { job_id: job } }, body: file }),
  hold: (job: string, section: string) =>
    get("/api/jobs/{job_id}/sections/{section}/hold", { params: { path: { job_id: job, section } } }),
  flush: (job: string, section: string) =>
    get("/api/jobs/{job_id}/sections/{section}/flush", { params: { path: { job_id: job, section } } }),
  judge: (job: string, section: string, log: Some<"/api/jobs/{job_id}/sections/{section}/judge">) =>
    post("/api/jobs/{job_id}/sections/{section}/judge", {
      params: { path: { job_id: job, section } },
      body: whole(log),
    }),
  /** The simulated gauge, a minute of it every tenth of a second. */
  watchGauge: (
    job: string,
    section: string,
    leak: number,
    signal: AbortSignal,
    onReading: (reading: Reading) => void,
  ) =>
    listen(`/jobs/${seg(job)}/sections/${seg(section)}/gauge/live?leak=${leak}&pace=600`, signal, {
      reading: (data) => onReading(JSON.parse(data) as Reading),
    }),
  runZone: (job: string, zone: string, asked: Body<"/api/jobs/{job_id}/zones/{zone}/run">) =>
    post("/api/jobs/{job_id}/zones/{zone}/run", { params: { path: { job_id: job, zone } }, body: asked }),
  stopZone: (job: string) => post("/api/jobs/{job_id}/zones/stop", { params: of(job) }),
  weather: (hours: number) => post("/api/weather", { body: { csv: "", hours, seed: 1 } }),
  join: (passphrase: string, name: string) => post("/api/session", { body: { passphrase, name } }),
  crew: () => get("/api/crew", {}),
  addToCrew: (name: string) => post("/api/crew", { body: { name } }),
  sessions: () => get("/api/sessions", {}),
  endSession: (id: string) => drop("/api/sessions/{name}", { params: { path: { name: id } } }),
  here: (job: string) => get("/api/jobs/{job_id}/here", { params: of(job) }),
  sayWhere: (job: string, where: Body<"/api/jobs/{job_id}/here">) =>
    put("/api/jobs/{job_id}/here", { params: of(job), body: where }),
  /** Say that this page is left. It is asked at once, with nothing between: a page that is going away comes to no second step. */
  leave: (job: string, name: string) =>
    void fetch(`/api/jobs/${encodeURIComponent(job)}/here`, {
      method: "PUT",
      keepalive: true,
      headers: { "Content-Type": "application/json", "X-Page": page },
      body: JSON.stringify({ name, stage: "survey", at: "", gone: true }),
    }).catch(() => undefined),
  benchAsk: (asked: Some<"/api/bench/ask">) => post("/api/bench/ask", { body: whole(asked) }),
  benchSteps: (asked: Some<"/api/bench/steps">) => post("/api/bench/steps", { body: whole(asked) }),
  benchJoin: (asked: Some<"/api/bench/join">) => post("/api/bench/join", { body: whole(asked) }),
  benchBranch: (asked: Some<"/api/bench/branch">) => post("/api/bench/branch", { body: whole(asked) }),
  benchIdentify: (read: Some<"/api/bench/identify">) => post("/api/bench/identify", { body: whole(read) }),
  benchLine: (asked: Some<"/api/bench/line">) => post("/api/bench/line", { body: whole(asked) }),
  benchDrain: (asked: Some<"/api/bench/drain">) => post("/api/bench/drain", { body: whole(asked) }),
  frictionTable: (series: string, units: UnitSystem) =>
    get("/api/bench/friction/{name}", { params: { path: { name: series }, query: { units } } }),
  benchCut: (asked: Some<"/api/bench/cut">) => post("/api/bench/cut", { body: whole(asked) }),
  benchTakers: (series: string, size: string) => get("/api/bench/takers", { params: { query: { series, size } } }),
  benchRepair: (asked: Some<"/api/bench/repair">) => post("/api/bench/repair", { body: whole(asked) }),
  benchWait: (asked: Some<"/api/bench/wait">) => post("/api/bench/wait", { body: whole(asked) }),
  mend: async (job: string, key: string) =>
    (await post("/api/jobs/{job_id}/mend", { params: of(job), body: { key } })) as unknown as {
      says: string;
      revision: number;
      plan: Plan;
      goes: string[];
      comes: string[];
    },
  watered: (job: string, scenario: string) =>
    get("/api/jobs/{job_id}/watered/{scenario}", { params: { path: { job_id: job, scenario } } }),
  bodies: (job: string) => get("/api/jobs/{job_id}/bodies", { params: of(job) }),
  readPoints: (file: ForeignFile, units: UnitSystem, use: readonly string[], tie: Plan["tie"], grid: string) =>
    post("/api/measures/points", { body: { ...file, units, use: [...use], tie, grid } }),
  readPlace: (text: string, east: number, north: number, turn: number) =>
    post("/api/measures/place", { body: { text, east, north, turn } }),
  readCurve: (text: string, units: UnitSystem) => post("/api/measures/curve", { body: { text, units } }),
  readMeasures: (text: string, units: UnitSystem) => post("/api/measures/read", { body: { text, units } }),
  drawMeasures: async (text: string, into: Plan, start: string) =>
    (await post("/api/measures/draw", { body: { text, plan: plain(into), start } })) as unknown as {
      plan: Plan;
      end: string;
      says: string;
    },
  grade: async (into: Plan, start: string, stop: string, by: "even" | "slope" | "ground", slope: string) =>
    (await post("/api/measures/grade", { body: { plan: plain(into), start, stop, by, slope } })) as unknown as {
      plan: Plan;
      points: string[];
      says: string;
    },
  group: async (act: GroupAct, body: Record<string, unknown>, into: Plan) =>
    (await post(`/api/groups/${act}`, { body: { ...body, plan: plain(into) } as never })) as unknown as {
      plan: Plan;
      chosen: string[];
      says: string;
    },
  lift: async (from: Plan, chosen: readonly string[], name: string) =>
    (await post("/api/groups/lift", { body: { plan: plain(from), chosen: [...chosen], name } })) as Plan,
  shelve: (job: string, shelf: JobSummary["shelf"]) =>
    put("/api/jobs/{job_id}/shelf", { params: of(job), body: { shelf } }),
  copyJob: async (job: string) => (await post("/api/jobs/{job_id}/copy", { params: of(job) })) as unknown as JobView,
  forgetJob: (job: string, name: string) =>
    drop("/api/jobs/{job_id}", { params: { path: { job_id: job }, query: { name } } }),
  copies: () => get("/api/copies", {}),
  bringBackFrom: (day: string, name: string) =>
    post("/api/copies/{day}/{name}/back", { params: { path: { day, name } } }),
  deleted: () => get("/api/deleted", {}),
  bringBack: (name: string) => post("/api/deleted/{name}/back", { params: { path: { name } } }),
  audit: () => get("/api/audit", {}),
  keepPicture: async (file: Blob, trim = false) =>
    post("/api/pictures", {
      params: { query: { trim } },
      body: file as never,
      bodySerializer: (b: unknown) => b as Blob,
    }),
  runTime: (asked: { mean: number; scheduling: number | null; need: string; soil: string; units: UnitSystem }) =>
    post("/api/watering/run-time", { body: asked }),
  zonesOf: async (from: Plan, most: string) =>
    (await post("/api/watering/zones", { body: { plan: plain(from), most } })) as unknown as Zoned,
  readNozzles: async (file: ForeignFile) =>
    (await post("/api/watering/nozzles", { body: file })) as unknown as Plan["nozzles"],
  shop: (job: string) => get("/api/jobs/{job_id}/shop", { params: of(job) }),
  instead: (job: string, item: string) =>
    get("/api/jobs/{job_id}/shop/{item}/instead", { params: { path: { job_id: job, item } } }),
  asLaid: (job: string) => get("/api/jobs/{job_id}/as-laid", { params: of(job) }),
  reminders: (job: string) => get("/api/jobs/{job_id}/reminders", { params: of(job) }),
  photos: (job: string) => get("/api/jobs/{job_id}/photos", { params: of(job) }),
  sendPhoto: ({ job, id, about, by, at, note, place, body }: WaitingPhoto) =>
    post("/api/jobs/{job_id}/photos", {
      params: { ...of(job), query: { id, about, by, at, note, place } },
      body: body as never,
      bodySerializer: (b: unknown) => b as Blob,
    }),
  dropPhoto: (job: string, photo: string) =>
    drop("/api/jobs/{job_id}/photos/{photo}", { params: { path: { job_id: job, photo } } }),
  mishaps: (job: string) => get("/api/jobs/{job_id}/mishaps", { params: of(job) }),
  happens: (job: string, asked: Body<"/api/jobs/{job_id}/happens">, signal: AbortSignal) =>
    post("/api/jobs/{job_id}/happens", { params: of(job), body: asked, signal }),
  fault: (job: string, scenario: string) =>
    get("/api/jobs/{job_id}/fault", { params: { path: { job_id: job }, query: { scenario } } }),
  twoOpen: (job: string) => get("/api/jobs/{job_id}/two-open", { params: of(job) }),
  drainPipe: (job: string) => get("/api/jobs/{job_id}/drain-pipe", { params: of(job) }),
  looped: (job: string) => get("/api/jobs/{job_id}/looped", { params: of(job) }),
  watering: (job: string) => get("/api/jobs/{job_id}/watering", { params: of(job) }),
  loadController: (job: string, override: string) =>
    post("/api/jobs/{job_id}/watering/controller", { params: of(job), body: { override } }),
  layWell: async (well: WellIn, plan: Plan) =>
    (await post("/api/bench/well/laid", { body: { well, plan: plain(plan) } })) as Plan,
  benchWell: (asked: Some<"/api/bench/well">) => post("/api/bench/well", { body: whole(asked) }),
  benchSupply: (asked: Some<"/api/bench/supply">) => post("/api/bench/supply", { body: whole(asked) }),
  benchFused: (asked: Some<"/api/bench/fused">) => post("/api/bench/fused", { body: whole(asked) }),
  benchFittings: () => get("/api/bench/fittings", {}),
  benchEnds: () => get("/api/bench/ends", {}),
  caliper: (asked: Some<"/api/bench/caliper">) => post("/api/bench/caliper", { body: whole(asked) }),
};

export const labelLink = (job: string, point: string) => `/api/jobs/${seg(job)}/label/${seg(point)}`;
export const labelsLink = (job: string, used: number) => `/api/jobs/${seg(job)}/labels?used=${used}`;
export const photoLink = (job: string, photo: string) => `/api/jobs/${seg(job)}/photos/${seg(photo)}`;
/** The crew's book as a file. */
export const pictureLink = (hash: string) => `/api/pictures/${hash}`;
export const bookLink = "/api/book/export";

/** Where a job can be had in an open format. */
export const exportLink = (job: string, name: string) => `/api/jobs/${seg(job)}/export/${name}`;
