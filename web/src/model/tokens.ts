import { Color } from "three";

/** A colour of the theme as it is now. */
export const token = (name: string) =>
  new Color(getComputedStyle(document.documentElement).getPropertyValue(name).trim() || "#888");
