import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { addExtras } from "../../job/edits";
import { useReadyJob } from "../../job/hooks";
import { useJob } from "../../job/jobStore";
import { Box, Button } from "../../ui/parts";

type WrongProps = { joint: string; place: string; onUndone: (joints: readonly string[]) => Promise<void> };

/** It went wrong: what can still be saved, what goes with it, and what to buy again. */
export function WentWrong({ joint, place, onUndone }: WrongProps) {
  const { job } = useReadyJob();
  const edit = useJob((s) => s.edit);
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: ["wrong", job.id, job.revision, joint],
    queryFn: () => api.wrong(job.id, joint),
    enabled: open,
  });
  const found = query.data;
  if (!open)
    return (
      <Button big tone="dry" onClick={() => setOpen(true)}>
        It went wrong …
      </Button>
    );
  return (
    <Box tone="dry" role="region" aria-label="It went wrong">
      {found && (
        <>
          <p className="font-bold">{found.saved}</p>
          <p>{found.says}</p>
          {found.names.length > 0 && <p>To buy again: {found.names.join(", ")}.</p>}
          <div className="mt-2 grid gap-2">
            <Button big tone="main" onClick={() => void onUndone([joint])}>
              Saved: make this joint again
            </Button>
            {found.buy.length > 0 && (
              <Button
                big
                tone="dry"
                onClick={async () => {
                  await onUndone(found.again);
                  const parts = found.buy.flatMap(([id, n]) => Array<string>(Number(n)).fill(String(id)));
                  edit((p) => addExtras(p, parts, `made again at ${place}`));
                }}
              >
                Cut out: {found.again.length} to make again, parts on the list
              </Button>
            )}
          </div>
        </>
      )}
      {query.isError && (
        <>
          <p>{query.error.message} What can be saved and what goes with it is told when it does.</p>
          <Button big tone="main" className="mt-2" onClick={() => void onUndone([joint])}>
            Not made any more
          </Button>
        </>
      )}
      <Button className="mt-2" onClick={() => setOpen(false)}>
        It is all right after all
      </Button>
    </Box>
  );
}
