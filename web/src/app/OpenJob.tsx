import { useQuery } from "@tanstack/react-query";
import { type RefObject, useEffect, useLayoutEffect, useRef, useState } from "react";
import { useLocation } from "wouter";
import { api } from "../api/client";
import type { PlanProblem, Stage } from "../api/types";
import { Drawing } from "../drawing/Drawing";
import { stages } from "../drawing/dress";
import { ProfileStrip } from "../drawing/ProfileStrip";
import { nextKind, turned } from "../drawing/projection";
import { useTools } from "../drawing/toolStore";
import { ViewSwitch } from "../drawing/ViewSwitch";
import { useLook } from "../drawing/viewStore";
import { useBox, useNews, useProblems, useReadyJob } from "../job/hooks";
import { useJob } from "../job/jobStore";
import { problemOf } from "../job/saving";
import { useSayWhere } from "../job/whereabouts";
import { useModel } from "../model/modelStore";
import { FormatContext, ReferenceContext, useFormatOf } from "../ui/context";
import { Failed, Loading, Notice } from "../ui/Messages";
import { onDemand } from "../ui/onDemand";
import { Button, Pick } from "../ui/parts";
import { useFocusKept } from "../ui/useFocusKept";
import { useSmall } from "../ui/useSmall";
import { useTitle } from "../ui/useTitle";
import { AskUndo, Clash } from "./Clash";
import { FindAnything } from "./FindAnything";
import { Header, Kept } from "./Header";
import { Join } from "./Join";
import { Keys, letters } from "./Keys";
import { StageBar, stageTitle } from "./StageBar";

const ShopPage = onDemand(() => import("../shop/ShopPage").then((m) => m.ShopPage));
const CutSheet = onDemand(() => import("../stages/cut/CutSheet").then((m) => m.CutSheet));
const JoinSheet = onDemand(() => import("../stages/join/JoinSheet").then((m) => m.JoinSheet));
const KeepSheet = onDemand(() => import("../stages/keep/KeepSheet").then((m) => m.KeepSheet));
const MakeSheet = onDemand(() => import("../stages/make/MakeSheet").then((m) => m.MakeSheet));
const ProveSheet = onDemand(() => import("../stages/prove/ProveSheet").then((m) => m.ProveSheet));
const ModelView = onDemand(() => import("../model/ModelView").then((m) => m.ModelView), false);
const SizeSheet = onDemand(() => import("../stages/size/SizeSheet").then((m) => m.SizeSheet));
const SurveySheet = onDemand(() => import("../stages/survey/SurveySheet").then((m) => m.SurveySheet));

/** An open job: the drawing with its seven stages. */
export function OpenJob({ id, stage }: { id: string; stage: string }) {
  const view = useJob((s) => s.view);
  const shown = useJob((s) => s.id);
  const plan = useJob((s) => s.plan);
  const open = useJob((s) => s.open);
  const show = useJob((s) => s.show);
  const at = stages.includes(stage as Stage) ? (stage as Stage) : stage === "shop" ? "cut" : "survey";
  const first = useRef(at);
  first.current = at;
  const reference = useQuery({ queryKey: ["reference"], queryFn: api.reference, staleTime: Number.POSITIVE_INFINITY });
  useEffect(() => void open(id, first.current), [id, open]);
  useEffect(() => void show(at), [at, show]);
  useNews(id);
  const units = plan?.units ?? "metric";
  const format = useFormatOf(reference.data, units);
  const shut =
    view.kind === "failed" && shown === id ? view.problem : reference.error ? problemOf(reference.error) : null;
  if (shut?.status === 401)
    return (
      <main className="mx-auto max-w-xl p-4">
        <p className="mb-2">This job is shared with the crew. Join, and it opens here.</p>
        <Join
          onJoined={() => {
            void reference.refetch();
            void open(id, first.current);
          }}
        />
      </main>
    );
  if (view.kind === "failed" && shown === id) return <Failed problem={view.problem} />;
  if (reference.isError)
    return (
      <Failed problem={{ title: "No answer", detail: reference.error.message, mend: "Reload when the server runs." }} />
    );
  if (view.kind !== "ready" || !reference.data || !format || !plan || shown !== id) return <Loading />;
  return (
    <ReferenceContext value={reference.data}>
      <FormatContext value={format}>
        {stage === "shop" ? <ShopPage status={<Kept />} /> : <Workplace stage={at} />}
      </FormatContext>
    </ReferenceContext>
  );
}

