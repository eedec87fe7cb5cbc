import type { Existing } from "../../api/types";
import { Check } from "../../ui/parts";
import { Words } from "../../ui/Typed";

type MetProps = { existing: Existing | null; what: string; onExisting: (existing: Existing | null) => void };

/** Whether it exists already: then it is joined and flows, and nothing of it is bought, cut or made. */
export function Met({ existing, what, onExisting }: MetProps) {
  return (
    <div className="mt-2">
      <Check
        label={`Existing: ${what} was there already`}
        checked={existing !== null}
        onChange={(e) => onExisting(e.target.checked ? { known: "" } : null)}
      />
      {existing && (
        <Words
          label="What is known of it: material, age, how sound"
          value={existing.known}
          onValue={(known) => onExisting({ known })}
        />
      )}
    </div>
  );
}
