/** What is treated: which shot, cutaway or passage, what of the edit that is, and the operation that treats it. Pure. */

import type { EditView } from "../../../api/client";
import type { useChoice } from "../choice";
import { shotAt } from "../falls";
import type { Subject, Treatment } from "./kinds";

type Treated = NonNullable<ReturnType<typeof useChoice.getState>["treating"]>;

/** What is meant by the choice: the cutaway or the shot that is chosen, else the shot under the playhead; null where none is. */
export function subjectOf(
  edit: EditView,
  treating: Treated,
  cutaway: number | null,
  shot: number | null,
  playhead: number,
): Subject | null {
  if (treating !== "here") {
    const there = treating.number === null ? undefined : edit.treated[treating.number];
    return there ? { ...treating, first: there.first, end: there.end } : { ...treating, number: null };
  }
  const over = cutaway === null ? undefined : edit.cutaways.find((c) => c.start === cutaway);
  if (over) return { kind: "cutaway", start: over.start, end: over.end };
  const found = edit.shots.find((s) => s.start === shot) ?? shotAt(edit, playhead);
  return found ? { kind: "shot", start: found.start, end: found.end } : null;
}

/** The shot, cutaway or treated passage itself; undefined where there is none yet. */
export function itemOf(edit: EditView, subject: Subject) {
  if (subject.kind === "shot") return edit.shots.find((s) => s.start === subject.start);
  if (subject.kind === "cutaway") return edit.cutaways.find((c) => c.start === subject.start);
  return subject.number === null ? undefined : edit.treated[subject.number];
}

/** What lays treatments on it, in place of those that are there. */
export function operationOf(subject: Subject, treatments: Treatment[]) {
  return subject.kind === "passage"
    ? { op: "treat range" as const, first: subject.first, end: subject.end, number: subject.number, treatments }
    : { op: "treat" as const, starts: [subject.start], over: subject.kind === "cutaway", treatments };
}

/** From which frame to which it lies. */
export function extentOf(subject: Subject): [first: number, end: number] {
  return subject.kind === "passage" ? [subject.first, subject.end] : [subject.start, subject.end];
}