function Workplace({ stage }: { stage: Stage }) {
  const { job, plan, derived } = useReadyJob();
  const notice = useJob((s) => s.notice);
  const dismiss = useJob((s) => s.dismiss);
  const leftOut = useJob((s) => s.leftOut);
  const answered = useJob((s) => s.answered.has(stage));
  const { scenario: chosen, setScenario, take, choose, measure, tool, measuring } = useTools();
  const [keys, setKeys] = useState(false);
  const [finding, setFinding] = useState(false);
  const [side, setSide] = useState<Side>(usual(stage));
  const [folded, fold] = useState(false);
  const away = useSmall() && folded;
  const [seen, setSeen] = useState(false);
  const sheet = useRef<HTMLElement>(null);
  const { scrolled, foldNow } = useFolding(sheet, away, fold);
  useFocusKept(sheet);
  const modelled = useModel((s) => s.on);
  const showModel = useModel((s) => s.show);
  const drawing = tool.kind !== "select" || measuring;
  useEffect(() => {
    if (drawing) showModel(false); // it is drawn on the drawing
  }, [drawing, showModel]);
  const select = useJob((s) => s.select);
  useEffect(() => {
    const at = new URLSearchParams(location.search).get("at"); // as a label at a riser or a valve box leads here
    if (at) select(at);
  }, [select]);
  useKeys(
    job.id,
    () => setKeys(true),
    () => setFinding(true),
  );
  useSayWhere(job.id, stage);
  useTitle(stageTitle(stage), plan.name);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was chosen in one job is not chosen in another
  useEffect(() => {
    choose([]);
    measure(false);
  }, [choose, measure, job.id]);
  useEffect(() => {
    if (stage !== "survey") {
      take({ kind: "select" });
    }
    setSide(usual(stage));
    fold(false);
    sheet.current?.scrollTo(0, 0);
  }, [stage, take]);
  const flows = Object.values(derived.sizes.flows);
  const scenario = flows.some((f) => f.scenario === chosen) ? (chosen as string) : (flows[0]?.scenario ?? "");
  return (
    <div className="flex h-full flex-col">
      <button
        type="button"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:m-2 focus:border focus:border-water focus:bg-panel focus:px-3 focus:py-2"
        onClick={() => {
          setSide("sheet");
          requestAnimationFrame(() => sheet.current?.focus()); // where it was hidden it is there now
        }}
      >
        Skip to the worksheet
      </button>
      {away ? <Kept onlyTrouble /> : <Header onKeys={() => setKeys(true)} onFind={() => setFinding(true)} />}
      <SignIn />
      {!away && <StageBar stage={stage} />}
      {notice && <Notice problem={notice} onClose={dismiss} />}
      {leftOut.length > 0 && !seen && (
        <Notice
          problem={{
            title: "Not all of this job could be read",
            detail: "It was kept by another version. What could not be read was left out:",
            places: leftOut.map((x) => ({ where: x.where, says: x.says })),
            mend: "Draw it again, or go back to an earlier revision in Record.",
          }}
          onClose={() => setSeen(true)}
        />
      )}
      <main className="flex min-h-0 flex-1 flex-col md:grid md:gap-3 md:p-2 md:grid-cols-[minmax(0,1fr)_minmax(300px,42%)] lg:grid-cols-[minmax(0,1fr)_minmax(380px,34%)] lg:px-5 lg:pb-5">
        <div
          className={`${side === "sheet" ? "hidden" : "grid"} min-h-0 flex-[1.25] basis-0 ${side === "both" || modelled ? "" : "grid-rows-[minmax(0,1fr)_176px]"} md:grid md:gap-3 md:grid-rows-[minmax(0,1fr)_176px] [@media(max-height:500px)]:grid-rows-1`}
        >
          <div className="relative min-h-0">
            {modelled ? <ModelView stage={stage} scenario={scenario} /> : <Drawing stage={stage} scenario={scenario} />}
            <div className="absolute top-2 left-2 flex max-w-[calc(100%-1rem)] flex-wrap items-center gap-1">
              <ViewSwitch modelled={modelled} onModel={showModel} />
              {flows.length > 1 && (
                <Pick
                  label="Scenario"
                  hideLabel
                  options={flows.map((f) => [f.scenario, f.name] as const)}
                  value={scenario}
                  onPick={setScenario}
                  className="w-52"
                />
              )}
            </div>
          </div>
          <div
            className={`${side === "both" || modelled ? "max-md:hidden" : ""} min-h-0 [@media(max-height:500px)]:hidden`}
          >
            <ProfileStrip scenario={scenario} />
          </div>
        </div>
        <Sides side={side} onSide={setSide} folded={away} onUnfold={() => fold(false)} />
        <section
          ref={sheet}
          tabIndex={-1}
          aria-label="Worksheet"
          onScroll={scrolled}
          onClickCapture={(e) => (e.target as Element).closest("[data-working]") && foldNow()}
          className={`${side === "drawing" ? "hidden" : "block"} min-h-0 flex-1 basis-0 overflow-y-auto border-line bg-panel p-4 pt-2 contain-layout contain-paint md:block md:border md:pt-4`}
        >
          {answered ? (
            <Sheet stage={stage} scenario={scenario} />
          ) : (
            <p className="text-muted" aria-busy="true">
              Calculating …
            </p>
          )}
        </section>
      </main>
      {keys && <Keys onClose={() => setKeys(false)} />}
      {finding && <FindAnything onClose={() => setFinding(false)} onKeys={() => setKeys(true)} />}
      <Clash />
      <AskUndo />
      <p className="sr-only" role="status">
        {plan.name}, {stage}
      </p>
    </div>
  );
}

