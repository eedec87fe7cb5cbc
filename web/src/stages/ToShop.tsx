import { Link } from "wouter";
import { useReadyJob } from "../job/hooks";

/** To the parts list as a list for the aisle. */
export function ToShop() {
  const { job } = useReadyJob();
  return (
    <Link
      href={`/job/${job.id}/shop`}
      className="my-2 inline-flex min-h-[44px] items-center rounded-[4px] border border-edge bg-panel px-3 font-semibold hover:bg-paper print:hidden"
    >
      Shopping list
    </Link>
  );
}
