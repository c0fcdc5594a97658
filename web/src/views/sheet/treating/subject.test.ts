import { describe, expect, test } from "vitest";
import type { EditView } from "../../../api/client";
import { extentOf, itemOf, operationOf, subjectOf } from "./subject";

const edit = {
  shots: [
    { start: 0, end: 48 },
    { start: 48, end: 96 },
  ],
  cutaways: [{ start: 60, end: 72 }],
  treated: [{ first: 24, end: 80 }],
} as unknown as EditView;

describe("what is treated", () => {
  test("the cutaway that is chosen before the shot under it, that before the one at the playhead", () => {
    expect(subjectOf(edit, "here", 60, 48, 10)).toEqual({ kind: "cutaway", start: 60, end: 72 });
    expect(subjectOf(edit, "here", null, 48, 10)).toEqual({ kind: "shot", start: 48, end: 96 });
    expect(subjectOf(edit, "here", null, null, 10)).toEqual({ kind: "shot", start: 0, end: 48 });
  });

  test("what was chosen and is no more gives way to what is there", () => {
    expect(subjectOf(edit, "here", 61, 12, 50)).toEqual({ kind: "shot", start: 48, end: 96 });
  });

  test("a passage goes where it lies now; one that is gone can be treated anew", () => {
    const passage = { kind: "passage" as const, number: 0, first: 0, end: 10, name: "bars 1 to 2" };
    const there = subjectOf(edit, passage, null, null, 0);
    expect(there).toEqual({ ...passage, first: 24, end: 80 });
    expect(there && extentOf(there)).toEqual([24, 80]);
    const gone = subjectOf(edit, { ...passage, number: 4 }, null, null, 0);
    expect(gone).toEqual({ ...passage, number: null });
    expect(gone && itemOf(edit, gone)).toBeUndefined();
  });

  test("each is found in the edit and treated by its own operation", () => {
    const over = subjectOf(edit, "here", 60, null, 0);
    expect(over && itemOf(edit, over)).toBe(edit.cutaways[0]);
    expect(over && operationOf(over, [])).toEqual({ op: "treat", starts: [60], over: true, treatments: [] });
    const passage = { kind: "passage" as const, number: 0, first: 24, end: 80, name: "" };
    expect(operationOf(passage, [])).toEqual({ op: "treat range", first: 24, end: 80, number: 0, treatments: [] });
    expect(itemOf(edit, passage)).toBe(edit.treated[0]);
  });
});
