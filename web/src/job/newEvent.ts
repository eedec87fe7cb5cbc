import { clockOff, tick } from "../api/clock";
import { page, uuid } from "../api/id";
import type { Said } from "../api/types";
import { person } from "./Person";

/** Something done now by whoever works on this device. */
export const newEvent = (kind: Said["kind"], more: Partial<Said>): Said => ({
  id: uuid(),
  kind,
  at: Date.now() / 1000,
  by: person(),
  joints: [],
  override: "",
  note: "",
  device_off: clockOff(),
  // a time that was typed is by the watch of whoever typed it
  ...(more.at === undefined ? { page, tick: tick() } : {}),
  ...more,
});
