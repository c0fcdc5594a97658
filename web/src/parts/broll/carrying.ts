/** Dragging a clip out of a list, within a window or into another one of the same project. */

import { create } from "zustand";
import { endsWithProject } from "../ending";

/** A clip, or a select of it, that is dragged. */
export interface Carried {
  media: string;
  select: number | null;
}

/** Kind of data under which a clip is dragged. */
const KIND = "application/x-zembi-clip";

/** The clip that is dragged in this window: what is dragged from another is known only when it is dropped. */
export const useCarried = create<{ clip: Carried | null }>(() => ({ clip: null }));
endsWithProject(() => useCarried.setState(useCarried.getInitialState(), true));

/** Begin to drag a clip. */
export function carry(data: DataTransfer, clip: Carried): void {
  data.setData(KIND, JSON.stringify(clip));
  data.effectAllowed = "copy";
  useCarried.setState({ clip });
}

/** The end of dragging, wherever it was dropped. */
export function dropped(): void {
  useCarried.setState({ clip: null });
}

/** Whether something that is dragged is a clip. */
export function isClip(data: DataTransfer): boolean {
  return data.types.includes(KIND);
}

/** The clip that was dropped; null where it was something else. */
export function clipOf(data: DataTransfer): Carried | null {
  try {
    const { media, select } = JSON.parse(data.getData(KIND)) as Carried;
    return typeof media === "string" ? { media, select: typeof select === "number" ? select : null } : null;
  } catch {
    return null;
  }
}
