import { create } from "zustand";
import { endsWithProject } from "../ending";

/** The clip that is open large, and the select of it that is being changed. */
export const useLooking = create<{ clip: string | null; select: number | null }>(() => ({ clip: null, select: null }));
endsWithProject(() => useLooking.setState(useLooking.getInitialState(), true));

/** Look at a clip, or a select of it. */
export function lookAt(clip: string | null, select: number | null = null): void {
  useLooking.setState({ clip, select });
}