type Side = "drawing" | "both" | "sheet";

/** What a phone shows of a stage when it is opened: a line is drawn with the tools in reach, else it begins with its answer. */
const usual = (stage: Stage): Side => (stage === "survey" ? "both" : "sheet");

const SIDES = [
  ["drawing", "Drawing"],
  ["both", "Both"],
  ["sheet", "Sheet"],
] as const;

type SidesProps = { side: Side; onSide: (side: Side) => void; folded: boolean; onUnfold: () => void };

/** The upper edge of the sheet on a phone: how much of it is seen, and the way back to the stages where they are folded. */
function Sides({ side, onSide, folded, onUnfold }: SidesProps) {
  return (
    <div className="flex shrink-0 border-y border-line bg-panel md:hidden">
      {folded && (
        <Button tone="quiet" className="px-3" onClick={onUnfold}>
          Stages
        </Button>
      )}
      <div className="flex flex-1" role="group" aria-label="What is shown">
        {SIDES.map(([what, title]) => (
          <button
            key={what}
            type="button"
            aria-pressed={side === what}
            className="min-h-[44px] flex-1 border-b-4 border-transparent font-semibold aria-pressed:border-water"
            onClick={() => onSide(what)}
          >
            {title}
          </button>
        ))}
      </div>
    </div>
  );
}

const HEAD = 170; // px that the head of a phone's page takes: a sheet that is not longer by this would come back by itself
const FOLDS = HEAD + 30; // px scrolled, after which it goes, and its height is made up for
const TOP = 15; // px from the top, where it comes back

/**
 * Fold the head of a phone's page away while its sheet is read on, and bring it back at the top. What is read stays
 * where it is, so that a press that is under way meets what it was meant for.
 */
