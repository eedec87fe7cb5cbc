import { Link } from "wouter";
import { Button } from "../ui/parts";

export function Elsewhere() {
  return (
    <main className="mx-auto max-w-lg p-8">
      <h1 className="text-xl font-bold">There is nothing here</h1>
      <p className="my-3">
        <Link href="/" className="text-water underline">
          Go to the list of jobs
        </Link>
      </p>
      <Button onClick={() => history.back()}>Go back</Button>
    </main>
  );
}
