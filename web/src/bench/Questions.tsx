import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link } from "wouter";
import { api } from "../api/client";
import type { Market, UnitSystem } from "../api/types";
import { bench } from "../job/benchPlace";
import { FormatContext, ReferenceContext, useFormatOf } from "../ui/context";
import { Failed, Loading } from "../ui/Messages";
import { Button, Pick } from "../ui/parts";
import { useTheme } from "../ui/theme";
import { useTitle } from "../ui/useTitle";
import { CutBench } from "./CutBench";
import { FusedBench } from "./FusedBench";
import { IdentifyBench } from "./IdentifyBench";
import { addressWith, takeUnread } from "./inAddress";
import { JoinBench } from "./JoinBench";
import { LineBench } from "./LineBench";
import { questions } from "./questions";
import { RepairBench } from "./RepairBench";
import { SourceBench } from "./SourceBench";
import { WaitBench } from "./WaitBench";
import { WellBench } from "./WellBench";

/** What an address says of units or market, where somebody sent it with them. */
function sent<T extends string>(name: string, known: readonly T[]): T | null {
  const said = new URLSearchParams(location.search).get(name);
  return known.find((k) => k === said) ?? null;
}

/** Copy the address of the question as it stands, with its units and its market; what to say of it. */
async function copied(units: UnitSystem, market: Market): Promise<string> {
  const address = new URL(location.href);
  address.searchParams.set("units", units);
  address.searchParams.set("market", market);
  try {
    await navigator.clipboard.writeText(address.href);
    return "Link copied.";
  } catch {
    return `Copy it from here: ${address.href}`; // over plain HTTP a page may not write to the clipboard
  }
}

/** The bench: single questions with no job at all. */
export function Questions({ question }: { question: string }) {
  const reference = useQuery({ queryKey: ["reference"], queryFn: api.reference, staleTime: Number.POSITIVE_INFINITY });
  const ends = useQuery({ queryKey: ["ends"], queryFn: api.benchEnds, staleTime: Number.POSITIVE_INFINITY });
  const [units, setUnits] = useState<UnitSystem>(() => sent("units", ["us", "metric"]) ?? bench.units());
  const [market, setMarket] = useState<Market>(
    () => sent("market", ["north-american", "elsewhere", "both"]) ?? bench.market(),
  );
  const [link, setLink] = useState("");
  const [theme, flip] = useTheme();
  useTitle(questions.find(([name]) => name === question)?.[1] ?? "", "Bench");
  const bar = useRef<HTMLElement>(null);
  const ready = Boolean(reference.data && ends.data);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the question, or the page being there, is what moves the bar
  useEffect(() => {
    bar.current?.querySelector('[aria-current="page"]')?.scrollIntoView({ inline: "center", block: "nearest" });
  }, [question, ready]);
  const [unread, setUnread] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a question reads its address when it is first shown
  useEffect(() => setUnread(takeUnread().length > 0), [question, ready]);
  const format = useFormatOf(reference.data, units);
  const error = reference.error ?? ends.error;
  if (error)
    return <Failed problem={{ title: "No answer", detail: error.message, mend: "Reload when the server runs." }} />;
  if (!reference.data || !ends.data || !format) return <Loading />;
  const swap = () => {
    const next = units === "us" ? "metric" : "us";
    bench.setUnits(next);
    setUnits(next);
    history.replaceState(history.state, "", addressWith("units", null));
  };
  const shop = (next: Market) => {
    bench.setMarket(next);
    setMarket(next);
    history.replaceState(history.state, "", addressWith("market", null));
  };
  return (
    <ReferenceContext value={reference.data}>
      <FormatContext value={format}>
        <header className="flex flex-wrap items-center gap-x-4 border-b print:hidden border-line bg-panel px-3 py-1.5 lg:px-5">
          <Link href="/" className="inline-flex items-center pointer-coarse:min-h-[44px] text-lg font-bold">
            Hydrarch
          </Link>
          <h1 className="text-lg">Bench</h1>
          <nav
            ref={bar}
            aria-label="Questions"
            className="order-last flex w-full gap-x-3 overflow-x-auto whitespace-nowrap"
          >
            {questions.map(([q, words]) => (
              <Link
                key={q}
                href={`/bench/${q}`}
                aria-current={q === question ? "page" : undefined}
                className="flex min-h-[36px] items-center border-b-4 border-transparent px-1 aria-[current=page]:border-water pointer-coarse:min-h-[44px]"
              >
                {words}
              </Link>
            ))}
          </nav>
          <span className="grow" />
          <Pick
            label="Bought in"
            className="flex-row items-center gap-1.5 whitespace-nowrap max-sm:w-44"
            options={reference.data.markets.map((m) => [m.market, m.title] as const)}
            value={market}
            onPick={(m) => shop(m as Market)}
          />
          <Button tone="quiet" aria-label={`Units: ${units === "us" ? "US" : "metric"}; switch`} onClick={swap}>
            {units === "us" ? "US units" : "Metric"}
          </Button>
          <Button tone="quiet" onClick={() => print()}>
            Print
          </Button>
          <Button tone="quiet" onClick={() => void copied(units, market).then(setLink)}>
            Copy link
          </Button>
          <Button tone="quiet" aria-label={`Theme: ${theme}; switch`} onClick={flip}>
            {theme === "dark" ? "Dark" : "Light"}
          </Button>
        </header>
        {unread && (
          <p role="alert" className="bg-dry-soft px-3 py-1 text-dry lg:px-5">
            Part of this link could not be read. The answer is for what is shown here: check each field.
          </p>
        )}
        {link && (
          <p
            role="status"
            className="border-b border-line bg-panel px-3 py-1 text-[0.8125rem] break-all print:hidden lg:px-5"
          >
            {link}
          </p>
        )}
        <p className="hidden px-3 pt-3 font-bold print:block">
          {questions.find(([name]) => name === question)?.[1] ?? "Join this to that"}: answered by Hydrarch on{" "}
          {new Date().toLocaleDateString("en-GB", { dateStyle: "long" })}
        </p>
        <main className="p-3 lg:p-5">
          {question === "identify" && <IdentifyBench reference={reference.data} format={format} />}
          {question === "repair" && <RepairBench reference={reference.data} format={format} market={market} />}
          {question === "line" && <LineBench reference={reference.data} format={format} />}
          {question === "well" && <WellBench format={format} market={market} />}
          {question === "source" && <SourceBench format={format} />}
          {question === "cut" && <CutBench reference={reference.data} format={format} />}
          {question === "wait" && <WaitBench reference={reference.data} format={format} />}
          {question === "fused" && <FusedBench reference={reference.data} format={format} />}
          {!["repair", "identify", "line", "well", "source", "cut", "wait", "fused"].includes(question) && (
            <JoinBench reference={reference.data} ends={ends.data} format={format} market={market} />
          )}
        </main>
      </FormatContext>
    </ReferenceContext>
  );
}
