/** Edits for tests: what a test says of items and lanes, the rest empty. */

import type { EditView, ItemView } from "./client";

type Some = Partial<Omit<ItemView, "source">> & { source?: object };

/** An edit with shots, with what lies over them, and treated ranges; where no id is given, it is the first frame. */
export function editOf(shots: readonly Some[], over: readonly Some[] = [], ranges: readonly Some[] = []): EditView {
  const items = (some: readonly Some[]) => some.map((item) => ({ id: item.start, ...item }));
  const lane = (id: number, kind: string, name: string, some: readonly Some[]) => ({
    id,
    kind,
    name,
    on: true,
    locked: false,
    items: items(some),
  });
  return {
    lanes: [
      lane(-1, "base", "Shots", shots),
      lane(-2, "over", "Cutaways", over),
      lane(-3, "ranges", "Treated ranges", ranges),
    ],
    programme: { layers: [] },
    findings: [],
  } as unknown as EditView;
}
