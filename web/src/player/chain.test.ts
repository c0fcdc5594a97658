import { describe, expect, it } from "vitest";
import cases from "../../../tests/cases/curves.json";
import chains from "../../../tests/cases/chains.json";
import { REST } from "../api/facts";
import { type Act, actsAt, covers, type Key, PLAIN, placedBy, valueAt } from "./chain";
import { STEPS } from "./steps";

describe("curves, by the table that the core is held to", () => {
  it.each(cases)("$name", ({ keys, at }) => {
    for (const [frame, value] of at as [number, number][])
      expect(valueAt(keys as unknown as Key[], frame)).toBeCloseTo(value, 9);
  });
});

describe("chains, by the table that the core is held to", () => {
  it.each(chains)("$name", ({ chain, aspect, at }) => {
    for (const { frame, acts, hides } of at) {
      const found = actsAt({ chain: chain as never }, frame, aspect);
      expect(found.map((a) => a.step)).toEqual(acts.map((a) => a.step));
      found.forEach(({ values }, k) => {
        const told = acts[k]?.values as unknown as Record<string, number>;
        expect(Object.keys(values).sort()).toEqual(Object.keys(told).sort());
        for (const name in told) expect(values[name]).toBeCloseTo(told[name] as number, 9);
      });
      expect(covers(found)).toBe(hides);
    }
  });

  it("are of kinds that the page knows, all of them", () => {
    expect(Object.keys(STEPS).sort()).toEqual(Object.keys(REST).sort());
  });

  it("are nothing where nothing acts", () => {
    expect(actsAt({ chain: null }, 3, 1)).toBe(PLAIN);
    expect(placedBy({ scale: 1, x: 0, y: 0, turn: 0 })).toBe(PLAIN);
    expect((placedBy({ scale: 2, x: 0, y: 0, turn: 0 })[0] as Act).values.mirror).toBe(0);
  });
});
