/** Items on the lanes of an edit. Pure. */

import type { EditView, ItemView, LaneView } from "./client";

/** The part of an edit that holds its lanes. */
export type Lanes = Pick<EditView, "lanes">;

const NONE: readonly ItemView[] = [];

/** Shots of the base lane; the same array as long as nothing on it changes. */
export function shotsOf(edit: Lanes | undefined): readonly ItemView[] {
  return edit?.lanes[0]?.items ?? NONE;
}

/** Lanes of a kind from the bottom up. */
export function lanesOf(edit: Lanes | undefined, kind: string): readonly LaneView[] {
  return edit?.lanes.filter((lane) => lane.kind === kind) ?? [];
}

/** Items of every lane of a kind. */
export function itemsOn(edit: Lanes | undefined, kind: string): readonly ItemView[] {
  return lanesOf(edit, kind).flatMap((lane) => lane.items);
}

/** An item of any lane by its id. */
export function itemBy(edit: Lanes | undefined, id: number | null): ItemView | undefined {
  if (id === null) return undefined;
  for (const lane of edit?.lanes ?? []) {
    const found = lane.items.find((item) => item.id === id);
    if (found) return found;
  }
  return undefined;
}

/** First frame of a film, and the one after its last. */
export const filmOf = (edit: Pick<EditView, "lead" | "length" | "tail">) => ({
  first: -edit.lead,
  end: edit.length + edit.tail,
});
