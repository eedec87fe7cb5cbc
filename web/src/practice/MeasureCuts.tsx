import { useFormat } from "../ui/context";
import { Check } from "../ui/parts";
import { Typed } from "../ui/Typed";
import { turned } from "./attemptStore";
import type { PartProps } from "./ExercisePage";

/** The person's own cut lengths, checked against the drawing's; then the ends are dressed. */
export function MeasureCuts({ exercise, practising }: PartProps) {
  const { attempt, view, change } = practising;
  const format = useFormat();
  if (!attempt) return null;
  return (
    <section aria-label="Measure and cut">
      <p className="mb-2">
        Work out each cut length: centre to centre, less what each fitting takes up. The cut is from socket stop to
        socket stop.
      </p>
      <ul className="grid gap-2">
        {exercise.pieces.map((piece) => {
          const own = attempt.lengths.find((l) => l.piece === piece.id);
          const went = view?.assessment.lengths.find((l) => l.piece === piece.id && l.own === own?.length);
          return (
            <li key={piece.id} className="border border-line bg-panel px-3 py-2">
              <p className="font-bold">{piece.name}</p>
              <p className="text-muted">
                {format(piece.centres, "cut")} centre to centre; {piece.takes.map((t) => t || "bare end").join(" and ")}
              </p>
              <div className="flex flex-wrap items-end gap-x-4">
                <Typed
                  label={`Cut length, ${piece.name}`}
                  quantity="cut"
                  value={own?.length ?? null}
                  low={1e-3}
                  high={1e4}
                  limits="a length above zero"
                  onValue={(length) =>
                    change((a) => ({
                      ...a,
                      lengths: [...a.lengths.filter((l) => l.piece !== piece.id), { piece: piece.id, length }],
                    }))
                  }
                />
                <Check
                  label="Ends dressed"
                  aria-label={`Ends dressed, ${piece.name}`}
                  checked={attempt.dressed.includes(piece.id)}
                  onChange={() => change((a) => ({ ...a, dressed: turned(a.dressed, piece.id) }))}
                />
              </div>
              {went && (
                <p role="status" className={went.good ? "font-semibold text-proved" : "font-semibold text-dry"}>
                  {went.good ? `Right: ${format(went.right, "cut")}.` : `Not right: ${went.why}.`}
                </p>
              )}
            </li>
          );
        })}
      </ul>
      <Check
        label="All of it fits dry"
        className="mt-3"
        checked={attempt.fitted}
        onChange={() => change((a) => ({ ...a, fitted: !a.fitted }))}
      />
    </section>
  );
}
