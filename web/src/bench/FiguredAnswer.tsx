import { Link } from "wouter";
import type { Figured } from "../api/types";
import { Box } from "../ui/parts";

const places: Record<string, string> = {
  line: "How big a line?",
  well: "Which drop pipe?",
  cut: "How long do I cut it?",
  wait: "When may water come in?",
  fused: "How deep a PPR joint?",
};

/** The answer to a question of figures asked in words: what comes first, what it rests on, and what was read. */
export function FiguredAnswer({ found }: { found: Figured }) {
  return (
    <section aria-label="Answer" className="answer max-w-3xl">
      <Box>
        <p className="text-lg font-bold">{found.first}</p>
      </Box>
      {found.ignored.length > 0 && (
        <Box tone="dry">
          <p role="status">
            <b>Ignored:</b> {found.ignored.join(", ")}. Nothing was read from{" "}
            {found.ignored.length > 1 ? "these" : "this"}.
          </p>
        </Box>
      )}
      <p className="mt-2 text-[0.875rem] text-muted">Read as: {found.read.join(" · ")}.</p>
      <ul className="mt-2 list-disc pl-5">
        {found.says.map((s) => (
          <li key={s}>{s}</li>
        ))}
      </ul>
      {places[found.bench] && (
        <Link
          className="mt-2 inline-flex min-h-[44px] items-center text-water underline"
          href={`/bench/${found.bench}`}
        >
          Work it out with all its figures: {places[found.bench]}
        </Link>
      )}
    </section>
  );
}
