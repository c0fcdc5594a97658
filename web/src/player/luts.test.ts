import { describe, expect, test } from "vitest";
import { addressOfLut } from "./luts";

describe("addresses of tables", () => {
  test("a grade says all of itself, a table its number and the project that has it", () => {
    expect(addressOfLut("grade", { exposure: 1 }, "lamp")).toBe("/api/v1/grade.lut?values=%7B%22exposure%22%3A1%7D");
    expect(addressOfLut("table", { number: 281474976710655, share: 0.5 }, "lamp")).toBe(
      "/api/v1/projects/lamp/tables/281474976710655.lut?share=0.5",
    );
  });

  test("other steps, and no table, have none", () => {
    expect(addressOfLut("blur", { amount: 1 }, "lamp")).toBeNull();
    expect(addressOfLut("table", { number: 0, share: 1 }, "lamp")).toBeNull();
  });
});
