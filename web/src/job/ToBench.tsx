import type { ComponentProps } from "react";
import { Link } from "wouter";
import { bench } from "./benchPlace";
import { useReadyJob } from "./hooks";

type ToBenchProps = Omit<ComponentProps<"a">, "href" | "onClick"> & { href: string };

/** A way from a job to the bench: it opens in the job's units and market, with the job first to send to. */
export function ToBench(props: ToBenchProps) {
  const { job, plan } = useReadyJob();
  return <Link {...props} onClick={() => bench.openedFrom(job.id, plan.units, plan.conditions?.market ?? "both")} />;
}
