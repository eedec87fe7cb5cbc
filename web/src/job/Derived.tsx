import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type ReactNode, useRef, useState } from "react";
import { api } from "../api/client";
import { useReadyJob, useSaved } from "./hooks";

type NumberProps = { kind: string; name: string; scenario?: string; children: ReactNode };

/** A derived number. Hover or focus opens its working: formula, inputs and source. */
export function Derived({ kind, name, scenario, children }: NumberProps) {
  const [open, setOpen] = useState(false);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const soon = (next: boolean) => {
    clearTimeout(timer.current);
    timer.current = setTimeout(() => setOpen(next), next ? 250 : 120);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Anchor asChild>
        <button
          type="button"
          className="pointer-coarse:min-h-[44px] underline decoration-line decoration-dotted underline-offset-4 hover:decoration-water"
          aria-expanded={open}
          onClick={() => {
            clearTimeout(timer.current);
            setOpen(!open);
          }}
          onMouseEnter={() => soon(true)}
          onMouseLeave={() => soon(false)}
          onFocus={(e) => e.currentTarget.matches(":focus-visible") && soon(true)}
          onBlur={() => soon(false)}
        >
          {children}
        </button>
      </Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          side="left"
          align="start"
          sideOffset={6}
          collisionPadding={8}
          className="z-50 w-80 max-w-[92vw] rounded-[4px] border border-line bg-panel p-3 text-[0.875rem] shadow-lg"
          onOpenAutoFocus={(e) => e.preventDefault()}
          onCloseAutoFocus={(e) => e.preventDefault()}
          onMouseEnter={() => clearTimeout(timer.current)}
          onMouseLeave={() => soon(false)}
        >
          {open && <WorkingText kind={kind} name={name} scenario={scenario} />}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function WorkingText({ kind, name, scenario }: Omit<NumberProps, "children">) {
  const { job } = useReadyJob();
  const saved = useSaved();
  const query = useQuery({
    queryKey: ["working", job.id, job.revision, kind, name, scenario],
    queryFn: () => api.working(job.id, kind, name, scenario),
    enabled: saved,
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (query.isPending) return <p className="text-muted">working it out …</p>;
  if (query.isError) return <p className="text-fault">{query.error.message}</p>;
  const working = query.data;
  return (
    <div role="note" aria-label={`Working of ${working.title}`}>
      <p className="font-bold">
        {working.title}: {working.result}
      </p>
      <p className="my-1.5">{working.formula}</p>
      <dl className="grid grid-cols-[auto_1fr] gap-x-3 border-y border-line py-1.5">
        {working.inputs.map(([input, value]) => (
          <div key={String(input)} className="contents">
            <dt className="text-muted">{String(input)}</dt>
            <dd className="text-right">{String(value)}</dd>
          </div>
        ))}
      </dl>
      <p className="mt-1.5 text-[0.8125rem] text-muted">{working.source}</p>
    </div>
  );
}
