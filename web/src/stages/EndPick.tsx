import { useReference } from "../ui/context";
import { Pick } from "../ui/parts";
import { endName, namedEnd } from "../ways/endNames";

type EndPickProps = {
  label: string;
  /** An end by name, system:gender:size; null for the usual one. */
  value: string | null;
  /** What the usual one is called; without it there is none. */
  usual?: string;
  /** The systems and genders to choose from; all where it is empty. */
  from?: readonly string[];
  /** The size it begins with where its system has it: that of the usual one, or of the pipe that comes to it. */
  like?: string;
  onValue: (end: string | null) => void;
};

/** The end of a port: of which system and gender, and of which size. */
export function EndPick({ label, value, usual, from = [], like = "1", onValue }: EndPickProps) {
  const { ends } = useReference();
  const offered = from.length ? ends.filter((e) => from.includes(e.name)) : ends;
  const { system, size } = namedEnd(ends, value) ?? { system: "", size: "" };
  const sizes = offered.find((e) => e.name === system)?.sizes ?? [];
  const take = (name: string) => {
    const found = offered.find((e) => e.name === name);
    if (!found) return onValue(null);
    const first = [size, like, "1"].find((s) => found.sizes.includes(s)) ?? found.sizes[0];
    if (first !== undefined) onValue(endName(name, first));
  };
  return (
    <div className="col-span-2 grid grid-cols-[2fr_1fr] gap-2">
      <Pick
        label={label}
        options={[
          ...(usual === undefined ? [] : [["", usual] as const]),
          ...offered.map((e) => [e.name, e.title] as const),
        ]}
        value={value === null ? "" : system}
        onPick={take}
      />
      {value !== null && (
        <Pick
          label="Size"
          aria-label={`Size of ${label}`}
          options={sizes.map((s) => [s, s] as const)}
          value={size}
          onPick={(s) => onValue(endName(system, s))}
        />
      )}
    </div>
  );
}
