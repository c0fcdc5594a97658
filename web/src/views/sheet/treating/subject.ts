/** Subject of the treatments: the shot, cutaway or passage, its part of the edit, and the operation that treats it. Pure. */

import { itemBy, itemsOn, shotsOf } from "../../../api/lanes";
import type { EditView, ItemView } from "../../../api/client";
import type { useChoice } from "../choice";
import { shotAt } from "../falls";
import type { Subject, Treatment } from "./kinds";

type Treated = NonNullable<ReturnType<typeof useChoice.getState>["treating"]>;

/** Subject that the choice names: the cutaway or the shot that is chosen, else the shot under the playhead; null where none is. */
export function subjectOf(
  edit: EditView,
  treating: Treated,
  item: number | null,
  shot: number | null,
  playhead: number,
): Subject | null {
  if (treating !== "here") {
    const there = itemsOn(edit, "ranges").find((r) => r.id === treating.item);
    return there ? { ...treating, first: there.start, end: there.end } : { ...treating, item: null };
  }
  for (const [lane, kind] of [
    ["over", "cutaway"],
    ["titles", "title"],
  ] as const) {
    const there = itemsOn(edit, lane).find((c) => c.id === item);
    if (there) return { kind, id: there.id, start: there.start, end: there.end };
  }
  const found = shotsOf(edit).find((s) => s.id === shot) ?? shotAt(edit, playhead);
  return found ? { kind: "shot", id: found.id, start: found.start, end: found.end } : null;
}

/** The shot, cutaway or treated passage itself; undefined where there is none yet. */
export function itemOf(edit: EditView, subject: Subject): ItemView | undefined {
  return itemBy(edit, subject.kind === "passage" ? subject.item : subject.id);
}

/** The operation that lays treatments on it, in place of those that are there. */
export function operationOf(subject: Subject, treatments: Treatment[]) {
  return subject.kind === "passage"
    ? { op: "treat range" as const, first: subject.first, end: subject.end, item: subject.item, treatments }
    : { op: "treat" as const, items: [subject.id], treatments };
}

/** From which frame to which it lies. */
export function extentOf(subject: Subject): [first: number, end: number] {
  return subject.kind === "passage" ? [subject.first, subject.end] : [subject.start, subject.end];
}
