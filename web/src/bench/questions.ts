/** The questions of the bench, by their address. */
export const questions = [
  ["join", "Join this to that"],
  ["repair", "It broke: how is it mended?"],
  ["identify", "What pipe is this?"],
  ["line", "How big a line?"],
  ["well", "Which drop pipe?"],
  ["source", "What does the source give?"],
  ["cut", "How long do I cut it?"],
  ["wait", "When may water come in?"],
  ["fused", "How deep a PPR joint?"],
] as const;