function useFolding(sheet: RefObject<HTMLElement | null>, folded: boolean, fold: (so: boolean) => void) {
  const before = useRef(0);
  const edge = useRef<number | null>(null);
  useLayoutEffect(() => {
    const element = sheet.current;
    if (!element) return;
    const top = element.getBoundingClientRect().top;
    if (folded && edge.current !== null) {
      element.scrollTop -= edge.current - top;
      before.current = element.scrollTop;
    }
    edge.current = null;
  }, [sheet, folded]);
  const foldNow = () => {
    edge.current = sheet.current?.getBoundingClientRect().top ?? null;
    fold(true);
  };
  const scrolled = () => {
    const element = sheet.current;
    if (!element) return;
    const { scrollTop, scrollHeight, clientHeight } = element;
    const [further, back] = [scrollTop > before.current, scrollTop < before.current];
    before.current = scrollTop;
    if (!folded && further && scrollTop > FOLDS && scrollHeight - clientHeight > scrollTop + HEAD) foldNow();
    else if (folded && back && scrollTop < TOP && clientHeight < scrollHeight) fold(false);
  };
  return { scrolled, foldNow };
}

/** Where the passphrase is asked again, it is asked here: what is open stays as it is. */
function SignIn() {
  const saving = useJob((s) => s.saving);
  const locked = useJob((s) => s.notice?.status === 401);
  const dismiss = useJob((s) => s.dismiss);
  const box = useBox();
  if (!locked && saving !== "locked" && box.trouble?.kind !== "locked") return null;
  return (
    <section aria-label="Sign in again" className="border-b border-line bg-panel px-3 py-2 lg:px-5">
      <p className="mb-1 font-semibold">The server asks for the crew's passphrase again. Nothing here is lost.</p>
      <Join onJoined={dismiss} />
    </section>
  );
}

function Sheet({ stage, scenario }: { stage: Stage; scenario: string }) {
  switch (stage) {
    case "survey":
      return <SurveySheet />;
    case "size":
      return <SizeSheet scenario={scenario} />;
    case "join":
      return <JoinSheet />;
    case "cut":
      return <CutSheet />;
    case "make":
      return <MakeSheet />;
    case "prove":
      return <ProveSheet />;
    case "keep":
      return <KeepSheet />;
  }
}

function useKeys(id: string, onHelp: () => void, onFind: () => void) {
  const { undo, redo, select, selected } = useJob();
  const problems = useProblems();
  const [, go] = useLocation();
  const { take, measure } = useTools();
  const { how, look } = useLook();
  useEffect(() => {
    const down = (e: KeyboardEvent) => {
      if (document.querySelector('[role="dialog"], [role="alertdialog"]')) return; // what lies behind it rests
      const typing =
        e.target instanceof HTMLInputElement ||
        e.target instanceof HTMLSelectElement ||
        e.target instanceof HTMLTextAreaElement;
      const mod = e.ctrlKey || e.metaKey;
      if (mod && e.key.toLowerCase() === "k") {
        e.preventDefault();
        onFind();
        return;
      }
      if (typing && !(e.target instanceof HTMLInputElement && e.target.type === "checkbox")) return;
      if (mod && e.key.toLowerCase() === "z") {
        e.preventDefault();
        if (e.shiftKey) redo();
        else undo();
      } else if (mod && e.key.toLowerCase() === "y") {
        e.preventDefault();
        redo();
      } else if (mod || e.altKey || !letters.on()) return;
      else if (e.key === "?") onHelp();
      else if (e.key === "/") {
        e.preventDefault(); // it is no first letter of what is to be found
        onFind();
      } else if (e.key === "b") {
        go(`/job/${id}/survey`);
        measure(true);
      } else if (e.key === "n") select(nextProblem(problems, selected));
      else if (e.key === "p") take({ kind: "pipe", from: null });
      else if (e.key === "m") take({ kind: "select" });
      else if (e.key === "g") take({ kind: "frame" });
      else if (e.key === "v") look(nextKind(how));
      else if (e.key === "r") look(turned(how));
      else if (/^[1-7]$/.test(e.key)) go(`/job/${id}/${stages[Number(e.key) - 1]}`);
    };
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  }, [id, undo, redo, go, take, measure, onHelp, onFind, how, look, problems, select, selected]);
}

/** The place of the problem after the one that is chosen, the first after the last. */
function nextProblem(problems: readonly PlanProblem[], selected: string | null): string | null {
  const places = problems.filter((p) => !p.follows && p.where).map((p) => p.where);
  return places[(places.indexOf(selected ?? "") + 1) % Math.max(places.length, 1)] ?? selected;
}
