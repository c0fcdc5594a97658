import { describe, expect, it } from "vitest";
import type { Span } from "../../../player/layers";
import { REST } from "./grade";
import { regraded, regradedFile } from "./regraded";

const still = (values: Record<string, number>) => ({
  step: "grade",
  curves: Object.fromEntries(Object.entries(values).map(([k, value]) => [k, [{ frame: 0, value, shape: "hold" }]])),
});
const place = { step: "place", curves: {} };
const span = (start: number, ...chain: unknown[]) =>
  ({ start, end: start + 10, kind: "picture", media: "m", chain }) as unknown as Span;
const with_ = (values: Record<string, number>) => ({ ...REST, ...values });
const exposureOf = (s: Span | undefined) => s?.chain?.map((c) => c.curves.exposure?.[0]?.value);

describe("a grade that is being dragged", () => {
  it("is changed in place, in the frames that are asked for alone", () => {
    const layers = [[span(0, place, still({ exposure: 0.5 })), span(10, still({ exposure: 0.5 }))]];
    const after = regraded(layers, [{ start: 0, end: 10 }], with_({ exposure: 0.5 }), with_({ exposure: 1 }));
    expect(exposureOf(after?.[0]?.[0])).toEqual([undefined, 1]);
    expect(after?.[0]?.[1]).toBe(layers[0]?.[1]);
  });

  it("is not taken for another one: of other values, or of ones that change", () => {
    const moving = {
      step: "grade",
      curves: {
        exposure: [
          { frame: 0, value: 0.5 },
          { frame: 9, value: 1 },
        ],
      },
    };
    const layers = [[span(0, still({ exposure: 0.5, contrast: 1.1 }), moving)]];
    expect(regraded(layers, [{ start: 0, end: 10 }], with_({ exposure: 0.5 }), with_({ exposure: 1 }))).toBeNull();
  });

  it("of a file comes after its table, in place of what it has", () => {
    const table = { step: "table", curves: {} };
    const layers = [[span(0, table, still({ exposure: 0.5 }), place), { ...span(10, place), media: "n" }]];
    const after = regradedFile(layers, "m", 1, true, with_({ exposure: 2 }));
    expect(exposureOf(after[0]?.[0])).toEqual([undefined, 2, undefined]);
    expect(after[0]?.[1]).toBe(layers[0]?.[1]);
    expect(regradedFile([[span(0, place)]], "m", 0, false, with_({}))[0]?.[0]?.chain).toHaveLength(2);
  });
});
