import { describe, expect, it } from "vitest";
import { chosenIn, type Line, type LinePart, onTheirLetters, styledPart, typed } from "./card";

const part = (first: number, end: number, more: Partial<LinePart> = {}): LinePart => ({
  first,
  end,
  size: 1,
  bold: null,
  colour: null,
  ...more,
});

describe("a selection in the words of a card", () => {
  it("means letters of one line, or nothing", () => {
    expect(chosenIn("Lamp\nRoom", 6, 8)).toEqual({ line: 1, first: 1, end: 3 });
    expect(chosenIn("Lamp\nRoom", 2, 2)).toBeNull();
    expect(chosenIn("Lamp\nRoom", 2, 7)).toBeNull();
  });
});

describe("parts of a line", () => {
  it("are made of letters that look otherwise, and joined where they look alike", () => {
    const red = styledPart([], 2, 5, { colour: "#ff0000" });
    expect(red).toEqual([part(2, 5, { colour: "#ff0000" })]);
    expect(styledPart(red, 5, 7, { colour: "#ff0000" })).toEqual([part(2, 7, { colour: "#ff0000" })]);
  });

  it("are split where only some of their letters change, and keep the rest of their look", () => {
    const red = [part(0, 6, { colour: "#ff0000" })];
    expect(styledPart(red, 2, 4, { bold: true })).toEqual([
      part(0, 2, { colour: "#ff0000" }),
      part(2, 4, { colour: "#ff0000", bold: true }),
      part(4, 6, { colour: "#ff0000" }),
    ]);
  });

  it("are none any more where they look like the line again", () => {
    expect(styledPart([part(2, 5, { size: 2 })], 0, 9, { size: 1, bold: null, colour: null })).toEqual([]);
  });

  it("stay on their letters when others are typed or deleted", () => {
    const room = [part(5, 9, { size: 2 })];
    expect(onTheirLetters(room, "Lamp Room", "The Lamp Room")).toEqual([part(9, 13, { size: 2 })]);
    expect(onTheirLetters(room, "Lamp Room", "Lamp Room at last")).toEqual(room);
    expect(onTheirLetters(room, "Lamp Room", "Lamp Rooom")).toEqual([part(5, 10, { size: 2 })]);
    expect(onTheirLetters(room, "Lamp Room", "Lamp ")).toEqual([]);
    expect(onTheirLetters(room, "Lamp Room", "Lamp Ro")).toEqual([part(5, 7, { size: 2 })]);
  });

  it("never leave their line, whatever is typed", () => {
    const words = ["", "a", "Lamp Room", "Room Lamp", "Lamp", "LampRoomLamp", "xxLamp Roomxx"];
    for (const before of words)
      for (const after of words) {
        const all = before.length > 2 ? [part(0, 2), part(2, before.length, { size: 2 })] : [];
        let at = 0;
        for (const p of onTheirLetters(all, before, after)) {
          expect(p.first).toBeGreaterThanOrEqual(at);
          expect(p.end).toBeGreaterThan(p.first);
          at = p.end;
        }
        expect(at).toBeLessThanOrEqual(after.length);
      }
  });

  it("are not taken over by a new line", () => {
    const line = { text: "Lamp", size: 1, bold: null, colour: null, parts: [part(0, 2)] } as Line;
    expect(typed([line], "Lamp\nRoom").map((l) => l.parts)).toEqual([[part(0, 2)], []]);
  });
});
