import { useReadyJob } from "../../job/hooks";
import { useFormat } from "../../ui/context";
import { Box, Heading } from "../../ui/parts";

/** What is dug for the line and what goes back: ground, sand or gravel, and what is left to cart away. */
export function Dug() {
  const { derived } = useReadyJob();
  const format = useFormat();
  const { trench } = derived;
  if (!trench.runs.length) return null;
  const widths = trench.runs.map((t) => t.width);
  const deepest = Math.max(...trench.runs.flatMap((t) => t.depths));
  const [narrow, wide] = [format(Math.min(...widths), "depth"), format(Math.max(...widths), "depth")];
  return (
    <section aria-label="Trench">
      <Heading note={narrow === wide ? `${wide} wide` : `${narrow} to ${wide} wide`}>Trench</Heading>
      <ul>
        <li>
          To dig: <b>{format(trench.dig, "earth")}</b>, down to {format(deepest, "depth")}
        </li>
        <li>
          Sand or pea gravel under and about the pipe: <b>{format(trench.bed, "earth")}</b>,{" "}
          {format(trench.bed_weight, "load")}
        </li>
        <li>
          Goes back: {format(trench.fill, "earth")}. Left over, loose: <b>{format(trench.over, "earth")}</b>
        </li>
      </ul>
      <details className="mt-1">
        <summary className="min-h-[36px] cursor-pointer py-1 font-semibold pointer-coarse:min-h-[44px]">
          How it is filled again
        </summary>
        <ol className="ml-5 list-decimal">
          {trench.backfill.map((step) => (
            <li key={step}>{step}</li>
          ))}
        </ol>
      </details>
      <p className="text-[0.8125rem] text-muted">
        Widths by common practice. Pipes that share a trench are counted each. Locate cables and pipes first, and dig by
        hand near them.
      </p>
      {trench.deep.length > 0 && (
        <Box tone="dry">
          Part of it is too deep to enter unless its walls are shored or sloped. Local rules say how.
        </Box>
      )}
    </section>
  );
}
