import type { Joint } from "../../api/types";
import { useFormat } from "../../ui/context";
import { sections } from "./jointSections";

/** The joint in section with its depth mark, where it has one: what the hands should see. */
export function JointPicture({ joint }: { joint: Joint }) {
  const format = useFormat();
  const section = sections[joint.method];
  if (!section) return null;
  const depth = format(joint.depth, "takeoff");
  const marked = section.marked && joint.depth > 0;
  return (
    <svg
      viewBox="0 0 340 170"
      className="mt-2 w-full max-w-md border border-line bg-panel"
      role="img"
      aria-label={`${joint.method} in section${marked ? `, depth mark ${depth}` : ""}`}
    >
      {section.draws}
      {marked && (
        <>
          <path d="M172 22V132" stroke="var(--color-dry)" strokeWidth={2.5} strokeDasharray="6 4" />
          <text x={166} y={20} textAnchor="end" fontSize={14} fontWeight={700} fill="var(--color-dry)">
            depth mark {depth}
          </text>
        </>
      )}
      <text x={170} y={163} fontSize={13} fill="var(--color-ink)" textAnchor="middle">
        {section.does}
      </text>
    </svg>
  );
}
