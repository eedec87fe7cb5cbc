import type { Member } from "../api/types";

/** Dark enough for a white letter in either theme; the letter tells who it is, the colour only helps. */
const COLOURS = ["#1f5f8b", "#7a3e9d", "#2f6b3a", "#8a4b08", "#a3245b", "#3b4cc0", "#5a5a12", "#0d6e6e"];

export const crewColour = (member: Member): string => COLOURS[member.colour % COLOURS.length] ?? "#1f5f8b";

/** One of the crew where there is no room for the name. */
export function Letter({ member, title }: { member: Member; title?: string }) {
  return (
    <span
      className="inline-grid size-6 shrink-0 place-items-center rounded-full text-[0.8125rem] font-bold text-white"
      style={{ background: crewColour(member) }}
      title={title}
    >
      {member.letter}
    </span>
  );
}
