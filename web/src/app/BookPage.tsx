import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "wouter";
import { answered } from "../api/answered";
import { api, bookLink, Refused } from "../api/client";
import type { Book, ProblemDocument, Reference } from "../api/types";
import { Said } from "../ui/Messages";
import { Button, Heading, Row, Table, Title } from "../ui/parts";
import { useTitle } from "../ui/useTitle";
import { endWords } from "../ways/endNames";

type Section = "things" | "fittings" | "pipes" | "assemblies";
type Line = { key: string; name: string; says: string };

/** The crew's own things, fittings and pipe: what there is, add from a file, have it as a file, take out. */
export function BookPage() {
  useTitle("Crew parts");
  const queries = useQueryClient();
  const book = useQuery({ queryKey: ["book"], queryFn: api.book });
  const reference = useQuery({ queryKey: ["reference"], queryFn: api.reference, staleTime: Number.POSITIVE_INFINITY });
  const [fault, setFault] = useState<ProblemDocument | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const change = async (asked: Promise<Book>) => {
    try {
      await answered(queries, "book", await asked);
      setFault(null);
      await queries.invalidateQueries({ queryKey: ["reference"] }); // pipes and ends are known by it
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      setFault(error.problem);
    }
  };
  return (
    <main className="mx-auto max-w-3xl p-5">
      <header className="flex items-start gap-3">
        <div className="grow">
          <Title note="A pump with its curve and unions, a filter, a fitting you measured, a pipe the catalogue has not: kept here, they are used in every job like any other.">
            Crew parts
          </Title>
        </div>
        <Link href="/" className="inline-flex items-center pointer-coarse:min-h-[44px] text-water underline">
          Jobs
        </Link>
      </header>
      {fault && <Said problem={fault} />}
      {book.error instanceof Refused && <Said problem={book.error.problem} />}
      {book.data && (
        <>
          <Rows section="things" title="Things" lines={things(book.data, reference.data)} onOut={change}>
            Choose one in a drawing and say "Save to crew parts".
          </Rows>
          <Rows section="fittings" title="Fittings" lines={fittings(book.data)} onOut={change}>
            They come from a file.
          </Rows>
          <Rows section="pipes" title="Pipe" lines={pipes(book.data)} onOut={change}>
            It comes from a file.
          </Rows>
          <Rows section="assemblies" title="Assemblies" lines={assemblies(book.data)} onOut={change}>
            Choose several things in a drawing and keep them under a name.
          </Rows>
          <Heading>To and from a file</Heading>
          <p className="mb-2">
            <a
              href={bookLink}
              download
              className="inline-flex items-center pointer-coarse:min-h-[44px] text-water underline"
            >
              Have the book as a file
            </a>
            , JSON to read and change by hand. Rows of a file are added; one of the same name takes the place of the
            old. A file with a wrong row is refused whole, and each wrong row is told.
          </p>
          <input
            ref={input}
            type="file"
            accept=".json,application/json"
            aria-label="Book file"
            className="block w-full text-[0.875rem] file:mr-3 file:min-h-[40px] pointer-coarse:file:min-h-[44px] file:rounded-[4px] file:border file:border-line file:bg-panel file:px-3"
            onChange={async (e) => {
              const file = e.target.files?.[0];
              if (!file) return;
              await change(file.text().then(api.addToBook));
              if (input.current) input.current.value = "";
            }}
          />
        </>
      )}
    </main>
  );
}

const things = (book: Book, reference: Reference | undefined): Line[] =>
  book.things.map((t) => {
    const title = reference?.kinds.find((k) => k.kind === t.what.kind)?.title ?? t.what.kind;
    const ends = Object.entries(t.ports).map(([port, end]) => `${port} ${endWords(reference?.ends, end)}`);
    return { key: t.name, name: t.name, says: [title, ...ends, ...(t.note ? [t.note] : [])].join(" · ") };
  });

const fittings = (book: Book): Line[] =>
  book.fittings.map((f) => ({ key: f.id, name: f.name, says: `${f.family}, ${f.material} · ${f.source}` }));

const pipes = (book: Book): Line[] =>
  book.pipes.map((p) => ({ key: p.id, name: p.name, says: `${p.sizes.map((s) => s.size).join(", ")} · ${p.source}` }));

const assemblies = (book: Book): Line[] =>
  book.assemblies.map((a) => ({
    key: a.name,
    name: a.name,
    says: `${a.points.length} things, ${a.runs.length} pipes`,
  }));

type RowsProps = {
  section: Section;
  title: string;
  lines: Line[];
  children: string;
  onOut: (asked: Promise<Book>) => Promise<void>;
};

function Rows({ section, title, lines, children, onOut }: RowsProps) {
  return (
    <>
      <Heading note={`${lines.length}`}>{title}</Heading>
      {lines.length === 0 ? (
        <p className="text-muted">None yet. {children}</p>
      ) : (
        <Table head={["Name", "What it is", ""]} caption={title}>
          {lines.map((line) => (
            <Row key={line.key}>
              <td className="font-semibold">{line.name}</td>
              <td>{line.says}</td>
              <td className="text-right">
                <Button
                  tone="quiet"
                  aria-label={`Take out ${line.name}`}
                  onClick={() => void onOut(api.takeOutOfBook(section, line.key))}
                >
                  Take out
                </Button>
              </td>
            </Row>
          ))}
        </Table>
      )}
    </>
  );
}
