import { clockOff, tick } from "../api/clock";
import { page, uuid } from "../api/id";
import type { Said } from "../api/types";
import { person } from "./Person";

/**
 * Something done now by whoever works on this device, or at a time that was typed. An event is dated by the device's own clock, which
 * the server puts right; a typed time is right already, as all times are that the page shows, and is set back by as much.
 */
export function newEvent(kind: Said["kind"], more: Partial<Said>): Said {
  const { at, ended, ...rest } = more;
  const off = clockOff();
  const dated = (right: number) => right - (off ?? 0);
  return {
    id: uuid(),
    kind,
    by: person(),
    joints: [],
    override: "",
    note: "",
    device_off: off,
    ...(at == null ? { at: Date.now() / 1000, page, tick: tick() } : { at: dated(at) }),
    ...(ended == null ? {} : { ended: dated(ended) }),
    ...rest,
  };
}
