import { describe, expect, test } from "vitest";
import { CURVES, GRADE, LOOKS } from "../../../api/facts";
import { along, CONTROLS, changed, diagonal, inRange, inWords, lookOf, REST } from "./grade";

describe("a grade's controls", () => {
  test("all of them are shown, but what contrast turns about", () => {
    const shown = CONTROLS.flat().map((c) => c.name);
    const bends = CURVES.of.flatMap((of) => CURVES.at.map((at) => `${of}_${at}`));
    expect([...shown, ...bends, "pivot"].sort()).toEqual(Object.keys(GRADE).sort());
  });

  test("only those that are not at rest are a grade", () => {
    expect(changed(REST)).toEqual({});
    expect(changed({ ...REST, exposure: 0.5, saturation: 0 })).toEqual({ exposure: 0.5, saturation: 0 });
  });

  test("a value stays in its range and has three places", () => {
    expect(inRange("exposure", 99)).toBe(6);
    expect(inRange("contrast", 1.23456)).toBe(1.235);
  });

  test("a track has its rest in the middle and its ends at the ends, also where its sides are not as long", () => {
    for (const [name, [least, most]] of Object.entries(GRADE)) {
      expect(along(name, least)).toBeCloseTo(0);
      expect(along(name, most)).toBeCloseTo(1);
      if ((REST[name] as number) < most) expect(along(name, REST[name] as number)).toBeCloseTo(0.5);
    }
  });

  test("a curve runs along the greys of its table", () => {
    const size = 3;
    const points = new Uint16Array(4 * size ** 3);
    // 0, a half and 1 as half floats, of blue.
    [0, 0x3800, 0x3c00].forEach((half, n) => (points[4 * n * (1 + size + size * size) + 2] = half));
    expect(diagonal({ size, points }, 2)).toEqual([0, 0.5, 1]);
    expect(diagonal({ size, points }, 0)).toEqual([0, 0, 0]);
    expect(inWords({ red_25: 0.1, all_0: -0.1 })).toBe("a curve of all and red");
  });

  test("what it does is told in words", () => {
    expect(inWords({ exposure: 1.2, temperature: -0.38, contrast: 1.14, saturation: 0.8 })).toBe(
      "exposure +1.2, contrast 1.14, cooler 0.38, saturation 80 %",
    );
    expect(inWords({})).toBe("nothing");
  });

  test("a look is known by its values, whatever its strength", () => {
    const look = LOOKS[1] as (typeof LOOKS)[number];
    expect(lookOf({ ...REST, ...look.values, strength: 0.5 }, LOOKS)).toBe(look.name);
    expect(lookOf({ ...REST, ...look.values, exposure: 0.7 }, LOOKS)).toBeNull();
    expect(lookOf(REST, LOOKS)).toBeNull();
  });
});
