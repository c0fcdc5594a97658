import { describe, expect, test } from "vitest";
import type { ItemView } from "../../../api/client";
import { seenInTurn } from "./turns";

const item = (id: number, start: number, end: number) => ({ id, start, end }) as ItemView;
const turns = (base: ItemView[], over: ItemView[] = []) =>
  seenInTurn(base, over).map(({ item, start, end }) => [item.id, start, end]);

describe("what is seen in turn", () => {
  test("shots alone", () => {
    expect(turns([item(1, 0, 10), item(2, 10, 20)])).toEqual([
      [1, 0, 10],
      [2, 10, 20],
    ]);
  });

  test("a shot comes back after what lay over its middle, and not where a whole shot is hidden", () => {
    expect(turns([item(1, 0, 10), item(2, 10, 20)], [item(3, 4, 6), item(4, 8, 20)])).toEqual([
      [1, 0, 4],
      [3, 4, 6],
      [1, 6, 8],
      [4, 8, 20],
    ]);
  });

  test("one over another is on top, and cuts beneath it are none", () => {
    expect(turns([item(1, 0, 5), item(2, 5, 10)], [item(3, 2, 8), item(4, 4, 6)])).toEqual([
      [1, 0, 2],
      [3, 2, 4],
      [4, 4, 6],
      [3, 6, 8],
      [2, 8, 10],
    ]);
  });

  test("nothing is seen where nothing lies", () => {
    expect(turns([])).toEqual([]);
  });
});
