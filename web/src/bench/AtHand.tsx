import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api } from "../api/client";
import { Button } from "../ui/parts";

type AtHandProps = { parts: readonly string[]; onParts: (parts: string[]) => void };

/** The box on the van: with parts named here, only they are used. */
export function AtHand({ parts, onParts }: AtHandProps) {
  const fittings = useQuery({
    queryKey: ["fittings"],
    queryFn: api.benchFittings,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [text, setText] = useState("");
  const list = useId();
  const named = new Map((fittings.data ?? []).map((f) => [f.id, f.name]));
  const found = fittings.data?.find((f) => f.name === text);
  return (
    <div className="mt-1">
      <form
        className="flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (found) onParts([...new Set([...parts, found.id])]);
          setText("");
        }}
      >
        <label className="flex grow flex-col text-[0.8125rem] text-muted">
          Only from parts at hand
          <input
            list={list}
            value={text}
            placeholder="name a part in the box"
            className="min-h-[36px] rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink pointer-coarse:min-h-[44px]"
            onChange={(e) => setText(e.target.value)}
          />
        </label>
        <Button type="submit" disabled={!found}>
          Add part
        </Button>
      </form>
      <datalist id={list}>
        {[...named.values()].map((n) => (
          <option key={n} value={n} />
        ))}
      </datalist>
      {parts.map((id) => (
        <Button
          key={id}
          tone="quiet"
          aria-label={`Take out ${named.get(id)}`}
          onClick={() => onParts(parts.filter((p) => p !== id))}
        >
          {named.get(id) ?? id} ×
        </Button>
      ))}
    </div>
  );
}
