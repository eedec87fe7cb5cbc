import { Box } from "../ui/parts";
import { Tick } from "../ui/Tick";
import { turned } from "./attemptStore";
import type { PartProps } from "./ExercisePage";

/** Everything laid out before anything is cut; what is missing is told. */
export function LayOut({ exercise, practising }: PartProps) {
  const { attempt, view, change } = practising;
  if (!attempt) return null;
  const missing = view?.assessment.missing ?? [];
  return (
    <section aria-label="Lay out the kit">
      <p className="mb-2">Lay every part out where you can see it. Tick what lies there.</p>
      <ul>
        {exercise.kit.map((row) => (
          <li key={row.item} className="flex items-center gap-3 border-b border-line py-1">
            <Tick
              checked={attempt.laid.includes(row.item)}
              label={`${row.name} is laid out`}
              onTick={() => change((a) => ({ ...a, laid: turned(a.laid, row.item) }))}
            />
            <span className="grow">{row.name}</span>
            <span className="whitespace-nowrap text-muted">
              {row.count} {row.unit}
            </span>
          </li>
        ))}
      </ul>
      {view && missing.length > 0 && attempt.laid.length > 0 && (
        <Box tone="dry" role="status">
          <b>Not laid out yet:</b> {missing.join("; ")}.
        </Box>
      )}
      {view && missing.length === 0 && (
        <Box tone="proved" role="status">
          Every part is laid out.
        </Box>
      )}
    </section>
  );
}
