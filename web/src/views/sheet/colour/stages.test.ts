import { describe, expect, test } from "vitest";
import type { ItemView } from "../../../api/client";
import type { Span } from "../../../player/layers";
import { STAGES, type Stage, withoutStages } from "./stages";

const step = (name: string) => ({ step: name, curves: {} });
const span = (media: string, ...steps: string[]) =>
  ({ start: 0, end: 10, kind: "picture", media, chain: steps.map(step) }) as unknown as Span;
const passage = (start: number, end: number, ...kinds: string[]) =>
  ({
    start,
    end,
    treated: { treatments: kinds.map((kind) => ({ kind, off: false, contrast: 1.2, strength: 0.5 })) },
  }) as unknown as ItemView;
const NONE = { number: 0, share: 1 };
const media = [
  { id: "graded", grade: { exposure: 1 } as Record<string, number>, evened: false, table: { number: 5, share: 1 } },
  { id: "plain", grade: {} as Record<string, number>, evened: false, table: NONE },
  { id: "evened", grade: { exposure: 1 } as Record<string, number>, evened: true, table: NONE },
];
const left = (spans: Span[], off: Stage[], passages: ItemView[] = []) =>
  withoutStages([spans], new Set(off), media, passages)[0]?.map((s) => (s.chain ?? []).map((c) => c.step));

describe("stages of colour", () => {
  test("a table, the file's grade, the shot's own and a look are told apart by their order", () => {
    const spans = [span("graded", "table", "grade", "place", "grade", "grade")];
    const look = [passage(0, 20, "pulse", "grade")];
    expect(left(spans, ["input"], look)).toEqual([["grade", "place", "grade", "grade"]]);
    expect(left(spans, ["file"], look)).toEqual([["table", "place", "grade", "grade"]]);
    expect(left(spans, ["shot"], look)).toEqual([["table", "grade", "place", "grade"]]);
    expect(left(spans, [...STAGES], look)).toEqual([["place"]]);
  });

  test("what evens a file is of its own stage", () => {
    const spans = [span("evened", "grade", "grade", "place", "grade")];
    expect(left(spans, ["file"])).toEqual([["place", "grade"]]);
    expect(left(spans, ["shot"])).toEqual([["grade", "grade", "place"]]);
  });

  test("a table of a look, or of a shot, is not the file's", () => {
    const spans = [span("plain", "table", "place", "table")];
    expect(left(spans, ["input"], [passage(0, 20, "table")])).toEqual([["table", "place", "table"]]);
    expect(left(spans, ["look"], [passage(0, 20, "table")])).toEqual([["table", "place"]]);
    expect(left(spans, ["shot"], [passage(0, 20, "table")])).toEqual([["place", "table"]]);
  });

  test("a look elsewhere, or one that is off, is no look here", () => {
    const spans = [span("plain", "grade")];
    expect(left(spans, ["look"], [passage(20, 30, "grade")])).toEqual([["grade"]]);
    expect(left(spans, ["shot"], [passage(20, 30, "grade")])).toEqual([[]]);
    expect(left(spans, ["file"])).toEqual([["grade"]]);
  });

  test("what nothing is left out of is the very same", () => {
    const layers = [[span("plain", "place")]];
    expect(withoutStages(layers, new Set(), media, [])).toBe(layers);
    expect(withoutStages(layers, new Set(STAGES), media, [])[0]?.[0]).toBe(layers[0]?.[0]);
  });
});
