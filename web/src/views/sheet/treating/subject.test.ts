import { itemsOn } from "../../../api/lanes";
import { describe, expect, test } from "vitest";
import { editOf } from "../../../api/testEdit";
import { extentOf, itemOf, operationOf, subjectOf } from "./subject";

const edit = editOf(
  [
    { id: 1, start: 0, end: 48 },
    { id: 2, start: 48, end: 96 },
  ],
  [{ id: 3, start: 60, end: 72 }],
  [{ id: 4, start: 24, end: 80 }],
);

describe("what is treated", () => {
  test("the cutaway that is chosen before the shot under it, that before the one at the playhead", () => {
    expect(subjectOf(edit, "here", 3, 2, 10)).toEqual({ kind: "cutaway", id: 3, start: 60, end: 72 });
    expect(subjectOf(edit, "here", null, 2, 10)).toEqual({ kind: "shot", id: 2, start: 48, end: 96 });
    expect(subjectOf(edit, "here", null, null, 10)).toEqual({ kind: "shot", id: 1, start: 0, end: 48 });
  });

  test("what was chosen and is no more gives way to what is there", () => {
    expect(subjectOf(edit, "here", 61, 12, 50)).toEqual({ kind: "shot", id: 2, start: 48, end: 96 });
  });

  test("a passage goes where it lies now; one that is gone can be treated anew", () => {
    const passage = { kind: "passage" as const, item: 4, first: 0, end: 10, name: "bars 1 to 2" };
    const there = subjectOf(edit, passage, null, null, 0);
    expect(there).toEqual({ ...passage, first: 24, end: 80 });
    expect(there && extentOf(there)).toEqual([24, 80]);
    const gone = subjectOf(edit, { ...passage, item: 99 }, null, null, 0);
    expect(gone).toEqual({ ...passage, item: null });
    expect(gone && itemOf(edit, gone)).toBeUndefined();
  });

  test("each is found in the edit and treated by its own operation", () => {
    const over = subjectOf(edit, "here", 3, null, 0);
    expect(over && itemOf(edit, over)).toBe(itemsOn(edit, "over")[0]);
    expect(over && operationOf(over, [])).toEqual({ op: "treat", items: [3], treatments: [] });
    const passage = { kind: "passage" as const, item: 4, first: 24, end: 80, name: "" };
    expect(operationOf(passage, [])).toEqual({ op: "treat range", first: 24, end: 80, item: 4, treatments: [] });
    expect(itemOf(edit, passage)).toBe(itemsOn(edit, "ranges")[0]);
  });
});
