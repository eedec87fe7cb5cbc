import type { EventIn } from "../api/types";
import { uuid } from "../app/jobStore";
import { person } from "./make/Person";

/** Something done now by whoever works on this device. */
export const newEvent = (kind: EventIn["kind"], more: Partial<EventIn>) =>
  ({ id: uuid(), kind, at: Date.now() / 1000, by: person(), joints: [], override: "", note: "", ...more }) as EventIn;
