import { useEffect, useState } from "react";

/** On a narrow screen, the answer in a line at the foot of the page for as long as the whole of it is below what is shown. */
export function InSight({ says }: { says: string }) {
  const [below, setBelow] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new answer may be another element
  useEffect(() => {
    const answer = document.querySelector(".answer");
    if (!answer) return;
    const watch = new IntersectionObserver(([seen]) => {
      setBelow(!!seen && !seen.isIntersecting && seen.boundingClientRect.top > 0);
    });
    watch.observe(answer);
    return () => watch.disconnect();
  }, [says]);
  if (!below || !says) return null;
  return (
    <button
      type="button"
      className="fixed inset-x-0 bottom-0 z-10 flex min-h-[48px] items-center justify-between gap-3 border-t-2 border-water bg-water-soft px-3 py-1 text-left font-semibold lg:hidden print:hidden"
      onClick={() => document.querySelector(".answer")?.scrollIntoView({ block: "start" })}
    >
      <span className="first-letter:uppercase">{says}</span>
      <span className="shrink-0 text-water underline">See it</span>
    </button>
  );
}
