import { create } from "zustand";

/** The clip that is open large, and the select of it that is being changed. */
export const useLooking = create<{ clip: string | null; select: number | null }>(() => ({ clip: null, select: null }));

/** Look at a clip, or a select of it. */
export function lookAt(clip: string | null, select: number | null = null): void {
  useLooking.setState({ clip, select });
}
