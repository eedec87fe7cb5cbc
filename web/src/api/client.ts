import type {
  Answer,
  BranchWay,
  CaliperReading,
  Clock,
  Comparison,
  CutAnswer,
  CutIn,
  DrainRow,
  EndView,
  EventIn,
  Expected,
  FlushPlan,
  FrictionTable,
  FusedJoint,
  HoldPlan,
  HubView,
  Identified,
  IdentifyIn,
  JobSummary,
  JobView,
  JoinIn,
  Judged,
  LineAnswer,
  LineIn,
  Nest,
  Operating,
  Plan,
  ProblemDocument,
  Procedure,
  ProfilePoint,
  Readiness,
  Reading,
  Reference,
  Spoiled,
  SupplyCurve,
  SupplyIn,
  System,
  Taker,
  WaitIn,
  Waits,
  WellAnswer,
  WellIn,
  WhatIf,
  Working,
  Zone,
} from "./types";

/** An answer that is not the one wanted: the server's problem document, or word that it could not be reached. */
export class Refused extends Error {
  constructor(readonly problem: ProblemDocument) {
    super(problem.detail);
  }
}

const unreachable: ProblemDocument = {
  type: "/problems/unreachable",
  title: "No answer",
  status: 0,
  detail: "The server does not answer.",
  mend: "Your work is kept here and sent when it does.",
  places: [],
  extra: {},
};

async function call<T>(path: string, init?: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, init);
  } catch {
    throw new Refused(unreachable);
  }
  if (response.status === 204) return undefined as T;
  const body = await response.json().catch(() => null);
  if (!response.ok) throw new Refused(body ?? { ...unreachable, status: response.status, detail: response.statusText });
  return body as T;
}

type Hear = Record<string, (data: string) => void>;

/** Server-sent events until "done": `hear` has what to do with each of the others; aborting closes the stream, and the server stops. */
function listen(path: string, signal: AbortSignal, hear: Hear): Promise<string> {
  return new Promise((resolve, reject) => {
    const stream = new EventSource(`/api${path}`);
    const fail = (problem: ProblemDocument) => {
      stream.close();
      reject(new Refused(problem));
    };
    signal.addEventListener("abort", () => fail({ ...unreachable, detail: "Stopped." }));
    for (const [kind, take] of Object.entries(hear)) stream.addEventListener(kind, (e) => take(e.data));
    stream.addEventListener("fault", (e) => fail({ ...unreachable, detail: e.data }));
    stream.addEventListener("error", () => fail(unreachable));
    stream.addEventListener("done", (e) => {
      stream.close();
      resolve(e.data);
    });
  });
}

const work = async <T>(path: string, signal: AbortSignal, onSays: (says: string) => void): Promise<T> =>
  JSON.parse(await listen(path, signal, { says: onSays })) as T;

const send = (method: string, body: unknown): RequestInit => ({
  method,
  headers: { "Content-Type": "application/json" },
  body: JSON.stringify(body),
});

const seg = encodeURIComponent;

