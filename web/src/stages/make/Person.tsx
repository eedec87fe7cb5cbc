import { useState } from "react";
import { Words } from "../../ui/Typed";

const key = "hydrarch.person";
export const person = (): string => localStorage.getItem(key) || "crew";

/** Who is at work on this device; it stands beside everything they record. */
export function Person() {
  const [name, setName] = useState(person);
  return (
    <Words
      label="Who is working on this device"
      className="mt-3"
      value={name}
      onValue={(v) => {
        localStorage.setItem(key, v.trim() || "crew");
        setName(v.trim() || "crew");
      }}
    />
  );
}
