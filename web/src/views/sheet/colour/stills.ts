import { create } from "zustand";

/** A picture that was kept to be compared with. */
export interface KeptStill {
  /** The edit and frame that it is of, and the item that was seen there. */
  project: string;
  edit: number;
  frame: number;
  item: number;
  name: string;
  /** As an address of its own data. */
  picture: string;
}

/** Stills that were kept, the last first, until the page is left. */
export const useStills = create<{ kept: readonly KeptStill[] }>(() => ({ kept: [] }));
const MOST = 6;

/** Keep what the programme's picture shows. */
export function keepStill(of: Omit<KeptStill, "picture">): void {
  const canvas = document.getElementById("programme") as HTMLCanvasElement | null;
  if (!canvas?.width) return;
  const still = { ...of, picture: canvas.toDataURL("image/jpeg", 0.92) };
  useStills.setState(({ kept }) => ({ kept: [still, ...kept].slice(0, MOST) }));
}

/** Throw a still away. */
export function dropStill(still: KeptStill): void {
  useStills.setState(({ kept }) => ({ kept: kept.filter((one) => one !== still) }));
}
