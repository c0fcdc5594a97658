import { describe, expect, it } from "vitest";
import { PLAIN } from "./chain";
import { hides, nextEdge, type Span, seenAt, spanAt } from "./layers";

const span = (
  start: number,
  end: number,
  kind: string,
  media: string | null = null,
  more: Partial<Span> = {},
): Span => ({
  start,
  end,
  kind,
  media,
  text: "",
  card: null,
  shown: null,
  time: media ? [{ frames: end - start, at_s: 0, speed: 1, end_speed: 1 }] : [],
  blend: false,
  chain: null,
  ...more,
});
const clip = (start: number, end: number, media: string, more: Partial<Span> = {}) =>
  span(start, end, "picture", media, more);
const step = (name: string, curves: object) => ({ step: name, curves }) as NonNullable<Span["chain"]>[number];
const held = (name: string, values: Record<string, number>) =>
  step(name, Object.fromEntries(Object.entries(values).map(([n, value]) => [n, [{ frame: 0, value, shape: "hold" }]])));
const names = (layers: Span[][], frame: number) =>
  seenAt(layers, frame, 16 / 9).map(({ span: s }) => s.media ?? s.kind);

describe("what is seen", () => {
  it("is the span of a layer that holds the frame, its end left out", () => {
    const spans = [clip(0, 10, "a"), span(10, 11, "hole"), clip(15, 30, "b")];
    expect([0, 9, 10, 12, 15, 29, 30].map((f) => spanAt(spans, f)?.media)).toEqual([
      "a",
      "a",
      null,
      undefined,
      "b",
      "b",
      undefined,
    ]);
    expect(spanAt([], 3)).toBeUndefined();
  });

  it("is what lies over, black too, but not a hole: what is beneath it shows", () => {
    const base = [clip(0, 100, "a")];
    const over = [clip(10, 20, "b"), span(20, 30, "black"), span(30, 40, "hole")];
    expect([5, 15, 25, 35].map((f) => names([base, over], f))).toEqual([["a"], ["b"], ["black"], ["a"]]);
    expect(names([[span(0, 9, "hole")]], 3)).toEqual([]);
  });

  it("is both of two that overlap, until the later one hides the earlier", () => {
    const fade = step("opacity", {
      amount: [
        { frame: 0, value: 0, shape: "straight" as const },
        { frame: 10, value: 1, shape: "straight" as const },
      ],
    });
    const lane = [clip(0, 60, "a"), clip(50, 90, "b", { chain: [fade] })];
    expect(names([lane], 49)).toEqual(["a"]);
    expect(names([lane], 55)).toEqual(["a", "b"]);
    expect(seenAt([lane], 55, 16 / 9)[1]?.acts[0]?.values.amount).toBeCloseTo(0.55, 9);
    expect(names([lane], 60)).toEqual(["b"]);
  });

  it("is every span that shares a frame, also where what comes in over another is of several parts", () => {
    const fade = held("opacity", { amount: 0.5 });
    // Over one long span come the two passes of an angle, one after the other; and three at once.
    const passes = [clip(0, 60, "a"), clip(40, 45, "b", { chain: [fade] }), clip(45, 90, "c", { chain: [fade] })];
    expect(names([passes], 42)).toEqual(["a", "b"]);
    expect(names([passes], 50)).toEqual(["a", "c"]);
    expect(names([passes], 70)).toEqual(["c"]);
    expect([40, 46].map((f) => nextEdge([passes], f))).toEqual([45, 60]);
    const three = [clip(0, 60, "a"), clip(20, 70, "b", { chain: [fade] }), clip(30, 80, "c", { chain: [fade] })];
    expect(names([three], 40)).toEqual(["a", "b", "c"]);
    expect(spanAt(passes, 50)?.media).toBe("c");
  });

  it("is words over a picture, and a picture under one that leaves room at its edges", () => {
    expect(names([[clip(0, 9, "a")], [span(0, 9, "title")]], 3)).toEqual(["a", "title"]);
    const small = clip(0, 9, "b", { chain: [held("place", { scale: 0.5 })] });
    expect(names([[clip(0, 9, "a")], [small]], 3)).toEqual(["a", "b"]);
  });

  it("is hidden only by what covers the whole frame", () => {
    const picture = clip(0, 9, "a");
    const placed = (values: object) => [
      { step: "place", values: { scale: 1, x: 0, y: 0, turn: 0, mirror: 0, ...values } },
    ];
    expect(hides(picture, PLAIN)).toBe(true);
    expect(hides(picture, placed({ scale: 1.5, x: 0.25, y: -0.25 }))).toBe(true);
    expect(hides(picture, placed({ scale: 1.5, x: 0.26 }))).toBe(false);
    expect(hides(picture, placed({ turn: 1 }))).toBe(false);
    expect(hides(picture, placed({ turn: 360 }))).toBe(true);
    expect(hides(picture, [{ step: "opacity", values: { amount: 0.9 } }])).toBe(false);
    expect(hides(span(0, 9, "title"), PLAIN)).toBe(false);
  });
});

describe("where what is seen changes next", () => {
  it("is where a span ends, or the next begins over it, in any layer", () => {
    const shots = [clip(0, 60, "a"), clip(48, 120, "b")];
    const over = [clip(70, 80, "c")];
    expect([0, 47, 48, 60, 69, 70, 119].map((f) => nextEdge([shots, over], f))).toEqual([48, 48, 60, 70, 70, 80, 120]);
    expect(nextEdge([shots, over], 120)).toBe(Number.POSITIVE_INFINITY);
    expect(nextEdge([], 3)).toBe(Number.POSITIVE_INFINITY);
  });
});
