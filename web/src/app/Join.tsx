import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused } from "../api/client";
import type { ProblemDocument } from "../api/types";
import { outbox } from "../api/wired";
import { person, workAs } from "../job/Person";
import { Said } from "../ui/Messages";
import { Button } from "../ui/parts";

const field = "min-h-[44px] w-full rounded-[4px] border border-edge bg-panel px-2 text-[0.9375rem] text-ink";

/** Come in with the crew's passphrase, where one is: nothing that was typed or said meanwhile is lost. */
export function Join({ onJoined }: { onJoined: () => void }) {
  const queries = useQueryClient();
  const [words, setWords] = useState("");
  const [name, setName] = useState(() => (person() === "crew" ? "" : person()));
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  return (
    <form
      aria-label="Join the crew"
      className="flex flex-wrap items-end gap-2"
      onSubmit={async (e) => {
        e.preventDefault();
        try {
          await api.join(words, name.trim());
          if (name.trim()) workAs(name);
          setFault(null);
          await queries.invalidateQueries();
          void outbox.send(true);
          onJoined();
        } catch (error) {
          if (!(error instanceof Refused)) throw error;
          setFault(error.problem);
        }
      }}
    >
      <label className="min-w-52 grow text-[0.8125rem] text-muted">
        The crew's passphrase
        <input
          type="password"
          autoComplete="current-password"
          value={words}
          className={field}
          onChange={(e) => setWords(e.target.value)}
        />
      </label>
      <label className="min-w-40 grow text-[0.8125rem] text-muted">
        Your name
        <input
          autoComplete="nickname"
          maxLength={60}
          value={name}
          className={field}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <Button type="submit" tone="main" className="min-h-[44px]">
        Join
      </Button>
      {fault && (
        <div className="w-full">
          <Said problem={fault} />
        </div>
      )}
    </form>
  );
}