export const api = {
  jobs: () => call<JobSummary[]>("/jobs"),
  job: (id: string) => call<JobView>(`/jobs/${seg(id)}`),
  startJob: (name: string, units: System) => call<JobView>("/jobs", send("POST", { name, units })),
  deleteJob: (id: string) => call<void>(`/jobs/${seg(id)}`, { method: "DELETE" }),
  savePlan: (id: string, revision: number, plan: Plan) =>
    call<JobView>(`/jobs/${seg(id)}/plan`, send("PUT", { revision, plan })),
  importJob: (text: string) =>
    call<JobView>("/import", { method: "POST", headers: { "Content-Type": "application/json" }, body: text }),
  reference: () => call<Reference>("/reference"),
  read: (text: string, quantity: string, system: System) =>
    call<{ value: number; shown: string }>("/read", send("POST", { text, quantity, system })),
  working: (id: string, kind: string, name: string, scenario?: string) =>
    call<Working>(`/jobs/${seg(id)}/working/${seg(kind)}/${seg(name)}${scenario ? `?scenario=${seg(scenario)}` : ""}`),
  profile: (id: string, start: string, stop: string, scenario: string) =>
    call<ProfilePoint[]>(`/jobs/${seg(id)}/profile?start=${seg(start)}&stop=${seg(stop)}&scenario=${seg(scenario)}`),
  ways: (id: string, point: string, run: string) => call<Answer>(`/jobs/${seg(id)}/ways/${seg(point)}/${seg(run)}`),
  wrong: (id: string, joint: string) => call<Spoiled>(`/jobs/${seg(id)}/joints/${seg(joint)}/wrong`),
  procedure: (id: string, joint: string) => call<Procedure>(`/jobs/${seg(id)}/joints/${seg(joint)}/procedure`),
  readiness: (id: string) => call<Readiness>(`/jobs/${seg(id)}/readiness`),
  say: (id: string, events: EventIn[]) => call<Readiness>(`/jobs/${seg(id)}/events`, send("POST", events)),
  benchJoin: (asked: Partial<JoinIn>) => call<Answer>("/bench/join", send("POST", asked)),
  benchIdentify: (read: Partial<IdentifyIn>) => call<Identified>("/bench/identify", send("POST", read)),
  sizing: (id: string, signal: AbortSignal, onSays: (says: string) => void) =>
    work<Comparison>(`/jobs/${seg(id)}/sizing/live`, signal, onSays),
  operating: (id: string, point: string) => call<Operating>(`/jobs/${seg(id)}/operating/${seg(point)}`),
  whatIf: (id: string, plan: Plan) => call<WhatIf>(`/jobs/${seg(id)}/what-if`, send("POST", plan)),
  benchLine: (asked: Partial<LineIn>) => call<LineAnswer>("/bench/line", send("POST", asked)),
  benchDrain: (series: string, flow: number, slope: number, units: System) =>
    call<DrainRow[]>("/bench/drain", send("POST", { series, flow, slope, units })),
  frictionTable: (series: string, units: System) =>
    call<FrictionTable>(`/bench/friction/${seg(series)}?units=${seg(units)}`),
  benchCut: (asked: Partial<CutIn>) => call<CutAnswer>("/bench/cut", send("POST", asked)),
  benchTakers: (series: string, size: string) => call<Taker[]>(`/bench/takers?series=${seg(series)}&size=${seg(size)}`),
  benchWait: (asked: Partial<WaitIn>) => call<Waits>("/bench/wait", send("POST", asked)),
  benchWell: (asked: Partial<WellIn>) => call<WellAnswer>("/bench/well", send("POST", asked)),
  benchSupply: (asked: Partial<SupplyIn>) => call<SupplyCurve>("/bench/supply", send("POST", asked)),
  nests: (id: string, signal: AbortSignal, onSays: (says: string) => void) =>
    work<Nest[]>(`/jobs/${seg(id)}/nests/live`, signal, onSays),
  readPrices: (text: string) => call<Record<string, number>>("/prices", send("POST", { text })),
  benchFused: (asked: object) => call<FusedJoint>("/bench/fused", send("POST", asked)),
  hold: (id: string, section: string) => call<HoldPlan>(`/jobs/${seg(id)}/sections/${seg(section)}/hold`),
  flush: (id: string, section: string) => call<FlushPlan>(`/jobs/${seg(id)}/sections/${seg(section)}/flush`),
  judge: (id: string, section: string, log: object) =>
    call<Judged>(`/jobs/${seg(id)}/sections/${seg(section)}/judge`, send("POST", log)),
  /** The simulated gauge, a minute of it every tenth of a second. */
  watchGauge: (id: string, section: string, leak: number, signal: AbortSignal, onReading: (reading: Reading) => void) =>
    listen(`/jobs/${seg(id)}/sections/${seg(section)}/gauge/live?leak=${leak}&pace=600`, signal, {
      reading: (data) => onReading(JSON.parse(data) as Reading),
    }),
  zones: (id: string) => call<Zone[]>(`/jobs/${seg(id)}/zones`),
  runZone: (id: string, zone: string, asked: { by: string; seconds: number; override: string }) =>
    call<Zone[]>(`/jobs/${seg(id)}/zones/${seg(zone)}/run`, send("POST", asked)),
  stopZone: (id: string) => call<Zone[]>(`/jobs/${seg(id)}/zones/stop`, { method: "POST" }),
  clocks: (id: string) => call<Clock[]>(`/jobs/${seg(id)}/clocks`),
  weather: (asked: { csv?: string; hours?: number }) => call<Expected>("/weather", send("POST", asked)),
  benchBranch: (line: object, off: object) => call<BranchWay[]>("/bench/branch", send("POST", { line, off })),
  hubs: (id: string, point: string) => call<HubView[]>(`/jobs/${seg(id)}/hubs/${seg(point)}`),
  benchFittings: () => call<{ id: string; name: string }[]>("/bench/fittings"),
  benchEnds: () => call<EndView[]>("/bench/ends"),
  caliper: (series: string, size: string, what: string, seed: number) =>
    call<CaliperReading>("/bench/caliper", send("POST", { series, size, what, seed })),
  join: (passphrase: string) => call<void>("/session", send("POST", { passphrase })),
};
