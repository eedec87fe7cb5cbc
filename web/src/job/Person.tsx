import { useState } from "react";
import { kept } from "../api/kept";
import { Words } from "../ui/Typed";

const key = "hydrarch.person";
export const person = (): string => kept.get(key) || "crew";

/** Who is at work on this device; it stands beside everything they record. */
export function Person() {
  const [name, setName] = useState(person);
  return (
    <Words
      label="Who is working on this device"
      className="mt-3"
      value={name}
      onValue={(v) => {
        kept.put(key, v.trim() || "crew");
        setName(v.trim() || "crew");
      }}
    />
  );
}
